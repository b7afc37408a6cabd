"""Signing in and out."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from pydantic import Field

from endurant.api.session import COOKIE, SignedIn
from endurant.work.jobs.views import View
from endurant.work.record.asked import Asked
from endurant.work.record.people import SESSION_LASTS, Actor, sign_in, sign_out

router = APIRouter(tags=["people"])


class Credentials(Asked):
    """A login name and its password."""

    login: str = Field(min_length=1, max_length=40)
    password: str = Field(min_length=1, max_length=200)


class Me(View):
    """Who is signed in."""

    id: int
    name: str
    role: str
    may: list[str]


@router.post("/session")
def begin_session(asked: Credentials, request: Request, response: Response) -> Me:
    """Sign in; the session is kept in a cookie that scripts cannot read."""
    address = request.client.host if request.client else ""
    token, actor = sign_in(asked.login, asked.password, address)
    response.set_cookie(
        COOKIE,
        token,
        max_age=int(SESSION_LASTS.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return _me(actor)


@router.get("/session")
def my_session(actor: SignedIn) -> Me:
    """Who is signed in."""
    return _me(actor)


@router.delete("/session")
def end_session(request: Request, response: Response) -> None:
    """Sign out."""
    token = request.cookies.get(COOKIE)
    if token:
        sign_out(token)
    response.delete_cookie(COOKIE)


def _me(actor: Actor) -> Me:
    return Me(id=actor.id, name=actor.name, role=actor.role, may=actor.acts())
