"""Who may what: one table, held against the program and printed in `docs/security.md`."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from endurant.api.app import ROUTERS
from endurant.api.examples import EXAMPLES
from endurant.api.route import Route
from tests.laboratory import Bench, csv_of

FILE = {"file": ("a.csv", csv_of("J-0401-1-W1"))}
UPLOADS = (
    "POST /products/import",
    "POST /products/preview",
    "POST /attachments",
    "POST /enclosures/{enclosure_id}/log",
    "POST /specimens/{specimen_id}/photographs",
    "POST /specimens/{specimen_id}/trace",
)

ACTS: dict[str, tuple[str, ...]] = {
    "receive": (
        "POST /jobs",
        "PUT /jobs/{job_id}",
        "POST /jobs/{job_id}/cancel",
        "POST /jobs/{job_id}/reinstate",
        "POST /jobs/{job_id}/tests",
        "PUT /tests/{test_id}",
        "POST /tests/{test_id}/cancel",
        "POST /jobs/{job_id}/custody",
        "POST /tests/{test_id}/hold",
        "POST /tests/{test_id}/resume",
        "POST /products",
        "POST /jobs/{job_id}/product",
        "POST /products/import",
        "POST /products/preview",
        "PUT /client",
        "POST /attachments",
        "DELETE /attachments/{attachment_id}",
        "POST /nonconformities",
        "PUT /nonconformities/{nonconformity_id}",
    ),
    "cut": (
        "PUT /jobs/{job_id}/sheet/areas",
        "PUT /jobs/{job_id}/sheet/layout",
        "POST /jobs/{job_id}/sheet/place",
        "POST /jobs/{job_id}/sheet/cut",
        "POST /tests/{test_id}/replacements/{direction}",
    ),
    "condition": (
        "POST /enclosures/read-loggers",
        "POST /enclosures/{enclosure_id}/placements",
        "POST /enclosures/removals",
        "POST /specimens/{specimen_id}/weighings",
        "PUT /enclosures/{enclosure_id}/set-point",
        "POST /enclosures/{enclosure_id}/log",
        "PUT /tests/{test_id}/preparation",
    ),
    "set-limits": (
        "PUT /tests/{test_id}/limits",
        "PUT /tests/{test_id}/area-rule",
        "POST /enclosures",
        "PUT /enclosures/{enclosure_id}",
        "POST /enclosures/{enclosure_id}/close",
    ),
    "test": (
        "POST /tests/{test_id}/import",
        "POST /stations/{station_id}/simulation",
        "POST /gauges/{gauge_id}/read",
        "POST /gauges/{gauge_id}/simulation",
        "POST /enclosures/{enclosure_id}/simulation",
        "PUT /specimens/{specimen_id}/dimensions",
        "POST /tests/{test_id}/grammage",
        "PUT /tests/{test_id}/set-up",
        "POST /specimens/{specimen_id}/actions",
        "POST /specimens/{specimen_id}/actions/{number}/undo",
        "POST /sequences",
        "POST /instruments/{serial}/take-out-of-service",
        "POST /instruments/{serial}/log",
        "POST /checks/{check_id}/readings",
        "POST /instruments/{serial}/barrel",
        "POST /tests/{test_id}/use-density",
        "POST /specimens/{specimen_id}/photographs",
        "PUT /photographs/{photo_id}",
        "DELETE /photographs/{photo_id}",
        "POST /mappings",
        "POST /consumables",
        "POST /consumables/{supply_id}/finish",
        "POST /specimens/{specimen_id}/trace",
        "POST /tests/{test_id}/readings",
        "POST /tests/{test_id}/accept",
        "POST /tests/{test_id}/accept/undo",
        "POST /tests/{test_id}/additional-specimens",
        "POST /runs/{run_id}/stop",
        "POST /runs/{run_id}/accept",
        "POST /runs/{run_id}/accept/undo",
        "POST /jobs/{job_id}/confirm",
        "POST /schedule/pin",
        "POST /schedule/unpin",
        "POST /specimens/{specimen_id}/note",
        "POST /specimens/{specimen_id}/void",
        "POST /specimens/{specimen_id}/void/withdraw",
    ),
    "plan-schedule": ("POST /schedule",),
    "equip": (
        "POST /enclosures/{enclosure_id}/set-point/confirm",
        "POST /lab-settings/confirm",
        "POST /lab-settings/decline",
        "POST /instruments",
        "DELETE /instruments/{serial}",
        "POST /instruments/{serial}/calibrate",
        "POST /instruments/{serial}/return-to-service",
        "POST /instruments/{serial}/retire",
        "PUT /instruments/{serial}/room",
        "POST /instruments/{serial}/checks",
        "POST /checks/{check_id}/close",
        "POST /people/{person_id}/authorisations",
        "POST /authorisations/{authorisation_id}/withdraw",
    ),
    "manage-people": (
        "POST /people",
        "PUT /lab-settings",
        "PUT /people/{person_id}",
        "PUT /people/{person_id}/hours",
    ),
    "release": (
        "POST /jobs/{job_id}/release",
        "POST /reports/{report_id}/withdraw",
        "POST /jobs/{job_id}/correction",
        "POST /tests/{test_id}/retest",
    ),
    "see-figures": ("GET /figures", "GET /figures.xlsx"),
    "close-nonconformities": ("POST /nonconformities/{nonconformity_id}/close",),
    "approve-products": (
        "POST /products/{product_id}/approve",
        "POST /products/{product_id}/retire",
    ),
    "approve-densities": (
        "POST /tests/{test_id}/density",
        "POST /densities/{density_id}/withdraw",
    ),
}
"""What each action is done by."""

MAY = {
    "receive": ("technician", "reviewer", "manager"),
    "cut": ("technician", "reviewer", "manager"),
    "condition": ("technician", "reviewer", "manager"),
    "set-limits": ("technician", "reviewer", "manager"),
    "test": ("technician", "reviewer", "manager"),
    "plan-schedule": ("technician", "reviewer", "manager"),
    "equip": ("reviewer", "manager"),
    "manage-people": ("manager",),
    "release": ("reviewer", "manager"),
    "see-figures": ("manager",),
    "close-nonconformities": ("reviewer", "manager"),
    "approve-products": ("reviewer", "manager"),
    "approve-densities": ("reviewer", "manager"),
}
ROLES = {"pelle": "trainee", "ines": "technician", "maren": "reviewer", "greta": "manager"}
ANYONE = ("POST /session",)
SIGNED_IN = (
    "PUT /people/{person_id}/password",
    "POST /analyse",
    "POST /conditioning",
    "POST /cutting",
    "POST /required-sample-size",
    "POST /import",
    "POST /headers/import",
    "POST /evaluate",
    "POST /plan",
    "POST /schedule/what-if",
    "POST /schedule/promise",
    "POST /sequences/interpret",
    "POST /jobs/{job_id}/sheet/check",
    "DELETE /session",
    "POST /calendar-address",
    "DELETE /calendar-address",
)
"""Beside every GET: what computes and changes no fact, or only the person's own session."""

NOWHERE = 999_999
SIGNED_WITH_A_PASSWORD = ("POST /jobs/{job_id}/release", "POST /reports/{report_id}/withdraw")


def routes(bench: Bench) -> list[str]:
    paths = bench.client.get("/api/openapi.json").json()["paths"]
    return [
        f"{verb.upper()} {path.removeprefix('/api')}"
        for path, operations in paths.items()
        for verb in operations
    ]


def request(bench: Bench, route: str) -> int:
    """What a route answers to a body that is read before the person is looked at."""
    verb, path = route.split(" ")
    address = re.sub(r"\{[^}]+\}", str(NOWHERE), path)
    payload = {"files": FILE} if route in UPLOADS else {"json": EXAMPLES.get(route)}
    return bench.call(verb, address, **payload).status_code


def test_every_route_is_in_the_table(bench: Bench) -> None:
    actions = {route for own in ACTS.values() for route in own}
    changing = {route for route in routes(bench) if not route.startswith("GET ")}
    actions -= {route for route in actions if route.startswith("GET ")}
    assert changing == actions | set(SIGNED_IN) | set(ANYONE)


@pytest.mark.parametrize("login", ROLES)
def test_a_role_may_what_the_table_says_and_nothing_else(bench: Bench, login: str) -> None:
    person = bench.as_(login)
    for act, own in ACTS.items():
        for route in own:
            status = request(person, route)
            allowed = ROLES[login] in MAY[act]
            if route in SIGNED_WITH_A_PASSWORD and allowed:
                assert status == 403  # the password that goes with it is a wrong one
                continue
            assert (status != 403) == allowed, (route, status)
            assert status not in (401, 405, 500), (route, status)
    may = {act for act, roles in MAY.items() if ROLES[login] in roles}
    assert set(person.get("/session")["may"]) == may


def api_routes() -> Iterator[tuple[str, Route]]:
    """Every route of the application as the table names it."""
    for router in ROUTERS:
        for route in router.routes:
            if isinstance(route, Route):
                yield from ((f"{verb} {route.path}", route) for verb in route.methods or ())


def test_every_route_declares_the_right_of_the_table() -> None:
    declared = {name: route.rights for name, route in api_routes() if route.rights}
    assert declared == {route: [act] for act, own in ACTS.items() for route in own}


@pytest.mark.parametrize("sent", ["json", "form"])
def test_nothing_is_read_before_the_right_is_checked(bench: Bench, sent: str) -> None:
    """What is sent cannot be read by anybody: whoever may send it is told so, others are not."""
    unread = (
        {"content": b"{", "headers": {"content-type": "application/json"}}
        if sent == "json"
        else {"content": b"-", "headers": {"content-type": "multipart/form-data; boundary=x"}}
    )
    answers: dict[str, set[int]] = {}
    for login in ("nobody", *ROLES):
        person = bench.as_("ines" if login == "nobody" else login)
        if login == "nobody":
            person.token = login
        for name, route in api_routes():
            if not route.body_field:
                continue
            verb, path = name.split(" ")
            address = re.sub(r"\{[^}]+\}", str(NOWHERE), path)
            status = person.call(verb, address, **unread).status_code
            actions = [act for act, own in ACTS.items() if name in own]
            if name in ANYONE:
                continue
            if login == "nobody":
                assert status == 401, (name, status)
            elif actions and ROLES[login] not in MAY[actions[0]]:
                assert status == 403, (name, status)
            else:
                answers.setdefault(name, set()).add(status)
    assert all(statuses <= {400, 404, 422} for statuses in answers.values()), answers
    assert len(answers) > 80


def test_nobody_who_is_not_signed_in_reads_or_changes_anything(bench: Bench) -> None:
    bench.token = "nobody"
    for route in routes(bench):
        if route in ANYONE or route == "DELETE /session":
            continue
        assert request(bench, route) == 401, route


def test_the_table_is_printed_in_the_documents() -> None:
    text = Path("docs/security.md").read_text()
    for act, own in ACTS.items():
        roles = ", ".join(MAY[act])
        assert f"| {act} | {roles} |" in text
        for route in own:
            assert f"`{route}`" in text, route


@pytest.mark.parametrize(
    ("route", "parser"),
    [
        ("/products/import", "endurant.api.routes_products.table_of"),
        ("/products/preview", "endurant.api.routes_products.table_of"),
        ("/specimens/1/trace", "endurant.work.use_cases.bench.runs.read_trace_csv"),
        ("/enclosures/1/log", "endurant.work.use_cases.preparation.enclosures.read_log_csv"),
        ("/specimens/1/photographs", "endurant.api.routes_photos.encode"),
        ("/attachments", "endurant.api.routes_attachments.checked_file"),
    ],
)
def test_a_file_is_not_opened_before_the_right_is_checked(
    bench: Bench, monkeypatch: pytest.MonkeyPatch, route: str, parser: str
) -> None:
    def opened(*_: object) -> None:
        raise AssertionError("it was opened")

    monkeypatch.setattr(parser, opened)
    pelle = bench.as_("pelle")
    monkeypatch.setattr("endurant.work.base.actors.UNDER_SUPERVISION", ())
    said = pelle.refused("POST", route, 403, files={"file": ("a.bin", b"anything")})
    assert said == "access.role"
