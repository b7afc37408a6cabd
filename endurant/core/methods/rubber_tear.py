"""Rubber tear: the force that tears a die-cut specimen, for its thickness."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

import numpy as np
from pydantic import Field, model_validator

from endurant.core.fields import Positive
from endurant.core.methods.guide import (
    AFTER_VULCANISING,
    MOULDED_EDGE_MM,
    Ask,
    Blank,
    FrameGuide,
    Guide,
    InnerMark,
    Measure,
    ReadyCheck,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import crescent, right_angle
from endurant.core.methods.parameters import requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import (
    OBSERVATIONS,
    Pull,
    PullParameters,
    PullReadings,
    begin_pull,
    review_pull,
)
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PINCH, SNAP, frame_checks
from endurant.core.rounding import in_numbers
from endurant.core.trace import find_peaks


class Parameters(PullParameters):
    """Parameters of rubber tear at 500 mm/min, trousers slower."""

    specimens_wanted: int = requested(3)
    die: Literal["B", "C", "T"] = Field(
        description="B: nicked crescent; C: right angle, no nick; T: trousers."
    )
    peak_prominence: float = Field(
        0.10, strict=True, gt=0, le=1, description="Least prominence of a peak, of its own force."
    )
    peak_floor: float = Field(
        0.05, strict=True, ge=0, le=1, description="Least force of a peak, of the highest force."
    )

    @model_validator(mode="before")
    @classmethod
    def _speed_of_the_die(cls, data: Any) -> Any:
        return with_speed(data, trousers_mm_min=50)


class IsoParameters(Parameters):
    """The same with five specimens, and trousers at 100 mm/min."""

    specimens_wanted: int = requested(5)

    @model_validator(mode="before")
    @classmethod
    def _speed_of_the_die(cls, data: Any) -> Any:
        return with_speed(data, trousers_mm_min=100)


def with_speed(data: Any, trousers_mm_min: float) -> Any:
    """Return parameters with the speed that the die asks for, when none is given."""
    if not isinstance(data, dict) or "speed_mm_min" in data:
        return data
    return data | {"speed_mm_min": trousers_mm_min if data.get("die") == "T" else 500.0}


class Readings(PullReadings):
    """One torn specimen."""

    nick_depth_mm: Positive | None = Field(None, description="Depth of the nick (die B).")


CRESCENT = Blank(
    outline="die",
    long_mm=110,
    short_mm=45,
    points_mm=crescent(110, 45, 12.5, 10.2),
    inner_marks=(InnerMark("nick", ((12.3, 0), (13.3, 0))),),
    works_on="tears across {yarns}",
    die_cut=True,
    cut_from="moulded-sheet",
    selvedge_margin_mm=MOULDED_EDGE_MM,
)
TROUSERS = Blank(
    outline="rectangle",
    long_mm=150,
    short_mm=15,
    inner_marks=(InnerMark("slit", ((0, -75), (0, -35))),),
    works_on="tears along {yarns}",
    die_cut=True,
    cut_from="moulded-sheet",
    selvedge_margin_mm=MOULDED_EDGE_MM,
)
SHORT_TROUSERS = replace(
    TROUSERS, long_mm=100, inner_marks=(InnerMark("slit", ((0, -50), (0, -10))),)
)

GUIDE = Guide(
    **guide_texts("astm-d624"),
    count_per_direction=3,
    blank=Blank(
        outline="die",
        long_mm=102,
        short_mm=27,
        points_mm=right_angle(102, 27, 19),
        inner_marks=(InnerMark("inner corner", ((-2, 0), (2, 0))),),
        works_on="tears across {yarns}",
        die_cut=True,
        cut_from="moulded-sheet",
        selvedge_margin_mm=MOULDED_EDGE_MM,
    ),
    atmosphere="rubber-23-50",
    age=AFTER_VULCANISING,
    bench="trace",
    live=FrameGuide(travel_mm=400, usual_speed_mm_min=500, own_grips=True, jagged=True),
    needs=lambda _: ("grip_separation_mm",),
    proposes=lambda _: {"grip_separation_mm": 60.0},
    measures=(Measure("thickness_mm", 3, span_mm=40, nominal_mm=2),),
    ready_checks=frame_checks(
        ReadyCheck(
            "die", "Cut with die {die}", "results of different dies do not compare", set_up=True
        ),
        ReadyCheck(
            "nick",
            "Nick cut with a fresh blade and its depth measured",
            "the tear starts there",
            asks=(Ask("nick_depth_mm", "Depth of the nick", "mm", low=0.01, high=10.0),),
            when=lambda aims: aims.get("die") == "B",
        ),
        because="another distance bends the specimen otherwise at its corner",
    ),
    cautions=(PINCH, SNAP, BLADES, LOCAL),
    observations=tuple(
        observation for observation in OBSERVATIONS if "extensometer" not in observation.code
    ),
    cut_by="die",
    blanks={"B": CRESCENT, "T": TROUSERS},
)


ISO_GUIDE = replace(
    GUIDE,
    count_per_direction=5,
    blanks={"B": CRESCENT, "T": SHORT_TROUSERS},
)


def analyse(readings: Readings, parameters: Parameters) -> SpecimenResult:
    """Return the tear strength of one specimen in kN/m (ISO 34-1, ASTM D624)."""
    result, pull = begin_pull(readings, parameters, GUIDE, strain="none")
    thickness_mm = float(np.median(readings.sections("thickness_mm")))
    if parameters.die == "B" and readings.nick_depth_mm is None:
        result.flag("nick-not-recorded", "warn")
    if pull is None:
        result.lacks("tear_strength", "kN/m")
        return result
    if parameters.die == "T":
        give_from_peaks(result, parameters, pull, thickness_mm)
    else:
        result.give(
            "tear_strength",
            pull.max_force_n / thickness_mm,
            "kN/m",
            f"highest force, die {parameters.die}, for the median thickness",
            "F_max / thickness",
            f"{in_numbers(pull.max_force_n)} / {in_numbers(thickness_mm)}",
        )
        result.marks.append(pull.point("highest force", pull.top))
    return result


def give_from_peaks(
    result: SpecimenResult, parameters: Parameters, pull: Pull, thickness_mm: float
) -> None:
    """Give the tear strength of a trouser specimen in kN/m from the median of its peaks."""
    peaks = find_peaks(
        pull.extension_mm, pull.force_n, parameters.peak_prominence, parameters.peak_floor
    )
    if len(peaks) == 0:
        result.lacks("tear_strength", "kN/m")
        result.flag("no-peaks", "void", sentence="flag.no-peaks.trace")
        return
    force_n = float(np.median(peaks.force_n))
    result.give(
        "tear_strength",
        force_n / thickness_mm,
        "kN/m",
        f"median of {len(peaks)} peaks, for the median thickness",
        "median F_peak / thickness",
        f"{in_numbers(force_n)} / {in_numbers(thickness_mm)}",
    )
    drawn = tuple((x + pull.zero_mm, y) for x, y in peaks.points())
    result.marks.append(Mark("points", "peaks", drawn))


def _method(method_id: str, title: str, parameters: Any, guide: Guide) -> Method:
    return Method(
        id=method_id,
        title=title,
        family="Tear and seam",
        properties=(Property("tear_strength", "Tear strength", "kN/m", "median", significant=3),),
        parameters=parameters,
        readings=Readings,
        guide=guide,
        analyse=analyse,
        review=review_pull,
    )


METHODS = {
    "astm-d624": _method("astm-d624", "Rubber tear (D624)", Parameters, GUIDE),
    "iso-34-1": _method("iso-34-1", "Rubber tear (ISO 34-1)", IsoParameters, ISO_GUIDE),
}
