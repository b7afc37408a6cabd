"""Racks of impact bars and the heats of the barrel: what is open, in the order it is worked."""

from __future__ import annotations

from datetime import datetime, timedelta

from endurant.core.methods import find_method
from endurant.core.planning.racks import ROOM_C, Rack, Turn, turns_of
from endurant.store import clock
from endurant.store.tables import Test
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.results import document_of
from endurant.work.facts.status import last_run
from endurant.work.facts.test_settings import title_of
from endurant.work.use_cases.planning.lab import open_tests
from endurant.work.use_cases.planning.today import TodayView, day_now

IMPACT = ("iso-180", "iso-179-1", "astm-d256")


class RackTurn(View):
    """A rack in its turn; one at room temperature goes nowhere.

    The times are those of the plan; a test without a place in it has none.
    """

    job_id: int
    test: str
    bars: int
    temperature_c: float
    is_at_room: bool
    pendulum_j: float | None
    goes_in: datetime | None
    soaked_at: datetime | None
    struck_from: datetime | None
    struck_until: datetime | None
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
    """The order in which racks and heats are worked, by the plan that was made last."""
    with transaction() as session:
        now = clock.now()
        tests, _ = open_tests(session)
        starts = _planned_starts(day_now(session, now))
        struck = [test for test in tests if test.method in IMPACT]
        struck.sort(key=lambda test: (test.id not in starts, starts.get(test.id, now)))
        racks: list[RackTurn] = []
        fitted: float | None = None
        for test in struck:
            racks += _turns(test, starts.get(test.id), now, fitted)
            fitted = racks[-1].pendulum_j if racks else None
        return OrderView(racks=racks, heats=_heats(tests))


def _planned_starts(day: TodayView) -> dict[int, datetime]:
    """When each test begins at its station, by the plan."""
    starts: dict[int, datetime] = {}
    for lane in day.lanes:
        for block in lane.blocks if lane.kind == "station" else ():
            if block.test_id is not None:
                first = starts.get(block.test_id, block.start)
                starts[block.test_id] = min(first, block.start)
    return starts


def _turns(
    test: Test, start: datetime | None, now: datetime, fitted: float | None
) -> list[RackTurn]:
    """The racks of a test from its planned start on; without times where it has none."""
    own = _racks(test)
    # The first rack goes into the chamber early enough to be struck at the planned start.
    lead = turns_of(own, now)[0].struck_from - now if own else timedelta()
    begins = max(now, start - lead) if start is not None else now
    return [
        _shown(test, turn, is_planned=start is not None)
        for turn in turns_of(own, begins, fitted_j=fitted)
    ]


def _shown(test: Test, turn: Turn, *, is_planned: bool) -> RackTurn:
    return RackTurn(
        job_id=test.job_id,
        test=turn.rack.test,
        bars=turn.rack.bars,
        temperature_c=turn.rack.temperature_c,
        is_at_room=turn.rack.is_at_room,
        pendulum_j=turn.rack.pendulum_j,
        goes_in=turn.goes_in if is_planned else None,
        soaked_at=turn.soaked_at if is_planned else None,
        struck_from=turn.struck_from if is_planned else None,
        struck_until=turn.struck_until if is_planned else None,
        changes_pendulum=turn.changes_pendulum,
    )


def _name(test: Test) -> str:
    return f"{test.job.number} {title_of(test)}"


def _racks(test: Test) -> list[Rack]:
    """What is left of an impact test, a rack for each temperature that is asked for."""
    left = [specimen for specimen in called_specimens(test) if last_run(specimen) is None]
    temperatures = test.parameters.get("temperatures_c") or [ROOM_C]
    done = [entry.get("temperature_c") for entry in document_of(test)["specimens"]]
    requested = int(test.parameters["specimens_wanted"])
    racks = []
    for temperature_c in temperatures:
        missing = max(requested - done.count(temperature_c), 0)
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
