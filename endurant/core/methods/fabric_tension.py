"""Strip and grab tension of fabric: highest force and the stretch at it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from pydantic import Field

from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.guide import (
    Blank,
    FrameGuide,
    Guide,
    InnerMark,
    Observation,
    ReadyCheck,
    nothing_more,
    nothing_proposed,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Band, Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    PullParameters,
    PullReadings,
    begin_pull,
    gauge_length,
    review_pull,
)
from endurant.core.methods.results import Flag, SpecimenResult
from endurant.core.methods.safety import BLADES, GRAB_FACES, LOCAL, PINCH, SNAP, frame_checks
from endurant.core.methods.summary import groups_of
from endurant.core.quantities import at_least
from endurant.core.rounding import in_numbers

JAW_BREAK_WITHIN_MM = 5
PRETENSION_BY_MASS = ((200.0, 2.0), (500.0, 5.0))
PRETENSION_ABOVE_N = 10.0


class StripParameters(PullParameters):
    """Parameters of the strip test."""

    specimens_wanted: int = requested(5)
    gauge_length_mm: Positive | None = Field(
        200, description="Distance between the jaws; 100 for cloth that stretches over 75 %."
    )
    fabric_mass_g_m2: Positive | None = Field(
        None, description="Mass per area, which sets the pretension when none is given."
    )


class GrabParameters(PullParameters):
    """Parameters of the grab test."""

    specimens_wanted: int = requested(5)
    gauge_length_mm: Positive | None = Field(100, description="Distance between the jaws.")
    speed_mm_min: Positive | None = Field(50, description="Crosshead speed in mm per minute.")


class FabricReadings(PullReadings):
    """One pulled strip, and how far from the jaw it broke."""

    break_distance_mm: NotNegative | None = Field(
        None, description="Distance of the break from the jaw line."
    )

    def jaw_break(self) -> bool:
        """It broke within 5 mm of a jaw, by measure or by eye."""
        near = self.break_distance_mm is not None and at_least(
            JAW_BREAK_WITHIN_MM, self.break_distance_mm
        )
        return near or "broke-at-grip" in self.observations


GRIPPED_MM = 50


def long_enough(blank: Blank, parameters: Mapping[str, Any]) -> Blank:
    """Return the strip for a longer gauge, which is longer by as much."""
    needed_mm = float(parameters.get("gauge_length_mm") or 0) + 2 * GRIPPED_MM
    return replace(blank, long_mm=max(blank.long_mm, needed_mm))


def pretension_of(parameters: Mapping[str, Any]) -> float:
    """Return the pretension in N: as given, else by the mass per area; 0 without either."""
    given, mass_g_m2 = parameters.get("pretension_n"), parameters.get("fabric_mass_g_m2")
    if given is not None or mass_g_m2 is None:
        return float(given or 0.0)
    for limit_g_m2, pretension_n in PRETENSION_BY_MASS:
        if at_least(limit_g_m2, float(mass_g_m2)):
            return pretension_n
    return PRETENSION_ABOVE_N


STRIP_GUIDE = Guide(
    resized=long_enough,
    **guide_texts("iso-13934-1"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=300,
        short_mm=60,
        inner_marks=(
            InnerMark("jaw line", ((-30, -100), (30, -100))),
            InnerMark("jaw line", ((-30, 100), (30, 100))),
            InnerMark("frayed to 50 mm", ((-25, -150), (-25, 150))),
            InnerMark("frayed to 50 mm", ((25, -150), (25, 150))),
        ),
        works_on="stretches {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
    ),
    atmosphere="textile-20-65",
    bench="trace",
    live=FrameGuide(
        travel_mm=400,
        usual_start_mm=200,
        usual_max_n=2000,
        after=("break_distance_mm",),
        pretension=pretension_of,
    ),
    needs=lambda _: ("speed_mm_min",),
    proposes=lambda _: {"speed_mm_min": 100.0},
    ready_checks=frame_checks(
        ReadyCheck(
            "straight-in-jaws",
            "Strip straight in both jaws, the same yarns along both edges",
            "a strip held aslant breaks yarn by yarn at one edge",
        ),
        ReadyCheck(
            "pretension",
            "Pretension of {pretension_n} N applied",
            "without it slack counts as elongation",
            when=lambda aims: bool(aims.get("pretension_n")),
            set_up=True,
        ),
    ),
    cautions=(PINCH, SNAP, BLADES, LOCAL),
    observations=(
        *(observation for observation in OBSERVATIONS if observation.code != "broke-at-grip"),
        Observation(
            "broke-at-grip", "Broke at the jaw", "note", "it broke within 5 mm of the jaw line"
        ),
    ),
)

GRAB_GUIDE = replace(
    STRIP_GUIDE,
    needs=nothing_more,
    proposes=nothing_proposed,
    live=FrameGuide(
        travel_mm=400,
        usual_speed_mm_min=50,
        usual_start_mm=100,
        usual_max_n=800,
        after=("break_distance_mm",),
    ),
    **guide_texts("iso-13934-2"),
    blank=Blank(
        outline="rectangle",
        long_mm=200,
        short_mm=100,
        inner_marks=(InnerMark("guide line 38 mm", ((-12, -100), (-12, 100))),),
        works_on="stretches {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
    ),
    ready_checks=frame_checks(
        GRAB_FACES,
        ReadyCheck(
            "guide-line",
            "Guide line 38 mm from the edge, along the edge of both jaws",
            "jaws that grip different yarns tear instead of pulling",
        ),
    ),
)


def analyse_strip(readings: FabricReadings, parameters: StripParameters) -> SpecimenResult:
    """Return maximum force in N and elongation in % of one strip (ISO 13934-1)."""
    return _analyse(readings, parameters, STRIP_GUIDE, pretension_of(parameters.model_dump()))


def analyse_grab(readings: FabricReadings, parameters: GrabParameters) -> SpecimenResult:
    """Return maximum force in N and elongation in % of one grab specimen (ISO 13934-2)."""
    return _analyse(readings, parameters, GRAB_GUIDE, None)


def _analyse(
    readings: FabricReadings, parameters: PullParameters, guide: Guide, pretension_n: float | None
) -> SpecimenResult:
    result, pull = begin_pull(readings, parameters, guide, pretension_n=pretension_n, strain="none")
    result.flags = [flag for flag in result.flags if flag.code != "broke-at-grip"]
    if pull is None:
        result.lacks("max_force", "N")
        result.lacks("elongation_at_max", "%")
        return result
    gauge_mm = gauge_length(readings, parameters)
    at_mm = float(pull.extension_mm[pull.top])
    result.give(
        "max_force",
        pull.max_force_n,
        "N",
        "highest force of the trace",
        "max F",
        f"sample {pull.top + 1} of {pull.force_n.size}",
    )
    zero_mm = pull.zero.of(readings.trace.extension_mm)
    result.give(
        "elongation_at_max",
        100 * at_mm / gauge_mm,
        "%",
        "stretch from the pretension to the highest force, by the crosshead",
        "100 · (x_max - x_pretension) / gauge length",
        f"100 · ({in_numbers(at_mm + zero_mm)} - {in_numbers(zero_mm)}) / {in_numbers(gauge_mm)}",
    )
    result.marks.append(pull.point("highest force", pull.top))
    return result


def judge_jaw_breaks(
    results: list[SpecimenResult], readings: Sequence[FabricReadings], _parameters: Any
) -> None:
    """Accept a jaw break at or above the lowest clear break, and void one below it."""
    at_jaw = {reading.label for reading in readings if reading.jaw_break()}
    for group in groups_of(results):
        valid = [member for member in group.members if member.valid]
        clear = [
            force
            for result in valid
            if result.label not in at_jaw and (force := result.figure("max_force")) is not None
        ]
        lowest = min(clear, default=None)
        for result in valid:
            force = result.figure("max_force")
            if result.label not in at_jaw or force is None:
                continue
            if lowest is None or at_least(force, lowest):
                alone = "flag.jaw-break-kept" if lowest is None else "flag.jaw-break-kept.not-below"
                result.flag("jaw-break-kept", "note", sentence=alone, lowest=lowest)
            else:
                result.flag("jaw-break", "void", lowest=lowest)


def review(results: Sequence[SpecimenResult], parameters: PullParameters) -> list[Flag]:
    """Too few valid, and groups in which every specimen broke at a jaw."""
    flags = review_pull(results, parameters)
    for group in groups_of(results):
        valid = [member for member in group.members if member.enters]
        if valid and all(result.has_flag("jaw-break-kept") for result in valid):
            flags.append(Flag.of("all-jaw-breaks", "warn", group=group.in_words()))
    return flags


PROPERTIES = (
    Property(
        "max_force", "Maximum force", "N", step="100", bands=(Band(100, "1"), Band(1000, "10"))
    ),
    Property(
        "elongation_at_max",
        "Elongation at maximum force",
        "%",
        step="1",
        bands=(Band(8, "0.2"), Band(50, "0.5", inside=True)),
    ),
)

METHODS = {
    "iso-13934-1": Method(
        id="iso-13934-1",
        title="Strip tension of fabric",
        family="Tension",
        directions=("warp", "weft"),
        label_prefixes={"warp": "W", "weft": "F"},
        properties=PROPERTIES,
        parameters=StripParameters,
        readings=FabricReadings,
        guide=STRIP_GUIDE,
        analyse=analyse_strip,
        together=judge_jaw_breaks,
        review=review,
    ),
    "iso-13934-2": Method(
        id="iso-13934-2",
        title="Grab tension of fabric",
        family="Tension",
        directions=("warp", "weft"),
        label_prefixes={"warp": "W", "weft": "F"},
        properties=PROPERTIES,
        parameters=GrabParameters,
        readings=FabricReadings,
        guide=GRAB_GUIDE,
        analyse=analyse_grab,
        together=judge_jaw_breaks,
        review=review,
    ),
}
