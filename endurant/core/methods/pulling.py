"""What every pull has in common: zero, strain source, area, break, checks and observations."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from endurant.core.complaints import complaint
from endurant.core.curve import START, Place, break_index, first_index, first_reach
from endurant.core.fields import Name, NotNegative, Positive
from endurant.core.measuring import section_of
from endurant.core.methods.checks import begin, speed_flags, too_few_valid
from endurant.core.methods.guide import Guide, Observation
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.readings import Readings, TraceReadings
from endurant.core.methods.results import Flag, Mark, Results, SpecimenResult
from endurant.core.moves import MovesText
from endurant.core.quantities import above, all_at_least
from endurant.core.recordings import ForceTrace
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples

START_FORCE_SHARE = 0.005
START_FORCE_MAX_N = 50
MIN_OF_CELL = 0.02

OBSERVATIONS = (
    Observation("jaw-slip", "Slipped in the jaw", "void", "the specimen slipped in a jaw"),
    Observation(
        "extensometer-slip",
        "Extensometer slipped",
        "warn",
        "the extensometer slipped: its values cannot be used, force and stress stay",
    ),
    Observation(
        "broke-outside-gauge", "Broke outside the gauge", "void", "it broke outside the gauge"
    ),
    Observation("broke-at-grip", "Broke at the grip", "void", "it broke at a grip"),
    Observation(
        "broke-at-extensometer",
        "Broke at the extensometer",
        "warn",
        "it broke at the spring or the edge of the extensometer",
    ),
)
"""What can be seen at a pull; a method's own rule may keep what is void here."""


class PullParameters(Parameters):
    """Parameters that every pull has."""

    set_up: ClassVar[tuple[str, ...]] = (
        "gauge_length_mm",
        "grip_separation_mm",
        "load_cell_n",
        "grips",
        "moves",
    )
    laboratory: ClassVar[tuple[str, ...]] = ("area_rule",)

    pretension_n: NotNegative | None = Field(
        None, description="Force at which extension and strain begin; none: the first sample."
    )
    gauge_length_mm: Positive | None = Field(
        None, description="Length that extension is divided by; a specimen's own goes before it."
    )
    grip_separation_mm: Positive | None = Field(
        None, description="Free length between the grips; none: the gauge length."
    )
    area_rule: Literal["mean", "minimum"] = Field(
        "mean", description="Mean of the measured sections, or the smallest one."
    )
    break_drop: float = Field(
        0.4,
        strict=True,
        gt=0,
        le=1,
        description="Drop between neighbouring samples that is a break, as a part of the maximum.",
    )
    max_start_force_n: NotNegative | None = Field(
        None,
        description="Most force at the first sample; none: 0.5 % of the maximum, 50 N at most.",
    )
    speed_mm_min: Positive | None = Field(
        None, description="Crosshead speed in mm per minute; none: no check."
    )
    load_cell_n: Positive | None = Field(
        None, description="Capacity of the load cell, to be used from 2 % to 100 %."
    )
    grips: Name | None = Field(
        None, description="Grips and what they are lined with, as they were used."
    )
    moves: MovesText | None = Field(
        None, description="Moves of the frame, one a line; none: one pull, as the method says."
    )

    @model_validator(mode="before")
    @classmethod
    def _without_toe(cls, given: Any) -> Any:
        """A document may say false of the toe; only a method that gives a modulus moves it."""
        if not isinstance(given, Mapping) or "toe_compensation" in cls.model_fields:
            return given
        if given.get("toe_compensation", False) is not False:
            raise complaint("pulling.toe-not-allowed", field="toe_compensation")
        return {name: value for name, value in given.items() if name != "toe_compensation"}


class PullReadings(TraceReadings):
    """One pulled specimen."""

    gauge_length_mm: Positive | None = Field(None, description="Gauge length of this specimen.")


@dataclass(frozen=True)
class Pull:
    """The trace of one pull, counted from its zero.

    `extension_mm` and `strain` (mm/mm; None when it cannot be trusted or is not asked for)
    are 0 at `zero`; `top` is the first sample of the highest force, `end` the break.
    """

    force_n: Samples
    extension_mm: Samples
    strain: Samples | None
    zero: Place
    zero_mm: float
    top: int
    end: int

    @property
    def drawn_mm(self) -> Samples:
        """Extension as it stands on the trace, which is where marks are drawn."""
        return self.extension_mm + self.zero_mm

    @property
    def max_force_n(self) -> float:
        """The highest force."""
        return float(self.force_n[self.top])

    def point(self, text: str, index: int) -> Mark:
        """Return a sample to be marked on the trace as it was taken."""
        at_mm = float(self.extension_mm[index]) + self.zero_mm
        return Mark("points", text, ((at_mm, float(self.force_n[index])),))


def gauge_length(readings: Any, parameters: PullParameters) -> float:
    """Return the gauge length in mm of the specimen, else of the parameters.

    Raises Invalid when both are missing.
    """
    own = getattr(readings, "gauge_length_mm", None)
    gauge_length_mm = own if own is not None else parameters.gauge_length_mm
    if gauge_length_mm is None:
        raise readings.refuse("gauge_length_mm", "reading.gauge-length-missing")
    return float(gauge_length_mm)


def grip_separation(readings: Any, parameters: PullParameters) -> float:
    """Return the free length between the grips in mm, else the gauge length; raises Invalid."""
    if parameters.grip_separation_mm is not None:
        return float(parameters.grip_separation_mm)
    return gauge_length(readings, parameters)


def begin_pull(
    readings: Any,
    parameters: PullParameters,
    guide: Guide,
    *,
    pretension_n: float | None = None,
    strain: Literal["extensometer", "none"] = "extensometer",
    speed_checked: bool = True,
    wants_extensometer: bool = False,
) -> tuple[SpecimenResult, Pull | None]:
    """Return the checks that every pull goes through, and the trace from its zero.

    The pull is None when no force stands above zero, with the flag that says so. `strain`
    names the source: the extensometer, and where there is none the crosshead over the grip
    separation, which is flagged where the method `wants_extensometer`; or none.
    Raises Invalid when a length that is needed was not given.
    """
    result = begin(readings, guide)
    trace: ForceTrace = readings.trace
    force_n = trace.force_n
    top = int(np.argmax(force_n))
    if not force_n[top] > 0:
        result.flag("no-force", "void")
        return result, None
    target_n = parameters.pretension_n if pretension_n is None else pretension_n
    zero = find_zero(result, force_n, target_n or 0.0)
    zero_mm = zero.of(trace.extension_mm)
    extension_mm = trace.extension_mm - zero_mm
    strains = None
    if strain == "extensometer" and trace.strain is None:
        strains = extension_mm / grip_separation(readings, parameters)
        if wants_extensometer:
            result.flags.append(no_extensometer(grip_separation(readings, parameters)))
    elif strain == "extensometer":
        strain_read = strain_of(result, readings, parameters)
        if not result.has_flag("extensometer-slip"):
            strains = strain_read - zero.of(strain_read)
    result.flags += start_flags(force_n, parameters, target_n or 0.0)
    if speed_checked:
        result.flags += pull_speed_flags(trace, parameters.speed_mm_min)
    result.flags += capacity_flags(float(force_n[top]), parameters.load_cell_n)
    end = break_index(force_n, parameters.break_drop)
    return result, Pull(force_n, extension_mm, strains, zero, zero_mm, top, end)


def no_extensometer(grip_mm: float) -> Flag:
    """Return the flag of a strain that the crosshead had to give."""
    return Flag.of("no-extensometer", "warn", grip_mm=grip_mm)


def find_zero(result: SpecimenResult, force_n: Samples, pretension_n: float) -> Place:
    """Return where the force in N first reaches the pretension; the first sample without one."""
    if pretension_n == 0:
        return START
    zero = first_reach(force_n, pretension_n)
    if zero is None:
        result.flag("pretension-not-reached", "void", pretension_n=pretension_n)
        return START
    return zero


def strain_of(result: SpecimenResult, readings: Any, parameters: PullParameters) -> Samples:
    """Return the strain, shape (n,): by the extensometer, by the crosshead once it is off."""
    trace: ForceTrace = readings.trace
    measured = np.asarray(trace.strain, dtype=np.float64)
    off = np.isnan(measured)
    if not off.any():
        return measured
    last = int(np.argmax(off)) - 1
    grip_mm = grip_separation(readings, parameters)
    travel = (trace.extension_mm - trace.extension_mm[last]) / grip_mm
    result.flag(
        "strain-from-crosshead", "note", percent=100 * float(measured[last]), grip_mm=grip_mm
    )
    return np.asarray(np.where(off, measured[last] + travel, measured), dtype=np.float64)


def start_flags(force_n: Samples, parameters: PullParameters, pretension_n: float) -> list[Flag]:
    """`preloaded-at-start` when closing the grips squeezed force into the specimen."""
    max_n = parameters.max_start_force_n
    if max_n is None:
        max_n = max(min(START_FORCE_SHARE * float(force_n.max()), START_FORCE_MAX_N), pretension_n)
    if not above(float(force_n[0]), max_n):
        return []
    return [Flag.of("preloaded-at-start", "warn", force_n=float(force_n[0]), max_n=max_n)]


def pull_speed_flags(trace: ForceTrace, speed_mm_min: float | None) -> list[Flag]:
    """Return the check of the mean speed between a tenth and nine tenths of the maximum force."""
    if trace.time_s is None or speed_mm_min is None:
        return []
    ends = rising_ends(trace.force_n)
    if ends[0] == ends[1]:
        return []
    return speed_flags(speed_between(trace, *ends), speed_mm_min)


def rising_ends(force_n: Samples) -> tuple[int, int]:
    """Return indices of the first samples at a tenth and at nine tenths of the maximum force."""
    max_n = float(force_n.max())
    ends = [first_index(all_at_least(force_n, share * max_n)) for share in (0.1, 0.9)]
    return ends[0] or 0, ends[1] or 0


def speed_between(trace: ForceTrace, start: int, end: int) -> float | None:
    """Return the mean speed between two samples in mm/min; None when time stands still."""
    if trace.time_s is None:
        return None
    seconds = float(trace.time_s[end] - trace.time_s[start])
    if seconds <= 0:
        return None
    return 60 * float(trace.extension_mm[end] - trace.extension_mm[start]) / seconds


def capacity_flags(max_force_n: float, load_cell_n: float | None) -> list[Flag]:
    """`outside-range` when the maximum lies outside what the load cell is good for."""
    if load_cell_n is None:
        return []
    if not above(MIN_OF_CELL * load_cell_n, max_force_n) and not above(max_force_n, load_cell_n):
        return []
    return [
        Flag.of(
            "outside-range",
            "warn",
            sentence="flag.outside-range.cell-percent",
            max_force_n=max_force_n,
            percent=100 * max_force_n / load_cell_n,
            load_cell_n=load_cell_n,
        )
    ]


@dataclass(frozen=True)
class Area:
    """A cross section in mm², and how it came about."""

    mm2: float
    formula: str
    with_: str


def cross_section(readings: Readings, rule: Literal["mean", "minimum"]) -> Area:
    """Return the original area in mm² from width and thickness, or from the diameter.

    Raises Invalid when a size is missing.
    """
    dimensions = readings.dimensions
    is_round = dimensions is not None and dimensions.width_mm is None
    diameters = (dimensions.diameter_mm or []) if dimensions is not None and is_round else []
    widths = [] if diameters else readings.sections("width_mm")
    thicknesses = [] if diameters else readings.sections("thickness_mm")
    section = section_of(widths, thicknesses, diameters)
    assert section is not None  # noqa: S101 - `sections` refused what is missing
    area_mm2 = section.min_mm2 if rule == "minimum" else section.mean_mm2
    if diameters:
        return Area(area_mm2, f"{rule} of π d² / 4", f"d = {_listed(diameters)} mm")
    with_ = f"b = {_listed(widths)} mm; h = {_listed(thicknesses)} mm"
    if len(widths) == len(thicknesses):
        return Area(area_mm2, f"{rule} of b · h", with_)
    name = "least" if rule == "minimum" else "mean"
    return Area(area_mm2, f"{name} b · {name} h", with_)


def _listed(sizes_mm: Sequence[float]) -> str:
    return ", ".join(in_numbers(size) for size in sizes_mm)


def breaks_at_extensometer(results: Results) -> list[Flag]:
    """Return how many of a series broke at the extensometer, once there is one."""
    count = sum(result.has_flag("broke-at-extensometer") for result in results)
    if count == 0:
        return []
    return [Flag.of("breaks-at-extensometer", "note", count=count, all=len(results))]


def review_pull(results: Results, parameters: PullParameters) -> list[Flag]:
    """Return what holds for a whole series of pulls."""
    return [
        *too_few_valid(results, parameters.specimens_wanted),
        *breaks_at_extensometer(results),
    ]
