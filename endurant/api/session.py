"""Who is asking: the session cookie, and the guards around it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from re import Pattern
from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Depends
from fastapi.requests import HTTPConnection
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send
from starlette.types import Message as ASGIMessage

from endurant.api.problems import SAFETY, SignedOut, problem
from endurant.core.messages import Message
from endurant.work.base.actors import Actor
from endurant.work.use_cases.people.sign_in import actor_of

COOKIE = "endurant"
FILE_BYTES = 80_000_000
"""Of a document or a file, where a route says that it takes one."""
FORM_BYTES = 2_000_000
MAX_BEFORE_SIGN_IN = 64_000


def signed_in(connection: HTTPConnection) -> Actor:
    """The person behind the cookie, as the record has it now; raises SignedOut."""
    token = connection.cookies.get(COOKIE)
    actor = actor_of(token) if token else None
    if actor is None:
        raise SignedOut("session.signed-out")
    connection.state.actor = actor
    return actor


def who_asks(connection: HTTPConnection) -> Actor:
    """The person behind the cookie, looked up once a request; raises SignedOut."""
    known: Actor | None = getattr(connection.state, "actor", None)
    return known or signed_in(connection)


SignedIn = Annotated[Actor, Depends(who_asks)]


class Right:
    """A right that a route needs; the route checks it before it reads what was sent."""

    def __init__(self, act: str) -> None:
        self.act = act

    def __call__(self, actor: SignedIn) -> None:
        """Raises Forbidden unless the person who asks has it."""
        actor.must(self.act)


def right(act: str) -> Any:
    """The right to `act`, as a dependency of a route."""
    return Depends(Right(act))


class BodyLimit:
    """How much a route reads; the guard asks it before anything is read."""

    def __init__(self, max_bytes: int) -> None:
        self.max_bytes = max_bytes

    def __call__(self) -> None:
        """The guard has counted already."""


def reads_up_to(max_bytes: int) -> Any:
    """That a route reads so many bytes and not those of a form, as a dependency of it."""
    return Depends(BodyLimit(max_bytes))


@dataclass(frozen=True)
class Limit:
    """A route that reads more than a form: its method, its address, and how much."""

    method: str
    address: Pattern[str]
    max_bytes: int


def same_origin(connection: HTTPConnection) -> bool:
    """False when a page of another site sent this."""
    origin = connection.headers.get("origin")
    return origin is None or urlsplit(origin).netloc == connection.headers.get("host")


class Guard:
    """Stands before every request: who may send, how much, and with which headers it is answered.

    Changes from other sites are refused; a body is counted as it streams, and more than a form
    holds is read only from somebody who is signed in. HEAD is answered as GET without its body.
    """

    def __init__(self, app: ASGIApp, limits: Sequence[Limit] = ()) -> None:
        self.app = app
        self.limits = limits

    def _max_bytes(self, scope: Scope) -> int:
        """What the route behind an address reads."""
        for limit in self.limits:
            if limit.method == scope["method"] and limit.address.match(scope["path"]):
                return limit.max_bytes
        return FORM_BYTES

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Look at the request before anything else does."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        connection = HTTPConnection(scope)
        if scope["method"] not in ("GET", "HEAD") and not same_origin(connection):
            refusal = problem("forbidden", Message("request.other-site"))
            await refusal(scope, receive, send)
            return
        upper = self._max_bytes(scope)
        length = connection.headers.get("content-length", "0")
        if not length.isdigit() or int(length[:20]) > upper:
            await _too_large(upper)(scope, receive, send)
            return
        await Exchange(self.app, connection, upper).answer(scope, receive, send)


class Exchange:
    """One request and its answer."""

    def __init__(self, app: ASGIApp, connection: HTTPConnection, upper: int) -> None:
        self.app = app
        self.connection = connection
        self.upper = upper
        self.received = 0
        self.known = False
        self.refusal: Response | None = None
        self.begun = False

    async def answer(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let the application answer, unless the body turns out to be too much."""
        head = scope["method"] == "HEAD"
        if head:
            scope = {**scope, "method": "GET"}

        async def counted() -> ASGIMessage:
            message = await receive()
            if message["type"] == "http.request":
                self.received += len(message.get("body", b""))
                await self._look_at_size()
                if self.refusal is not None:
                    return {"type": "http.disconnect"}
            return message

        async def guarded(message: ASGIMessage) -> None:
            if self.refusal is not None and not self.begun:
                return
            if message["type"] == "http.response.start":
                self.begun = True
                message = {**message, "headers": _with_safety(message.get("headers", []))}
            if head and message["type"] == "http.response.body":
                message = {**message, "body": b""}
            await send(message)

        try:
            await self.app(scope, counted, guarded)
        except ClientDisconnect:
            if self.refusal is None:
                return
        if self.refusal is not None and not self.begun:
            await self.refusal(scope, receive, send)

    async def _look_at_size(self) -> None:
        if self.received > self.upper:
            self.refusal = _too_large(self.upper)
        elif self.received > MAX_BEFORE_SIGN_IN and not self.known:
            token = self.connection.cookies.get(COOKIE)
            self.known = bool(token) and await run_in_threadpool(actor_of, token or "") is not None
            if not self.known:
                self.refusal = problem("signed-out", Message("session.signed-out"))


def _too_large(upper: int) -> Response:
    return problem("too-large", Message("request.too-large", {"max_mb": upper / 1_000_000}))


def _with_safety(headers: Iterable[tuple[bytes, bytes]]) -> list[tuple[bytes, bytes]]:
    given = list(headers)
    names = {name.lower() for name, _ in given}
    safety = [(name.encode(), value.encode()) for name, value in SAFETY.items()]
    return [*given, *(header for header in safety if header[0] not in names)]
