"""`make bench`: the planner on a busy week, and on 200 made-up laboratories that are checked."""

from __future__ import annotations

import argparse
import json
import random
import subprocess
import sys
import time
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan, moved_up, usual_order
from endurant.core.planning.problem import problem_of
from endurant.core.planning.score import score
from tests.core.made_up_labs import made_up_lab
from tests.core.plan_checker import faults

NOW = datetime(2026, 3, 2, 7, tzinfo=UTC)
KINDS = {
    "frame": ("jaws 50", "jaws 60", "leg"),
    "pendulum": ("1 J", "5.5 J"),
    "melt": ("190", "230"),
    "cabinet": (),
    "burst": ("ring 50", "ring 100"),
    "rub": (),
}
STATIONS = ("frame", "frame", "frame", "pendulum", "melt", "cabinet", "burst", "rub", "rub", "rub")
METHODS = 20
PEOPLE, DAYS = 4, 5


def busy_week(tests: int, seed: int = 1, spread: int = 1) -> dict[str, Any]:
    """Tests of 20 methods on `spread` times ten stations, and as many times four people."""
    chance = random.Random(seed)
    methods = [
        (f"m{number}", list(KINDS)[number % len(KINDS)], chance.choice((15, 30, 45)))
        for number in range(METHODS)
    ]
    return {
        "now": _iso(0),
        "until": _iso(7 * 1440),
        "time_limit_s": 10,
        "people": [_person(number) for number in range(PEOPLE * spread)],
        "stations": [
            {"name": f"{kind} {copy}-{number}", "kind": kind, "set_up_minutes": 15}
            for copy in range(spread)
            for number, kind in enumerate(STATIONS)
        ],
        "enclosures": [
            {"name": "textile room", "places": 120 * spread},
            {"name": "plastics room", "places": 120 * spread},
        ],
        "tests": [_test(chance, number, chance.choice(methods)) for number in range(tests)],
    }


def _iso(minute: int) -> str:
    return (NOW + timedelta(minutes=minute)).isoformat().replace("+00:00", "Z")


def _person(number: int) -> dict[str, Any]:
    late = 60 * (number % 2)
    days = [[_iso(day * 1440 + late), _iso(day * 1440 + late + 510)] for day in range(DAYS)]
    return {"name": f"P{number + 1}", "hours": days}


def _test(chance: random.Random, number: int, method: tuple[str, str, int]) -> dict[str, Any]:
    name, kind, minutes = method
    run: dict[str, Any] = {"id": "run", "station": kind, "hands_on_minutes": minutes}
    if KINDS[kind]:
        run["set_up"] = chance.choice(KINDS[kind])
    room = chance.choice(("textile room", "plastics room"))
    hang = {"id": "hang", "enclosure": room, "places": chance.randint(4, 12)}
    hang |= {"hands_on_minutes": 10, "unattended_minutes": chance.choice((240, 960, 1440))}
    return {
        "id": f"T{number:03d}",
        "method": name,
        "priority": chance.randint(1, 3),
        "due": _iso(chance.randint(1500, 6 * 1440)),
        "steps": [hang, run | {"most_minutes": 1440}],
    }


def main(words: Sequence[str] | None = None) -> None:
    """Plan, check, and print what was seen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--labs", type=int, default=200)
    options = parser.parse_args(words)
    for tests, spread in ((60, 1), (300, 3)):
        document = busy_week(tests, spread=spread)
        began = time.perf_counter()
        problem = problem_of(read_plan(document))
        first = first_plan(problem, usual_order(problem))
        moved_up(first)
        took = time.perf_counter() - began
        left_out, late, changes, _ = score(first)
        print(f"{tests} tests: first plan in {took:.2f} s, left out {left_out}, ", end="")
        print(f"late {late} min by priority, {changes} changes")
        began = time.perf_counter()
        command = [sys.executable, "-m", "endurant.cli", "plan", "-"]
        words_in = json.dumps(document).encode()
        done = subprocess.run(command, check=True, input=words_in, capture_output=True)
        answer = json.loads(done.stdout)
        print(f"  within {time.perf_counter() - began:.1f} s: ", end="")
        print(f"left out {len(answer['unplanned'])}, late {answer['lateness']} ", end="")
        print(f"(bound {answer['lateness_bound']}), {answer['changes']} changes, ", end="")
        print(f"rules broken: {len(faults(document, answer))}")
    broken = sum(bool(_faults_of(seed)) for seed in range(options.labs))
    print(f"{options.labs} made-up laboratories: {broken} plans break a rule")


def _faults_of(seed: int) -> list[str]:
    from endurant.core.planning.plan import plan_document

    document = made_up_lab(seed)
    return faults(document, plan_document(document))


if __name__ == "__main__":
    main()
