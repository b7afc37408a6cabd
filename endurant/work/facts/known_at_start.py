"""What is known of a specimen before its first action, beside the parameters of its test."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, object_session

from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import FrameGuide
from endurant.store.tables import BenchEvent, Run, Specimen
from endurant.work.base.memory import Remembered
from endurant.work.facts.called_specimens import due_of
from endurant.work.facts.results import columns_of
from endurant.work.facts.status import last_run, open_void

_max_forces: Remembered[float] = Remembered(400)


def constant_facts(specimen: Specimen) -> dict[str, Any]:
    """Direction and face in words, as a check shows them."""
    direction = specimen.direction
    return {
        "direction": direction.replace("-", " ").capitalize(),
        "face": {"face-out": worded("known.outer-face"), "face-in": worded("known.inner-face")}.get(
            direction, worded("known.face-as-cut")
        ),
    }


def facts_at_first(specimen: Specimen) -> dict[str, Any]:
    """What is settled with the first action of a specimen: its round, or what a pilot gives it."""
    return {**_of_round(specimen), **_of_pilot(specimen)}


def max_force_n(run: Run) -> float:
    """The highest force of a recording in N."""
    max_n = _max_forces.get((run.sha256,)) if run.sha256 else None
    if max_n is None:
        column = (columns_of(run) or {}).get("force_n")
        max_n = 0.0 if column is None or not column.size else float(column.max())
        _max_forces.put((run.sha256,), max_n)
    return max_n


def _of_pilot(specimen: Specimen) -> dict[str, Any]:
    """The pretension that the pilot of this direction gives; or that this one is the pilot."""
    test = specimen.test
    method = find_method(test.method)
    live = method.guide.live
    if not isinstance(live, FrameGuide) or not live.pilot:
        return {}
    if test.parameters.get("pretension_n") is not None:
        return {}
    for other in test.specimens:
        run = last_run(other)
        alike = other.direction == specimen.direction and open_void(other) is None
        if (
            run is None
            or not alike
            or not (run.other_readings or {}).get("pilot")
            or not run.sha256
        ):
            continue
        if other.id == specimen.id:
            return {"is_pilot": True}
        request = method.parameters.model_validate(test.parameters)
        return {"pretension_n": round(request.pretension_from(max_force_n(run)), 1)}
    return {"is_pilot": True}


def _of_round(specimen: Specimen) -> dict[str, Any]:
    """The round, side and state of a specimen whose method calls it by a rule."""
    due = due_of(specimen)
    if due is None:
        return {}
    facts: dict[str, Any] = dict(due.presets)
    if facts.get("state") == "refurbished":
        facts["refurbishing"] = _treatment(specimen)
    return facts


def _treatment(specimen: Specimen) -> str | None:
    """What was said of the refurbishing of an earlier strip of this test."""
    session: Session | None = object_session(specimen)
    if session is None:
        return None
    ids = [other.id for other in specimen.test.specimens]
    row = session.scalar(
        select(BenchEvent)
        .where(BenchEvent.specimen_id.in_(ids), BenchEvent.kind == "refurbished")
        .order_by(BenchEvent.id.desc())
        .limit(1)
    )
    facts: Mapping[str, Any] = row.facts if row is not None else {}
    return facts.get("refurbishing")
