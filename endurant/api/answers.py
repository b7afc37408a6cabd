"""Answers that are not sent, or not made, again while nothing has changed."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Callable
from threading import Lock
from typing import Any

from fastapi import Request, Response
from pydantic import BaseModel
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.read_models.board import current_board
from endurant.work.read_models.job_cards import version_of

MAX_KEPT = 400
JSON = b"application/json"
_bodies: Remembered[bytes] = Remembered(MAX_KEPT)
_making = [Lock() for _ in range(16)]


def page_of_job(
    request: Request, what: str, job_id: int, make: Callable[[], BaseModel], *own: object
) -> Response:
    """What a page shows of a job, made once for all who look while nothing of it changes.

    `own` is what it depends on beside the job, such as who looks. It is not even read when the
    browser names the version that it has.
    """
    with transaction() as session:
        version = version_of(session, job_id)
    return _page(request, (what, job_id, version, *own), make)


def page_of_board(request: Request, what: str, make: Callable[[], BaseModel]) -> Response:
    """The conditioning page, made once while nothing on it changes."""
    return _page(request, (what, *current_board()), make)


def _page(request: Request, key: tuple[object, ...], make: Callable[[], BaseModel]) -> Response:
    tag = _tag(repr(key).encode())
    if _is_known(request.headers.get("if-none-match"), tag):
        return Response(status_code=304, headers={"etag": tag, "cache-control": "no-cache"})
    headers = {"etag": tag, "cache-control": "no-cache"}
    body = kept_body(key, make)
    if "gzip" in request.headers.get("accept-encoding", ""):
        headers |= {"content-encoding": "gzip", "vary": "accept-encoding"}
    else:
        body = gzip.decompress(body)
    return Response(body, media_type="application/json", headers=headers)


def kept_body(key: tuple[object, ...], make: Callable[[], BaseModel]) -> bytes:
    """The page as compressed JSON, made by one while others who want the same wait for it."""
    body = _bodies.get(key)
    if body is None:
        with _making[hash(key) % len(_making)]:
            body = _bodies.get(key)
            if body is None:
                body = gzip.compress(make().model_dump_json().encode(), 4, mtime=0)
                _bodies.put(key, body)
    return body


def _tag(data: bytes) -> str:
    return f'"{hashlib.sha256(data).hexdigest()[:32]}"'


def _is_known(header: str | None, tag: str) -> bool:
    known = [] if header is None else [part.strip() for part in header.split(",")]
    return tag in known or f"W/{tag}" in known


class Tagged:
    """Gives every JSON answer a tag, and answers 304 where the browser has it already."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hold a JSON answer back until its tag is known."""
        if scope["type"] != "http" or scope["method"] != "GET":
            await self.app(scope, receive, send)
            return
        request = dict(scope["headers"]).get(b"if-none-match", b"").decode("latin-1")
        begun: list[Message] = []
        parts: list[bytes] = []

        async def held(message: Message) -> None:
            if message["type"] == "http.response.start" and _is_whole(message):
                begun.append(message)
                return
            if not begun:
                await send(message)
                return
            parts.append(message.get("body", b""))
            if message.get("more_body"):
                return
            await _answer(send, begun[0], b"".join(parts), request)

        await self.app(scope, receive, held)


def _is_whole(start: Message) -> bool:
    headers = dict(start.get("headers", []))
    kind: Any = headers.get(b"content-type", b"")
    return start["status"] == 200 and kind.startswith(JSON) and b"etag" not in headers


async def _answer(send: Send, start: Message, body: bytes, request: str) -> None:
    tag = _tag(body)
    headers = [*start["headers"], (b"etag", tag.encode()), (b"cache-control", b"no-cache")]
    if _is_known(request or None, tag):
        passing = (b"content-length", b"content-type")
        headers = [header for header in headers if header[0] not in passing]
        await send({"type": "http.response.start", "status": 304, "headers": headers})
        await send({"type": "http.response.body", "body": b""})
        return
    await send({**start, "headers": headers})
    await send({"type": "http.response.body", "body": body})
