"""Refusals as problem documents (RFC 9457), translated here and nowhere else."""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from endurant.core.refusals import Refusal, quoted

log = logging.getLogger("endurant")

STATUS = {
    "invalid": 422,
    "not-found": 404,
    "forbidden": 403,
    "conflict": 409,
    "unavailable": 503,
    "signed-out": 401,
    "too-large": 413,
}
_TITLES = {
    "invalid": "That makes no sense",
    "not-found": "Not found",
    "forbidden": "Not allowed",
    "conflict": "Not possible now",
    "unavailable": "Not reachable",
    "signed-out": "Not signed in",
    "too-large": "Too large",
}


class SignedOut(Refusal):
    """Nobody is signed in, or the session has run out."""

    code = "signed-out"


class TooLarge(Refusal):
    """More was sent than is read."""

    code = "too-large"


class Problem(BaseModel):
    """A problem document; `detail` is the sentence for the person."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None
    specimen: str | None = None


def problem(
    code: str, detail: str, field: str | None = None, specimen: str | None = None
) -> JSONResponse:
    """The response for one refusal."""
    told = Problem(
        type=f"endurant:{code}",
        title=_TITLES.get(code, "Something went wrong"),
        status=STATUS.get(code, 500),
        detail=detail,
        field=field,
        specimen=specimen,
    )
    return JSONResponse(told.model_dump(), told.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Teach the application to say no."""

    @app.exception_handler(Refusal)
    def refused(request: Request, refusal: Refusal) -> JSONResponse:
        return problem(refusal.code, refusal.sentence, refusal.field, refusal.specimen)

    @app.exception_handler(RequestValidationError)
    def not_understood(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        path = [str(step) for step in first["loc"] if step not in ("body", "query", "path")]
        field = path[-1] if path else "request"
        words = str(first["msg"]).removeprefix("Value error, ")
        given = first.get("input")
        shown = f"; {quoted(given)} was given" if isinstance(given, int | float) else ""
        return problem("invalid", f"{'.'.join(path) or 'the request'}: {words}{shown}", field)

    @app.exception_handler(HTTPException)
    def no_such_address(request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == STATUS["not-found"]:
            return problem("not-found", f"there is nothing at {request.url.path}")
        return problem("invalid", str(error.detail))

    @app.exception_handler(Exception)
    def failed(request: Request, error: Exception) -> JSONResponse:
        log.error("%s %s failed", request.method, request.url.path, exc_info=error)
        return problem(
            "failed",
            "something went wrong on our side and was written to the log; "
            "what was stored before is still there",
        )
