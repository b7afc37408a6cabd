"""The sheet of a job as it is drawn and said: what lies where, and which rules are broken."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import astuple, dataclass
from datetime import datetime

from endurant.core.cutting.asking import is_turnable
from endurant.core.cutting.rules import BrokenRule, broken_rules
from endurant.core.cutting.sheet import (
    AvoidedArea,
    LongSide,
    Piece,
    Placement,
    Sheet,
    lies_in_words,
)
from endurant.core.cutting.treated import cloth_for
from endurant.core.drawn import hatch_of
from endurant.core.methods import find_method
from endurant.core.methods.guide import piece_letter
from endurant.core.methods.safety import HOT_KNIFE
from endurant.core.refusals import Conflict, Invalid
from endurant.store.tables import Job, Specimen
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import missing_replacements
from endurant.work.facts.evaluated_rows import label_text
from endurant.work.facts.status import blank_of, is_cut, last_run
from endurant.work.views.crossings import crossing_text

PIECES_APART = 2**32
"""Ids of specimens lie below; a piece on the sheet is known by its specimen's id and its place."""
RULES = ("end_margin_mm", "kerf_mm", "clearance_mm")


class PointView(View):
    """A point of the sheet, in mm."""

    x: float
    y: float


class BoxView(View):
    """A box of the sheet, in mm."""

    left: float
    near: float
    right: float
    far: float


class AreaView(View):
    """An area to avoid, as it was marked."""

    reason: str
    corners: list[PointView]


class InnerMarkView(View):
    """A slit, an end mark or the like, where it lies on the sheet."""

    name: str
    points: list[PointView]


class BrokenRuleView(View):
    """See core.cutting.rules.BrokenRule; `specimens` are ids."""

    code: str
    sentence: str
    specimens: list[int]
    where: BoxView


class PlacedSpecimen(View):
    """A piece of a specimen on the sheet, or waiting beside it when it has no place.

    `id` is that of the piece on the sheet: of the first, or only, piece of a specimen it is the
    specimen's own. `name` is what it is called on a sheet with several tests, `part` which piece
    it is where a specimen is of several, and `halves` what it is parted into once it is cut.
    """

    id: int
    test_id: int
    test: str
    label: str
    name: str
    part: str
    halves: list[str]
    code: str
    direction: str
    long_side: str
    works_on: str
    spare: bool
    across_mm: float
    along_mm: float
    x_mm: float | None
    y_mm: float | None
    outline: list[PointView]
    inner_marks: list[InnerMarkView]
    locked: bool
    turnable: bool
    disc: bool
    lies: str
    hot_knife: bool
    selvedge_margin_mm: float
    cut: bool


class HatchView(View):
    """See core.drawn.Hatch."""

    angle: float
    apart_mm: float
    dashes: str


class SheetTest(View):
    """A test whose specimens lie on the sheet, and how they are told from the others."""

    id: int
    number: int
    title: str
    method: str
    hatch: HatchView
    size_text: str
    placed: int
    required: int
    cautions: list[str]


class SheetView(View):
    """The sheet with everything that is drawn and said about it."""

    job_id: int
    job_number: str
    product: str
    width_mm: float
    length_mm: float
    end_margin_mm: float
    kerf_mm: float
    clearance_mm: float
    avoided: list[AreaView]
    tests: list[SheetTest]
    specimens: list[PlacedSpecimen]
    broken: list[BrokenRuleView]
    shortage: str | None
    crossings: list[str]
    moulded: bool
    length_needed_mm: float | None
    length_bound_mm: float | None
    used_percent: float | None
    cut_at: datetime | None
    left_to_cut: int
    replacements: dict[int, dict[str, int]]
    released: bool
    revision: int


def sheet_view(job: Job) -> SheetView:
    """The sheet as it lies now; raises Conflict where the sample is none."""
    if job.form != "sheet":
        raise Conflict("sheet.none", job=job.number, form=job.form)
    core_sheet = sheet_of(job)
    placements = placements_of(job)
    laid = job.sheet or {}
    by_key = {placement.piece.key: placement for placement in placements}
    return SheetView(
        job_id=job.id,
        job_number=job.number,
        product=job.product,
        width_mm=job.width_mm or 0,
        length_mm=job.length_mm or 0,
        end_margin_mm=core_sheet.end_margin_mm,
        kerf_mm=core_sheet.kerf_mm,
        clearance_mm=core_sheet.clearance_mm,
        avoided=[
            AreaView(reason=area["reason"], corners=point_views(area["corners"]))
            for area in job.avoided
        ],
        tests=_tests_view(job),
        specimens=[
            _placed_view(specimen, place, by_key.get(sheet_id(specimen, place)))
            for specimen, place in pieces_on(job)
        ],
        broken=[broken_view(rule) for rule in broken_rules(core_sheet, placements)],
        moulded=core_sheet.moulded,
        shortage=laid.get("shortage"),
        crossings=[
            message
            for each in crossings_on(job, placements, name_on_sheet).values()
            for message in each
        ],
        length_needed_mm=laid.get("length_needed_mm"),
        length_bound_mm=laid.get("length_bound_mm"),
        used_percent=laid.get("used_percent"),
        cut_at=job.cut_at,
        left_to_cut=len(left_to_cut(job)),
        replacements={
            test.id: missing for test in job.tests if (missing := missing_replacements(test))
        },
        released=job.released_at is not None,
        revision=job.revision,
    )


def _tests_view(job: Job) -> list[SheetTest]:
    tests_view = []
    for place, test in enumerate(test for test in job.tests if is_cut(test)):
        method, cut = find_method(test.method), blank_of(test)
        tests_view.append(
            SheetTest(
                id=test.id,
                number=job.tests.index(test) + 1,
                title=method.title,
                method=method.id,
                hatch=HatchView.model_validate(hatch_of(place)),
                size_text=cut.size_in_words() if cut else "",
                placed=sum(
                    lies_of(specimen, place).x_mm is not None
                    for specimen in test.specimens
                    for place in range(pieces_of(specimen))
                ),
                required=sum(pieces_of(specimen) for specimen in test.specimens),
                cautions=[HOT_KNIFE] if cut and cut.hot_knife else [],
            )
        )
    return tests_view


def _placed_view(specimen: Specimen, place: int, placement: Placement | None) -> PlacedSpecimen:
    piece, lies = piece_of(specimen, place), lies_of(specimen, place)
    across, along = piece.size_mm()
    lying = placement or Placement(piece, across / 2, along / 2)
    method = find_method(specimen.test.method)
    demand, pieces = method.demand_for(specimen.test.parameters), pieces_of(specimen)
    part = f"{demand.piece} {place + 1} of {pieces}" if pieces > 1 else ""
    strips = cut_from_cloth(specimen)
    if strips:
        part = f"refurbished whole, then cut into {strips[0].label} to {strips[-1].label}"
    return PlacedSpecimen(
        id=piece.key,
        test_id=specimen.test_id,
        test=method.title,
        label=specimen.label,
        name=piece.label,
        part=part,
        halves=list(demand.halves),
        code=specimen.code,
        direction=specimen.direction,
        long_side=piece.long_side,
        works_on="to refurbish whole" if strips else label_text(specimen),
        spare=piece.spare,
        across_mm=across,
        along_mm=along,
        x_mm=lies.x_mm,
        y_mm=lies.y_mm,
        outline=point_views(lying.outline()),
        locked=lies.locked,
        turnable=piece.turnable,
        disc=piece.blank.outline == "disc",
        lies=lies_in_words(piece, method.directions),
        hot_knife=piece.blank.hot_knife,
        inner_marks=mark_views(lying),
        selvedge_margin_mm=piece.margin_mm(specimen.test.job.width_mm or 0),
        cut=last_run(specimen) is not None or not is_left(specimen),
    )


def mark_views(placement: Placement) -> list[InnerMarkView]:
    """Slits, marks and lines of a specimen where they lie."""
    return [
        InnerMarkView(name=name, points=point_views(points))
        for name, points in placement.inner_marks()
    ]


def point_views(points: Iterable[Sequence[float]]) -> list[PointView]:
    """Points of the sheet."""
    return [PointView(x=x, y=y) for x, y in points]


def broken_view(rule: BrokenRule) -> BrokenRuleView:
    """A broken rule as it is drawn and said."""
    left, near, right, far = rule.where
    return BrokenRuleView(
        code=rule.code,
        sentence=rule.sentence,
        specimens=list(rule.pieces),
        where=BoxView(left=left, near=near, right=right, far=far),
    )


def sheet_of(job: Job, rules: dict[str, float] | None = None) -> Sheet:
    """The sheet as the core knows it."""
    avoided = tuple(
        AvoidedArea(area["reason"], tuple((x, y) for x, y in area["corners"]))
        for area in job.avoided
    )
    blanks = [blank for test in job.tests if is_cut(test) and (blank := blank_of(test))]
    given = rules or rules_of(job)
    return Sheet.for_blanks(blanks, job.width_mm or 0, job.length_mm or 0, avoided=avoided, **given)


def rules_of(job: Job) -> dict[str, float]:
    """The rules of this sheet where they are not the usual ones."""
    laid = job.sheet or {}
    return {name: laid[name] for name in RULES if name in laid}


def placements_of(job: Job) -> list[Placement]:
    """The pieces that have a place."""
    placements = []
    for specimen, place in pieces_on(job):
        lies = lies_of(specimen, place)
        if lies.x_mm is not None and lies.y_mm is not None:
            piece = piece_of(specimen, place)
            placements.append(Placement(piece, lies.x_mm, lies.y_mm, lies.locked))
    return placements


def crossings_on(
    job: Job, placements: Sequence[Placement], named: Callable[[Specimen], str]
) -> dict[int, list[str]]:
    """Which specimens share crossing yarns for want of room, in words, by the id of their test."""
    labels = {sheet_id(*piece): named(piece[0]) for piece in pieces_on(job)}
    return crossing_text(job, placements, labels)


def pieces_on(job: Job) -> list[tuple[Specimen, int]]:
    """Every piece that is cut from the sheet: its specimen, and which of its pieces, from 0."""
    return [
        (specimen, place) for specimen in specimens_on(job) for place in range(pieces_of(specimen))
    ]


def pieces_of(specimen: Specimen) -> int:
    """Of how many pieces a specimen is; of one, where it was cut before pieces were counted.

    Specimens of treated cloth are one piece together: it is the first one's.
    """
    if specimen.treated:
        return int(bool(cut_from_cloth(specimen)))
    was_cut = specimen.test.job.cut_at is not None and not specimen.laid_later
    if was_cut and specimen.x_mm is not None and not specimen.further_positions:
        return 1
    return find_method(specimen.test.method).demand_for(specimen.test.parameters).pieces


def cut_from_cloth(specimen: Specimen) -> list[Specimen]:
    """What is cut from treated cloth, where this specimen is the first of that; else nothing."""
    if not specimen.treated:
        return []
    members = [
        other
        for other in specimen.test.specimens
        if other.treated and other.direction == specimen.direction
    ]
    return members if members[0] is specimen else []


def lie_in_cloth(specimen: Specimen) -> None:
    """A specimen of treated cloth lies where that cloth lay."""
    for other in specimen.test.specimens:
        if specimen.treated and other.direction == specimen.direction and cut_from_cloth(other):
            specimen.x_mm, specimen.y_mm, specimen.laid_later = other.x_mm, other.y_mm, None


def left_to_cut(job: Job) -> list[Specimen]:
    """What is still to be cut: everything, or what was added after the rest was cut."""
    return [specimen for specimen in specimens_on(job) if is_left(specimen)]


def is_left(specimen: Specimen) -> bool:
    """It is still to be cut from the sheet."""
    uncut = specimen.test.job.cut_at is None
    return uncut or specimen.x_mm is None or bool(specimen.laid_later)


def sheet_id(specimen: Specimen, place: int) -> int:
    """What a piece is known by on the sheet; of the first piece it is the specimen's own id."""
    return specimen.id + place * PIECES_APART


def place_of_id(on_sheet_id: int) -> tuple[int, int]:
    """The id of the specimen, and which of its pieces, from 0, this id on the sheet stands for."""
    place, specimen_id = divmod(on_sheet_id, PIECES_APART)
    return specimen_id, place


@dataclass(frozen=True)
class Lies:
    """How a piece lies: its centre, which way its long side runs, and whether it stays."""

    x_mm: float | None
    y_mm: float | None
    long_side: str
    locked: bool


def lies_of(specimen: Specimen, place: int) -> Lies:
    """How one piece of a specimen lies; it has no centre where it lies nowhere yet."""
    if place == 0:
        return Lies(specimen.x_mm, specimen.y_mm, specimen.long_side, specimen.locked)
    further = specimen.further_positions or []
    if place > len(further):
        return Lies(None, None, specimen.long_side, locked=False)
    return Lies(*further[place - 1])


def lay_down(specimen: Specimen, place: int, lies: Lies) -> None:
    """Keep how one piece of a specimen lies."""
    if place == 0:
        for each in cut_from_cloth(specimen) or [specimen]:
            each.x_mm, each.y_mm = lies.x_mm, lies.y_mm
            each.long_side, each.locked = lies.long_side, lies.locked
        return
    pieces = find_method(specimen.test.method).demand_for(specimen.test.parameters).pieces
    every = [lies_of(specimen, other) for other in range(1, pieces)]
    every[place - 1] = lies
    specimen.further_positions = [list(astuple(each)) for each in every]


def specimens_on(job: Job) -> list[Specimen]:
    """Every specimen that is cut from the sheet, placed or not."""
    return [specimen for test in job.tests if is_cut(test) for specimen in test.specimens]


def name_on_sheet(specimen: Specimen) -> str:
    """Its label, after the number of its test where the sheet holds several: 2-W1."""
    tests = [test for test in specimen.test.job.tests if is_cut(test)]
    if len(tests) < 2:
        return specimen.label
    return f"{specimen.test.job.tests.index(specimen.test) + 1}-{specimen.label}"


def piece_of(specimen: Specimen, place: int = 0) -> Piece:
    """One piece of a specimen as the core places it; raises Invalid for one that is not cut."""
    side: LongSide = "warp" if lies_of(specimen, place).long_side == "warp" else "weft"
    cut = blank_of(specimen.test)
    if cut is None:
        raise Invalid("sheet.not-cut-from", label=specimen.label, field="specimen")
    letter = piece_letter(place) if pieces_of(specimen) > 1 else ""
    group = f"{specimen.test_id}/{specimen.direction}"
    strips = cut_from_cloth(specimen)
    if strips:
        cut, group = cloth_for(cut, len(strips)), f"{group}/treated"
        letter = f"\N{EN DASH}{strips[-1].label}"
    return Piece(
        key=sheet_id(specimen, place),
        label=name_on_sheet(specimen) + letter,
        group=group,
        blank=cut,
        long_side=side,
        test=str(specimen.test_id),
        spare=specimen.spare and not strips,
        turnable=is_turnable(cut, specimen.direction),
    )
