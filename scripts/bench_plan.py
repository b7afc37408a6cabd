"""`make bench`: the planner on a busy week, and on 200 made-up laboratories that are checked."""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import time
from collections.abc import Sequence
from typing import Any

from endurant.core.planning.compare import Before, compare
from endurant.core.planning.document import read_plan
from endurant.core.planning.first import first_plan, moved_up, usual_order
from endurant.core.planning.kept import plan_beside
from endurant.core.planning.problem import problem_of
from endurant.core.planning.score import score
from endurant.core.simulate.laboratory import busy_week
from tests.core.made_up_labs import made_up_lab
from tests.core.plan_checker import faults

LAB_S = 2.0
"""What a plan of the laboratory may take."""


def main(wording: Sequence[str] | None = None) -> None:
    """Plan, check, and print what was seen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--labs", type=int, default=200)
    options = parser.parse_args(wording)
    for tests, spread in ((60, 1), (300, 3)):
        document = busy_week(tests, spread=spread)
        began = time.perf_counter()
        problem = problem_of(read_plan(document))
        first = first_plan(problem, usual_order(problem))
        moved_up(first)
        took = time.perf_counter() - began
        left_out, late, changes, *_ = score(first)
        print(f"{tests} tests: first plan in {took:.2f} s, left out {left_out}, ", end="")
        print(f"late {late} min by priority, {changes} changes")
        began = time.perf_counter()
        command = [sys.executable, "-m", "endurant.cli", "plan", "-"]
        text_in = json.dumps(document).encode()
        done = subprocess.run(command, check=True, input=text_in, capture_output=True)
        answer = json.loads(done.stdout)
        print(f"  within {time.perf_counter() - began:.1f} s: ", end="")
        print(f"left out {len(answer['unplanned'])}, late {answer['lateness']} ", end="")
        print(f"(bound {answer['lateness_bound']}), {answer['changes']} changes, ", end="")
        print(f"rules broken: {len(faults(document, answer))}")
        _beside(document, answer)
    broken = sum(bool(_faults_of(seed)) for seed in range(options.labs))
    print(f"{options.labs} made-up laboratories: {broken} plans break a rule")


def _beside(document: Any, answer: Any) -> None:
    """The same week once more: with an urgent test that came, and with a station that went out."""
    before = Before(document, answer)
    urgent = document["tests"][0] | {"id": "one more", "due": document["now"], "priority": 9}
    away = document["stations"][0] | {"away": [[document["now"], document["until"]]]}
    changed: tuple[tuple[str, Any], ...] = (
        ("an urgent test more", {"tests": [urgent, *document["tests"]]}),
        ("a station out", {"stations": [away, *document["stations"][1:]]}),
    )
    for wording, changes in changed:
        other = document | changes | {"time_limit_s": LAB_S}
        began = time.perf_counter()
        beside = plan_beside(other, before)
        took = time.perf_counter() - began
        stayed = compare(before, other, beside).stayed
        print(
            f"  {wording}: again in {took:.1f} s, {100 * stayed:.0f} % of the others stayed, ",
            end="",
        )
        print(f"late {beside['lateness']}, left out {len(beside['unplanned'])}, ", end="")
        print(f"rules broken: {len(faults(other, beside))}")


def _faults_of(seed: int) -> list[str]:
    from endurant.core.planning.plan import plan_document

    document = made_up_lab(seed)
    return faults(document, plan_document(document))


if __name__ == "__main__":
    main()
