"""Checks that methods share: observations, speed, and how many specimens count."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from endurant.core.methods.guide import Guide, Observation
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Flag, SpecimenResult
from endurant.core.methods.summary import groups_of
from endurant.core.methods.voids import with_voids
from endurant.core.quantities import above, equal_at_limit
from endurant.core.rounding import four_digits

SPEED_TOLERANCE = 0.10
"""Part of the speed by which the mean crosshead speed may be off."""


def observed_flags(readings: Readings, listed: Sequence[Observation]) -> list[Flag]:
    """One flag for each observation; raises Invalid for a code that the method does not list."""
    known = {observation.code: observation for observation in listed}
    flags = []
    for code in dict.fromkeys(readings.observations):
        if code not in known:
            expected = ", ".join(known) or "none"
            raise readings.refuse(
                "observations", "reading.observation-unknown", code=code, expected=expected
            )
        flags.append(
            Flag.of(code, known[code].severity, sentence="flag.observed", text=known[code].text)
        )
    return flags


def begin(readings: Readings, guide: Guide) -> SpecimenResult:
    """Return the result of one specimen, with what the technician observed already on it.

    Raises Invalid for an observation that the method does not list.
    """
    result = SpecimenResult(readings.label, readings.direction, readings.state)
    result.flags += observed_flags(readings, with_voids(guide.observations, guide.bench))
    return result


def speed_flags(speed: float | None, requested: float, unit: str = "mm/min") -> list[Flag]:
    """Return `rate-out-of-tolerance` when a mean speed is more than a tenth off; both in `unit`.

    A speed about 60 times too high looks like mm/s taken for mm/min, and about 60 times too low
    like the reverse. `speed` is None when the time of the trace stands still.
    """
    if speed is None:
        return [
            Flag.of(
                "rate-out-of-tolerance",
                "warn",
                sentence="flag.rate-out-of-tolerance.time-stands-still",
            )
        ]
    if not above(abs(speed - requested), SPEED_TOLERANCE * requested):
        return []
    return [rate_flag(speed, requested, unit)]


def rate_flag(speed: float, requested: float, unit: str) -> Flag:
    """Return the flag of a speed that is off, with what it looks like when that is a known slip."""
    flag = Flag.of(
        "rate-out-of-tolerance",
        "warn",
        speed=four_digits(speed),
        unit=unit,
        requested=four_digits(requested),
    )
    if _about(speed / requested, 60):
        return replace(flag, message=flag.message.within("flag.rate-out-of-tolerance.fast"))
    if _about(speed / requested, 1 / 60):
        return replace(flag, message=flag.message.within("flag.rate-out-of-tolerance.slow"))
    return flag


def _about(ratio: float, expected: float) -> bool:
    share = ratio / expected
    return 0.9 <= share <= 1.1 or equal_at_limit(share, 0.9) or equal_at_limit(share, 1.1)


def too_few_valid(results: Sequence[SpecimenResult], requested: int) -> list[Flag]:
    """Return one flag for each direction and state with fewer valid specimens than wanted."""
    flags = []
    for group in groups_of(results):
        valid = sum(result.enters for result in group.members)
        if valid < requested:
            flags.append(
                Flag.of(
                    "too-few-valid",
                    "warn",
                    group=group.in_words(),
                    valid=valid,
                    requested=requested,
                )
            )
    return flags


def review_count(results: Sequence[SpecimenResult], parameters: Parameters) -> list[Flag]:
    """Return the review of a method that only asks for enough valid specimens."""
    return too_few_valid(results, parameters.specimens_wanted)


def method_unsuitable(
    results: Sequence[SpecimenResult], first: int, max_void: int, advice: str
) -> list[Flag]:
    """`method-unsuitable` where `most_void` or more of the `first` of a group are void."""
    flags = []
    for group in groups_of(results):
        void = sum(not result.valid for result in group.members[:first])
        if void >= max_void:
            flags.append(
                Flag.of(
                    "method-unsuitable",
                    "warn",
                    group=group.in_words(),
                    void=void,
                    first=first,
                    advice=advice,
                )
            )
    return flags
