"""The rules of the house on one page: each with what it means, changed with a reason."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import ATMOSPHERES
from endurant.core.house_tables import AtmosphereRow, HouseTables, read_tables, usual_row
from endurant.core.methods import all_methods
from endurant.core.refusals import Invalid
from endurant.core.writing import DateStyle, DecimalSign, Units, Writing
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, Laboratory, Person
from endurant.work.jobs.states import refuse_stale
from endurant.work.jobs.views import View
from endurant.work.preparation.settings import keep_all_earlier
from endurant.work.record.asked import Asked
from endurant.work.record.house import laboratory, tables_of, writing_of
from endurant.work.record.people import Actor
from endurant.work.record.transactions import transaction

ACTION = "change-house"
WRITTEN = ("decimal_sign", "date_style", "units")
RULES = (
    "rounding",
    "comparison",
    "label_school",
    "conditioning_policy",
    "retest_by",
    "supervisor_releases",
    *WRITTEN,
)
SAYS: Mapping[str, Mapping[str, str]] = {
    "rounding": {
        "half-even": "A tie goes to the even digit: 24.25 is 24.2. Over many it adds nothing.",
        "half-up": "A tie goes away from zero: 24.25 is 24.3, as most are taught at school.",
    },
    "comparison": {
        "as-rounded": "Rounded to the digit of its limit, then compared: 24.96 meets 25.",
        "unrounded": "Compared as it was computed: 24.96 does not meet 25.",
    },
    "label_school": {
        "by-failing-yarn": "A specimen is called after the yarns that fail in it.",
        "by-long-side": "A specimen is called after its long side, whatever it tests.",
    },
    "conditioning_policy": {
        "restart": "After an excursion of the room the time begins anew.",
        "subtract": "The time that a room was out of its tolerance is not counted.",
    },
    "retest_by": {
        "reviewer": "A reviewer or a manager allows a retest, on what remains; both are reported.",
        "manager": "Only a manager allows a retest, on what remains; both are reported.",
    },
    "supervisor_releases": {
        "no": "A supervisor who confirmed what a trainee tested does not release it.",
        "yes": "A supervisor who confirmed what a trainee tested may release it, if she did no "
        "more than that.",
    },
    "decimal_sign": {
        "point": "24.5, as English and most machines write; either is understood when typed.",
        "comma": "24,5, as most of the continent writes; either is understood when typed.",
    },
    "date_style": {
        "named": "27 Nov 2026: nobody takes the day for the month.",
        "dotted": "27.11.2026, day first.",
        "iso": "2026-11-27, which sorts by itself.",
    },
    "units": {
        "metric": "As the methods compute: N, mm, MPa.",
        "both": "Results stand in inch-pound units too: 24.0 N and 5.40 lbf. Limits stay metric.",
    },
}
"""Each school of a rule and what it means; the first is what a new laboratory has."""


class SchoolView(View):
    """One way to follow a rule, and what it means."""

    value: str
    says: str


class RuleView(View):
    """A rule of the house: what it is now, and the schools there are."""

    name: str
    value: str
    schools: list[SchoolView]


class ChangeView(View):
    """An earlier change of the rules."""

    at: datetime
    who: str
    words: str


class HouseView(View):
    """The laboratory, its rules and its tables; `revision` counts their changes.

    `atmospheres` are those that are usual, `properties` what each method gives.
    """

    name: str
    address: str
    revision: int
    rules: list[RuleView]
    tables: HouseTables
    atmospheres: list[AtmosphereRow]
    properties: dict[str, list[str]]
    changes: list[ChangeView]


class HouseAsked(Asked):
    """The laboratory and its rules as they shall be from now on, and why."""

    name: str = Field(min_length=1, max_length=120)
    address: str = Field(min_length=1, max_length=240)
    rounding: Literal["half-even", "half-up"]
    comparison: Literal["as-rounded", "unrounded"]
    label_school: Literal["by-failing-yarn", "by-long-side"]
    conditioning_policy: Literal["restart", "subtract"]
    retest_by: Literal["reviewer", "manager"] = "reviewer"
    supervisor_releases: Literal["no", "yes"] = "no"
    decimal_sign: DecimalSign = "point"
    date_style: DateStyle = "named"
    units: Units = "metric"
    tables: dict[str, Any] | None = Field(
        None, description="Every table of the house; none where they stay as they are."
    )
    revision: int = Field(ge=0)
    reason: str = Field(min_length=1, max_length=300)


def writing() -> Writing:
    """How the house writes figures and days."""
    with transaction() as session:
        return writing_of(laboratory(session))


def house() -> HouseView:
    """The rules as they are, and how they came to be."""
    with transaction() as session:
        return _view(session)


def change_house(actor: Actor, asked: HouseAsked) -> HouseView:
    """Other rules from now on; a job keeps those that it began with.

    Raises Invalid where nothing would be changed, Conflict when someone was first.
    """
    actor.must("manage people")
    with transaction() as session:
        row = laboratory(session)
        session.refresh(row, with_for_update=True)
        refuse_stale("the rules of the house", _view(session).revision, asked.revision)
        given = asked.model_dump(exclude={"revision", "reason", "tables"})
        if asked.tables is not None:
            given["tables"] = read_tables(asked.tables).model_dump(mode="json")
        before = {name: _as_it_is(row, name) for name in given}
        changed = {name: value for name, value in given.items() if before[name] != value}
        if not changed:
            raise Invalid("nothing of the house would be changed")
        if "tables" in changed and _atmospheres(changed) != _atmospheres(before):
            keep_all_earlier(session)
        for name, value in changed.items():
            if name in WRITTEN:
                row.written = (row.written or {}) | {name: value}
            else:
                setattr(row, name, value)
        session.flush()
        words = ", ".join(_said(name, before[name], value) for name, value in changed.items())
        record(
            session,
            person_id=actor.id,
            action=ACTION,
            entity="laboratory",
            entity_id=1,
            words=f"{actor.name} changed {words}: {asked.reason}"[:400],
            before={name: before[name] for name in changed},
            after=changed,
            why=asked.reason,
        )
        return _view(session)


def _view(session: Session) -> HouseView:
    row = laboratory(session)
    entries = session.execute(
        select(AuditEntry, Person)
        .outerjoin(Person, AuditEntry.person_id == Person.id)
        .where(AuditEntry.entity == "laboratory", AuditEntry.action == ACTION)
        .order_by(AuditEntry.id.desc())
    ).all()
    return HouseView(
        name=row.name,
        address=row.address,
        revision=len(entries),
        rules=[
            RuleView(
                name=name,
                value=_as_it_is(row, name),
                schools=[SchoolView(value=value, says=says) for value, says in SAYS[name].items()],
            )
            for name in RULES
        ],
        tables=tables_of(row),
        atmospheres=[usual_row(known) for known in ATMOSPHERES.values()],
        properties={
            name: [known.name for known in method.properties]
            for name, method in all_methods().items()
        },
        changes=[
            ChangeView(
                at=entry.at,
                who=person.name if person else "",
                words=f"{entry.words}{_was(entry.facts)}",
            )
            for entry, person in entries
        ],
    )


def _as_it_is(row: Laboratory, name: str) -> Any:
    if name == "tables":
        return tables_of(row).model_dump(mode="json")
    if name in WRITTEN:
        return getattr(writing_of(row), name)
    return getattr(row, name) or _first(name)


def _atmospheres(given: Mapping[str, Any]) -> Any:
    return given["tables"].get("atmospheres")


def _said(name: str, before: Any, after: Any) -> str:
    """A change in words; of the tables, which of them are others now."""
    if name != "tables":
        return f"{name.replace('_', ' ')} {after}"
    others = [table.replace("_", " ") for table in after if after[table] != before[table]]
    return f"the tables: {', '.join(others)}"


def _first(name: str) -> str:
    """What a rule is while nobody has said otherwise."""
    return next(iter(SAYS[name]), "") if name in SAYS else ""


def _was(facts: str) -> str:
    """What it had been before."""
    before = json.loads(facts).get("before") or {}
    words = ", ".join(
        f"{name.replace('_', ' ')} {value}" for name, value in before.items() if name != "tables"
    )
    return f" (before: {words})" if words else ""
