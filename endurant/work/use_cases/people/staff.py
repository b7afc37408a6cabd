"""The people of the laboratory: who there is, in which role, under whom, authorised for what."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Forbidden, Invalid, NotFound
from endurant.core.working_hours import AwayRow, WorkingHours
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.authorisations import Authorisation
from endurant.store.tables import Person, SignIn
from endurant.work.base.actors import Actor, Role
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.use_cases.people.sign_in import hash_password, is_own_password

LOGIN = r"^[a-z][a-z0-9._-]*$"


class AuthorisationView(View):
    """The authorisations of a person, from when until when, and who gave them."""

    id: int
    method: str
    since: datetime
    until: datetime | None
    by: str
    holds: bool


class PersonView(View):
    """Someone who works here."""

    id: int
    login: str
    name: str
    role: str
    active: bool
    supervisor_id: int | None
    supervisor: str | None
    hours: WorkingHours | None
    away: list[AwayRow]
    authorised: list[AuthorisationView]


class PersonRequest(RequestBody):
    """Someone new."""

    login: str = Field(min_length=2, max_length=40, pattern=LOGIN)
    name: str = Field(min_length=1, max_length=80)
    role: Role
    password: str = Field(min_length=1, max_length=200)


class PersonChanged(RequestBody):
    """Another name, role or supervisor, or whether they still work here."""

    name: str = Field(min_length=1, max_length=80)
    role: Role
    active: bool
    supervisor_id: int | None = None


class HoursRequest(RequestBody):
    """The working hours of a person; without their own, those of the laboratory."""

    hours: WorkingHours | None = None
    away: list[AwayRow] = Field(default_factory=list, max_length=60)


class PasswordRequest(RequestBody):
    """A new password; one's own asks for the old one too."""

    password: str = Field(min_length=1, max_length=200)
    old_password: str = Field("", max_length=200)


class AuthorisationRequest(RequestBody):
    """A method that a person may run from now on, until a day if one is given."""

    method: str = Field(max_length=40)
    until: Moment | None = None


def people() -> list[PersonView]:
    """Everyone, those who still work here first."""
    with transaction() as session:
        return _views(session)


def add(actor: Actor, request: PersonRequest) -> list[PersonView]:
    """Someone new. Raises Conflict when the login is taken, Invalid for a short password."""
    actor.must("manage-people")
    person = Person(
        login=request.login,
        name=request.name,
        role=request.role,
        password_hash=hash_password(request.password),
        active=True,
    )
    with transaction() as session:
        if session.scalar(select(Person.id).where(Person.login == request.login)) is not None:
            raise Conflict("person.login-taken", login=request.login)
        session.add(person)
        _note(session, actor, person, "add-person", {"role": request.role})
        return _views(session)


def change(actor: Actor, person_id: int, request: PersonChanged) -> list[PersonView]:
    """Another name, role or supervisor; someone who left may not sign in any more.

    Raises Conflict for what would leave nobody who manages people, and for who would lock
    themselves out; Invalid for a supervisor that cannot be one.
    """
    actor.must("manage-people")
    with transaction() as session:
        # All rows are locked in their order: two managers cannot take each other's role at once.
        everyone = session.scalars(select(Person).order_by(Person.id).with_for_update()).all()
        person = _person_or_refuse(session, person_id)
        _refuse_lockout(actor, person, request, everyone)
        _refuse_supervisor(session, person, request)
        before = {"name": person.name, "role": person.role, "active": person.active}
        person.name, person.role, person.active = request.name, request.role, request.active
        person.supervisor_id = request.supervisor_id if request.role == "trainee" else None
        if not request.active:
            session.execute(delete(SignIn).where(SignIn.person_id == person.id))
        after = request.model_dump()
        _note(session, actor, person, "change-person", {"role": request.role}, before, after)
        session.flush()
        return _views(session)


def set_hours(actor: Actor, person_id: int, request: HoursRequest) -> list[PersonView]:
    """Set the working hours and absences of a person. Raises NotFound."""
    actor.must("manage-people")
    with transaction() as session:
        person = _person_or_refuse(session, person_id)
        before: dict[str, object] = {"hours": person.hours, "away": person.away}
        person.hours = None if request.hours is None else request.hours.model_dump(mode="json")
        person.away = [row.model_dump(mode="json") for row in request.away] or None
        after: dict[str, object] = {"hours": person.hours, "away": person.away}
        _note(session, actor, person, "set-hours", {}, before, after)
        session.flush()
        return _views(session)


def own_hours(person: Person) -> WorkingHours | None:
    """A person's own hours; None for those of the laboratory."""
    if person.hours is None:
        return None
    return WorkingHours.model_validate_json(json.dumps(person.hours))


def own_absences(person: Person) -> list[AwayRow]:
    """The days on which somebody is away."""
    return [AwayRow.model_validate_json(json.dumps(row)) for row in person.away or []]


def set_password(actor: Actor, person_id: int, request: PasswordRequest) -> None:
    """A new password: one's own with the old one, another's by who manages people.

    Whoever is signed in with the old one is signed out. Raises Forbidden.
    """
    is_own = person_id == actor.id
    if is_own and not is_own_password(actor, request.old_password or "", f"change by {actor.id}"):
        raise Forbidden("password.wrong")
    if not is_own:
        actor.must("manage-people")
    with transaction() as session:
        person = _person_or_refuse(session, person_id)
        person.password_hash = hash_password(request.password)
        session.execute(delete(SignIn).where(SignIn.person_id == person.id))
        _note(session, actor, person, "set-password", {})


def authorise(actor: Actor, person_id: int, request: AuthorisationRequest) -> list[PersonView]:
    """Somebody else may run a method.

    Raises Conflict when they may already, Invalid for no method, Forbidden for oneself.
    """
    actor.must("equip")
    method = find_method(request.method)
    if person_id == actor.id:
        raise Forbidden("authorisation.self")
    with transaction() as session:
        person = _person_or_refuse(session, person_id)
        now = clock.now()
        if request.until is not None and request.until <= now:
            raise Invalid("authorisation.ends-in-past", field="until")
        if any(row.person_id == person_id for row in _holding(session, method.id)):
            raise Conflict("authorisation.exists", person=person.name, method=method.id)
        session.add(
            Authorisation(
                person_id=person.id,
                method=method.id,
                since=now,
                until=request.until,
                by_id=actor.id,
            )
        )
        _note(session, actor, person, "authorise", {"method": method.id})
        session.flush()
        return _views(session)


def withdraw(actor: Actor, authorisation_id: int) -> list[PersonView]:
    """An authorisation ends. Raises NotFound."""
    actor.must("equip")
    with transaction() as session:
        row = session.get(Authorisation, authorisation_id, with_for_update=True)
        if row is None or row.withdrawn_at is not None:
            raise NotFound("authorisation.unknown", authorisation_id=authorisation_id)
        row.withdrawn_at = clock.now()
        _note(session, actor, row.person, "end-authorisation", {"method": row.method})
        session.flush()
        return _views(session)


def refuse_unauthorised(session: Session, actor: Actor, method_id: str) -> None:
    """Raises Forbidden for a method that others are authorised for, and this person is not.

    A method that nobody is authorised for is open to everyone who tests; a trainee tests as
    the supervisor may.
    """
    holding = _holding(session, method_id)
    allowed = {row.person_id for row in holding}
    if not holding or actor.id in allowed or actor.supervisor_id in allowed:
        return
    names = ", ".join(sorted({row.person.name for row in holding}))
    raise Forbidden("authorisation.missing", person=actor.name, method=method_id, authorised=names)


def _holding(session: Session, method_id: str) -> Sequence[Authorisation]:
    now = clock.now()
    return session.scalars(
        select(Authorisation)
        .join(Person, Authorisation.person_id == Person.id)
        .where(
            Authorisation.method == method_id,
            Authorisation.withdrawn_at.is_(None),
            or_(Authorisation.until.is_(None), Authorisation.until > now),
            Person.active,
        )
    ).all()


def _refuse_lockout(
    actor: Actor, person: Person, request: PersonChanged, everyone: Sequence[Person]
) -> None:
    periods = request.active and request.role == "manager"
    if person.id == actor.id and not periods:
        raise Conflict("person.lockout")
    others = [each for each in everyone if each.role == "manager" and each.active]
    if not periods and [each.id for each in others] == [person.id]:
        raise Conflict("person.last-manager", person=person.name)


def _refuse_supervisor(session: Session, person: Person, request: PersonChanged) -> None:
    if request.supervisor_id is None:
        return
    if request.role != "trainee":
        raise Invalid("person.supervisor-not-needed", role=request.role, field="supervisor_id")
    supervisor = session.get(Person, request.supervisor_id)
    if supervisor is None or not supervisor.active or supervisor.role == "trainee":
        raise Invalid("person.supervisor-trainee", field="supervisor_id")


def _person_or_refuse(session: Session, person_id: int) -> Person:
    person = session.get(Person, person_id)
    if person is None:
        raise NotFound("person.unknown", person_id=person_id)
    return person


def _views(session: Session) -> list[PersonView]:
    now = clock.now()
    rows = session.scalars(select(Person).order_by(Person.active.desc(), Person.name)).all()
    names = {row.id: row.name for row in rows}
    granted: dict[int, list[AuthorisationView]] = {}
    for row in session.scalars(
        select(Authorisation)
        .where(Authorisation.withdrawn_at.is_(None))
        .order_by(Authorisation.method)
    ):
        granted.setdefault(row.person_id, []).append(
            AuthorisationView(
                id=row.id,
                method=row.method,
                since=row.since,
                until=row.until,
                by=row.by.name,
                holds=row.until is None or row.until > now,
            )
        )
    return [
        PersonView(
            id=row.id,
            login=row.login,
            name=row.name,
            role=row.role,
            active=row.active,
            supervisor_id=row.supervisor_id,
            supervisor=names.get(row.supervisor_id) if row.supervisor_id else None,
            hours=own_hours(row),
            away=own_absences(row),
            authorised=granted.get(row.id, []),
        )
        for row in rows
    ]


PersonAction = Literal[
    "add-person",
    "change-person",
    "set-password",
    "authorise",
    "set-hours",
    "end-authorisation",
]


def _note(
    session: Session,
    actor: Actor,
    person: Person,
    action: PersonAction,
    about: Mapping[str, str],
    before: dict[str, object] | None = None,
    after: dict[str, object] | None = None,
) -> None:
    session.flush()
    code = f"audit.{action}"
    if action == "change-person" and not person.active:
        code = "audit.close-account"
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="person",
        entity_id=person.id,
        message=Message(code, {"actor": actor.name, "person": person.name, **about}),
        before=before,
        after=after,
    )
