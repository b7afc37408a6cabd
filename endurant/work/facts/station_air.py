"""The air around a station while it is tested there, from the logger that stands nearest."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.lab_tables import atmosphere_by
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.rounding import in_numbers
from endurant.store import clock
from endurant.store.tables import Enclosure, EnclosureReading, Specimen, Station
from endurant.work.facts.laboratory import tables_for
from endurant.work.facts.run_facts import OutFacts, RoomFacts

NOT_OLDER_THAN = timedelta(minutes=30)
MAX_OUT_MINUTES = 30.0
"""The rule of the lab for what may pass between enclosure and jaws, where no method has one."""


def room_at(session: Session, specimen: Specimen, station: Station | None) -> RoomFacts | None:
    """What the nearest logger read last; None where there is none, or it has been silent."""
    if station is None or station.room_id is None:
        return None
    room = session.get_one(Enclosure, station.room_id)
    reading = session.scalar(
        select(EnclosureReading)
        .where(
            EnclosureReading.enclosure_id == room.id,
            EnclosureReading.at > clock.now() - NOT_OLDER_THAN,
        )
        .order_by(EnclosureReading.at.desc())
        .limit(1)
    )
    if reading is None:
        return RoomFacts(
            room=room.name, departs=worded("device-status.its-logger-has-been-silent-for-half-an")
        )
    return RoomFacts(
        room=room.name,
        at=reading.at,
        temperature_c=reading.temperature_c,
        humidity_percent=reading.humidity_percent,
        departs=_departs(specimen, reading),
    )


def out_of_enclosure(specimen: Specimen, room: RoomFacts | None, now: datetime) -> OutFacts | None:
    """Time since it left its last conditioning location; None if it was never in one.

    In a room that is kept to the atmosphere of its method it may lie as long as it likes.
    """
    taken = [period.removed_at for period in specimen.periods]
    if not taken:
        return None
    left_at = None if None in taken else max(at for at in taken if at is not None)
    minutes = 0.0 if left_at is None else (now - left_at) / timedelta(minutes=1)
    is_kept = room is not None and room.at is not None and not room.departs
    return OutFacts(
        minutes=round(minutes, 1),
        most_minutes=MAX_OUT_MINUTES,
        too_long=minutes > MAX_OUT_MINUTES and not is_kept,
    )


def _departs(specimen: Specimen, reading: EnclosureReading) -> str:
    """What lies outside the atmosphere that the method asks for; empty where nothing does."""
    request = find_method(specimen.test.method).guide.atmosphere
    if request is None:
        return ""
    requested = atmosphere_by(tables_for(specimen.test.job), request)
    off = []
    if requested.is_off_temperature(reading.temperature_c):
        off.append(f"{in_numbers(reading.temperature_c)} °C")
    humidity = reading.humidity_percent
    if humidity is not None and requested.is_off_humidity(humidity):
        off.append(f"{in_numbers(humidity)} %RH")
    return (
        worded("device-status.outside", off=" and ".join(off), in_words=requested.in_words())
        if off
        else ""
    )
