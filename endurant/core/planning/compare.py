"""One plan beside the one before: what moved, by how much, and who is to be told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from endurant.core.planning.codec import moment_of
from endurant.core.planning.rows import (
    PlanAnswer,
    PlanDocument,
    PlannedStep,
    Stretch,
    WantedTest,
    begins_at,
    titles_of,
)

MOVED_MIN = 5
"""A step that moved by less is where it was."""

Hours = list[tuple[datetime, datetime]]


@dataclass(frozen=True)
class Before:
    """A plan that was made before: the document that was asked, and its answer."""

    document: PlanDocument
    answer: PlanAnswer


@dataclass(frozen=True)
class Moved:
    """A step that stands elsewhere now; `minutes` are later, below 0 earlier."""

    test: str
    step: str
    minutes: int
    text: str


@dataclass(frozen=True)
class Compared:
    """What changed from one plan to another.

    `stayed` is the share of steps that did not move, of the tests that nothing happened to.
    """

    moved: tuple[Moved, ...]
    stayed: float
    later: tuple[str, ...]
    sooner: tuple[str, ...]

    def moved_in_words(self, document: PlanDocument) -> list[str]:
        """Return each step that moved, the furthest first, by the titles of its document."""
        titles = titles_of(document)
        return [f"{titles[each.test]}, {each.step}: {each.text}" for each in self.moved]


def compare(before: Before, document: PlanDocument, after: PlanAnswer) -> Compared:
    """Compare a plan with the one before; steps that only one of them has are not compared."""
    old = {(row["test"], row["step"]): row for row in before.answer["steps"]}
    both = [row for row in after["steps"] if (row["test"], row["step"]) in old]
    moved = [
        moved for row in both if (moved := _moved(old[row["test"], row["step"]], row)) is not None
    ]
    happened = affected(before, document)
    unchanged = [row for row in both if row["test"] not in happened]
    restless = sum(each.test not in happened for each in moved)
    titles = titles_of(before.document, document)
    late_before = {row["test"]: row["minutes"] for row in before.answer["late"]}
    late_after = {row["test"]: row["minutes"] for row in after["late"]}
    gone = [row["test"] for row in before.answer["unplanned"]]
    return Compared(
        moved=tuple(sorted(moved, key=lambda each: -abs(each.minutes))),
        stayed=1.0 if not unchanged else 1 - restless / len(unchanged),
        later=(
            *(
                f"{titles[test]} is {minutes} min late, {late_before.get(test, 0)} before"
                for test, minutes in late_after.items()
                if minutes > late_before.get(test, 0)
            ),
            *(
                f"{titles[row['test']]} has no place any more: {row['why']}"
                for row in after["unplanned"]
                if row["test"] not in gone
            ),
        ),
        sooner=tuple(
            f"{titles[test]} is {late_after.get(test, 0)} min late, {minutes} before"
            for test, minutes in late_before.items()
            if minutes > late_after.get(test, 0)
        ),
    )


def affected(before: Before, document: PlanDocument) -> set[str]:
    """Return the tests to which something happened.

    Other steps are left of them or they are asked for otherwise, or a station or person is away
    where one of their steps stood.
    """
    old = {test["id"]: _requested(test) for test in before.document["tests"]}
    tests = {test["id"] for test in document["tests"] if old.get(test["id"]) != _requested(test)}
    away = {row["name"]: _stretches(row.get("away", [])) for row in document.get("stations", [])}
    hours = {row["name"]: _stretches(row["hours"]) for row in document["people"]}
    for row in before.answer["steps"]:
        begins, end = begins_at(row), moment_of(row["end"])
        hands_end = moment_of(row["hands_on_end"])
        station, person = row["station"], row["person"]
        is_away = station and any(
            start < end and begins < stop for start, stop in away.get(station, [(begins, end)])
        )
        is_in = not person or any(
            start <= begins and hands_end <= stop for start, stop in hours.get(person, [])
        )
        if is_away or not is_in:
            tests.add(row["test"])
    return tests


def _requested(test: WantedTest) -> WantedTest:
    """What is asked of a test, without what goes by while it waits."""
    return {**test, "steps": [{**step, "unattended_minutes": 0} for step in test["steps"]]}


def _stretches(rows: list[Stretch]) -> Hours:
    return [(moment_of(start), moment_of(end)) for start, end in rows]


def _moved(old: PlannedStep, new: PlannedStep) -> Moved | None:
    minutes = round((moment_of(new["start"]) - moment_of(old["start"])).total_seconds() / 60)
    changed = [
        f"{name} {here} instead of {there}"
        for name, here, there in (
            ("person", new["person"], old["person"]),
            ("station", new["station"], old["station"]),
        )
        if here != there
    ]
    if abs(minutes) < MOVED_MIN and not changed:
        return None
    way = f"{abs(minutes)} min {'later' if minutes > 0 else 'earlier'}"
    parts = [way] if abs(minutes) >= MOVED_MIN else []
    return Moved(old["test"], old["step"], minutes, ", ".join([*parts, *changed]))
