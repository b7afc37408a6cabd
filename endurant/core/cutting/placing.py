"""Finding a place for every piece: many first fits in true shape, then a constraint solver."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import hypot, pi
from random import Random
from typing import Literal

from endurant.core.cutting.nesting import FINEST_MM, Grid, Start, Wish
from endurant.core.cutting.rules import TOUCH_MM, broken_rules
from endurant.core.cutting.sheet import LongSide, Piece, Placement, Sheet
from endurant.core.cutting.solving import Boxed, boxed, solve
from endurant.core.refusals import Invalid

MAX_PIECES = 400
MAX_SOLVED = 120
FEWEST_TRIES = 4
LUCKY_TRIES = 25
MAX_IDLE_TRIES = 200
WINDOW_PIECES = 16
WINDOW_S = 0.8
MAX_AT_ONCE = 40
LAST_MM = 3.0
MIN_S = 0.3
TOGETHER_S = 3.0
LONGEST_MM = 200_000.0
NEARLY_MM = 0.5
TRIES_SHARE = 0.75
TRIES_OF_A_START = 8
KEPT_SHARES = (0.0, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8)
STEP_SHORTER_MM = 2.0
SEED = 20

Score = tuple[int, float, float]
RelaxedRule = Literal["length", "width", "spares", "locked"]


@dataclass(frozen=True)
class Relaxation:
    """What would make everything fit: a rule, how much of it is needed, and that in words.

    `needs_mm` is a length or a width; `spares_fewer` says how many spares to leave out of
    each group, where that alone is enough.
    """

    rule: RelaxedRule
    needs_mm: float | None
    spares_fewer: dict[str, int]
    text: str


@dataclass(frozen=True)
class Plan:
    """What was placed and what was not.

    `length_needed_mm` is the length that all pieces take at the width given, None when no
    length helps; no placing at all is shorter than `length_bound_mm`. `used_percent` is the
    share of the outlines in the width times the length needed.
    """

    placements: list[Placement]
    unplaced: list[Piece]
    length_needed_mm: float | None
    length_bound_mm: float
    used_percent: float
    relaxation: Relaxation | None

    @property
    def fits(self) -> bool:
        """Everything lies on the sheet and keeps every rule."""
        return self.relaxation is None


@dataclass(frozen=True)
class _Task:
    """What is to be placed, until when, and with which luck."""

    sheet: Sheet
    pieces: list[Piece]
    locked: list[Placement]
    began: float
    seconds: float
    luck: Random
    min_mm: float
    """The length that cannot be gone below: by the bound, or by what is locked."""

    def at_least(self, placed: Sequence[Placement]) -> bool:
        """It is as short as it can be."""
        return _far_end(self.sheet, placed, self.locked) <= self.min_mm + NEARLY_MM

    def spent(self) -> float:
        """Share of the time that is gone."""
        gone = time.perf_counter() - self.began
        return 1.0 if self.seconds <= 0 else gone / self.seconds

    def left(self) -> float:
        """Seconds that are left."""
        return self.seconds - (time.perf_counter() - self.began)


def place(
    sheet: Sheet,
    pieces: Sequence[Piece],
    locked: Sequence[Placement] = (),
    seconds: float = 0.0,
) -> Plan:
    """Place every piece around those that are locked: least length first, then tests together.

    `locked` pieces are not among `pieces`. With no `seconds` the best of a few tries; with
    more time more tries, then a constraint solver. Raises Invalid for more than 400 pieces.
    """
    if len(pieces) > MAX_PIECES:
        raise Invalid("cutting.too-many-pieces", count=len(pieces), max=MAX_PIECES, field="groups")
    bound = length_bound(sheet, [*pieces, *(placement.piece for placement in locked)])
    task = _Task(
        sheet,
        list(pieces),
        list(locked),
        time.perf_counter(),
        seconds,
        _luck(),
        max(bound, _far_end(sheet, [], locked)),
    )
    broken = broken_rules(sheet, task.locked)
    everywhere = _free_length(task, bound)
    needed = None if everywhere is None else _far_end(sheet, everywhere, locked)
    fits = needed is not None and _long_enough(sheet, needed)
    if everywhere is not None and fits:
        placed, unplaced = everywhere, list[Piece]()
    else:
        placed, unplaced = _max(task)
        if not unplaced:
            needed = _far_end(sheet, placed, locked)
            fits = True
    relaxation = None
    if not fits:
        relaxation = _relaxation(sheet, task.pieces, unplaced, needed)
    if broken:
        relaxation = Relaxation("locked", None, {}, f"{broken[0].sentence}; unlock one of them")
    everything = [*placed, *locked]
    return Plan(
        _numbered(placed, task.pieces),
        unplaced,
        needed,
        bound,
        _used_percent(sheet, everything, needed),
        relaxation,
    )


def can_hold(sheet: Sheet, pieces: Sequence[Piece], locked: Sequence[Placement]) -> bool:
    """Return True when a place was found for every piece; nothing is improved.

    Nothing is searched where the yarns that pieces may not share add up to more than the sheet.
    """
    length = sheet.length_mm
    if length is None:
        return place(sheet, pieces, locked).fits
    everything = [*pieces, *(placement.piece for placement in locked)]
    if length_bound(sheet, everything) > length + TOUCH_MM or broken_rules(sheet, locked):
        return False
    if any(_row_needs(row) > sheet.width_mm + TOUCH_MM for row in _side_by_side(everything)):
        return False
    task = _Task(sheet, list(pieces), list(locked), 0.0, 0.0, _luck(), length)
    return not _max(task)[1]


def _luck() -> Random:
    return Random(SEED)  # noqa: S311 - luck in a search, the same each time


def length_bound(sheet: Sheet, pieces: Sequence[Piece]) -> float:
    """Return a length in mm that no placing can go below: by area, longest piece and staggering.

    Outlines widened by half the cut lie apart from one another, within the width less the smallest
    margin and the length less both end margins, each widened by half the cut too.
    """
    if not pieces:
        return 2 * sheet.end_margin_mm
    half = 0.0 if any(piece.blank.die_cut for piece in pieces) else sheet.kerf_mm / 2
    margin = min(piece.margin_mm(sheet.width_mm) for piece in pieces)
    usable = max(sheet.width_mm - 2 * margin + 2 * half, TOUCH_MM)
    tallest = max(min(_alongs(piece)) for piece in pieces)
    by_area = sum(_widened_area(piece, half) for piece in pieces) / usable - 2 * half
    stacks = [
        sum(piece.size_mm()[1] for piece in members) for members in _one_behind_another(pieces)
    ]
    return max(tallest, by_area, *stacks) + 2 * sheet.end_margin_mm


def _one_behind_another(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """Pieces that share no yarns across the roll."""
    return _apart(pieces, "weft", "warp")


def _side_by_side(pieces: Sequence[Piece]) -> list[list[Piece]]:
    """Pieces that share no yarns along the roll."""
    return _apart(pieces, "warp", "weft")


def _apart(pieces: Sequence[Piece], lengthwise: LongSide, crossing: LongSide) -> list[list[Piece]]:
    """Pieces apart by their lengthwise yarns where they lie one way, by crossing ones the other."""
    rows: dict[tuple[str, int | None], list[Piece]] = {}
    for piece in pieces:
        if piece.turnable or piece.blank.stagger == "none":
            continue
        if piece.long_side == lengthwise or piece.blank.stagger == "both":
            rows.setdefault((piece.group, None), []).append(piece)
        elif piece.long_side == crossing and piece.crosses_apart_from(piece):
            rows.setdefault(piece.stack, []).append(piece)
    return list(rows.values())


def _alongs(piece: Piece) -> list[float]:
    """The extents along the roll that a piece may have."""
    return [piece.size_mm()[1], piece.turned().size_mm()[1]][: 2 if piece.turnable else 1]


def _widened_area(piece: Piece, half: float) -> float:
    if piece.blank.outline == "die":
        return piece.area_mm2()
    if piece.radius_mm:
        return pi * (piece.radius_mm + half) ** 2
    around = 2 * (piece.blank.long_mm + piece.blank.short_mm)
    return piece.area_mm2() + around * half + pi * half * half


def _free_length(task: _Task, bound: float) -> list[Placement] | None:
    """The best placing with as much length as it takes; None when no length helps."""
    if not task.pieces:
        return []
    far = max(
        [placement.bounds()[3] for placement in task.locked]
        + [area.polygon.bounds[3] for area in task.sheet.avoided],
        default=0.0,
    )
    length = max(far, 1.3 * bound) + 2 * max(piece.blank.long_mm for piece in task.pieces)
    while length <= LONGEST_MM:
        grid = Grid(task.sheet, length, task.pieces, task.locked)
        fill = grid.fill(Wish())
        if not fill[1]:
            return _improved(task, grid, fill[0])
        if all(_never_fits(task.sheet, piece) for piece in fill[1]):
            return None
        length *= 2
        if length > 40 * bound + 4 * far:
            return None
    return None


def _never_fits(sheet: Sheet, piece: Piece) -> bool:
    ways = [piece, piece.turned()] if piece.turnable else [piece]
    return all(way.size_mm()[0] > _usable(sheet, way) + TOUCH_MM for way in ways)


def _usable(sheet: Sheet, piece: Piece) -> float:
    return sheet.width_mm - 2 * piece.margin_mm(sheet.width_mm)


def _improved(task: _Task, grid: Grid, first: list[Placement]) -> list[Placement]:
    """More tries while their share of the time lasts, then the solver."""
    best = first
    share = TRIES_SHARE if len(task.pieces) <= MAX_SOLVED else 1.0
    if grid.step_mm > FINEST_MM:
        length = _far_end(task.sheet, first, task.locked)
        grid = Grid(task.sheet, length, task.pieces, task.locked)
    grid.crop(_far_end(task.sheet, best, task.locked))
    tries = idle = 0
    liked = Wish()
    start: Start | None = None
    while tries < FEWEST_TRIES or (task.spent() < share and idle < MAX_IDLE_TRIES):
        if tries >= FEWEST_TRIES and tries % TRIES_OF_A_START == 0:
            start = _start(task.luck, grid, best)
        wish = _wish(task.luck, grid, tries, liked)
        placed, unplaced = grid.fill(wish, all_or_none=True, start=start)
        tries += 1
        idle += 1
        if tries >= LUCKY_TRIES and task.at_least(best):
            break
        if not unplaced and _score(task, placed, []) < _score(task, best, []):
            best, liked, idle = placed, wish, 0
            grid.crop(_far_end(task.sheet, best, task.locked) - STEP_SHORTER_MM)
            start = _start(task.luck, grid, best) if tries >= FEWEST_TRIES else None
    if len(task.pieces) > MAX_SOLVED or task.left() < 1:
        return best
    return _solved(task, best)


def _start(luck: Random, grid: Grid, best: Sequence[Placement]) -> Start | None:
    """As the best one begins, up to a point by luck, so that its ragged end is tried anew."""
    kept = int(len(best) * luck.choice(KEPT_SHARES))
    return grid.start_with(best[:kept]) if kept else None


def _wish(luck: Random, grid: Grid, tries: int, liked: Wish) -> Wish:
    """A few wishes that often do well, then some by luck, then mostly ones like the best."""
    if tries < FEWEST_TRIES:
        return (Wish(1.5, 0.3), Wish(0.6, 0.4, 60), Wish(1.0, 0.3, 200), Wish(1.2, 0.0))[tries]
    if tries < LUCKY_TRIES or luck.random() < 0.1:
        lean = luck.choice((0.0, 20.0, 50.0, 100.0))
        return Wish(
            along=luck.uniform(0, 1.6),
            across=luck.uniform(0, 0.5),
            same_test=luck.choice((0.0, 0.0, 30.0, 100.0)),
            leaning={key: lean * luck.gauss(0, 1) for key in grid.kinds},
        )
    leaning = dict(liked.leaning)
    for key in luck.choices(list(grid.kinds), k=luck.choice((1, 2, 3))):
        leaning[key] = leaning.get(key, 0.0) + luck.gauss(0, 60)
    return replace(liked, along=liked.along + luck.choice((0, luck.gauss(0, 0.1))), leaning=leaning)


def _solved(task: _Task, best: list[Placement]) -> list[Placement]:
    """The best placing, or a better one that the solver finds: shorter, else closer together."""
    own = {piece.key: piece for piece in task.pieces}
    begun = _as_boxes(task, best)
    if begun is not None and not task.at_least(best):
        best = _better(task, own, [*_shortened(task, begun), *begun.held], best)
        begun = _as_boxes(task, best)
    if begun is not None and task.left() > MIN_S:
        # What is held may reach farther than the boxes; then the boxes may too.
        end = max(placement.bounds()[3] for placement in (*begun.free, *begun.held))
        limits = (end, min(task.left(), TOGETHER_S))
        around = [*task.locked, *begun.held]
        closer = solve(begun.boxes.sheet, begun.free, around, limits, None, together=True)
        if closer is not None:
            best = _better(task, own, [*closer, *begun.held], best)
    return best


@dataclass(frozen=True)
class _Begun:
    """A placing over boxes: those that may move, and those that stay in their true shape."""

    boxes: Boxed
    free: list[Placement]
    held: list[Placement]


def _as_boxes(task: _Task, best: Sequence[Placement]) -> _Begun | None:
    """The placing over boxes.

    Where boxes would overlap, as those of nested discs do, the discs and dies stay where they
    are, and then whatever lies in the hollow of one. None when nothing may move.
    """
    held: list[Placement] = []
    for rectangles_too in (False, True, True):
        free = [placement for placement in best if placement not in held]
        if not free:
            return None
        boxes = boxed(task.sheet, [placement.piece for placement in free], [*task.locked, *held])
        spots = {placement.piece.key: placement for placement in free}
        lying = [
            Placement(piece, spots[piece.key].x_mm, spots[piece.key].y_mm) for piece in boxes.pieces
        ]
        broken = broken_rules(replace(boxes.sheet, length_mm=None), lying)
        if not broken:
            return _Begun(boxes, lying, held)
        wrong = {key for rule in broken for key in rule.pieces}
        held += [
            placement
            for placement in free
            if placement.piece.blank.outline != "rectangle"
            or (rectangles_too and placement.piece.key in wrong)
        ]
    return None


def _shortened(task: _Task, begun: _Begun) -> list[Placement]:
    """Boxes that end sooner: all at once where they are few, else some of them at a time."""
    until = task.left() * 0.4
    around = [*task.locked, *begun.held]
    shortened = begun.free
    if len(shortened) <= MAX_AT_ONCE:
        end = max(placement.bounds()[3] for placement in shortened)
        limits = (end, task.left() - until)
        return solve(begun.boxes.sheet, shortened, around, limits, None) or shortened
    while task.left() > until:
        end = max(placement.bounds()[3] for placement in shortened)
        middle = task.luck.choice(shortened)
        near = sorted(
            shortened,
            key=lambda placement: hypot(placement.x_mm - middle.x_mm, placement.y_mm - middle.y_mm),
        )
        last = [placement for placement in shortened if placement.bounds()[3] > end - LAST_MM]
        free = {placement.piece.key for placement in [*last, *near[:WINDOW_PIECES]]}
        limits = (end, min(WINDOW_S, task.left()))
        shortened = solve(begun.boxes.sheet, shortened, around, limits, free) or shortened
    return shortened


def _better(
    task: _Task, own: dict[int, Piece], placed: Sequence[Placement], best: list[Placement]
) -> list[Placement]:
    """What was found over boxes, when it keeps every rule and is better than the best."""
    pieces = [
        Placement(
            _as_found(own[placement.piece.key], placement.piece), placement.x_mm, placement.y_mm
        )
        for placement in placed
    ]
    if broken_rules(replace(task.sheet, length_mm=None), [*pieces, *task.locked]):
        return best
    return min(best, pieces, key=lambda piece: _score(task, piece, []))


def _as_found(piece: Piece, like: Piece) -> Piece:
    return piece if piece.long_side == like.long_side else piece.turned()


def _max(task: _Task) -> tuple[list[Placement], list[Piece]]:
    """As many pieces as the sheet holds."""
    length = task.sheet.length_mm
    if length is None:
        length = LONGEST_MM if not task.pieces else 4 * length_bound(task.sheet, task.pieces)
    grid = Grid(task.sheet, length, task.pieces, task.locked)
    best = grid.fill(Wish())
    tries = 0
    while best[1] and (tries < FEWEST_TRIES or task.spent() < 1):
        fill = grid.fill(_wish(task.luck, grid, tries, Wish()))
        tries += 1
        best = min(best, fill, key=lambda placement: _score(task, placement[0], placement[1]))
    return best


def _score(task: _Task, placed: Sequence[Placement], unplaced: Sequence[Piece]) -> Score:
    """The lower the better: how many lie nowhere, how long it is, how far tests are spread."""
    planned = sum(not piece.spare for piece in unplaced)
    far = round(_far_end(task.sheet, placed, []) / NEARLY_MM)
    return len(unplaced) + planned, far, _spread(placed)


def _spread(placed: Sequence[Placement]) -> float:
    """The half perimeters of the boxes around the specimens of each test, together."""
    tests: dict[str, list[tuple[float, float, float, float]]] = {}
    for placement in placed:
        tests.setdefault(placement.piece.test, []).append(placement.bounds())
    total = 0.0
    for boxes in tests.values():
        lefts, nears, rights, fars = zip(*boxes, strict=True)
        total += max(rights) - min(lefts) + max(fars) - min(nears)
    return total


def _far_end(sheet: Sheet, placed: Sequence[Placement], locked: Sequence[Placement]) -> float:
    """The length that a placing takes, with the margin to the far end."""
    ends = [placement.bounds()[3] for placement in (*placed, *locked)]
    return max(ends, default=sheet.end_margin_mm) + sheet.end_margin_mm


def _long_enough(sheet: Sheet, needed: float) -> bool:
    return sheet.length_mm is None or needed <= sheet.length_mm + TOUCH_MM


def _numbered(placed: Sequence[Placement], pieces: Sequence[Piece]) -> list[Placement]:
    """Numbers that run across the sheet, row by row in a layer, the spares of a group last."""
    order = {piece.key: place for place, piece in enumerate(pieces)}
    groups: dict[tuple[str, int], list[Placement]] = {}
    for placement in placed:
        groups.setdefault(placement.piece.stack, []).append(placement)
    numbered = []
    for members in groups.values():
        spots = sorted(members, key=lambda member: (round(member.bounds()[1]), member.x_mm))
        names = sorted((member.piece for member in members), key=lambda piece: order[piece.key])
        for name, spot in zip(names, spots, strict=True):
            numbered.append(Placement(_as_found(name, spot.piece), spot.x_mm, spot.y_mm))
    return sorted(numbered, key=lambda placement: order[placement.piece.key])


def _used_percent(sheet: Sheet, placed: Sequence[Placement], needed: float | None) -> float:
    length = needed if needed is not None else sheet.length_mm
    if not placed or not length:
        return 0.0
    return 100 * sum(placement.piece.area_mm2() for placement in placed) / (sheet.width_mm * length)


def _relaxation(
    sheet: Sheet, pieces: Sequence[Piece], unplaced: Sequence[Piece], needed: float | None
) -> Relaxation:
    """The least that would have to give way, in words and as data."""
    count = len(unplaced)
    what = f"{count} specimen{'s' if count != 1 else ''} cannot be placed"
    fewer = _spares_fewer(pieces, unplaced)
    total = sum(fewer.values())
    spares = f"{total} spare{'s' if total != 1 else ''} fewer would do"
    if needed is not None and sheet.length_mm is not None:
        missing = needed - sheet.length_mm
        text = (
            f"{what}: the sample is {missing:.0f} mm too short. It is {sheet.length_mm:.0f} mm "
            f"long, {needed:.0f} mm are needed at a width of {sheet.width_mm:.0f} mm"
        )
        return Relaxation("length", needed, fewer, f"{text}; or {spares}" if fewer else text)
    wide = _width_needed(sheet, pieces)
    missing = wide - sheet.width_mm
    if missing > TOUCH_MM:
        text = (
            f"{what}: the sample is {missing:.0f} mm too narrow. It is {sheet.width_mm:.0f} mm "
            f"wide, {wide:.0f} mm are needed with both {sheet.edges[0].split()[-1]} margins"
        )
        return Relaxation("width", wide, fewer, f"{text}; or {spares}" if fewer else text)
    if fewer:
        return Relaxation("spares", None, fewer, f"{what}: {spares}")
    text = f"{what}: locked specimens or marked areas leave too little width"
    return Relaxation("locked", None, {}, text)


def _spares_fewer(pieces: Sequence[Piece], unplaced: Sequence[Piece]) -> dict[str, int]:
    """How many spares fewer of each group make it fit; empty when spares alone do not."""
    missing = Counter(piece.group for piece in unplaced)
    spares = Counter(piece.group for piece in pieces if piece.spare)
    return dict(missing) if all(spares[group] >= n for group, n in missing.items()) else {}


def _width_needed(sheet: Sheet, pieces: Sequence[Piece]) -> float:
    """The least width at which a length can hold all: the widest piece, or a staggered row."""
    rows = [[piece] for piece in pieces]
    return max(_row_needs(row) for row in (*rows, *_side_by_side(pieces)))


def _row_needs(row: Sequence[Piece]) -> float:
    """The width of a sheet with these pieces side by side between the margins."""
    first = row[0]
    ways = [row, [piece.turned() for piece in row]] if first.turnable else [row]
    held = min(sum(piece.size_mm()[0] for piece in way) for way in ways)
    blank = first.blank
    return max(held + 2 * blank.selvedge_margin_mm, held / (1 - 2 * blank.selvedge_share))
