"""People look, decide and count: inspections at counts, and grades by assessors."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
from pydantic import Field, PlainValidator, WithJsonSchema

from endurant.core.complaints import complaint
from endurant.core.fields import Strict, Whole
from endurant.core.methods.guide import Ask, Go, Turn, yes_or_no
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.quantities import GRADES, above, half_step_down, read_grade
from endurant.core.rounding import in_numbers

DISAGREE_ABOVE = 0.5
FEWEST_ASSESSORS, MAX_ASSESSORS = 2, 3


class Inspection(Strict):
    """One look at a count of rubs."""

    count: Whole
    acceptable: bool = Field(strict=True)


Inspections = Annotated[list[Inspection], Field(min_length=1, max_length=10_000)]


def rubs_done(readings: Mapping[str, Any], parameters: Mapping[str, Any]) -> int:
    """Return how many rubs a specimen was given: the count of its last look."""
    return max((int(look["count"]) for look in readings.get("inspections", [])), default=1)


def cycles_done(readings: Mapping[str, Any], parameters: Mapping[str, Any]) -> int:
    """Return how many strokes to and fro a specimen was given: those that were asked for."""
    return int(parameters.get("cycles") or 1)


@dataclass(frozen=True)
class Endpoint:
    """What the looks prove: the last acceptable count, and the first that is not (or None)."""

    last_acceptable: int
    first_failed: int | None


def endpoint_of(readings: Readings, inspections: Sequence[Inspection]) -> Endpoint:
    """Return the counts between which the surface ceased to be acceptable.

    Raises Invalid for an inspection out of order, or an acceptable one after a not acceptable one.
    """
    last, failed, before = 0, None, 0
    for look in inspections:
        if look.count <= before:
            raise readings.refuse(
                "inspections", "reading.count-not-rising", count=look.count, before=before
            )
        before = look.count
        if not look.acceptable:
            failed = look.count if failed is None else failed
        elif failed is not None:
            raise readings.refuse(
                "inspections", "reading.better-than-before", count=look.count, failed=failed
            )
        else:
            last = look.count
    return Endpoint(last, failed)


def give_endpoint(result: SpecimenResult, endpoint: Endpoint) -> None:
    """The first count that is not acceptable, and the last that is."""
    if endpoint.first_failed is None:
        result.give(
            "endpoint_count",
            endpoint.last_acceptable,
            "rubs",
            "acceptable up to the last look",
            "last count",
            f"{endpoint.last_acceptable} rubs",
            ">",
        )
    else:
        result.give(
            "endpoint_count",
            endpoint.first_failed,
            "rubs",
            "first look that is not acceptable",
            "first count not acceptable",
            f"between {endpoint.last_acceptable} and {endpoint.first_failed} rubs",
        )
    result.give(
        "last_acceptable",
        endpoint.last_acceptable,
        "rubs",
        "last look that is acceptable",
        "last count acceptable",
        f"{endpoint.last_acceptable} rubs",
    )


def _as_grade(given: Any) -> float:
    try:
        return read_grade(given)
    except ValueError as error:
        raise complaint("grade.unknown", given=given, known=list(GRADES)) from error


Grade = Annotated[
    Any,
    PlainValidator(_as_grade),
    WithJsonSchema({"anyOf": [{"enum": list(GRADES)}, {"type": "number"}]}),
]
Grades = Annotated[list[Grade], Field(min_length=1, max_length=50)]


def give_grade(result: SpecimenResult, name: str, grades: Sequence[float], what: str) -> None:
    """Give the assessors' median grade, rounded down to a half step; flag a disagreement."""
    listed = ", ".join(in_numbers(grade) for grade in grades)
    result.give(
        name,
        half_step_down(float(np.median(grades))),
        "grade",
        f"median of {len(grades)} assessors{what}, rounded down to a half step",
        "median, down to 0.5",
        listed,
    )
    if above(max(grades) - min(grades), DISAGREE_ABOVE) and not result.has_flag(
        "assessors-disagree"
    ):
        result.flag("assessors-disagree", "warn", place=what, grades=listed)


def next_look(
    looks: Sequence[Any],
    due: int,
    good: str,
    bad: str,
    ends_at: int | None = None,
    per_min: float = 60.0,
) -> Turn | None:
    """The next look at a count; None once it was bad, or the count that ends it was looked at.

    The rig turns `per_min` times a minute up to it.
    """
    last = looks[-1]["count"] if looks else 0
    if looks and (not looks[-1]["acceptable"] or (ends_at is not None and last >= ends_at)):
        return None
    due = due if ends_at is None else min(due, ends_at)
    proven = f"{good.capitalize()} up to {last} so far." if looks else "First look."
    return Turn(
        title=f"Examine {{label}} at {due}",
        why=f"{proven} Record the count that the counter shows. Examine before you answer: the "
        "answer ends the test if it is not acceptable.",
        button="Record look",
        asks=(
            Ask("count", "count shown", whole=True, preset=float(due)),
            yes_or_no("acceptable", "Finding", bad, good),
        ),
        goes=Go(
            title=f"Run to {due}",
            why=f"Set the counter to {due} and start. The rig stops by itself.",
            button=f"Start to {due}",
            seconds=60 * (due - last) / per_min,
            counts=float(due),
            caution="Keep hands off while it runs.",
        ),
    )


def next_grade(name: str, title: str) -> Callable[[Mapping[str, Any], Sequence[Any]], Turn | None]:
    """Grades of assessors, each alone: two, and a third where those are far apart."""

    def turn(_: Mapping[str, Any], grades: Sequence[Any]) -> Turn | None:
        steps = [read_grade(grade) for grade in grades]
        if len(steps) >= MAX_ASSESSORS:
            return None
        if len(steps) == FEWEST_ASSESSORS and not above(max(steps) - min(steps), DISAGREE_ABOVE):
            return None
        third = " The first two disagree." if len(steps) == FEWEST_ASSESSORS else ""
        return Turn(
            title=f"{title}: assessor {len(steps) + 1}",
            why="Grade alone, in the light box, against the grey scale. The other grades are "
            f"shown at the end. Each assessor signs in.{third}",
            button="Record grade",
            asks=(Ask(name, "grade", kind="choice", choices=tuple(GRADES)),),
        )

    return turn
