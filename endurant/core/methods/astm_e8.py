"""Tension of metals, round or flat: offset yield, and what the halves show when fitted together."""

from __future__ import annotations

from math import pi
from typing import ClassVar, Literal

from pydantic import Field

from endurant.core.fields import Positive
from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark, Measure, ReadyCheck
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import dumbbell
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import OBSERVATIONS, PullReadings, gauge_length, review_pull
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import LOCAL, PINCH, frame_checks
from endurant.core.methods.stress_strain import (
    STRESS_PROPERTIES,
    StressParameters,
    StressStrain,
    Window,
    begin_stress,
    give_break,
    give_modulus,
    give_strength,
    give_yield,
    mark_line,
    offset_yield,
    yield_index,
)
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers


class Parameters(StressParameters):
    """Parameters of the pull of a metal."""

    modulus_rule: Literal["chord", "regression"] = Field(
        "regression", description="Line through two strains, or least squares between them."
    )
    modulus_window: Window = Field(
        default=[0.0005, 0.0015], description="The two strains, as fractions, from the zero."
    )
    toe_compensation: bool = Field(
        True, strict=True, description="Count strain from where the straight part meets zero."
    )
    set_up: ClassVar[tuple[str, ...]] = ("extensometer_off_strain",)

    offset: Positive = Field(0.002, description="Strain by which the yield line is shifted.")
    extensometer_off_strain: Positive = Field(
        0.015, description="Strain at which the run pauses for the extensometer to come off."
    )


class Readings(PullReadings):
    """One pulled bar, and its halves fitted together."""

    final_gauge_mm: Positive | None = Field(None, description="Gauge length after the break.")
    neck_diameter_mm: Positive | None = Field(None, description="Least diameter of the neck.")
    neck_width_mm: Positive | None = Field(None, description="Width of the neck.")
    neck_thickness_mm: Positive | None = Field(None, description="Thickness of the neck.")

    def neck_area(self) -> float | None:
        """Area of the neck in mm²; None when it was not measured."""
        if self.neck_diameter_mm is not None:
            return pi * self.neck_diameter_mm**2 / 4
        if self.neck_width_mm is None or self.neck_thickness_mm is None:
            return None
        return self.neck_width_mm * self.neck_thickness_mm


GUIDE = Guide(
    **guide_texts("astm-e8"),
    count_per_direction=5,
    blank=Blank(
        outline="die",
        long_mm=200,
        short_mm=20,
        points_mm=dumbbell(200, 20, 57, 12.5, 80),
        inner_marks=(
            InnerMark("gauge mark", ((-6.25, -25), (6.25, -25))),
            InnerMark("gauge mark", ((-6.25, 25), (6.25, 25))),
        ),
        works_on="stretches along its long side",
    ),
    atmosphere=None,
    bench="trace",
    live=FrameGuide(
        travel_mm=60,
        usual_speed_mm_min=5,
        usual_max_n=30_000,
        after=("final_gauge_mm", "neck_diameter_mm", "neck_width_mm", "neck_thickness_mm"),
        extensometer=True,
        own_grips=True,
        force_first=True,
    ),
    measures=(
        Measure("width_mm", 3, span_mm=50, nominal_mm=12.5),
        Measure("thickness_mm", 3, span_mm=50, nominal_mm=3),
        Measure("diameter_mm", 3, span_mm=50, nominal_mm=12.5, instead=True),
    ),
    ready_checks=frame_checks(
        ReadyCheck(
            "lower-gripped",
            "Bar in the lower grip, tightened",
            "the bar then hangs straight before the upper grip closes",
        ),
        ReadyCheck(
            "upper-gripped",
            "Upper grip brought down slowly with fingers clear, then tightened",
            "a fast approach bends the bar or crushes a hand",
            tells="grip",
        ),
        ReadyCheck(
            "grips-relieved",
            "Force of tightening released to near zero with the fine control",
            "tightening adds force to the bar; release it by moving, not by zeroing",
            tells="release",
        ),
        ReadyCheck(
            "extensometer-fitted",
            "Extensometer fitted at {gauge_length_mm} mm, its locking pin in",
            "the pin holds the gauge length while the extensometer is clipped on",
        ),
        ReadyCheck(
            "pin-pulled",
            "Locking pin pulled straight out",
            "a pin left in breaks the extensometer; pulled at an angle it shifts the knives",
        ),
        ReadyCheck(
            "handset-locked", "Handset locked", "a leaned-on button drives the crosshead", hold=True
        ),
        because="strain after the extensometer is off is divided by this length",
        force_first=True,
    ),
    needs=lambda _: ("speed_mm_min", "gauge_length_mm", "grip_separation_mm"),
    cautions=(
        PINCH,
        "Metal breaks with a bang and sharp ends: guard closed, gloves for the halves.",
        "After the break do not return to zero: the halves would be driven into one another.",
        LOCAL,
    ),
    observations=OBSERVATIONS,
)

PROPERTIES = (
    *STRESS_PROPERTIES,
    Property("offset_yield", "Offset yield stress", "MPa", significant=3),
    Property("elongation_after_fracture", "Elongation after fracture", "%", step="0.5"),
    Property("reduction_of_area", "Reduction of area", "%", step="0.5"),
)


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return yield, strength, elongation and reduction of area of one metal bar (ASTM E8/E8M).

    Stresses are in MPa, elongations in %. Raises Invalid for a final gauge length shorter than the
    original one, or a final section larger than the original one.
    """
    result, begun = begin_stress(readings, parameters, GUIDE, PROPERTIES)
    if begun is None:
        return result
    give_modulus(result, begun, parameters)
    give_strength(result, begun)
    index = yield_index(begun, parameters.yield_prominence)
    if index is not None and begun.pull.force_n[index] == begun.pull.max_force_n:
        index = None
    give_yield(result, begun, index, "upper yield: the first maximum, before the necking")
    give_break(result, begun)
    give_offset_yield(result, begun, parameters.offset)
    give_halves(result, readings, parameters, begun.area_mm2)
    return result


def give_offset_yield(result: SpecimenResult, stress_strain: StressStrain, offset: float) -> None:
    """Give the offset yield strength in MPa, or the reason why there is none (ASTM E8/E8M).

    `offset` is a strain, such as 0.002.
    """
    met = offset_yield(stress_strain, offset)
    if met is None or stress_strain.line is None:
        result.lacks("offset_yield", "MPa")
        if stress_strain.line is not None:
            result.flag("no-offset-yield", "note", offset_percent=100 * offset)
        return
    stress, strain = met
    result.give(
        "offset_yield",
        stress,
        "MPa",
        f"where the curve meets the line of the modulus, shifted by {100 * offset:g} %",
        "s = modulus · (e - offset)",
        f"{in_numbers(stress_strain.line.slope)} · ({in_numbers(strain)} - {in_numbers(offset)})",
    )
    mark_line(result, stress_strain, "offset line", stress_strain.line.shift + offset, stress)


def give_halves(
    result: SpecimenResult, readings: Readings, parameters: Parameters, area_mm2: float
) -> None:
    """Give elongation after fracture and reduction of area in %, from the two halves."""
    missing = []
    if readings.final_gauge_mm is None:
        result.lacks("elongation_after_fracture", "%")
        missing.append("gauge length")
    else:
        first_mm, final_mm = gauge_length(readings, parameters), readings.final_gauge_mm
        if above(first_mm, final_mm):
            raise readings.refuse(
                "final_gauge_mm", "reading.shorter-than-gauge", final_mm=final_mm, first_mm=first_mm
            )
        result.give(
            "elongation_after_fracture",
            100 * (final_mm - first_mm) / first_mm,
            "%",
            "gauge length of the halves fitted together, against the one at the start",
            "100 · (L_final - L_0) / L_0",
            f"100 · ({in_numbers(final_mm)} - {in_numbers(first_mm)}) / {in_numbers(first_mm)}",
        )
    neck_mm2 = readings.neck_area()
    if neck_mm2 is None:
        result.lacks("reduction_of_area", "%")
        missing.append("neck")
    else:
        if above(neck_mm2, area_mm2):
            name = "neck_diameter_mm" if readings.neck_diameter_mm else "neck_width_mm"
            raise readings.refuse(
                name, "reading.neck-too-large", neck_mm2=neck_mm2, area_mm2=area_mm2
            )
        result.give(
            "reduction_of_area",
            100 * (area_mm2 - neck_mm2) / area_mm2,
            "%",
            "area of the neck, against the one at the start",
            "100 · (A_0 - A_neck) / A_0",
            f"100 · ({in_numbers(area_mm2)} - {in_numbers(neck_mm2)}) / {in_numbers(area_mm2)}",
        )
    if missing:
        result.flag("halves-not-measured", "note", missing=" and ".join(missing))


METHOD = Method(
    id="astm-e8",
    title="Tension of metals",
    family="Tension",
    directions=(),
    label_prefixes={"length": "L", "width": "T"},
    properties=PROPERTIES,
    parameters=Parameters,
    readings=Readings,
    guide=GUIDE,
    analyse=analyse,
    review=review_pull,
)
METHODS = {METHOD.id: METHOD}
