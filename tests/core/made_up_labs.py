"""Made-up laboratories for the planner, each by its seed: tight, odd, and sometimes impossible."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta
from typing import Any

NOW = datetime(2026, 3, 2, 7, tzinfo=UTC)
METHODS = ("strip", "tear", "impact", "flow", "wear")
SET_UPS = {"frame": ("jaws 50", "jaws 60", "leg"), "pendulum": ("1 J", "5.5 J"), "rig": ()}


def made_up_lab(seed: int, tests: int = 9) -> dict[str, Any]:
    """A planning document; the same seed gives the same."""
    chance = random.Random(seed)
    return {
        "now": _iso(0),
        "until": _iso(chance.choice((3, 5, 7)) * 1440),
        "time_limit_s": 0.4,
        "people": [_person(chance, number) for number in range(chance.randint(1, 4))],
        "stations": [_station(chance, number) for number in range(chance.randint(2, 6))],
        "enclosures": [{"name": name, "places": chance.randint(4, 30)} for name in ("warm", "dry")],
        "tests": [_test(chance, number) for number in range(tests)],
        "pinned": [],
    }


def _iso(minute: int) -> str:
    return (NOW + timedelta(minutes=minute)).isoformat().replace("+00:00", "Z")


def _person(chance: random.Random, number: int) -> dict[str, Any]:
    hours = []
    for day in range(chance.randint(0, 6)):
        start = day * 1440 + chance.choice((0, 30, 60))
        noon = start + chance.choice((180, 240))
        end = start + chance.choice((420, 510))
        lunch = chance.choice((0, 0, 45))
        hours += [[_iso(start), _iso(noon)], [_iso(noon + lunch), _iso(end)]]
    person: dict[str, Any] = {"name": f"P{number}", "hours": hours}
    if chance.random() < 0.5:
        person["may"] = chance.sample(METHODS, chance.randint(1, 4))
    return person


def _station(chance: random.Random, number: int) -> dict[str, Any]:
    kind = chance.choice(tuple(SET_UPS))
    station: dict[str, Any] = {"name": f"{kind} {number}", "kind": kind}
    station["set_up_minutes"] = chance.choice((0, 10, 25))
    if SET_UPS[kind] and chance.random() < 0.5:
        station["set_up"] = chance.choice(SET_UPS[kind])
    if chance.random() < 0.4:
        start = chance.randint(0, 3000)
        station["away"] = [[_iso(start), _iso(start + chance.randint(30, 1500))]]
    return station


def _test(chance: random.Random, number: int) -> dict[str, Any]:
    steps = [_step(chance, place) for place in range(chance.randint(1, 4))]
    test: dict[str, Any] = {
        "id": f"T{number:02d}",
        "method": chance.choice(METHODS),
        "priority": chance.randint(1, 3),
        "steps": steps,
    }
    if chance.random() < 0.9:
        test["due"] = _iso(chance.randint(-600, 6000))
    if chance.random() < 0.4:
        test["not_before"] = _iso(chance.randint(-300, 2000))
    return test


def _step(chance: random.Random, place: int) -> dict[str, Any]:
    step: dict[str, Any] = {"id": f"s{place}"}
    step["hands_on_minutes"] = chance.choice((0, 5, 20, 45, 90))
    step["unattended_minutes"] = chance.choice((0, 0, 30, 240, 960, 1440))
    where = chance.random()
    if where < 0.35:
        step |= {"enclosure": chance.choice(("warm", "dry")), "places": chance.randint(1, 12)}
    elif where < 0.9:
        kind = chance.choice(tuple(SET_UPS))
        step["station"] = kind
        if SET_UPS[kind] and step["hands_on_minutes"]:
            step["set_up"] = chance.choice(SET_UPS[kind])
    if place:
        step["least_minutes"] = chance.choice((0, 0, 30, 120))
        if chance.random() < 0.5:
            step["most_minutes"] = chance.choice((0, 10, 60, 240, 900))
    return step
