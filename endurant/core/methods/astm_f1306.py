"""Slow puncture of film by a rounded probe: force, travel and work up to the break."""

from __future__ import annotations

import numpy as np
from pydantic import Field

from endurant.core.curve import Place, area_under, break_index, first_index
from endurant.core.fields import NotNegative, Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import (
    Blank,
    FrameGuide,
    Guide,
    InnerMark,
    Measure,
    Observation,
    ReadyCheck,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.outlines import circle
from endurant.core.methods.parameters import Parameters, requested
from endurant.core.methods.properties import Property
from endurant.core.methods.pulling import pull_speed_flags
from endurant.core.methods.readings import TraceReadings
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import BLADES, LOCAL, PROBE_CLEAR, frame_checks
from endurant.core.quantities import SAME_WITHIN, all_at_least
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples


class PunctureParameters(Parameters):
    """Parameters of the slow puncture."""

    specimens_wanted: int = requested(5)
    preload_n: NotNegative = Field(0.1, description="Force at which the probe touches.")
    break_drop: float = Field(
        0.4,
        strict=True,
        gt=0,
        le=1,
        description="Drop between neighbouring samples that is a break, as a part of the maximum.",
    )
    speed_mm_min: Positive = Field(25, description="Speed of the probe in mm per minute.")
    probe_mm: Positive = Field(3.2, description="Diameter of the rounded probe.")
    opening_mm: Positive = Field(35, description="Diameter of the clamped opening.")


GUIDE = Guide(
    **guide_texts("astm-f1306"),
    count_per_direction=5,
    blank=Blank(
        outline="disc",
        long_mm=76,
        short_mm=76,
        inner_marks=(InnerMark("opening", (*circle(35), (17.5, 0))),),
        works_on="pushed through from the {face} face",
    ),
    atmosphere="film-23-50",
    bench="trace",
    live=FrameGuide(travel_mm=30, usual_speed_mm_min=25, max_cell_n=200, holder="clamp"),
    measures=(Measure("thickness_mm", 1, nominal_mm=0.1),),
    ready_checks=frame_checks(
        ReadyCheck(
            "probe-centred",
            "Probe {probe_mm} mm above the middle of the {opening_mm} mm opening",
            "off the middle the film is pushed towards its edge",
        ),
        ReadyCheck("flat", "Film flat, without wrinkle or sag", "sag counts as penetration"),
        ReadyCheck("face", "{face} towards the probe", "the two faces of a laminate differ"),
        because="the probe approaches from its start",
        clear=PROBE_CLEAR,
        platens=True,
    ),
    cautions=("The probe is driven: keep fingers out from under it.", BLADES, LOCAL),
    observations=(
        Observation("slipped-in-clamp", "Slipped in the clamp", "void", "it slipped in the clamp"),
        Observation("broke-at-clamp", "Broke at the clamp", "void", "it broke at the clamp"),
    ),
)

NAMES = (
    ("max_force", "Maximum force", "N"),
    ("penetration_at_break", "Penetration at break", "mm"),
    ("energy_to_break", "Energy to break", "mJ"),
    ("max_force_per_thickness", "Maximum force for the thickness", "N/mm"),
)


def contact_index(force_n: Samples, preload_n: float) -> int | None:
    """Return the sample at which the probe touches the film for good; None when it never does.

    `force_n` has shape (n,); `preload_n` is the force of contact.
    """
    top = int(np.argmax(force_n))
    if not force_n[top] > 0:
        return None
    low = force_n[: top + 1] < preload_n / 2 * (1 - SAME_WITHIN)
    start = int(top + 1 - np.argmax(low[::-1])) if low.any() else 0
    return first_index(all_at_least(force_n[: top + 1], preload_n), start)


def analyse(readings: TraceReadings, parameters: PunctureParameters) -> SpecimenResult:
    """Return force in N, penetration in mm and energy in J of one slow puncture (ASTM F1306)."""
    result = begin(readings, GUIDE)
    thickness_mm = float(np.mean(readings.sections("thickness_mm")))
    x, force_n = readings.trace.extension_mm, readings.trace.force_n
    contact = contact_index(force_n, parameters.preload_n)
    if contact is None:
        for name, _, unit in NAMES:
            result.lacks(name, unit)
        result.flag("no-contact", "void")
        return result
    result.flags += pull_speed_flags(readings.trace, parameters.speed_mm_min)
    end = break_index(force_n, parameters.break_drop)
    max_n = float(force_n.max())
    start_mm, end_mm = float(x[contact]), float(x[end])
    result.give("max_force", max_n, "N", "highest force of the trace", "max F", "trace")
    result.give(
        "penetration_at_break",
        end_mm - start_mm,
        "mm",
        "travel from contact to the break",
        "x_break - x_contact",
        f"{in_numbers(end_mm)} - {in_numbers(start_mm)}",
    )
    result.give(
        "energy_to_break",
        area_under(x, force_n, Place(contact, 1.0), Place(end, 1.0)),
        "mJ",
        "area under force over travel from contact to the break",
        "sum of (F1 + F2) / 2 · dx",
        f"{end - contact + 1} samples",
    )
    result.give(
        "max_force_per_thickness",
        max_n / thickness_mm,
        "N/mm",
        "highest force for the mean thickness",
        "F_max / thickness",
        f"{in_numbers(max_n)} / {in_numbers(thickness_mm)}",
    )
    top = int(np.argmax(force_n))
    result.marks += [
        Mark("area", "energy to break", ((start_mm, 0.0), (end_mm, 0.0))),
        Mark("points", "contact", ((start_mm, float(force_n[contact])),)),
        Mark("points", "highest force", ((float(x[top]), max_n),)),
        Mark("points", "break", ((end_mm, float(force_n[end])),)),
    ]
    return result


METHOD = Method(
    id="astm-f1306",
    title="Slow puncture of film",
    family="Puncture, burst, compression",
    directions=("face-out", "face-in"),
    label_prefixes={"face-out": "O", "face-in": "I"},
    properties=tuple(Property(name, title, unit, significant=3) for name, title, unit in NAMES),
    parameters=PunctureParameters,
    readings=TraceReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
