"""Tongue tear: the five highest peaks after the first, of a single rip along a slit."""

from __future__ import annotations

import numpy as np

from endurant.core.methods.guide import Blank, FrameGuide, Guide, InnerMark
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PINCH, frame_checks
from endurant.core.methods.tearing import (
    LEGS_CENTRED,
    OBSERVATIONS,
    TearParameters,
    TearReadings,
    begin_tear,
    review_tear,
)
from endurant.core.quantities import all_at_least
from endurant.core.rounding import in_numbers
from endurant.core.trace import Peaks

HIGHEST_COUNTED = 5

GUIDE = Guide(
    **guide_texts("astm-d2261"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=200,
        short_mm=75,
        inner_marks=(InnerMark("slit", ((0, -100), (0, -25))),),
        fails_across=True,
        works_on="tears {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
        keeps_crossing_apart=True,
    ),
    atmosphere="textile-20-65",
    bench="trace",
    live=FrameGuide(travel_mm=150, until="travel", jagged=True),
    ready_checks=frame_checks(
        LEGS_CENTRED,
        because="another distance bends the legs otherwise, and the tear starts elsewhere",
    ),
    cautions=(PINCH, BLADES, LOCAL),
    observations=OBSERVATIONS,
)


def analyse(readings: TearReadings, parameters: TearParameters) -> SpecimenResult:
    """Return the tear force in N: the mean of the five highest peaks, or the maximum.

    Source: ASTM D2261.
    """
    result, peaks = begin_tear(readings, parameters, GUIDE)
    x, force = readings.trace.extension_mm, readings.trace.force_n
    if readings.tear_end_mm is not None:
        inside = all_at_least(np.full(x.size, readings.tear_end_mm), x)
        peaks = peaks.where(inside[peaks.index])
        x, force = x[inside], force[inside]
    if force.size == 0 or not force.max() > 0:
        result.lacks("tear_force", "N")
        result.flag("no-force", "void", sentence="flag.no-force.no-tear-force")
        return result
    later = peaks.where(np.arange(len(peaks)) > 0)
    if len(later) < HIGHEST_COUNTED:
        top = int(np.argmax(force))
        result.flag("single-peak", "note", count=len(later), min=HIGHEST_COUNTED)
        result.give(
            "tear_force",
            force[top],
            "N",
            "the highest force of the tear",
            "max F",
            f"at {in_numbers(x[top])} mm",
        )
        result.marks.append(Mark("points", "highest force", ((float(x[top]), float(force[top])),)))
        return result
    counted = five_highest(later)
    summed = " + ".join(in_numbers(result) for result in counted.force_n)
    result.give(
        "tear_force",
        float(np.mean(counted.force_n)),
        "N",
        f"mean of the {HIGHEST_COUNTED} highest of {len(later)} peaks after the first",
        "sum of F_peak / 5",
        f"({summed}) / {HIGHEST_COUNTED}",
    )
    result.marks.append(Mark("points", "counted peaks", counted.points()))
    first_mm = float(peaks.extension_mm[0])
    result.marks.append(
        Mark(
            "bands",
            "the first peak is left out",
            ((0.0, 0.0), (first_mm, 0.0), (float(x[-1]), 0.0)),
            ("start of the rip", "rip"),
        )
    )
    return result


def five_highest(peaks: Peaks) -> Peaks:
    """Return the five highest peaks, in the order of the trace; of equals the earlier."""
    order = np.argsort(-peaks.force_n, kind="stable")[:HIGHEST_COUNTED]
    chosen = np.zeros(len(peaks), dtype=bool)
    chosen[order] = True
    return peaks.where(chosen)


METHOD = Method(
    id="astm-d2261",
    title="Tongue tear (single rip)",
    family="Tear and seam",
    directions=("warp", "weft"),
    label_prefixes={"warp": "W", "weft": "F"},
    properties=(Property("tear_force", "Tear force", "N", significant=3),),
    parameters=TearParameters,
    readings=TearReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_tear,
)
METHODS = {METHOD.id: METHOD}
