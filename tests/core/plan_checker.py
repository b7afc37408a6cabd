"""Checks an answer to a planning document, from the two documents alone.

It shares no line with the planner: whatever it reads, it reads off the JSON.
"""

from __future__ import annotations

from collections import defaultdict
from datetime import datetime
from itertools import pairwise
from typing import Any

Json = Any


def at(text: str) -> float:
    """Minutes since 1970."""
    return datetime.fromisoformat(text).timestamp() / 60


def faults(document: Json, answer: Json) -> list[str]:
    """Every rule that a plan breaks, in words; none for a plan that holds."""
    wrong: list[str] = []
    tests = {test["id"]: test for test in document["tests"]}
    steps: dict[str, dict[str, Json]] = defaultdict(dict)
    for row in answer["steps"]:
        if row["step"] in steps[row["test"]]:
            wrong.append(f"{row['test']}, {row['step']} stands twice")
        steps[row["test"]][row["step"]] = row
        if not all(row[name].endswith("Z") for name in ("start", "hands_on_end", "end")):
            wrong.append(f"{row['test']}, {row['step']}: no UTC")
        if not row["why"]["words"]:
            wrong.append(f"{row['test']}, {row['step']}: no why")
    unplanned = [row["test"] for row in answer["unplanned"]]
    if sorted([*steps, *unplanned]) != sorted(tests):
        wrong.append("a test is neither planned nor unplanned, or both")
    for name, own in steps.items():
        wrong += _of_test(document, tests[name], own)
    wrong += _of_pins(document, steps)
    wrong += _of_people(document, tests, answer)
    changes, wording = _of_stations(document, tests, answer)
    wrong += wording + _of_enclosures(document, tests, answer)
    return wrong + _of_sums(document, tests, steps, answer, changes)


def _of_test(document: Json, test: Json, own: dict[str, Json]) -> list[str]:
    wrong: list[str] = []
    before: float | None = None
    not_before = max(at(document["now"]), at(test.get("not_before") or document["now"]))
    for step in test["steps"]:
        where = f"{test['id']}, {step['id']}"
        row = own.get(step["id"])
        if row is None:
            return [f"{where} is missing"]
        start, end = at(row["start"]), at(row["end"])
        begins = at(row["set_up_start"]) if row["set_up_start"] else start
        hands = step.get("hands_on_minutes", 0)
        wait = None if before is None else start - before
        upper = step.get("most_minutes")
        kept = {
            "hands-on minutes": at(row["hands_on_end"]) == start + hands,
            "its end": end == start + hands + step.get("unattended_minutes", 0),
            "when it may begin": begins >= not_before,
            "until": end <= at(document["until"]),
            "least wait": wait is None or wait >= step.get("least_minutes", 0),
            "greatest wait": wait is None or upper is None or wait <= upper,
            "person": (row["person"] is None) == (hands == 0),
            "enclosure": row["enclosure"] == step.get("enclosure"),
            "station": (row["station"] is None) == (step.get("station") is None),
        }
        wrong += [f"{where}: {rule}" for rule, is_kept in kept.items() if not is_kept]
        before = end
    return wrong


def _of_pins(document: Json, steps: dict[str, dict[str, Json]]) -> list[str]:
    wrong = []
    for pin in document.get("pinned", []):
        row = steps.get(pin["test"], {}).get(pin["step"])
        if row is not None and at(row["start"]) != at(pin["start"]):
            wrong.append(f"{pin['test']}, {pin['step']}: its pin")
        if row is not None and pin.get("person") not in (None, row["person"]):
            wrong.append(f"{pin['test']}, {pin['step']}: its person")
        if row is not None and pin.get("station") not in (None, row["station"]):
            wrong.append(f"{pin['test']}, {pin['step']}: its station")
    return wrong


def _of_people(document: Json, tests: dict[str, Json], answer: Json) -> list[str]:
    wrong = []
    for person in document["people"]:
        hours = [(at(start), at(end)) for start, end in person["hours"]]
        busy = []
        for row in answer["steps"]:
            if row["person"] != person["name"]:
                continue
            begins = at(row["set_up_start"] or row["start"])
            busy.append((begins, at(row["hands_on_end"])))
            may = person.get("may")
            if may is not None and tests[row["test"]]["method"] not in may:
                wrong.append(f"{person['name']} may not do {row['test']}")
            if not any(start <= begins and busy[-1][1] <= end for start, end in hours):
                wrong.append(f"{person['name']} is not in for {row['test']}, {row['step']}")
        wrong += _overlaps(person["name"], busy)
    return wrong


def _overlaps(name: str, spans: list[tuple[float, float]]) -> list[str]:
    spans = sorted(spans)
    return [
        f"{name} does two things at once" for (_, end), (start, _) in pairwise(spans) if start < end
    ]


def _of_stations(document: Json, tests: dict[str, Json], answer: Json) -> tuple[int, list[str]]:
    wrong, changes = [], 0
    for station in document.get("stations", []):
        rows = [row for row in answer["steps"] if row["station"] == station["name"]]
        rows.sort(key=lambda row: (at(row["start"]), at(row["end"])))
        state, spans = station.get("set_up"), []
        for row in rows:
            where = f"{row['test']}, {row['step']} on {station['name']}"
            step = next(one for one in tests[row["test"]]["steps"] if one["id"] == row["step"])
            if step["station"] != station["kind"]:
                wrong.append(f"{where}: another kind")
            requested = step.get("set_up")
            is_change = requested is not None and requested != state
            state = requested or state
            changes += is_change
            minutes = station.get("set_up_minutes", 0) if is_change else 0
            begins = at(row["start"]) - minutes
            if is_change != (row["set_up_start"] is not None):
                wrong.append(f"{where}: set-up")
            if is_change and at(row["set_up_start"]) != begins:
                wrong.append(f"{where}: length of its set-up")
            spans.append((begins, at(row["end"])))
            for start, end in station.get("away", []):
                if begins < at(end) and at(start) < at(row["end"]):
                    wrong.append(f"{where}: it is away")
        wrong += _overlaps(station["name"], spans)
    return changes, wrong


def _of_enclosures(document: Json, tests: dict[str, Json], answer: Json) -> list[str]:
    wrong = []
    for room in document.get("enclosures", []):
        turns: list[tuple[float, int, int]] = []
        for row in answer["steps"]:
            if row["enclosure"] == room["name"]:
                step = next(one for one in tests[row["test"]]["steps"] if one["id"] == row["step"])
                places = step.get("places", 1)
                turns += [(at(row["start"]), 1, places), (at(row["end"]), 0, -places)]
        held = 0
        for _, _, places in sorted(turns):
            held += places
            if held > room["places"]:
                wrong.append(f"{room['name']} is too full")
    return wrong


def _of_sums(
    document: Json,
    tests: dict[str, Json],
    steps: dict[str, dict[str, Json]],
    answer: Json,
    changes: int,
) -> list[str]:
    wrong, lateness, late = [], 0.0, {}
    for name, own in steps.items():
        end = max(at(row["end"]) for row in own.values())
        due = tests[name].get("due")
        if due is not None and end > at(due):
            late[name] = end - at(due)
            lateness += tests[name].get("priority", 1) * late[name]
    if answer["lateness"] != lateness:
        wrong.append(f"lateness {answer['lateness']}, not {lateness}")
    if {row["test"]: row["minutes"] for row in answer["late"]} != late:
        wrong.append("the list of what is late")
    if answer["lateness_bound"] > answer["lateness"]:
        wrong.append("a bound above what was reached")
    if answer["changes"] != changes:
        wrong.append(f"{answer['changes']} changes, not {changes}")
    ends = [at(row["end"]) for row in answer["steps"]]
    if (answer["ends"] is None) != (not ends) or (ends and at(answer["ends"]) != max(ends)):
        wrong.append("its end")
    return wrong
