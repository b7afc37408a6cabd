"""Who is at the keyboard, what they may do, and signing in and out."""

from __future__ import annotations

import hashlib
import secrets
from datetime import datetime, timedelta
from threading import BoundedSemaphore, Lock

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.refusals import Conflict, Forbidden, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import FailedSignIn, Person, SignIn
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction

SESSION_LASTS = timedelta(hours=12)
GUESSES = 8
GUESSES_AT_ADDRESS = 40
GUESSES_WITHIN = timedelta(minutes=10)
MIN_PASSWORD = 10


_hasher = PasswordHasher()
_hashing = BoundedSemaphore(2)
"""Each hash takes 64 MB while it is made: a shift that signs in at once waits a moment."""
_counting = Lock()
"""Guesses are counted one by one."""
_NOBODY = _hasher.hash(secrets.token_hex())


def hash_password(password: str) -> str:
    """An argon2 hash; raises Invalid when the password is too short to keep."""
    if len(password) < MIN_PASSWORD:
        raise Invalid("password.too-short", min=MIN_PASSWORD, field="password")
    return _hasher.hash(password)


def sign_in(login: str, password: str, address: str = "") -> tuple[str, Actor]:
    """A new session: its token, and who it is. Raises Forbidden, the same for either slip.

    `address` is where the request came from; guessing from there is slowed down there alone.
    """
    now = clock.now()
    count_guess(login, address)
    with transaction() as session:
        person = session.scalar(select(Person).where(Person.login == login, Person.active))
        if not password_fits(person, password):
            person = None
        else:
            forget_guesses(session, login, address)
            session.execute(delete(SignIn).where(SignIn.expires_at < now))
        if person is not None:
            token = secrets.token_urlsafe(32)
            session.add(
                SignIn(
                    token_hash=_hash(token),
                    person_id=person.id,
                    created_at=now,
                    expires_at=now + SESSION_LASTS,
                )
            )
            record(
                session,
                person_id=person.id,
                action="sign-in",
                entity="person",
                entity_id=person.id,
                message=Message("audit.sign-in", {"actor": person.name}),
            )
            return token, actor_for(person)
    raise Forbidden("sign-in.wrong")


def count_guess(login: str, address: str) -> None:
    """Count a guess before it is looked at, so that many at once are not all free.

    One that turns out right is forgotten with `forget_guesses`. Raises Conflict for too many.
    """
    now = clock.now()
    with _counting, transaction() as session:
        refuse_guessing(session, login, address, now)
        session.add(FailedSignIn(login=login[:40], address=address[:64], at=now))


def forget_guesses(session: Session, login: str, address: str) -> None:
    """The password was right: what was guessed from there does not count any more."""
    session.execute(
        delete(FailedSignIn).where(
            FailedSignIn.login == login[:40], FailedSignIn.address == address[:64]
        )
    )


def is_own_password(actor: Actor, password: str, place: str) -> bool:
    """True for somebody's own password; each wrong one counts at this place. Raises Conflict."""
    with transaction() as session:
        login = session.get_one(Person, actor.id).login
    count_guess(login, place)
    with transaction() as session:
        person = session.get_one(Person, actor.id)
        fits = password_fits(person, password)
        if fits:
            forget_guesses(session, login, place)
    return fits


def refuse_guessing(session: Session, login: str, address: str, now: datetime) -> None:
    """Raises Conflict when too many wrong passwords came from one place just now.

    They are counted for a name at an address, and for the address over all names: who guesses
    at a colleague's name elsewhere does not lock the colleague out here.
    """
    recent = (
        select(func.count())
        .select_from(FailedSignIn)
        .where(FailedSignIn.address == address[:64], FailedSignIn.at > now - GUESSES_WITHIN)
    )
    by_name = session.scalar(recent.where(FailedSignIn.login == login)) or 0
    by_address = session.scalar(recent) or 0
    if by_name >= GUESSES or by_address >= GUESSES_AT_ADDRESS:
        raise Conflict("sign-in.too-many-tries", login=login, minutes=GUESSES_WITHIN.seconds // 60)


def password_fits(person: Person | None, password: str) -> bool:
    """True when this is the person's password; takes as long when there is no such person."""
    try:
        with _hashing:
            return _hasher.verify(person.password_hash if person else _NOBODY, password)
    except (VerificationError, InvalidHashError):
        return False


def sign_out(token: str) -> None:
    """End the session; an unknown token is no fault."""
    with transaction() as session:
        session.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))


def actor_of(token: str) -> Actor | None:
    """Who holds this session, or None when it has run out."""
    with transaction() as session:
        sign_in = session.get(SignIn, _hash(token))
        if sign_in is None or sign_in.expires_at < clock.now() or not sign_in.person.active:
            return None
        return actor_for(sign_in.person)


def actor_for(person: Person) -> Actor:
    """The person as whoever asks."""
    return Actor(person.id, person.name, person.role, person.supervisor_id)


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
