"""Dropping packs on faces, edges and corners, in an order fixed before."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import sqrt
from typing import Annotated, Any, ClassVar

from pydantic import Field, PlainValidator, WithJsonSchema

from endurant.core.complaints import complaint
from endurant.core.fields import Positive
from endurant.core.methods.checks import begin, review_count
from endurant.core.methods.damaging import (
    DAMAGES,
    FAILED,
    DamageParameters,
    Look,
    damage_asks,
    give_damages,
    give_failed,
    summarise_failed,
)
from endurant.core.methods.guide import (
    Ask,
    Guide,
    ReadyCheck,
    SeriesGuide,
    Turn,
)
from endurant.core.methods.guide_texts import guide_texts
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.safety import HEAVY_DROP, LOCAL
from endurant.core.rounding import in_numbers

GRAVITY = 9.81
OPPOSITE = ({"1", "3"}, {"2", "4"}, {"5", "6"})
FACES = {"1": "top", "2": "right", "3": "bottom", "4": "left", "5": "near end", "6": "far end"}


def _as_position(given: Any) -> str:
    """A face, an edge or a corner as its digits in order, "2-3-5"."""
    digits = given.split("-") if isinstance(given, str) and len(given) <= 10 else []
    if (
        not 1 <= len(digits) <= 3
        or len(set(digits)) != len(digits)
        or not set(digits) <= set(FACES)
    ):
        raise complaint("drop.position", given=given)
    for pair in OPPOSITE:
        if pair <= set(digits):
            low, high = sorted(pair)
            raise complaint("drop.faces-apart", given=str(given), low=low, high=high)
    return "-".join(sorted(digits))


Position = Annotated[Any, PlainValidator(_as_position), WithJsonSchema({"type": "string"})]


def next_drop(parameters: Mapping[str, Any], drops: Sequence[Any]) -> Turn | None:
    """The next position of the order that was fixed; without one, the position is asked for."""
    order = parameters.get("sequence")
    if order is not None and len(drops) >= len(order):
        return None
    planned = parameters.get("drop_height_mm")
    height = Ask("height_mm", "height", "mm", preset=drops[-1]["height_mm"] if drops else planned)
    if order is None:
        place = Ask("position", "position, as 3, 2-3 or 2-3-5", kind="text")
        return Turn(
            f"Drop {len(drops) + 1}",
            "Faces: 1 top, 2 right, 3 bottom, 4 left, 5 and 6 the ends.",
            "Record drop",
            (place, height, *damage_asks()),
        )
    is_last = len(drops) + 1 == len(order)
    position = str(order[len(drops)])
    faces = " and ".join(FACES[digit] for digit in position.split("-"))
    kind = ("face", "edge", "corner")[position.count("-")]
    return Turn(
        title=f"Drop {len(drops) + 1} of {len(order)}: on {kind} {position}",
        why=f"{faces.capitalize()}. Keep the pack level until it is released. "
        + ("Open it after this drop." if is_last else "Do not open it yet."),
        button="Record drop",
        asks=(height, *damage_asks(inside=is_last)),
        sets={"position": position},
    )


class DropParameters(DamageParameters):
    """Parameters of the drops."""

    sequence: Annotated[list[Position], Field(min_length=1, max_length=200)] | None = Field(
        None, description="Positions in the order that was fixed before."
    )
    drop_height_mm: Positive | None = Field(
        None, description="Height that the packs are dropped from; by their mass as a rule."
    )

    set_up: ClassVar[tuple[str, ...]] = ("sequence", "drop_height_mm")


class Drop(Look):
    """One drop, and what was seen after it."""

    position: Position
    height_mm: Positive


class DropReadings(Readings):
    """The drops of one pack."""

    drops: Annotated[list[Drop], Field(min_length=1, max_length=1000)] = Field(
        description="Drops, in order."
    )


GUIDE = Guide(
    **guide_texts("iso-2248"),
    count_per_direction=3,
    blank=None,
    atmosphere="paper-23-50",
    needs=lambda _: ("sequence", "drop_height_mm"),
    proposes=lambda _: {"sequence": ["2-3-5", "2-3", "3-5", "2-5", "1", "2", "3", "4", "5", "6"]},
    bench="drops",
    live=SeriesGuide("drop", "drops", next_drop, may_end="End the test here"),
    ready_checks=(
        ReadyCheck("faces", "Faces numbered on the pack", "an edge is named by its faces"),
        ReadyCheck(
            "sequence",
            "Order of the drops: {sequence}",
            "the order decides which damage comes first",
            set_up=True,
        ),
        ReadyCheck("floor", "Steel or concrete below, clean", "a soft floor flatters", set_up=True),
        ReadyCheck("clear", "Everyone clear of the pack", "it falls", hold=True),
    ),
    cautions=(HEAVY_DROP, "Over 15 kg: lift with help.", LOCAL),
    observations=(),
)


def analyse(readings: DropReadings, parameters: DropParameters) -> SpecimenResult:
    """Return whether one pack failed its drops, and its worst damage (ISO 2248)."""
    result = begin(readings, GUIDE)
    drops, limit = readings.drops, parameters.max_damage_inside
    failed = give_failed(result, drops, limit)
    survived = next((place for place, drop in enumerate(drops) if drop.failed(limit)), len(drops))
    result.give(
        "drops_survived",
        survived,
        "drops",
        "drops before the first that failed it",
        "count",
        f"{len(drops)} drops",
        None if failed else ">",
    )
    give_damages(result, drops)
    highest_m = max(drop.height_mm for drop in drops) / 1000
    result.give(
        "impact_speed",
        sqrt(2 * GRAVITY * highest_m),
        "m/s",
        "speed at the floor of the highest drop",
        "√(2 · g · h)",
        f"√(2 · 9.81 · {in_numbers(highest_m)})",
    )
    flag_sequence(result, readings, parameters, failed)
    return result


def flag_sequence(
    result: SpecimenResult, readings: DropReadings, parameters: DropParameters, failed: bool
) -> None:
    """`out-of-sequence` and `sequence-incomplete`."""
    requested = parameters.sequence
    if requested is None:
        return
    done = [drop.position for drop in readings.drops]
    if done != requested[: len(done)]:
        place = next(
            (n for n, (a, b) in enumerate(zip(done, requested, strict=False), 1) if a != b),
            len(requested) + 1,
        )
        due = requested[place - 1] if place <= len(requested) else "nothing"
        result.flag("out-of-sequence", "warn", drop=place, position=done[place - 1], required=due)
    if len(done) < len(requested) and not failed:
        result.flag("sequence-incomplete", "warn", count=len(done), required=len(requested))


METHOD = Method(
    id="iso-2248",
    title="Drop of packs",
    family="Packaging",
    properties=(
        FAILED,
        Property("drops_survived", "Drops survived", "drops", decimals=0, summed=False),
        *DAMAGES,
        Property("impact_speed", "Impact speed", "m/s", significant=3, summed=False),
    ),
    parameters=DropParameters,
    readings=DropReadings,
    guide=GUIDE,
    analyse=analyse,
    summarise=summarise_failed,
    review=review_count,
)
METHODS = {METHOD.id: METHOD}
