"""Checks of an instrument between its calibrations: one reading, and a run of them.

A reading is held against a value that is known (a reference resin, a check foil, a mass). Outside
`limit` the instrument is out until a check is good again. Inside it, two of the last three beyond
`warn` on the same side, or seven in a row on one side of the target, say that it drifts: it is
watched, and may be used.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from endurant.core.quantities import above
from endurant.core.refusals import Invalid, NeedsReason
from endurant.core.rounding import in_numbers

CheckVerdict = Literal["good", "watch", "out"]

OF_THE_LAST, BEYOND_WARN, ONE_SIDE = 3, 2, 7
SLIPS = (
    (25.4, "inches and millimetres"),
    (1000.0, "grams and kilograms, or millimetres and metres"),
    (60.0, "seconds and minutes"),
    (453.592, "grams and pounds"),
    (4.44822, "newtons and pounds of force"),
    (9.80665, "newtons and kilograms of force"),
    (6.89476, "kPa and psi"),
)
"""Units that are taken one for the other, by what one is of the other."""
SLIP_WITHIN = 0.05


@dataclass(frozen=True)
class Aim:
    """What a check should read, in its unit, and how far off it may be."""

    target: float
    warn: float
    limit: float
    unit: str


@dataclass(frozen=True)
class Judged:
    """What the rules say of a reading, and why."""

    verdict: CheckVerdict
    text: str


def refuse_aim(aim: Aim) -> None:
    """Raise Invalid for limits of a check that cannot be."""
    if not aim.limit > 0:
        raise Invalid("check.limit-not-positive", field="limit")
    if not 0 < aim.warn <= aim.limit:
        raise Invalid("check.warning-out-of-range", field="warn")


def refuse_unit(value: float, unit: str, aim: Aim, *, is_sure: bool = False) -> None:
    """Raise Invalid for a value in another unit than that of the check.

    Raises NeedsReason for a value that is off by a factor between units, unless the reader
    `is_sure`: an instrument can truly be that far off.
    """
    if unit and unit != aim.unit:
        raise Invalid("check.unit-differs", unit=unit, expected=aim.unit, field="unit")
    if is_sure or abs(value - aim.target) <= aim.limit or not aim.target or not value:
        return
    ratio = abs(value / aim.target)
    for factor, names in SLIPS:
        if any(abs(ratio / slip - 1) <= SLIP_WITHIN for slip in (factor, 1 / factor)):
            raise NeedsReason(
                "check.unit-confused", value=value, target=aim.target, unit=aim.unit, names=names
            )


def judge(before: Sequence[float], value: float, aim: Aim) -> Judged:
    """Return what one more reading says, after those `before` it, the newest last."""
    off = value - aim.target
    text = f"{in_numbers(round(abs(off), 10))} {aim.unit} {'above' if off > 0 else 'below'}"
    if off == 0:
        text = "on"
    if above(abs(off), aim.limit):
        return Judged(
            "out",
            f"{text} the target of {in_numbers(aim.target)} {aim.unit}; "
            f"{in_numbers(aim.limit)} {aim.unit} at most",
        )
    offs = [reading - aim.target for reading in before] + [off]
    side = 1 if off > 0 else -1
    latest = offs[-OF_THE_LAST:]
    if sum(above(side * each, aim.warn) for each in latest) >= BEYOND_WARN and above(
        side * off, aim.warn
    ):
        return Judged(
            "watch",
            f"{text} the target: {BEYOND_WARN} of the last {len(latest)} lie beyond the warning",
        )
    run = offs[-ONE_SIDE:]
    if len(run) == ONE_SIDE and all(side * each > 0 for each in run):
        where = "above" if off > 0 else "below"
        return Judged("watch", f"{ONE_SIDE} in a row lie {where} the target: it drifts")
    return Judged("good", f"{text} the target of {in_numbers(aim.target)} {aim.unit}")
