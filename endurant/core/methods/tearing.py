"""What tears at a frame have in common: peaks, speed, observations and the review."""

from __future__ import annotations

from pydantic import Field

from endurant.core.fields import Number, Positive
from endurant.core.methods.checks import begin, method_unsuitable, speed_flags, too_few_valid
from endurant.core.methods.guide import Guide, Observation, ReadyCheck
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.readings import TraceReadings
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.trace import Peaks, find_peaks, mean_speed_mm_min

OBSERVATIONS = (
    Observation(
        "jaw-slip", "Slipped in the jaw", "void", "a leg slipped in its jaw during the tear"
    ),
    Observation("tear-off-line", "Left the line", "void", "the tear left the marked direction"),
    Observation(
        "yarns-pulled-out",
        "Yarns pulled out",
        "void",
        "yarns were pulled out of the leg and did not tear",
    ),
)

LEGS_CENTRED = ReadyCheck(
    "legs-symmetrical",
    "A leg centred in each jaw, the slit in line between them, no pretension",
    "a leg held aslant pulls the tear off its line",
)


class PeakParameters(Parameters):
    """What makes a peak."""

    peak_prominence: float = Field(
        0.10,
        strict=True,
        gt=0,
        le=1,
        description="Least prominence of a peak, as a part of its own force.",
    )
    peak_floor: float = Field(
        0.05,
        strict=True,
        ge=0,
        le=1,
        description="Least force of a peak, as a part of the highest force of the trace.",
    )


class TearParameters(PeakParameters):
    """Parameters of a tear at a frame."""

    specimens_wanted: int = requested(5)
    speed_mm_min: Positive = Field(50, description="Crosshead speed in mm per minute.")
    gauge_length_mm: Positive = Field(75, description="Distance between the jaws at the start.")


class TearReadings(TraceReadings):
    """One torn specimen: its trace, and where the end mark was reached when that was noted."""

    tear_end_mm: Number | None = Field(
        None, ge=0, description="Extension at which the tear reached the end mark."
    )


def begin_tear(
    readings: TearReadings, parameters: TearParameters, guide: Guide
) -> tuple[SpecimenResult, Peaks]:
    """Return the checks of a tear and the peaks of its whole trace, in mm and N.

    Raises Invalid for an observation that the method does not list.
    """
    trace = readings.trace
    result = begin(readings, guide)
    if trace.time_s is not None:
        speed = mean_speed_mm_min(trace.time_s, trace.extension_mm)
        result.flags += speed_flags(speed, parameters.speed_mm_min)
    return result, find_peaks(
        trace.extension_mm, trace.force_n, parameters.peak_prominence, parameters.peak_floor
    )


def review_tear(results: Results, parameters: TearParameters) -> list[Flag]:
    """What holds for the whole test: too few valid, or the method does not suit the cloth."""
    return [
        *too_few_valid(results, parameters.specimens_wanted),
        *method_unsuitable(
            results,
            first=5,
            max_void=3,
            advice="This cloth does not tear along its line: agree another method.",
        ),
    ]
