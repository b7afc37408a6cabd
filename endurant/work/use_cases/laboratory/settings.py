"""The rules of the laboratory on one page: each with what it means, changed with a reason.

A rule or table that enters a figure, a verdict or a release holds once a second person has
confirmed it; a name, an address or a way to write holds at once.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import ATMOSPHERES
from endurant.core.lab_tables import AtmosphereRow, LabTables, read_tables, usual_row
from endurant.core.messages import Message, worded
from endurant.core.methods import all_methods
from endurant.core.refusals import Conflict, Forbidden, Invalid
from endurant.core.writing import DateStyle, DecimalSign, Units, Writing
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import AuditEntry, Laboratory, Person
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.laboratory import laboratory, tables_of, writing_of
from endurant.work.facts.status import refuse_stale
from endurant.work.use_cases.preparation.set_points import keep_all_earlier

CHANGED = "change-house"
PROPOSED = "propose-house"
DECLINED = "decline-house"
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
TABLES = tuple(LabTables.model_fields)
AT_ONCE = ("name", "address", "hours", "shut", *WRITTEN)
"""What a manager changes alone, since no result and no verdict depends on it."""
SAYS: Mapping[str, Mapping[str, str]] = {
    "rounding": {
        "half-even": worded("setting.a-tie-goes-to-the-even-digit-24-25-is-24"),
        "half-up": worded("setting.a-tie-goes-away-from-zero-24-25-is-24-3"),
    },
    "comparison": {
        "as-rounded": worded("setting.rounded-to-the-digit-of-its-limit-then"),
        "unrounded": worded("setting.compared-unrounded-24-96-does-not-meet-25"),
    },
    "label_school": {
        "by-failing-yarn": worded("setting.a-specimen-is-called-after-the-yarns-that"),
        "by-long-side": worded("setting.a-specimen-is-called-after-its-long-side"),
    },
    "conditioning_policy": {
        "restart": worded("setting.after-an-excursion-of-the-room-the-time"),
        "subtract": worded("setting.the-time-out-of-tolerance-is-not-counted"),
    },
    "retest_by": {
        "reviewer": worded("setting.a-reviewer-or-a-manager-allows-a-retest"),
        "manager": worded("setting.only-a-manager-allows-a-retest-on-the"),
    },
    "supervisor_releases": {
        "no": worded("setting.a-supervisor-who-confirmed-tests-of-a"),
        "yes": worded("setting.a-supervisor-who-only-confirmed-tests-of"),
    },
    "decimal_sign": {
        "point": worded("setting.24-5-both-forms-can-be-typed"),
        "comma": worded("setting.24-5-as-most-of-the-continent-writes"),
    },
    "date_style": {
        "named": worded("setting.27-nov-2026-day-and-month-cannot-be"),
        "dotted": worded("setting.27-11-2026-day-first"),
        "iso": worded("setting.2026-11-27-which-sorts-by-itself"),
    },
    "units": {
        "metric": worded("setting.as-the-methods-compute-n-mm-mpa"),
        "both": worded("setting.results-stand-in-inch-pound-units-too-24"),
    },
}
"""Each school of a rule and what it means; the first is what a new laboratory has."""


class SchoolView(View):
    """One way to follow a rule, and what it means."""

    value: str
    text: str


class RuleView(View):
    """A rule of the laboratory: what it is now, and the schools there are."""

    name: str
    value: str
    schools: list[SchoolView]


class ChangeView(View):
    """An earlier change of the rules."""

    at: datetime
    who: str
    text: str


class ProposedRules(View):
    """Rules that are proposed, by whom, when and why; nobody has confirmed them."""

    text: str
    by: str
    by_id: int
    at: datetime
    reason: str


class LabSettingsView(View):
    """The laboratory, its rules and its tables; `revision` counts their changes and proposals.

    `atmospheres` are those that are usual, `properties` what each method gives.
    """

    name: str
    address: str
    revision: int
    rules: list[RuleView]
    tables: LabTables
    atmospheres: list[AtmosphereRow]
    properties: dict[str, list[str]]
    proposed: ProposedRules | None
    changes: list[ChangeView]


class LabSettingsRequest(RequestBody):
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
        None, description="Every table of the laboratory; none where they stay as they are."
    )
    revision: int = Field(ge=0)
    reason: str = Field(min_length=1, max_length=300)


class LabSettingsSeen(RequestBody):
    """The proposal that somebody has read, by the revision of the rules."""

    revision: int = Field(ge=0)


def writing() -> Writing:
    """How the laboratory writes figures and days."""
    with transaction() as session:
        return writing_of(laboratory(session))


def lab_settings() -> LabSettingsView:
    """The rules as they are, and how they came to be."""
    with transaction() as session:
        return _view(session)


def change_lab_settings(actor: Actor, request: LabSettingsRequest) -> LabSettingsView:
    """Change what holds at once and propose the rest; a job keeps the rules that it began with.

    Raises Invalid where nothing would be changed, Conflict when someone was first.
    """
    actor.must("manage-people")
    with transaction() as session:
        row = _locked(session, request.revision)
        given = request.model_dump(exclude={"revision", "reason", "tables"})
        if request.tables is not None:
            given |= read_tables(request.tables).model_dump(mode="json")
        changed = {name: value for name, value in given.items() if _as_it_is(row, name) != value}
        if not changed:
            raise Invalid("settings.nothing-changed")
        at_once = {name: value for name, value in changed.items() if name in AT_ONCE}
        if at_once:
            message = _of_change("changed", actor, _changes_in_words(row, at_once))
            _apply(session, actor, at_once, message, request.reason)
        proposed = {name: value for name, value in changed.items() if name not in AT_ONCE}
        if proposed:
            _propose(session, actor, proposed, request.reason)
        return _view(session)


def confirm_lab_settings(actor: Actor, seen: LabSettingsSeen) -> LabSettingsView:
    """What somebody else proposed holds from now on.

    Raises Conflict where nothing is proposed, Forbidden for the person who proposed it.
    """
    actor.must("equip")
    with transaction() as session:
        row = _locked(session, seen.revision)
        proposed = _proposed(row)
        if proposed["by_id"] == actor.id:
            raise Forbidden("settings.own-proposal", person=actor.name)
        row.proposed = None
        changes = _changes_in_words(row, proposed["rules"])
        message = _of_change("confirmed", actor, changes, proposed_by=proposed["by"])
        _apply(session, actor, proposed["rules"], message, proposed["reason"])
        return _view(session)


def decline_lab_settings(actor: Actor, seen: LabSettingsSeen) -> LabSettingsView:
    """The rules stay as they are; raises Conflict where nothing is proposed."""
    actor.must("equip")
    with transaction() as session:
        row = _locked(session, seen.revision)
        proposed = _proposed(row)
        row.proposed = None
        changes = _changes_in_words(row, proposed["rules"])
        message = _of_change("declined", actor, changes, proposed_by=proposed["by"])
        _note(session, actor, DECLINED, message)
        return _view(session)


def _locked(session: Session, revision: int) -> Laboratory:
    row = laboratory(session)
    session.refresh(row, with_for_update=True)
    refuse_stale(worded("setting.the-lab-settings"), len(_changes(session)), revision)
    return row


def _proposed(row: Laboratory) -> dict[str, Any]:
    if row.proposed is None:
        raise Conflict("settings.nothing-proposed")
    return row.proposed


def _propose(session: Session, actor: Actor, rules: dict[str, Any], reason: str) -> None:
    row = laboratory(session)
    row.proposed = {
        "rules": rules,
        "reason": reason,
        "by_id": actor.id,
        "by": actor.name,
        "at": clock.now().isoformat(),
    }
    message = _of_change("proposed", actor, _changes_in_words(row, rules))
    before = {name: _as_it_is(row, name) for name in rules}
    _note(session, actor, PROPOSED, message, reason, before=before, after=rules)


def _apply(
    session: Session, actor: Actor, rules: Mapping[str, Any], message: Message, reason: str
) -> None:
    row = laboratory(session)
    before = {name: _as_it_is(row, name) for name in rules}
    if "atmospheres" in rules:
        keep_all_earlier(session)
    for name, value in rules.items():
        if name in WRITTEN:
            row.written = (row.written or {}) | {name: value}
        elif name in TABLES:
            row.tables = tables_of(row).model_dump(mode="json") | {name: value}
        else:
            setattr(row, name, value)
    _note(session, actor, CHANGED, message, reason, before=before, after=rules)


def _of_change(what: str, actor: Actor, changes: Sequence[str], **more: str) -> Message:
    return Message(f"audit.settings-{what}", {"actor": actor.name, "changes": changes, **more})


def _note(
    session: Session,
    actor: Actor,
    action: str,
    message: Message,
    reason: str | None = None,
    *,
    before: Mapping[str, Any] | None = None,
    after: Mapping[str, Any] | None = None,
) -> None:
    session.flush()
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="laboratory",
        entity_id=1,
        message=message.within("audit.with-reason", why=reason) if reason else message,
        before=before,
        after=after,
        why=reason,
    )


def _changes(session: Session) -> list[tuple[AuditEntry, Person | None]]:
    """Every change and proposal of the rules, the newest first, and who made it."""
    rows = session.execute(
        select(AuditEntry, Person)
        .outerjoin(Person, AuditEntry.person_id == Person.id)
        .where(
            AuditEntry.entity == "laboratory",
            AuditEntry.action.in_((CHANGED, PROPOSED, DECLINED)),
        )
        .order_by(AuditEntry.id.desc())
    )
    return [(entry, person) for entry, person in rows]


def _view(session: Session) -> LabSettingsView:
    row = laboratory(session)
    entries = _changes(session)
    return LabSettingsView(
        name=row.name,
        address=row.address,
        revision=len(entries),
        rules=[
            RuleView(
                name=name,
                value=_as_it_is(row, name),
                schools=[
                    SchoolView(value=value, text=message) for value, message in SAYS[name].items()
                ],
            )
            for name in RULES
        ],
        tables=tables_of(row),
        atmospheres=[usual_row(known) for known in ATMOSPHERES.values()],
        properties={
            name: [known.name for known in method.properties]
            for name, method in all_methods().items()
        },
        proposed=_proposal(row),
        changes=[
            ChangeView(
                at=entry.at,
                who=person.name if person else "",
                text=entry.text,
            )
            for entry, person in entries
        ],
    )


def _as_it_is(row: Laboratory, name: str) -> Any:
    if name in TABLES:
        return tables_of(row).model_dump(mode="json")[name]
    if name in WRITTEN:
        return getattr(writing_of(row), name)
    return getattr(row, name) or _first(name)


def _proposal(row: Laboratory) -> ProposedRules | None:
    if row.proposed is None:
        return None
    facts = {name: row.proposed[name] for name in ("by", "by_id", "at", "reason")}
    return ProposedRules(text=", ".join(_changes_in_words(row, row.proposed["rules"])), **facts)


def _changes_in_words(row: Laboratory, rules: Mapping[str, Any]) -> list[str]:
    return [_said(name, _as_it_is(row, name), value) for name, value in rules.items()]


def _said(name: str, before: Any, after: Any) -> str:
    """A change in words; of a table only that it is another one."""
    title = name.replace("_", " ")
    if isinstance(after, str):
        return worded("setting.from-to", title=title, before=before, after=after)
    return worded("setting.the-table-of", title=title)


def _first(name: str) -> str:
    """What a rule is while nobody has said otherwise."""
    return next(iter(SAYS[name]), "") if name in SAYS else ""
