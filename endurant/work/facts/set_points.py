"""What an enclosure is set to: from a moment on, with a reason, confirmed by a second person.

A period is counted by the set point of its enclosure when it began. What is set later never
counts backwards.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session, object_session

from endurant.core.conditioning.atmospheres import Atmosphere, find_atmosphere
from endurant.core.lab_tables import atmosphere_by
from endurant.store.tables import Enclosure
from endurant.work.facts.laboratory import known_laboratory, tables_of

POINT = (
    "temperature_c",
    "temperature_tolerance_c",
    "humidity_percent",
    "humidity_tolerance_percent",
)


def atmosphere_in(
    enclosure: Enclosure, least_minutes: float | None = None, at: datetime | None = None
) -> Atmosphere:
    """The atmosphere of an enclosure at a moment, or now, with the min time of a stage."""
    atmosphere_id, point = _setting(enclosure, at)
    usual = atmosphere_here(object_session(enclosure), atmosphere_id)
    lower = usual.least_minutes if least_minutes is None else least_minutes
    return replace(usual, least_minutes=lower, **(point or {}))


def atmosphere_here(session: Session | None, atmosphere_id: str) -> Atmosphere:
    """An atmosphere as the laboratory has it now; raises Invalid for one that is not known."""
    usual = find_atmosphere(atmosphere_id)
    lab = None if session is None else known_laboratory(session)
    return usual if lab is None else atmosphere_by(tables_of(lab), usual.id)


def atmosphere_id_at(enclosure: Enclosure, at: datetime) -> str:
    """Which atmosphere an enclosure kept at a moment."""
    return _setting(enclosure, at)[0]


def has_own_point(enclosure: Enclosure, at: datetime) -> bool:
    """It had a set point of its own at a moment."""
    past = _past(enclosure, at)
    return enclosure.set_point is not None if past is None else bool(past["own"])


def _setting(enclosure: Enclosure, at: datetime | None) -> tuple[str, Mapping[str, Any] | None]:
    past = None if at is None else _past(enclosure, at)
    if past is None:
        return enclosure.atmosphere, enclosure.set_point
    return past["atmosphere"], past["point"]


def _past(enclosure: Enclosure, at: datetime) -> Mapping[str, Any] | None:
    """The setting that was over later than a moment; None where it is still in force."""
    for earlier in enclosure.earlier_settings or []:
        if at < datetime.fromisoformat(earlier["until"]):
            setting: Mapping[str, Any] = earlier
            return setting
    return None


def requested_in_words(enclosure: Enclosure) -> str:
    """The requested set point that waits for confirmation, by whom and why; empty if none does."""
    request = enclosure.requested_setting
    if request is None:
        return ""
    point = replace(atmosphere_in(enclosure), **request["point"]).in_words()
    return f"{point}, requested by {request['by']}: {request['reason']}"
