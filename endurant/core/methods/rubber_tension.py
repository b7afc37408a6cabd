"""Rubber in tension: strength, stretch at break, and the stress at given strains."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from endurant.core.curve import first_reach
from endurant.core.fields import Positive
from endurant.core.methods.guide import (
    AFTER_VULCANISING,
    MOULDED_EDGE_MM,
    Blank,
    FrameGuide,
    Guide,
    InnerMark,
    Measure,
    ReadyCheck,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import dumbbell
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    Pull,
    PullParameters,
    PullReadings,
    begin_pull,
    gauge_length,
    review_pull,
)
from endurant.core.methods.results import Flag, Results, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PINCH, SNAP, frame_checks
from endurant.core.methods.summary import groups_of
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

Percents = Annotated[list[Positive], Field(min_length=1, max_length=20)]


class Parameters(PullParameters):
    """Parameters of rubber in tension."""

    set_up: ClassVar[tuple[str, ...]] = ("elongation_by",)

    specimens_wanted: int = requested(3)
    gauge_length_mm: Positive | None = Field(25, description="Distance of the gauge marks.")
    speed_mm_min: Positive | None = Field(500, description="Crosshead speed in mm per minute.")
    specimen_form: Literal["dumbbell", "ring"] = Field(
        "dumbbell", description="Dumbbell, or ring, whose extension is that of the crosshead."
    )
    elongation_by: Literal["marks", "extensometer", "crosshead"] | None = Field(
        None, description="How elongation is measured: marks by hand, extensometer or crosshead."
    )
    stress_at_percent: Percents = Field(
        default=[100.0, 200.0, 300.0], description="Strains at which the stress is read."
    )


class Readings(PullReadings):
    """One dumbbell, and the length between its marks at break when they were followed by hand."""

    length_at_break_mm: Positive | None = Field(
        None, description="Distance of the gauge marks at break, followed by hand."
    )


GUIDE = Guide(
    **guide_texts("astm-d412"),
    count_per_direction=3,
    blank=Blank(
        outline="die",
        long_mm=115,
        short_mm=25,
        points_mm=dumbbell(115, 25, 33, 6, 65),
        inner_marks=(
            InnerMark("gauge mark", ((-3, -12.5), (3, -12.5))),
            InnerMark("gauge mark", ((-3, 12.5), (3, 12.5))),
        ),
        works_on="stretches along {yarns}",
        die_cut=True,
        cut_from="moulded-sheet",
        selvedge_margin_mm=MOULDED_EDGE_MM,
    ),
    atmosphere="rubber-23-50",
    age=AFTER_VULCANISING,
    bench="trace",
    live=FrameGuide(
        travel_mm=800,
        usual_speed_mm_min=500,
        own_grips=True,
        after=("length_at_break_mm",),
    ),
    measures=(
        Measure("width_mm", 1, nominal_mm=6),
        Measure("thickness_mm", 3, span_mm=25, nominal_mm=2),
    ),
    ready_checks=frame_checks(
        ReadyCheck(
            "marks",
            "Gauge marks {gauge_length_mm} mm apart on the relaxed dumbbell",
            "marks put on a stretched dumbbell give an elongation too low",
            when=lambda aims: aims.get("elongation_by") == "marks",
        ),
        ReadyCheck(
            "extensometer-fitted",
            "Extensometer fitted at {gauge_length_mm} mm",
            "stresses at an elongation are read with it",
            when=lambda aims: aims.get("elongation_by") == "extensometer",
        ),
        ReadyCheck("die-sharp", "Die sharp, cut in one stroke", "a nick breaks it early"),
        because="elongation by the crosshead is divided by this length",
    ),
    needs=lambda _: ("grip_separation_mm", "elongation_by"),
    proposes=lambda _: {"grip_separation_mm": 65.0, "elongation_by": "marks"},
    cautions=(PINCH, SNAP, BLADES, LOCAL),
    observations=OBSERVATIONS,
)


def thickness_area(
    result: SpecimenResult, readings: PullReadings, parameters: PullParameters
) -> float:
    """Return the area in mm² by the median thickness, or by the minimum by `area_rule`."""
    widths = readings.sections("width_mm")
    thicknesses = readings.sections("thickness_mm")
    if parameters.area_rule == "minimum":
        width, thick, which = min(widths), min(thicknesses), "least"
    else:
        width, thick = float(np.mean(widths)), float(np.median(thicknesses))
        which = "median"
    result.explain(
        "cross section at the start",
        f"width · {which} thickness",
        f"{in_numbers(width)} · {in_numbers(thick)}",
        f"{in_numbers(width * thick)} mm²",
    )
    return width * thick


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return strength and stresses in MPa and elongation in % of one dumbbell (ISO 37, ASTM D412).

    Raises Invalid for a length at break shorter than the gauge length.
    """
    result, pull = begin_pull(
        readings,
        parameters,
        GUIDE,
        wants_extensometer=readings.length_at_break_mm is None
        and parameters.specimen_form == "dumbbell",
    )
    area_mm2 = thickness_area(result, readings, parameters)
    gauge_mm = gauge_length(readings, parameters)
    if readings.length_at_break_mm is not None and above(gauge_mm, readings.length_at_break_mm):
        raise readings.refuse(
            "length_at_break_mm",
            "reading.shorter-than-gauge-length",
            length_at_break_mm=readings.length_at_break_mm,
            gauge_mm=gauge_mm,
        )
    if pull is None:
        for requested in (*PROPERTIES, *stress_properties(parameters)):
            result.lacks(requested.name, requested.unit)
        return result
    force_n = float(pull.force_n[pull.end])
    result.give(
        "tensile_strength",
        force_n / area_mm2,
        "MPa",
        "force at break for the area at the start",
        "F_break / area",
        f"{in_numbers(force_n)} / {in_numbers(area_mm2)}",
    )
    result.marks.append(pull.point("break", pull.end))
    give_elongation(result, readings, pull, gauge_mm)
    if readings.trace.strain is None and parameters.specimen_form == "dumbbell":
        for percent in parameters.stress_at_percent:
            result.lacks(stress_name(percent), "MPa")
        result.flag("no-strain-column", "note")
    else:
        give_stresses(result, parameters, pull, area_mm2)
    return result


def give_elongation(
    result: SpecimenResult, readings: Readings, pull: Pull, gauge_mm: float
) -> None:
    """Elongation at break, by hand where the marks were followed, else from the strain."""
    if readings.length_at_break_mm is not None:
        length_mm = readings.length_at_break_mm
        result.give(
            "elongation_at_break",
            100 * (length_mm - gauge_mm) / gauge_mm,
            "%",
            "gauge marks at break, followed by hand",
            "100 · (L - L_0) / L_0",
            f"100 · ({in_numbers(length_mm)} - {in_numbers(gauge_mm)}) / {in_numbers(gauge_mm)}",
        )
    elif pull.strain is None:
        result.lacks("elongation_at_break", "%")
    else:
        strain = float(pull.strain[pull.end])
        result.give(
            "elongation_at_break",
            100 * strain,
            "%",
            "strain at break",
            "100 · strain",
            f"100 · {in_numbers(strain)}",
        )


def give_stresses(
    result: SpecimenResult, parameters: Parameters, pull: Pull, area_mm2: float
) -> None:
    """Give the stress in MPa where each strain is first reached before the break."""
    missed = []
    for percent in parameters.stress_at_percent:
        name = stress_name(percent)
        place = None
        if pull.strain is not None:
            start = max(pull.zero.index - 1, 0)
            place = first_reach(pull.strain[: pull.end + 1], percent / 100, start)
        if place is None:
            result.lacks(name, "MPa")
            missed.append(f"{percent:g} %")
            continue
        force_n = place.of(pull.force_n)
        result.give(
            name,
            force_n / area_mm2,
            "MPa",
            f"stress where {percent:g} % is first reached",
            "F / area",
            f"{in_numbers(force_n)} / {in_numbers(area_mm2)}",
        )
    if missed and pull.strain is not None:
        result.flag("strain-not-reached", "note", missed=list(missed))


def part_elongations(
    results: list[SpecimenResult], readings: Sequence[Readings], _parameters: Any
) -> None:
    """Elongation by the crosshead stays out of a summary that has one by marks or extensometer."""
    followed = {reading.label for reading in readings if _is_followed(reading)}
    for group in groups_of(results):
        if not any(member.enters and member.label in followed for member in group.members):
            continue
        for member in group.members:
            if member.label not in followed:
                member.left_out.add(ELONGATION)


def _is_followed(readings: Readings) -> bool:
    return readings.length_at_break_mm is not None or readings.trace.strain is not None


def review(results: Results, parameters: Parameters) -> list[Flag]:
    """Return what holds for every pull, and groups whose elongations were measured in two ways."""
    flags = review_pull(results, parameters)
    for group in groups_of(results):
        left_out = [
            member.label
            for member in group.members
            if member.enters and ELONGATION in member.left_out
        ]
        if left_out:
            flags.append(
                Flag.of("mixed-elongation", "warn", group=group.in_words(), left_out=list(left_out))
            )
    return flags


ELONGATION = "elongation_at_break"


def stress_name(percent: float) -> str:
    """Return the name of the stress at a strain: `stress_at_100`."""
    return f"stress_at_{percent:g}"


def stress_properties(parameters: Parameters) -> tuple[Property, ...]:
    """Return a property for each strain asked for."""
    return tuple(
        Property(stress_name(result), f"Stress at {result:g} %", "MPa", "median", decimals=1)
        for result in parameters.stress_at_percent
    )


PROPERTIES = (
    Property("tensile_strength", "Tensile strength", "MPa", "median", decimals=1),
    Property("elongation_at_break", "Elongation at break", "%", "median", decimals=0),
)


def _method(method_id: str, title: str) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Tension",
        properties=PROPERTIES,
        parameters=Parameters,
        readings=Readings,
        guide=GUIDE,
        analyse=analyse,
        more_properties=stress_properties,
        together=part_elongations,
        review=review,
    )


METHODS = {
    "astm-d412": _method("astm-d412", "Rubber in tension (dumbbell, D412)"),
    "iso-37": _method("iso-37", "Rubber in tension (dumbbell, ISO 37)"),
}
