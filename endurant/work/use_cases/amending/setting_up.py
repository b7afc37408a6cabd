"""What is set at the bench: pendulum, cut interval, load cell, diaphragm, from what the lab has."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.equipment import StationSetUp
from endurant.store.tables import Station, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.models import TestView
from endurant.work.facts.results import settled_results, test_figures
from endurant.work.facts.status import (
    blank_of,
    refuse_released,
    refuse_stale,
    test_or_refuse,
)
from endurant.work.facts.test_settings import set_up_names, with_set_up
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.amending.amending import take_off_the_sheet


class EarlierSetUp(View):
    """What was last set up for the same method at a station, or by hand."""

    station: str
    job_number: str
    at: datetime
    parameters: dict[str, Any]


class SetUpRequest(RequestBody):
    """Other set-up; a reason once specimens count that were tested under the one before."""

    parameters: dict[str, Any] = Field(max_length=40)
    revision: int
    reason: str = Field("", max_length=300)


def set_up(actor: Actor, test_id: int, request: SetUpRequest) -> TestView:
    """Settle parameters that exist only at the bench.

    Raises Conflict when someone was first, and once specimens count unless a reason is given:
    the report then names those that were tested before.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale("this test", test.revision, request.revision)
        change_set_up(session, actor, test, request.parameters, request.reason.strip())
        return test_view(session, test)


def change_set_up(
    session: Session,
    actor: Actor,
    test: Test,
    given: dict[str, Any],
    why: str,
    *,
    missing: Sequence[str] = (),
) -> None:
    """Other set-up for a test, with its entry in the audit trail.

    Parameters that are `missing` may be entered too, whoever settles them otherwise.
    """
    counting = [
        settled_result.label
        for settled_result in settled_results(test, test_figures(test)[0])
        if settled_result.enters
    ]
    changed = with_set_up(test, given, missing)
    if counting and not why:
        raise Conflict("set-up.used", specimens=list(counting))
    before = {name: test.parameters.get(name) for name in given}
    blank = blank_of(test)
    test.parameters = changed
    if blank_of(test) != blank:
        take_off_the_sheet(test.job, test)
    test.revision += 1
    session.flush()
    changes = [f"{name} {changed[name]}" for name in given]
    record(
        session,
        person_id=actor.id,
        action="set-up",
        entity="test",
        entity_id=test.id,
        job_id=test.job_id,
        message=Message(
            "audit.set-up",
            {"actor": actor.name, "method": find_method(test.method).title, "changes": changes},
        ),
        before=before,
        after={"set_up": given, "tested_before": counting},
        why=why or None,
    )


def earlier_set_ups(test_id: int) -> list[EarlierSetUp]:
    """What was set up for this method at each station, the latest first. Raises NotFound."""
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        rows = session.scalars(
            select(StationSetUp)
            .where(StationSetUp.method == test.method, StationSetUp.job_number != test.job.number)
            .order_by(StationSetUp.at.desc())
        ).all()
        names = {row.id: row.name for row in session.scalars(select(Station))}
        known = set_up_names(find_method(test.method))
        return [
            EarlierSetUp(
                station=names.get(row.station, ""),
                job_number=row.job_number,
                at=row.at,
                parameters={name: row.parameters[name] for name in known if name in row.parameters},
            )
            for row in rows
        ]


def remember_set_up(session: Session, test: Test, station_id: int | None) -> None:
    """Keep what is set up for this method at this station, for the next test of it."""
    names = set_up_names(find_method(test.method))
    parameters = {
        name: test.parameters[name] for name in names if test.parameters.get(name) is not None
    }
    if not parameters:
        return
    key = (test.method, station_id or 0)
    known = session.get(StationSetUp, key)
    is_same = known is not None and known.parameters == parameters
    if known is not None and is_same and known.job_number == test.job.number:
        return
    latest = {"parameters": parameters, "job_number": test.job.number, "at": clock.now()}
    session.execute(
        insert(StationSetUp)
        .values(method=key[0], station=key[1], **latest)
        .on_duplicate_key_update(**latest)
    )
