"""A made-up laboratory and its week, as a planning document; the same seed gives the same."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

MONDAY = datetime(2026, 3, 2, 7, tzinfo=UTC)
KINDS: dict[str, tuple[str, ...]] = {
    "frame": ("jaws 50", "jaws 60", "leg"),
    "pendulum": ("1 J", "5.5 J"),
    "melt": ("190 °C", "230 °C"),
    "cabinet": (),
    "burst": ("ring 50", "ring 100"),
    "rub": (),
}
STATIONS = ("frame", "frame", "frame", "pendulum", "melt", "cabinet", "burst", "rub", "rub", "rub")
METHODS, PEOPLE, DAYS = 20, 4, 5
DAY_MIN, SHIFT_MIN, CHANGE_MIN = 1440, 510, 15
PLACES = 120


def busy_week(
    tests: int, seed: int = 1, *, spread: int = 1, arrive_within_min: int = 0
) -> dict[str, Any]:
    """Tests of 20 methods on `spread` times ten stations, and as many times four people.

    They arrive at random within so many minutes from Monday morning on.
    """
    chance = np.random.default_rng(seed)
    methods = [
        (f"m{number}", list(KINDS)[number % len(KINDS)], int(chance.choice((15, 30, 45))))
        for number in range(METHODS)
    ]
    return {
        "now": iso(0),
        "until": iso(7 * DAY_MIN),
        "time_limit_s": 10,
        "people": [_person(number) for number in range(PEOPLE * spread)],
        "stations": [
            {"name": f"{kind} {copy}-{number}", "kind": kind, "set_up_minutes": CHANGE_MIN}
            for copy in range(spread)
            for number, kind in enumerate(STATIONS)
        ],
        "enclosures": [
            {"name": "textile room", "places": PLACES * spread},
            {"name": "plastics room", "places": PLACES * spread},
        ],
        "tests": [
            _test(chance, number, methods[int(chance.integers(METHODS))], arrive_within_min)
            for number in range(tests)
        ],
    }


def iso(minute: int) -> str:
    """Return so many minutes after Monday, 07:00, as a planning document says it."""
    return (MONDAY + timedelta(minutes=minute)).isoformat().replace("+00:00", "Z")


def _person(number: int) -> dict[str, Any]:
    late = 60 * (number % 2)
    days = [
        [iso(day * DAY_MIN + late), iso(day * DAY_MIN + late + SHIFT_MIN)] for day in range(DAYS)
    ]
    return {"name": f"P{number + 1}", "hours": days}


def _test(
    chance: np.random.Generator, number: int, method: tuple[str, str, int], within_min: int
) -> dict[str, Any]:
    name, kind, minutes = method
    run: dict[str, Any] = {"id": "run", "station": kind, "hands_on_minutes": minutes}
    if KINDS[kind]:
        run["set_up"] = str(chance.choice(KINDS[kind]))
    place = {
        "id": "hang",
        "enclosure": str(chance.choice(("textile room", "plastics room"))),
        "places": int(chance.integers(4, 13)),
        "hands_on_minutes": 10,
        "unattended_minutes": int(chance.choice((240, 960, 1440))),
    }
    arrives = int(chance.integers(within_min + 1))
    return {
        "id": f"T{number:03d}",
        "method": name,
        "priority": int(chance.integers(1, 4)),
        "not_before": iso(arrives),
        "due": iso(arrives + int(chance.integers(1500, 4 * DAY_MIN))),
        "steps": [place, run | {"most_minutes": DAY_MIN}],
    }
