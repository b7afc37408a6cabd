"""What the values of a specimen were read off: a balance, a caliper, the device at the station."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.bench.events import in_force
from endurant.store.tables import Gauge, Instrument, Specimen
from endurant.work.facts.bench_events import events_of
from endurant.work.facts.run_facts import GaugeFacts


def gauges_read(session: Session, specimen: Specimen) -> list[GaugeFacts]:
    """Return the gauge that the actions name for each value; unknown gauges are left out."""
    read: dict[str, str] = {}
    for event in in_force(events_of(session, specimen.id)):
        read |= {str(name): str(serial) for name, serial in event.facts.get("read", {}).items()}
    names: dict[str, str] = {}
    for table in (Gauge, Instrument):
        rows = session.execute(
            select(table.serial, table.name).where(table.serial.in_(set(read.values())))
        ).all()
        names |= dict(rows)
    return [
        GaugeFacts(reading=reading, name=names[serial], serial=serial)
        for reading, serial in read.items()
        if serial in names
    ]
