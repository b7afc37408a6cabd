"""Refusals as problem documents (RFC 9457), translated here and nowhere else."""

from __future__ import annotations

import logging
from collections.abc import Mapping

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, JsonValue
from starlette.exceptions import HTTPException

from endurant.core.complaints import message_of
from endurant.core.field_names import spoken
from endurant.core.messages import Message
from endurant.core.quoting import printable, quoted
from endurant.core.reading import in_users_words
from endurant.core.refusals import Refusal

log = logging.getLogger("endurant")

STATUS = {
    "invalid": 422,
    "not-found": 404,
    "forbidden": 403,
    "conflict": 409,
    "needs-reason": 409,
    "out-of-order": 409,
    "unavailable": 503,
    "signed-out": 401,
    "too-large": 413,
    "wrong-method": 405,
}
_TITLES = {
    "invalid": "Invalid input",
    "not-found": "Not found",
    "forbidden": "Not permitted",
    "conflict": "Not possible now",
    "needs-reason": "Reason required",
    "out-of-order": "Wrong order",
    "unavailable": "Not available",
    "signed-out": "Not signed in",
    "too-large": "Too large",
    "wrong-method": "Method not supported",
}


MEDIA_TYPE = "application/problem+json"
SAFETY = {
    "x-content-type-options": "nosniff",
    "referrer-policy": "same-origin",
    "content-security-policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; "
    "img-src 'self' data: blob:; frame-ancestors 'self'; object-src 'none'; base-uri 'self'",
}
"""Headers of every answer, errors included."""


class SignedOut(Refusal):
    """Nobody is signed in, or the session has run out."""

    kind = "signed-out"


class TooLarge(Refusal):
    """More was sent than is read."""

    kind = "too-large"


class Problem(BaseModel):
    """A problem document: a code with its parameters for programs, a sentence for the person."""

    type: str
    title: str
    status: int
    code: str
    params: dict[str, JsonValue]
    detail: str
    field: str | None = None
    specimen: str | None = None


def problem(
    kind: str,
    message: Message,
    field: str | None = None,
    specimen: str | None = None,
    *,
    headers: Mapping[str, str] | None = None,
) -> JSONResponse:
    """The response for one refusal, in text that can be written as UTF-8."""
    body = Problem(
        type=f"endurant:{kind}",
        title=_TITLES.get(kind, "Something went wrong"),
        status=STATUS.get(kind, 500),
        code=message.code,
        params=message.plain_params(),
        detail=printable(message.text),
        field=None if field is None else quoted(field)[1:-1],
        specimen=None if specimen is None else quoted(specimen)[1:-1],
    )
    return JSONResponse(
        body.model_dump(),
        body.status,
        headers={**SAFETY, **(headers or {})},
        media_type=MEDIA_TYPE,
    )


def install(app: FastAPI) -> None:
    """Have the application answer each refusal as a problem document."""

    @app.exception_handler(Refusal)
    def refused(request: Request, refusal: Refusal) -> JSONResponse:
        return problem(refusal.kind, refusal.message, refusal.field, refusal.specimen)

    @app.exception_handler(RequestValidationError)
    def not_understood(request: Request, error: RequestValidationError) -> JSONResponse:
        mistakes = error.errors()
        unknown = (mistake for mistake in mistakes if mistake["type"] == "extra_forbidden")
        first = next(unknown, mistakes[0])
        path = [step for step in first["loc"] if step not in ("body", "query", "path")]
        where, names = in_users_words(path, error.body, {}, spoken)
        field = names[-1] if names else "request"
        message = message_of(first, where[:1].upper() + where[1:] or "The request")
        return problem("invalid", message, field)

    @app.exception_handler(HTTPException)
    def no_such_address(request: Request, error: HTTPException) -> JSONResponse:
        path = quoted(request.url.path)[1:-1]
        if error.status_code == STATUS["not-found"]:
            return problem("not-found", Message("request.no-such-address", {"path": path}))
        if error.status_code == STATUS["wrong-method"]:
            given = {"path": path, "verb": request.method[:12]}
            message = Message("request.verb-not-supported", given)
            return problem("wrong-method", message, headers=error.headers)
        return problem("invalid", Message("request.invalid", {"reason": str(error.detail)[:200]}))

    @app.exception_handler(Exception)
    def failed(request: Request, error: Exception) -> JSONResponse:
        log.error("%s %s failed", request.method, request.url.path, exc_info=error)
        return problem("failed", Message("server.failed"))
