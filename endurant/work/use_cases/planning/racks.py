"""Racks of impact bars and the heats of the barrel: what is open, in the order it is worked."""

from __future__ import annotations

from datetime import datetime

from endurant.core.methods import find_method
from endurant.core.planning.racks import ROOM_C, Rack, turns_of
from endurant.store import clock
from endurant.store.tables import Test
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.results import document_of
from endurant.work.facts.status import last_run
from endurant.work.use_cases.planning.lab import open_tests

IMPACT = ("iso-180", "iso-179-1", "astm-d256")


class RackTurn(View):
    """A rack in its turn; one at room temperature goes nowhere."""

    job_id: int
    test: str
    bars: int
    temperature_c: float
    pendulum_j: float | None
    goes_in: datetime | None
    served_at: datetime | None
    struck_from: datetime
    struck_until: datetime
    changes_pendulum: bool


class HeatView(View):
    """What is run at one heat of the barrel under one load."""

    temperature_c: float
    load_kg: float
    tests: list[str]
    job_ids: list[int]


class OrderView(View):
    """Impact bars by pendulum and temperature, and melts from low heat to high."""

    racks: list[RackTurn]
    heats: list[HeatView]


def order_of_work() -> OrderView:
    """The order in which racks and heats are worked from now on."""
    with transaction() as session:
        tests, _ = open_tests(session)
        racks = [rack for test in tests if test.method in IMPACT for rack in _racks(test)]
        jobs = {_name(test): test.job_id for test in tests}
        return OrderView(
            racks=[
                RackTurn(
                    job_id=jobs[turn.rack.test],
                    test=turn.rack.test,
                    bars=turn.rack.bars,
                    temperature_c=turn.rack.temperature_c,
                    pendulum_j=turn.rack.pendulum_j,
                    goes_in=turn.goes_in,
                    served_at=turn.served_at,
                    struck_from=turn.struck_from,
                    struck_until=turn.struck_until,
                    changes_pendulum=turn.changes_pendulum,
                )
                for turn in turns_of(racks, clock.now())
            ],
            heats=_heats(tests),
        )


def _name(test: Test) -> str:
    return f"{test.job.number} {find_method(test.method).title}"


def _racks(test: Test) -> list[Rack]:
    """What is left of an impact test, a rack for each temperature that is asked for."""
    left = [specimen for specimen in called_specimens(test) if last_run(specimen) is None]
    temperatures = test.parameters.get("temperatures_c") or [ROOM_C]
    done = [entry.get("temperature_c") for entry in document_of(test)["specimens"]]
    wanted = int(test.parameters["specimens_wanted"])
    racks = []
    for temperature_c in temperatures:
        missing = max(wanted - done.count(temperature_c), 0)
        bars = min(missing, len(left)) if len(temperatures) > 1 else len(left)
        if bars:
            pendulum = test.parameters.get("pendulum_j")
            soak_min = float(test.parameters["soak_min"])
            racks.append(Rack(_name(test), bars, float(temperature_c), pendulum, soak_min))
    return racks


def _heats(tests: list[Test]) -> list[HeatView]:
    """The melts that are open, from low heat to high: a barrel warms faster than it cools."""
    heats: dict[tuple[float, float], list[Test]] = {}
    for test in tests:
        heat, load = test.parameters.get("temperature_c"), test.parameters.get("load_kg")
        is_melt = find_method(test.method).guide.bench == "cuts"
        if is_melt and heat is not None and load is not None and called_specimens(test):
            heats.setdefault((float(heat), float(load)), []).append(test)
    return [
        HeatView(
            temperature_c=heat,
            load_kg=load,
            tests=[_name(test) for test in own],
            job_ids=[test.job_id for test in own],
        )
        for (heat, load), own in sorted(heats.items())
    ]
