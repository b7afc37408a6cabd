"""Pallets in bending: how far one sags under its load, and what breaks it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from endurant.core.columns import Channels, Column
from endurant.core.curve import Place, break_index, first_reach
from endurant.core.fields import Name, Number, Positive, Strict
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.guide import Guide, Observation, PressGuide, ReadyCheck, Sensor
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.parameters import Parameters
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import Mark, SpecimenResult
from endurant.core.methods.safety import LOCAL
from endurant.core.quantities import at_least
from endurant.core.recordings import TraceColumns
from endurant.core.rounding import in_numbers

MIDDLE = "middle"
WRONG_WAY_MM = 2

Row = Annotated[list[Number], Field(min_length=1, max_length=64)]


class PalletParameters(Parameters):
    """Parameters of a pallet in bending."""

    set_up: ClassVar[tuple[str, ...]] = (
        "down_is",
        "span_mm",
        "span_is",
    )

    test: Literal["stiffness", "strength"] = Field(
        "stiffness", description="Sag under the full load, or load up to failure."
    )
    speed_mm_min: Positive = Field(2, description="Speed of the strength test.")
    span_mm: Positive | None = Field(
        None, description="Distance of the supports, or length of the pallet: see span_is."
    )
    span_is: Literal["supports", "length"] = Field(
        "supports", description="What the span is: the distance of the supports, or the length."
    )
    limit_fraction: Positive = Field(0.06, description="Sag that ends it, as a part of the span.")
    break_drop: float = Field(
        0.4,
        strict=True,
        gt=0,
        le=1,
        description="Drop between neighbouring samples that is a failure, of the maximum.",
    )
    full_load_n: Positive | None = Field(
        None, description="Full load of the stiffness test; needed to run it at the bench."
    )
    datum_fraction: float = Field(
        0.1, strict=True, gt=0, lt=1, description="Datum load, as a part of the full load."
    )
    datum_s: Positive = Field(60, description="How long the datum load is held.")
    full_s: Positive = Field(86_400, description="How long the full load is held.")
    relaxed_s: Positive = Field(3600, description="How long it rests under datum load again.")
    down_is: Literal["plus", "minus"] = Field(
        "plus", description="Sign with which the rig counts downwards."
    )


class Channel(Strict):
    """One sensor and where it stands under the pallet."""

    name: Name
    x_mm: Number
    y_mm: Number


class Schedule(Strict):
    """Displacements of all channels, in their order, written down four times."""

    datum: Row
    full_at_once: Row
    full_end: Row
    relaxed: Row


class SagTrace(TraceColumns):
    """Force, and displacement of the middle."""

    force_n: Column
    displacement_mm: Channels


class PalletReadings(Readings):
    """One pallet: four rows of readings, or a trace."""

    channels: Annotated[list[Channel], Field(min_length=1, max_length=64)] | None = Field(
        None, description="The sensors; one is named middle."
    )
    readings: Schedule | None = Field(None, description="What the sensors showed.")
    trace: SagTrace | None = Field(None, description="Force and the middle's displacement.")


GUIDE = Guide(
    **guide_texts("iso-8611"),
    count_per_direction=3,
    blank=None,
    atmosphere=None,
    needs=lambda parameters: (
        ("span_mm",) if parameters.get("test") == "strength" else ("full_load_n",)
    ),
    bench="rig",
    live=PressGuide(
        sensors=(
            Sensor("platen", 600, 500),
            Sensor("left", 60, 500),
            Sensor("right", 1140, 500),
            Sensor("front", 600, 60),
            Sensor("back", 600, 940),
            Sensor("middle", 600, 500),
        )
    ),
    ready_checks=(
        ReadyCheck(
            "supports",
            "Supports {span_mm} mm apart, square to the pallet",
            "the sag depends on the span",
            when=lambda aims: bool(aims.get("span_mm")),
            set_up=True,
        ),
        ReadyCheck(
            "supports-square",
            "Supports in place, square to the pallet",
            "the sag depends on the span",
            when=lambda aims: not aims.get("span_mm"),
        ),
        ReadyCheck(
            "plate-touches",
            "Plate just touches (2 to 5 kgf)",
            "a hanging plate shows no force",
            reads="touches",
        ),
        ReadyCheck(
            "zeroed",
            "Displacements at zero",
            "every sag counts from where the plate touches",
            reads="displacements-zeroed",
        ),
        ReadyCheck(
            "sign",
            "Rig counts downwards as {down_is}",
            "a limit with the wrong sign never stops the run",
            reads="sign",
        ),
        ReadyCheck(
            "limit",
            "Limit of {limit_mm} mm set on the middle sensor",
            "it stops the run",
            reads="limit",
            when=lambda aims: aims.get("test") == "strength",
        ),
        ReadyCheck(
            "nobody-near", "Everyone clear of the loaded pallet", "timber splinters", hold=True
        ),
    ),
    cautions=(
        "A loaded pallet breaks with splinters: keep clear, guard in place, never reach under.",
        LOCAL,
    ),
    observations=(
        Observation("off-centre", "Load off centre", "void", "the load stood off centre"),
        Observation(
            "wrong-sign",
            "Middle moved the wrong way",
            "void",
            "the middle moved the wrong way: the sign of the rig is not the one of the test",
        ),
        Observation("support-moved", "A support moved", "void", "a support moved under load"),
    ),
)

STIFFNESS = (
    ("deflection_full", "sag under full load", "full_end", "datum"),
    ("creep", "creep under full load", "full_end", "full_at_once"),
    ("residual", "sag that stays", "relaxed", "datum"),
)


def analyse(readings: PalletReadings, parameters: PalletParameters) -> SpecimenResult:
    """Return the values of one pallet under the requested test, in N and mm (ISO 8611).

    Raises Invalid for a reading that is missing.
    """
    result = begin(readings, GUIDE)
    sign = 1.0 if parameters.down_is == "plus" else -1.0
    if parameters.test == "stiffness":
        give_stiffness(result, readings, sign)
    else:
        give_strength(result, readings, parameters, sign)
    return result


def give_stiffness(result: SpecimenResult, readings: PalletReadings, sign: float) -> None:
    """Give deflection, creep and residual deflection in mm, of the middle and of every channel."""
    channels, rows = readings.channels, readings.readings
    if rows is None and channels is not None and not result.valid:
        # A void pallet whose schedule was ended early: there is nothing to compute, nor to refuse.
        for value, *_ in STIFFNESS:
            result.lacks(value, "mm")
        return
    if channels is None or rows is None:
        name = "channels" if channels is None else "readings"
        raise readings.refuse(name, "reading.stiffness-incomplete")
    names = [channel.name for channel in channels]
    if names.count(MIDDLE) != 1 or len(set(names)) != len(names):
        raise readings.refuse("channels", "reading.channels-unnamed")
    for name in ("datum", "full_at_once", "full_end", "relaxed"):
        if len(getattr(rows, name)) != len(channels):
            raise readings.refuse(
                name,
                "reading.channel-count",
                count=len(getattr(rows, name)),
                channels=len(channels),
            )
    listed: list[dict[str, Any]] = [
        {"name": channel.name, "x_mm": channel.x_mm, "y_mm": channel.y_mm} for channel in channels
    ]
    middle = names.index(MIDDLE)
    for value, text, later, earlier in STIFFNESS:
        ends, starts = getattr(rows, later), getattr(rows, earlier)
        for place, row in enumerate(listed):
            row[value] = sign * (ends[place] - starts[place])
        result.give(
            value,
            listed[middle][value],
            "mm",
            f"{text}, of the middle",
            f"{later} - {earlier}".replace("_", " "),
            f"{in_numbers(ends[middle])} - {in_numbers(starts[middle])}"
            + (", down counts as minus" if sign < 0 else ""),
        )
    result.more["channels"] = listed


def give_strength(
    result: SpecimenResult, readings: PalletReadings, parameters: PalletParameters, sign: float
) -> None:
    """Give the highest force in N before the pallet fails or the middle passes the limit."""
    trace = readings.trace
    if trace is None or trace.displacement_mm is None:
        raise readings.refuse("trace", "reading.strength-trace-missing")
    if parameters.span_mm is None:
        raise readings.refuse("span_mm", "reading.span-missing")
    if len(trace.displacement_mm) != 1:
        raise readings.refuse("displacement_mm", "reading.too-many-channels")
    force_n = trace.force_n
    if not force_n.max() > 0:
        result.lacks("strength_force", "N")
        result.lacks("deflection_at_strength", "mm")
        result.flag("no-force", "void")
        return
    sag_mm = sign * (trace.displacement_mm[0] - trace.displacement_mm[0][0])
    top_mm = float(sag_mm[int(np.argmax(force_n))])
    if at_least(-float(sag_mm.min()), WRONG_WAY_MM) or top_mm < 0:
        result.flag("wrong-sign", "void", moved_mm=-float(sag_mm.min()))
    limit_mm = parameters.limit_fraction * parameters.span_mm
    limit = first_reach(sag_mm, limit_mm)
    end = break_index(force_n, parameters.break_drop)
    if limit is not None and limit.index <= end:
        before = force_n[: limit.index]
        at_limit_n = limit.of(force_n)
        top = int(np.argmax(before)) if before.size else 0
        place = Place(top, 1.0) if before.size and float(before[top]) >= at_limit_n else limit
        result.flag("at-limit", "note", limit_mm=limit_mm)
    else:
        place = Place(int(np.argmax(force_n[: end + 1])), 1.0)
    strength_n, deflection_mm = place.of(force_n), place.of(sag_mm)
    result.give(
        "strength_force",
        strength_n,
        "N",
        "highest force until it failed or passed the limit",
        "max F",
        f"limit {in_numbers(parameters.limit_fraction)} · {in_numbers(parameters.span_mm)} mm",
    )
    result.give(
        "deflection_at_strength",
        deflection_mm,
        "mm",
        "sag of the middle there, from its first sample",
        "d - d_first",
        f"at {in_numbers(strength_n)} N",
    )
    result.marks += [
        Mark("points", "strength", ((deflection_mm, strength_n),)),
        Mark("end", "limit of the sag", ((limit_mm, 0.0),)),
    ]


def rows_for(parameters: PalletParameters) -> Sequence[str]:
    """Stiffness and strength are two kinds of test with results of their own."""
    if parameters.test == "strength":
        return ("strength_force", "deflection_at_strength")
    return ("deflection_full", "creep", "residual")


METHOD = Method(
    id="iso-8611",
    title="Pallets in bending",
    family="Puncture, burst, compression",
    directions=(),
    label_prefixes={},
    properties=(
        Property("deflection_full", "Sag under full load", "mm", decimals=1),
        Property("creep", "Creep under full load", "mm", decimals=1),
        Property("residual", "Residual sag", "mm", decimals=1),
        Property("strength_force", "Strength", "N", significant=3),
        Property("deflection_at_strength", "Sag at strength", "mm", decimals=1),
    ),
    parameters=PalletParameters,
    readings=PalletReadings,
    guide=GUIDE,
    analyse=analyse,
    review=review_count,
    rows_for=rows_for,
)
METHODS = {METHOD.id: METHOD}
