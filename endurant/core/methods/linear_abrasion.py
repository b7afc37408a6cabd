"""To-and-fro wear with any medium: what it takes off, or how long it is acceptable."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from pydantic import Field

from endurant.core.fields import Name, Positive, Whole
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    Go,
    Guide,
    InnerMark,
    ReadyCheck,
    WeighGuide,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.looking import Inspections, cycles_done, endpoint_of, give_endpoint
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import LOCAL
from endurant.core.methods.scuff import ENDPOINT_PROPERTIES
from endurant.core.rounding import in_numbers


class WearParameters(Parameters):
    """Parameters of to-and-fro wear."""

    set_up: ClassVar[tuple[str, ...]] = ("medium_batch",)

    medium: Name = Field(description="What rubs.")
    medium_batch: Name | None = Field(None, description="Its batch.")
    force_n: Positive = Field(description="Force on the medium.")
    stroke_mm: Positive = Field(description="Length of a stroke.")
    cycles: Whole = Field(description="Strokes to and fro.")


class WearReadings(Readings):
    """One worn piece: masses, thicknesses or looks, one of them at least."""

    mass_before_g: Positive | None = Field(None, description="Mass before.")
    mass_after_g: Positive | None = Field(None, description="Mass after.")
    thickness_before_mm: Positive | None = Field(None, description="Thickness before.")
    thickness_after_mm: Positive | None = Field(None, description="Thickness after.")
    inspections: Inspections | None = Field(None, description="Looks, in order.")

    def pair(self, quantity: str, unit: str) -> tuple[float, float] | None:
        """Before and after; None when neither is given, Invalid when one is alone."""
        names = (f"{quantity}_before_{unit}", f"{quantity}_after_{unit}")
        before, after = (getattr(self, name) for name in names)
        if before is None and after is None:
            return None
        if before is None or after is None:
            raise self.refuse(names[0 if before is None else 1], "reading.wear-pair-missing")
        return before, after


STROKE_S = 1.0


def strokes_of(parameters: Mapping[str, Any]) -> Go:
    """Return the strokes to and fro of the set length, one a second."""
    cycles = int(parameters.get("cycles") or 1)
    stroke = in_numbers(float(parameters.get("stroke_mm") or 0))
    return Go(
        title=f"Rub {cycles} strokes of {stroke} mm",
        why="The rig stops at the set count.",
        button="Start rubbing",
        seconds=cycles * STROKE_S,
        counts=float(cycles),
        caution="The arm moves under power: keep hands off.",
    )


GUIDE = Guide(
    **guide_texts("linear-abrasion"),
    count_per_direction=3,
    blank=Blank(
        outline="rectangle",
        long_mm=100,
        short_mm=50,
        inner_marks=(InnerMark("stroke", ((0, -20), (0, 20))),),
        works_on="worn along {yarns}",
    ),
    atmosphere="plastics-23-50",
    bench="weigh",
    wears=("abradant",),
    worn=cycles_done,
    worn_unit="strokes",
    station="rub-rig",
    needs=lambda _: ("medium_batch",),
    live=WeighGuide("mass_before_g", "mass_after_g", rubs=strokes_of),
    ready_checks=(
        ReadyCheck(
            "medium",
            "{medium}, batch {medium_batch}, fresh, under {force_n} N",
            "a worn medium wears less",
        ),
        ReadyCheck(
            "balance",
            "Balance to 0.1 mg, levelled and tared",
            "the loss is milligrams",
            set_up=True,
        ),
        ReadyCheck("clean", "Piece blown clean before each weighing", "dust weighs too"),
    ),
    cautions=("The arm moves under power: hands off.", "Dust: extractor on.", LOCAL),
    observations=(),
)


def analyse(readings: WearReadings, parameters: WearParameters) -> SpecimenResult:
    """Return losses in mg and µm and the grade of one piece; raises Invalid without a result."""
    result = begin(readings, GUIDE)
    masses = readings.pair("mass", "g")
    thicknesses = readings.pair("thickness", "mm")
    if masses is None and thicknesses is None and readings.inspections is None:
        raise readings.refuse("mass_before_g", "reading.wear-missing")
    if masses is not None:
        loss_mg = give_loss(result, "mass_loss", "mg", "mass-gain", masses)
        result.give(
            "wear_per_1000",
            1000 * loss_mg / parameters.cycles,
            "mg",
            "mass loss for 1000 cycles",
            "1000 · loss / cycles",
            f"1000 · {in_numbers(loss_mg)} / {parameters.cycles}",
        )
    if thicknesses is not None:
        give_loss(result, "thickness_loss", "um", "thickness-gain", thicknesses)
    if readings.inspections is not None:
        give_endpoint(result, endpoint_of(readings, readings.inspections))
    return result


def give_loss(
    result: SpecimenResult, name: str, unit: str, gain_flag: str, pair: tuple[float, float]
) -> float:
    """Give the loss: before less after, in thousandths of their unit. A gain is flagged."""
    before, after = pair
    loss = 1000 * (before - after)
    result.give(
        name,
        loss,
        unit,
        "before less after",
        "1000 · (before - after)",
        f"1000 · ({in_numbers(before)} - {in_numbers(after)})",
    )
    if loss < 0:
        result.flag(gain_flag, "warn", sentence="flag.", gain=-loss, unit=unit)
    return loss


METHOD = Method(
    id="linear-abrasion",
    title="To-and-fro wear",
    family="Surface",
    directions=(),
    label_prefixes={},
    properties=(
        Property("mass_loss", "Mass loss", "mg", significant=3),
        Property("wear_per_1000", "Wear for 1000 cycles", "mg", significant=3),
        Property("thickness_loss", "Thickness loss", "um", significant=3),
        *ENDPOINT_PROPERTIES,
    ),
    parameters=WearParameters,
    readings=WearReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
