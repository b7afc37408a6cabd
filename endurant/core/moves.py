"""A sequence of moves of a frame: what it goes to, for how long it holds, what it goes between.

It is written as text, one move a line, as a technician says it, and sent to the device in one
word. Extensions count from where the frame was zeroed; a force goes up as the jaws part.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

from pydantic import AfterValidator

from endurant.core.complaints import carrying
from endurant.core.quoting import quoted
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers

Until = Literal["mm", "N", "%", "break"]
Kind = Literal["to", "by", "hold", "cycle", "zero", "pause", "exchange"]
MAX_MOVES = 60
MAX_CYCLES = 1000
LONGEST_HOLD_S = 7 * 24 * 3600.0
FASTEST_MM_MIN = 1000.0
LONGEST_TEXT = 3000
TITLE, LONGEST_TITLE = "#", 80
UNKNOWN_MM = 10.0
"""How far a move is drawn whose end nobody knows before it is run."""


@dataclass(frozen=True)
class Move:
    """One move.

    `to` and `by` end at `value` of their unit (mm and % of extension, N of force), or at a
    break; `cycle` goes `times` from `low` to `value` and back; `hold` stands for `seconds`.
    `pause` waits until somebody lets it go on, `exchange` too, and then pulls another specimen.
    """

    kind: Kind
    value: float = 0.0
    unit: Until = "mm"
    speed_mm_min: float = 0.0
    seconds: float = 0.0
    low: float = 0.0
    times: int = 1

    def in_words(self) -> str:
        """Return the move as it is written."""
        unit, at = self.unit, f"at {in_numbers(self.speed_mm_min)}"
        if self.kind == "hold":
            return f"hold {in_numbers(self.seconds)} s"
        if self.kind == "cycle":
            ends = f"{in_numbers(self.low)} {unit} to {in_numbers(self.value)} {unit}"
            return f"cycle {self.times} x {ends} {at}"
        if self.kind in ("to", "by"):
            end = "break" if unit == "break" else f"{in_numbers(self.value)} {unit}"
            return f"{self.kind} {end} {at}"
        return self.kind

    def word(self) -> str:
        """Return the move as it is sent to a device: no spaces in it."""
        cells = (self.kind, self.value, self.unit, self.speed_mm_min, self.seconds, self.low)
        return "/".join(f"{cell:.10g}" if isinstance(cell, float) else cell for cell in cells) + (
            f"/{self.times}"
        )


NUMBER = r"(-?\d{1,7}(?:[.,]\d{1,6})?)"
END = rf"(?:{NUMBER}\s*(mm|N|%)|(break))"
AT = rf"\s+at\s+{NUMBER}(?:\s*mm/min)?"
_GOES = re.compile(rf"(to|by)\s+{END}{AT}")
_HOLDS = re.compile(rf"hold\s+{NUMBER}\s*(s|min)")
_CYCLES = re.compile(
    rf"cycle\s+(\d{{1,4}})\s*x\s+{NUMBER}\s*(mm|N|%)\s+to\s+{NUMBER}\s*(mm|N|%){AT}"
)
EXPECTED = (
    "“to 20 mm at 100”, “by 5 mm at 10”, “to 180 N at 50”, “to 0.25 % at 1”, “to break at 50”, "
    "“hold 60 s”, “cycle 5 x 0 mm to 20 mm at 100” or “zero”"
)


def read_moves(text: str) -> tuple[Move, ...]:
    """Return the moves that a text says, one a line; raises Invalid that names the line."""
    lines = [line.strip() for line in re.split(r"[;\n]", text[: LONGEST_TEXT + 1])]
    if len(text) > LONGEST_TEXT:
        raise Invalid("moves.too-long", max=LONGEST_TEXT, field="moves")
    moves = tuple(
        _read(line, number)
        for number, line in enumerate(lines, start=1)
        if line and not line.startswith(TITLE)
    )
    if not moves:
        raise Invalid("moves.none", expected=EXPECTED, field="moves")
    if len(moves) > MAX_MOVES:
        raise Invalid("moves.too-many", count=len(moves), max=MAX_MOVES, field="moves")
    return moves


def _read(line: str, number: int) -> Move:
    where = f"moves: line {number}, {quoted(line)}"
    if line == "zero":
        return Move("zero")
    if goes := _GOES.fullmatch(line):
        kind, value, unit, broken, speed = goes.groups()
        if broken and kind == "by":
            raise Invalid("moves.break-with-by", where=where, expected=EXPECTED, field="moves")
        move = Move(
            "to" if kind == "to" else "by",
            0.0 if broken else _number(value),
            "break" if broken else _unit(unit),
            _speed(speed, where),
        )
        if kind == "by" and unit == "N":
            raise Invalid("moves.force-with-by", where=where, field="moves")
        return move
    if holds := _HOLDS.fullmatch(line):
        seconds = _number(holds[1]) * (60 if holds[2] == "min" else 1)
        if not 0 < seconds <= LONGEST_HOLD_S:
            raise Invalid("moves.hold-time", where=where, field="moves")
        return Move("hold", seconds=seconds)
    if cycles := _CYCLES.fullmatch(line):
        times, low, low_unit, high, unit, speed = cycles.groups()
        if low_unit != unit:
            raise Invalid("moves.cycle-units", where=where, field="moves")
        if not 1 <= int(times) <= MAX_CYCLES:
            raise Invalid("moves.cycle-count", where=where, max=MAX_CYCLES, field="moves")
        if _number(low) >= _number(high):
            raise Invalid("moves.cycle-order", where=where, field="moves")
        return Move(
            "cycle",
            _number(high),
            _unit(unit),
            _speed(speed, where),
            low=_number(low),
            times=int(times),
        )
    raise Invalid("moves.unknown", where=where, expected=EXPECTED, field="moves")


def _unit(text: str) -> Until:
    return "N" if text == "N" else "%" if text == "%" else "mm"


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _speed(text: str, where: str) -> float:
    speed = _number(text)
    if not 0 < speed <= FASTEST_MM_MIN:
        raise Invalid("moves.speed", where=where, speed=speed, max=FASTEST_MM_MIN, field="moves")
    return speed


def text_of(moves: Sequence[Move]) -> str:
    """Return the text that says these moves."""
    return "\n".join(move.in_words() for move in moves)


def to_word(moves: Sequence[Move]) -> str:
    """Return all moves in one word, as they are sent to a device."""
    return ",".join(move.word() for move in moves)


def from_word(word: str) -> tuple[Move, ...]:
    """Return the moves of such a word; raises ValueError for another."""
    moves = []
    for cells in word.split(","):
        kind, value, unit, speed, seconds, low, times = cells.split("/")
        if kind not in ("to", "by", "hold", "cycle", "zero", "pause", "exchange"):
            raise ValueError(f"{kind[:20]} is no move")
        if unit not in ("mm", "N", "%", "break"):
            raise ValueError(f"{unit[:20]} is no unit of a move")
        known: Kind = kind  # type: ignore[assignment]
        until: Until = unit  # type: ignore[assignment]
        moves.append(
            Move(known, float(value), until, float(speed), float(seconds), float(low), int(times))
        )
    return tuple(moves)


def each_of(moves: Sequence[Move]) -> list[Move]:
    """Return the moves one by one: a cycle as its ways there and back."""
    single = []
    for move in moves:
        if move.kind != "cycle":
            single.append(move)
            continue
        there = replace(move, kind="to", times=1)
        back = replace(there, value=move.low)
        single += [there, back] * move.times
    return single


@dataclass(frozen=True)
class PathPoint:
    """A corner of the way that a sequence takes; `known` is False where only a run can tell."""

    time_s: float
    extension_mm: float
    known: bool


def path_of(moves: Sequence[Move], gauge_mm: float) -> list[PathPoint]:
    """Return the way over time: what depends on force or break is drawn as a guess, marked so."""
    at_s, at_mm, known = 0.0, 0.0, True
    points = [PathPoint(0.0, 0.0, True)]
    for move in each_of(moves):
        if move.kind == "zero":
            at_mm = 0.0
            points.append(PathPoint(at_s, at_mm, known))
            continue
        if move.kind in ("pause", "exchange"):
            at_mm = 0.0 if move.kind == "exchange" else at_mm
            points.append(PathPoint(at_s, at_mm, known))
            continue
        if move.kind == "hold":
            at_s += move.seconds
        else:
            end_mm, is_sure = _end_of(move, at_mm, gauge_mm)
            known = known and is_sure
            at_s += abs(end_mm - at_mm) / move.speed_mm_min * 60
            at_mm = end_mm
        points.append(PathPoint(at_s, at_mm, known))
    return points


def _end_of(move: Move, at_mm: float, gauge_mm: float) -> tuple[float, bool]:
    if move.unit == "mm":
        return (at_mm + move.value if move.kind == "by" else move.value), True
    if move.unit == "%":
        far = move.value / 100 * gauge_mm
        return (at_mm + far if move.kind == "by" else far), True
    return (0.0 if move.unit == "N" and move.value <= 0 else at_mm + UNKNOWN_MM), False


def titled(title: str, moves: Sequence[Move]) -> str:
    """Return a text of moves that begins with what the sequence is called."""
    return f"{TITLE} {title}\n{text_of(moves)}" if title else text_of(moves)


def title_of(text: str) -> str:
    """Return what a sequence is called; empty where it has no name."""
    first = text.strip().split("\n", 1)[0]
    return first.lstrip(TITLE).strip()[:LONGEST_TITLE] if first.startswith(TITLE) else ""


def _is_read(text: str) -> str:
    try:
        return titled(title_of(text), read_moves(text))
    except Invalid as refusal:
        raise carrying(refusal.message) from refusal


MovesText = Annotated[str, AfterValidator(_is_read)]
"""A text that says moves, as `read_moves` reads it; kept as `titled` writes it."""
