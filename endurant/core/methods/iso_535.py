"""Water absorption of paper and board under a ring."""

from __future__ import annotations

from pydantic import Field

from endurant.core.fields import Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    Guide,
    InnerMark,
    Observation,
    ReadyCheck,
    WeighGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import circle
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers


class AbsorptionParameters(Parameters):
    """Parameters of the ring."""

    area_cm2: Positive = Field(100, description="Area under water.")
    time_s: Positive = Field(60, description="Time under water; the result is named by it.")


class AbsorptionReadings(Readings):
    """Masses of one specimen."""

    dry_g: Positive = Field(description="Mass before.")
    wet_g: Positive = Field(description="Mass after blotting.")


GUIDE = Guide(
    **guide_texts("iso-535"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=125,
        short_mm=125,
        inner_marks=(InnerMark("ring", (*circle(112.8), (56.4, 0))),),
        works_on="wetted on one side",
    ),
    atmosphere="paper-23-50",
    bench="weigh",
    wears=("blotter",),
    ready_checks=(
        ReadyCheck("balance", "Balance to 1 mg, tared", "the uptake is grams", set_up=True),
        ReadyCheck("ring-dry", "Ring and mat dry", "a wet ring leaks and counts"),
        ReadyCheck("blotter", "Blotters and roller at hand", "seconds decide", set_up=True),
    ),
    live=WeighGuide("dry_g", "wet_g", clock="time_s"),
    cautions=(BLADES, "Water on the floor is slippery.", LOCAL),
    observations=(
        Observation("leaked-at-ring", "Leaked at the ring", "void", "water leaked at the ring"),
        Observation("soaked-through", "Soaked through", "void", "water came through"),
    ),
)


def analyse(readings: AbsorptionReadings, parameters: AbsorptionParameters) -> SpecimenResult:
    """Return the water absorption of one specimen in g/m² (Cobb, ISO 535).

    Raises Invalid for a wet mass below the dry one.
    """
    result = begin(readings, GUIDE)
    dry_g, wet_g = readings.dry_g, readings.wet_g
    if above(dry_g, wet_g):
        raise readings.refuse("wet_g", "reading.wet-lighter-than-dry", wet_g=wet_g, dry_g=dry_g)
    result.give(
        "absorption",
        (wet_g - dry_g) * 10_000 / parameters.area_cm2,
        "g/m²",
        f"water taken up in {parameters.time_s:g} s, for the area",
        "(wet - dry) · 10000 / area",
        f"({in_numbers(wet_g)} - {in_numbers(dry_g)}) · 10000 / {in_numbers(parameters.area_cm2)}",
    )
    return result


METHOD = Method(
    id="iso-535",
    title="Water absorption of paper and board",
    family="Packaging",
    directions=("top", "bottom"),
    label_prefixes={"top": "T", "bottom": "B"},
    properties=(
        Property("absorption", "Water absorption", "g/m²", significant=3, most_decimals=1),
    ),
    parameters=AbsorptionParameters,
    readings=AbsorptionReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
