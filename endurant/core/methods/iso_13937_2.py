"""Trouser tear of woven fabric: the force needed to carry on a tear that has been started.

A slit blank is pulled apart by its two legs; the force is read from the peaks that the
breaking yarns leave on the trace.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import Field

from endurant.core.fields import Positive
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
from endurant.core.quantities import SAME_WITHIN
from endurant.core.rounding import in_numbers
from endurant.core.trace import Peaks, Samples

FEWEST_PEAKS_IN_A_PART = 4
PARTS = 4


class Parameters(TearParameters):
    """Parameters of the trouser tear."""

    evaluation: Literal["all-peaks", "twelve-peaks"] = Field(
        "all-peaks",
        description="All peaks of the last three parts, or the two highest and two lowest of each.",
    )
    speed_mm_min: Positive = Field(100, description="Crosshead speed in mm per minute.")
    gauge_length_mm: Positive = Field(100, description="Distance between the jaws at the start.")


GUIDE = Guide(
    **guide_texts("iso-13937-2"),
    count_per_direction=5,
    blank=Blank(
        outline="rectangle",
        long_mm=200,
        short_mm=50,
        inner_marks=(
            InnerMark("slit", ((0, -100), (0, 0))),
            InnerMark("end mark", ((-25, 75), (25, 75))),
        ),
        fails_across=True,
        works_on="tears {yarns} yarns",
        selvedge_margin_mm=150,
        stagger="lengthwise",
        keeps_crossing_apart=True,
    ),
    atmosphere="textile-20-65",
    bench="trace",
    ready_checks=frame_checks(
        LEGS_CENTRED,
        because="another distance bends the legs otherwise, and the tear starts elsewhere",
    ),
    cautions=(PINCH, BLADES, LOCAL),
    observations=OBSERVATIONS,
    live=FrameGuide(travel_mm=150, until="travel", jagged=True),
)


def analyse(readings: TearReadings, parameters: Parameters) -> SpecimenResult:
    """Return the tear force of one trouser specimen in N, with its peaks (ISO 13937-2).

    Raises Invalid for an observation that this method does not list.
    """
    result, peaks = begin_tear(readings, parameters, GUIDE)
    parts, edges_mm = quarter(peaks, readings.tear_end_mm)
    if edges_mm is not None:
        result.marks.append(quarter_bands(edges_mm))
    if not any(len(part) for part in parts):
        result.lacks("tear_force", "N")
        result.flag("no-peaks", "void", sentence="flag.no-peaks.tear")
        return result

    counted = counted_peaks(parts, parameters.evaluation)
    fewest = min(len(part) for part in parts)
    if fewest < FEWEST_PEAKS_IN_A_PART:
        result.flag("few-peaks", "warn", fewest=fewest, min=FEWEST_PEAKS_IN_A_PART)
    if edges_mm is not None:
        result.explain(
            f"first of {len(peaks)} peaks to the end of the tear, cut into four equal parts",
            "(x_end - x_first) / 4",
            f"({in_numbers(edges_mm[-1])} - {in_numbers(edges_mm[0])}) / 4",
            f"{in_numbers(edges_mm[1] - edges_mm[0])} mm",
        )
    tear_force_n = float(np.mean(counted.force_n))
    which = (
        f"mean of the {len(counted)} peaks in the last three parts"
        if parameters.evaluation == "all-peaks"
        else f"mean of {len(counted)} peaks: the two highest and two lowest of each part"
    )
    summed = in_numbers(float(np.sum(counted.force_n)))
    result.give(
        "tear_force", tear_force_n, "N", which, "sum of F_peak / n", f"{summed} / {len(counted)}"
    )
    first_mm, last_mm = float(counted.extension_mm[0]), float(counted.extension_mm[-1])
    result.marks += [
        Mark("points", "counted peaks", counted.points()),
        Mark(
            "line",
            f"mean {in_numbers(tear_force_n)} N",
            ((first_mm, tear_force_n), (last_mm, tear_force_n)),
        ),
    ]
    return result


def quarter(peaks: Peaks, tear_end_mm: float | None) -> tuple[list[Peaks], Samples | None]:
    """The peaks of the last three of four equal parts, and the five edges of the parts in mm.

    The parts run from the first peak to the end of the tear; a peak on an edge belongs to
    the part that the edge closes. Without a peak, or without a length to part, there are none.
    """
    nothing = [peaks.where(np.zeros(len(peaks), dtype=bool))] * (PARTS - 1)
    if len(peaks) == 0:
        return nothing, None
    start_mm = float(peaks.extension_mm[0])
    end_mm = float(peaks.extension_mm[-1]) if tear_end_mm is None else tear_end_mm
    if end_mm <= start_mm:
        return nothing, None
    edges_mm = np.linspace(start_mm, end_mm, PARTS + 1)
    slack_mm = SAME_WITHIN * np.abs(edges_mm)
    inside = [
        peaks.extension_mm <= edge + slack for edge, slack in zip(edges_mm, slack_mm, strict=True)
    ]
    return [peaks.where(inside[part + 1] & ~inside[part]) for part in range(1, PARTS)], edges_mm


def counted_peaks(parts: Sequence[Peaks], evaluation: str) -> Peaks:
    """Return the peaks that enter the mean, in the order of the trace."""
    chosen = parts if evaluation == "all-peaks" else [highest_and_lowest(part) for part in parts]
    return Peaks(
        np.concatenate([part.index for part in chosen]),
        np.concatenate([part.extension_mm for part in chosen]),
        np.concatenate([part.force_n for part in chosen]),
    )


def highest_and_lowest(part: Peaks) -> Peaks:
    """Return the two highest and the two lowest peaks; all of them when there are four or fewer."""
    order = np.argsort(part.force_n, kind="stable")
    chosen = np.zeros(len(part), dtype=bool)
    chosen[order[:2]] = True
    chosen[order[-2:]] = True
    return part.where(chosen)


def quarter_bands(edges_mm: Samples) -> Mark:
    """Return the four parts as bands to draw."""
    names = ("settling, left out", "part 1", "part 2", "part 3")
    return Mark("bands", "four equal parts", tuple((float(edge), 0.0) for edge in edges_mm), names)


METHOD = Method(
    id="iso-13937-2",
    title="Trouser tear of woven fabric",
    family="Tear and seam",
    directions=("warp", "weft"),
    label_prefixes={"warp": "W", "weft": "F"},
    properties=(Property("tear_force", "Tear force", "N", significant=3),),
    parameters=Parameters,
    readings=TearReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_tear,
)

METHODS = {METHOD.id: METHOD}
