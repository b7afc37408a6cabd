"""Check of the barrel's temperature: the new offset of each sensor."""

from __future__ import annotations

from pydantic import Field

from endurant.core.fields import NotNegative, Number
from endurant.core.methods.checks import begin
from endurant.core.methods.guide import (
    Guide,
    ReadyCheck,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.melting import CAUTIONS
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.quantities import above, at_least
from endurant.core.rounding import in_numbers


class CheckParameters(Parameters):
    """Parameters of the check."""

    leave_alone_c: NotNegative = Field(0.2, description="Difference that is left alone.")
    review_c: NotNegative = Field(
        0.5, description="Difference above which results since the last check are looked at."
    )


class SensorReadings(Readings):
    """One sensor of the barrel."""

    displayed_c: Number = Field(description="What the instrument shows.")
    reference_c: Number = Field(description="What the reference thermometer shows.")
    old_offset_c: Number = Field(description="Offset that was set.")


GUIDE = Guide(
    **guide_texts("barrel-check"),
    count_per_direction=2,
    blank=None,
    atmosphere=None,
    bench="cuts",
    ready_checks=(
        ReadyCheck("settled", "Barrel filled and settled at temperature", "it drifts for minutes"),
        ReadyCheck(
            "reference", "Reference thermometer in date, at the die", "depth matters", set_up=True
        ),
        ReadyCheck("gloves", "Heat-proof gloves on", "the barrel burns", hold=True),
    ),
    cautions=CAUTIONS,
    observations=(),
)


def analyse(readings: SensorReadings, parameters: CheckParameters) -> SpecimenResult:
    """Return the difference of one barrel sensor from the reference and its new offset, in °C."""
    result = begin(readings, GUIDE)
    difference = readings.reference_c - readings.displayed_c
    shown, true = in_numbers(readings.displayed_c), in_numbers(readings.reference_c)
    word = "hotter" if difference > 0 else "colder"
    text = (
        "the barrel is as hot as it says"
        if difference == 0
        else f"the barrel is {in_numbers(abs(difference))} °C {word} than it says"
    )
    result.give("difference", difference, "°C", text, "reference - displayed", f"{true} - {shown}")
    old = readings.old_offset_c
    if at_least(parameters.leave_alone_c, abs(difference)):
        result.give(
            "new_offset",
            old,
            "°C",
            f"within ± {parameters.leave_alone_c:g} °C: leave alone",
            "old offset",
            in_numbers(old),
        )
        result.flag("leave-alone", "note", finding=text)
    else:
        result.give(
            "new_offset",
            old + difference,
            "°C",
            text,
            "old offset + (reference - displayed)",
            f"{in_numbers(old)} + ({true} - {shown})",
        )
    if above(abs(difference), parameters.review_c):
        result.flag("results-to-review", "warn", finding=text)
    return result


METHOD = Method(
    planned="by-document",
    id="barrel-check",
    title="Barrel temperature check",
    family="Melt flow",
    properties=(
        Property("difference", "Difference", "°C", decimals=1, summed=False),
        Property("new_offset", "New offset", "°C", decimals=1, summed=False),
    ),
    parameters=CheckParameters,
    readings=SensorReadings,
    guide=GUIDE,
    analyse=analyse,
)
METHODS = {METHOD.id: METHOD}
