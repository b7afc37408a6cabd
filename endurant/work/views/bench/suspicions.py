"""What looks odd on the trace of a run that is still to be accepted."""

from __future__ import annotations

import numpy as np

from endurant.core.bench.recorded import recorded_entry
from endurant.core.bench.sequence_suspicions import sequence_suspicions
from endurant.core.bench.suspicions import suspicions
from endurant.core.bench.trace import expected_of, sequence_of
from endurant.core.messages import Message
from endurant.core.methods.guide import FrameGuide, PressGuide, RigGuide
from endurant.core.methods.method import Method
from endurant.store.tables import Run, Test
from endurant.work.base.memory import Remembered
from endurant.work.facts.known_at_start import max_force_n
from endurant.work.facts.results import columns_of
from endurant.work.facts.run_facts import RunSettings
from endurant.work.facts.status import (
    last_run,
    open_void,
)
from endurant.work.views.bench.models import (
    SuspicionView,
)

MAX_OTHERS = 8


_looked_at: Remembered[list[SuspicionView]] = Remembered(200)


def suspicion_views(run: Run | None, method: Method, test: Test) -> list[SuspicionView]:
    """What a trace gives away, worked out once for each recording that is still looked at."""
    if run is None or run.state not in ("recorded", "ended") or run.sha256 is None:
        return []
    live = method.guide.live
    if isinstance(live, RigGuide):
        return _burst_time(run, live)
    if isinstance(live, PressGuide):
        return _schedule_unfinished(run, method, test)
    if not isinstance(live, FrameGuide):
        return []
    key = (run.sha256, method.id, repr(test.parameters), len(_kept_before(run)))
    kept = _looked_at.get(key)
    if kept is not None:
        return kept
    columns = columns_of(run) or {}
    if "extension_mm" not in columns or "force_n" not in columns:
        return []
    x, force = columns["extension_mm"], columns["force_n"]
    time_s, strain = columns.get("time_s"), columns.get("strain")
    sequence = sequence_of(method, test.parameters)
    if sequence is None:
        expected = expected_of(method, test.parameters)
        odd = suspicions(x, force, time_s, expected, strain, _others_n(run))
    else:
        odd = [] if time_s is None else sequence_suspicions(x, force, time_s, sequence)
    views = [SuspicionView.model_validate(suspicion) for suspicion in odd]
    _looked_at.put(key, views)
    return views


def _schedule_unfinished(run: Run, method: Method, test: Test) -> list[SuspicionView]:
    """A schedule that was ended early has no readings, and gives no figure."""
    columns = columns_of(run) or {}
    entry = recorded_entry(method, columns)
    if test.parameters.get("test") != "stiffness" or entry.get("readings") is not None:
        return []
    return [
        SuspicionView(
            code="early-end",
            text=Message("suspicion.schedule-short", {"reason": run.end_reason}).text,
            at_x=float(columns["time_s"][-1]) if "time_s" in columns else 0.0,
            at_y=0.0,
        )
    ]


def _burst_time(run: Run, live: RigGuide) -> list[SuspicionView]:
    """A burst that came too early or too late; the rate of the pump decides it."""
    columns = columns_of(run) or {}
    if live.window_s is None or "pressure_kpa" not in columns or "time_s" not in columns:
        return []
    pressure, time_s = columns["pressure_kpa"], columns["time_s"]
    place = int(np.argmax(pressure))
    took_s = float(time_s[place] - time_s[0])
    low, high = live.window_s
    if low <= took_s <= high:
        return []
    message = Message("suspicion.burst-time", {"s": round(took_s, 1), "low": low, "high": high})
    set_to = RunSettings.model_validate(run.settings).setup.get("pump_rate_ml_min")
    if isinstance(set_to, float | int):
        better = round(set_to * took_s / ((low + high) / 2))
        message = message.within("suspicion.pump-rate", rate=better, was=set_to)
    else:
        message = message.within(f"suspicion.pump-{'slower' if took_s < low else 'faster'}")
    return [
        SuspicionView(
            code="burst-time",
            text=message.text,
            at_x=float(time_s[place]),
            at_y=float(pressure[place]),
        )
    ]


def _kept_before(run: Run) -> list[Run]:
    """The runs of the same test and direction that count."""
    kept = [
        last_run(other)
        for other in run.specimen.test.specimens
        if other.direction == run.specimen.direction and open_void(other) is None
    ]
    return [
        other
        for other in kept
        if other is not None and other.id < run.id and other.state == "settled" and other.samples
    ]


def _others_n(run: Run) -> list[float]:
    """The highest force of each of the last few that count."""
    return [max_force_n(other) for other in _kept_before(run)[-MAX_OTHERS:]]
