"""One plan beside the one before: what moved, by how much, and who is to be told."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

MOVED_MIN = 5
"""A step that moved by less is where it was."""

Plan = dict[str, Any]


@dataclass(frozen=True)
class Moved:
    """A step that stands elsewhere now; `minutes` are later, below 0 earlier."""

    test: str
    step: str
    minutes: int
    says: str


@dataclass(frozen=True)
class Compared:
    """What changed from one plan to another; `stayed` is the share of steps that did not move."""

    moved: tuple[Moved, ...]
    stayed: float
    later: tuple[str, ...]
    sooner: tuple[str, ...]


def compare(before: Plan, after: Plan) -> Compared:
    """Two answers to planning documents; steps that only one of them has are not compared."""
    old = {(row["test"], row["step"]): row for row in before["steps"]}
    both = [row for row in after["steps"] if (row["test"], row["step"]) in old]
    moved = [
        moved for row in both if (moved := _moved(old[row["test"], row["step"]], row)) is not None
    ]
    late_before = {row["test"]: row["minutes"] for row in before["late"]}
    late_after = {row["test"]: row["minutes"] for row in after["late"]}
    gone = [row["test"] for row in before["unplanned"]]
    return Compared(
        moved=tuple(sorted(moved, key=lambda each: -abs(each.minutes))),
        stayed=1.0 if not both else 1 - len(moved) / len(both),
        later=(
            *(
                f"{test} is {minutes} min late, {late_before.get(test, 0)} before"
                for test, minutes in late_after.items()
                if minutes > late_before.get(test, 0)
            ),
            *(
                f"{row['test']} has no place any more: {row['why']}"
                for row in after["unplanned"]
                if row["test"] not in gone
            ),
        ),
        sooner=tuple(
            f"{test} is {late_after.get(test, 0)} min late, {minutes} before"
            for test, minutes in late_before.items()
            if minutes > late_after.get(test, 0)
        ),
    )


def _moved(old: dict[str, Any], new: dict[str, Any]) -> Moved | None:
    minutes = round((_at(new["start"]) - _at(old["start"])).total_seconds() / 60)
    changed = [
        f"{name} {new[name]} instead of {old[name]}"
        for name in ("person", "station")
        if new[name] != old[name]
    ]
    if abs(minutes) < MOVED_MIN and not changed:
        return None
    way = f"{abs(minutes)} min {'later' if minutes > 0 else 'earlier'}"
    parts = [way] if abs(minutes) >= MOVED_MIN else []
    return Moved(old["test"], old["step"], minutes, ", ".join([*parts, *changed]))


def _at(text: str) -> datetime:
    return datetime.fromisoformat(text)
