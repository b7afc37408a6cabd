"""Who is asking: the session cookie, and the guards around it."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import urlsplit

from fastapi import Depends
from fastapi.requests import HTTPConnection
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from endurant.api.problems import SignedOut, problem
from endurant.work.people import Actor, actor_of

COOKIE = "endurant"
MOST_BYTES = 80 * 1024 * 1024


def signed_in(connection: HTTPConnection) -> Actor:
    """The person behind the cookie; raises SignedOut."""
    token = connection.cookies.get(COOKIE)
    actor = actor_of(token) if token else None
    if actor is None:
        raise SignedOut("you are not signed in, or your session has run out; sign in again")
    return actor


SignedIn = Annotated[Actor, Depends(signed_in)]


def same_origin(connection: HTTPConnection) -> bool:
    """False when a page of another site sent this."""
    origin = connection.headers.get("origin")
    return origin is None or urlsplit(origin).netloc == connection.headers.get("host")


class Guard:
    """Refuses changes sent from other sites and bodies too large; adds the safety headers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Look at the request before anything else does."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        connection = HTTPConnection(scope)
        length = connection.headers.get("content-length", "0")
        if not length.isdigit() or int(length) > MOST_BYTES:
            told = f"the request is larger than the {MOST_BYTES // 1024 // 1024} MB that are read"
            await problem("too-large", told)(scope, receive, send)
            return
        if scope["method"] not in ("GET", "HEAD") and not same_origin(connection):
            await problem("forbidden", "this was sent by a page of another site")(
                scope, receive, send
            )
            return

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", []), *_HEADERS]
            await send(message)

        await self.app(scope, receive, send_with_headers)


_HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (
        b"content-security-policy",
        b"default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
        b"frame-ancestors 'self'; object-src 'none'; base-uri 'self'",
    ),
]
