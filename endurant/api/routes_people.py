"""Signing in and out, and the people of the laboratory."""

from __future__ import annotations

from fastapi import APIRouter, Request, Response
from pydantic import Field

from endurant.api.route import Route
from endurant.api.session import COOKIE, SignedIn, right
from endurant.core.writing import Writing
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.view import View
from endurant.work.use_cases.laboratory import settings
from endurant.work.use_cases.people import staff
from endurant.work.use_cases.people.sign_in import SESSION_LASTS, sign_in, sign_out

router = APIRouter(route_class=Route, tags=["people"])


class Credentials(RequestBody):
    """A login name and its password."""

    login: str = Field(min_length=1, max_length=40)
    password: str = Field(min_length=1, max_length=200)


class Me(View):
    """Who is signed in, and how the laboratory writes figures and days."""

    id: int
    name: str
    role: str
    may: list[str]
    writing: Writing


@router.post("/session")
def begin_session(body: Credentials, request: Request, response: Response) -> Me:
    """Sign in; the session is kept in a cookie that scripts cannot read."""
    address = request.client.host if request.client else ""
    token, actor = sign_in(body.login, body.password, address)
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


@router.get("/people")
def list_people(actor: SignedIn) -> list[staff.PersonView]:
    """Everyone, those who still work here first."""
    return staff.people()


@router.post("/people", dependencies=[right("manage-people")], status_code=201)
def add_person(actor: SignedIn, request: staff.PersonRequest) -> list[staff.PersonView]:
    """Someone new."""
    return staff.add(actor, request)


@router.put("/people/{person_id}/hours", dependencies=[right("manage-people")])
def set_hours(
    actor: SignedIn, person_id: int, request: staff.HoursRequest
) -> list[staff.PersonView]:
    """Set the working hours and absences of a person."""
    return staff.set_hours(actor, person_id, request)


@router.put("/people/{person_id}", dependencies=[right("manage-people")])
def change_person(
    actor: SignedIn, person_id: int, request: staff.PersonChanged
) -> list[staff.PersonView]:
    """Another name, role or supervisor, or whether they still work here."""
    return staff.change(actor, person_id, request)


@router.put("/people/{person_id}/password", status_code=204)
def set_password(actor: SignedIn, person_id: int, request: staff.PasswordRequest) -> None:
    """A new password; one's own asks for the old one too."""
    staff.set_password(actor, person_id, request)


@router.post("/people/{person_id}/authorisations", dependencies=[right("equip")], status_code=201)
def authorise(
    actor: SignedIn, person_id: int, request: staff.AuthorisationRequest
) -> list[staff.PersonView]:
    """Somebody may run a method."""
    return staff.authorise(actor, person_id, request)


@router.post("/authorisations/{authorisation_id}/withdraw", dependencies=[right("equip")])
def withdraw_authorisation(actor: SignedIn, authorisation_id: int) -> list[staff.PersonView]:
    """An authorisation ends."""
    return staff.withdraw(actor, authorisation_id)


@router.get("/lab-settings")
def show_lab_settings(actor: SignedIn) -> settings.LabSettingsView:
    """The laboratory and its rules."""
    return settings.lab_settings()


@router.put("/lab-settings", dependencies=[right("manage-people")])
def change_lab_settings(
    actor: SignedIn, request: settings.LabSettingsRequest
) -> settings.LabSettingsView:
    """Other rules from now on."""
    return settings.change_lab_settings(actor, request)


@router.post("/lab-settings/confirm", dependencies=[right("equip")])
def confirm_lab_settings(
    actor: SignedIn, request: settings.LabSettingsSeen
) -> settings.LabSettingsView:
    """Confirm the change that another person proposed."""
    return settings.confirm_lab_settings(actor, request)


@router.post("/lab-settings/decline", dependencies=[right("equip")])
def decline_lab_settings(
    actor: SignedIn, request: settings.LabSettingsSeen
) -> settings.LabSettingsView:
    """Decline a proposed change."""
    return settings.decline_lab_settings(actor, request)


def _me(actor: Actor) -> Me:
    writing = settings.writing()
    return Me(id=actor.id, name=actor.name, role=actor.role, may=actor.actions(), writing=writing)
