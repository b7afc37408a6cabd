"""The check of a barrel's temperature: the sum with its numbers, and its history."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.document import analyse, read_document
from endurant.core.messages import Message, worded
from endurant.core.refusals import Conflict, Invalid
from endurant.core.rounding import in_numbers
from endurant.store.equipment import InstrumentEvent
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.instruments.equipment import note, owned_or_refuse
from endurant.work.use_cases.instruments.failed_checks import BARREL_CHECK, open_by_failed_check

SHOWN = 30


class SensorRequest(RequestBody):
    """What one sensor shows, what the reference shows beside it, and the offset that is set."""

    sensor: Literal["upper", "lower"]
    displayed_c: float = Field(ge=-273, le=600)
    reference_c: float = Field(ge=-273, le=600)
    old_offset_c: float = Field(ge=-100, le=100)


class BarrelRequest(RequestBody):
    """One check of both sensors."""

    sensors: list[SensorRequest] = Field(min_length=1, max_length=2)
    reference_serial: str = Field(min_length=1, max_length=40)


class SensorView(View):
    """The offset of a sensor: the sum in numbers, and whether it is left alone."""

    sensor: str
    displayed_c: float
    reference_c: float
    old_offset_c: float
    difference_c: float
    new_offset_c: float
    text: str
    review: bool


class BarrelView(View):
    """A check of the barrel; `review` where results since the one before are looked at again."""

    at: datetime
    by: str
    sensors: list[SensorView]
    review: bool


def barrel_checks(serial: str) -> list[BarrelView]:
    """The checks of a barrel, the latest first. Raises NotFound."""
    with transaction() as session:
        owned_or_refuse(session, serial)
        return _views(session, serial)


def check_barrel(actor: Actor, serial: str, request: BarrelRequest) -> list[BarrelView]:
    """Write a check down. Raises Conflict for what has no barrel, Invalid for a sensor twice."""
    actor.must("test")
    names = [sensor.sensor for sensor in request.sensors]
    if len(set(names)) < len(names):
        raise Invalid("barrel.sensor-twice", field="sensors")
    figured = [_figured(sensor) for sensor in request.sensors]
    with transaction() as session:
        owned = owned_or_refuse(session, serial)
        if owned.kind != "melt-rig":
            raise Conflict("barrel.none", instrument=owned.row.name)
        readings = "; ".join(f"{view.sensor}: {view.text}" for view in figured)
        note(
            session,
            actor,
            serial,
            BARREL_CHECK,
            Message("log.barrel", {"readings": readings, "reference": request.reference_serial}),
            sensors=[view.model_dump() for view in figured],
            review=any(view.review for view in figured),
        )
        if any(view.review for view in figured):
            open_by_failed_check(session, actor, serial, worded("barrel-line.check-of-the-barrel"))
        return _views(session, serial)


def _figured(sensor: SensorRequest) -> SensorView:
    document = read_document(
        {
            "method": BARREL_CHECK,
            "parameters": {},
            "specimens": [{"label": sensor.sensor, **sensor.model_dump(exclude={"sensor"})}],
        }
    )
    (result,) = analyse(document).specimens
    difference, offset = result.figure("difference"), result.figure("new_offset")
    if difference is None or offset is None:
        raise Invalid("barrel.no-offset", sensor=sensor.sensor, field="sensors")
    flags = {flag.code for flag in result.flags}
    off, old = in_numbers(round(abs(difference), 6)), in_numbers(sensor.old_offset_c)
    if "leave-alone" in flags:
        message = worded("barrel-line.c-off-the-offset-stays-at-c", off=off, old=old)
    else:
        shown, true = in_numbers(sensor.displayed_c), in_numbers(sensor.reference_c)
        message = worded(
            "barrel-line.the-barrel-is-c-than-it-says-new-offset-c",
            off=off,
            difference="hotter" if difference > 0 else "colder",
            old=old,
            true=true,
            shown=shown,
            offset=in_numbers(round(offset, 6)),
        )
    return SensorView(
        **sensor.model_dump(),
        difference_c=round(difference, 6),
        new_offset_c=round(offset, 6),
        text=message,
        review="results-to-review" in flags,
    )


def _views(session: Session, serial: str) -> list[BarrelView]:
    rows = session.scalars(
        select(InstrumentEvent)
        .where(InstrumentEvent.serial == serial, InstrumentEvent.kind == BARREL_CHECK)
        .order_by(InstrumentEvent.id.desc())
        .limit(SHOWN)
    )
    return [
        BarrelView(
            at=row.at,
            by=row.by.name,
            sensors=[SensorView.model_validate(sensor) for sensor in row.facts["sensors"]],
            review=bool(row.facts["review"]),
        )
        for row in rows
    ]
