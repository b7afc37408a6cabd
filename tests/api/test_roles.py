"""Who may what: one table, held against the program and printed in `docs/security.md`."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from endurant.api.app import ROUTERS
from endurant.api.route import Route
from tests.laboratory import Bench, csv_of, sample

SOON = (datetime(2030, 1, 1, tzinfo=UTC) + timedelta(days=1)).isoformat()
PLACE = {"specimen_id": 1, "x_mm": 100, "y_mm": 100, "long_side": "warp"}
ROOM = {"name": "Another room", "atmosphere": "textile-20-65"}
FILE = {"file": ("a.csv", csv_of("J-0401-1-W1"))}

WHY = {"revision": 1, "reason": "the client called"}
AMENDED = WHY | {
    "client": "Quay Awnings",
    "product": "Test cloth",
    "lot": "T-2",
    "material": "woven",
    "due_at": SOON,
}

ACTS: dict[str, dict[str, Any]] = {
    "receive": {
        "POST /jobs": sample(),
        "PUT /jobs/{job_id}": AMENDED,
        "POST /jobs/{job_id}/cancel": WHY,
        "POST /jobs/{job_id}/reinstate": WHY,
        "POST /jobs/{job_id}/tests": WHY | {"test": {"method": "iso-535"}},
        "PUT /tests/{test_id}": WHY | {"parameters": {"specimens_wanted": 4}},
        "POST /tests/{test_id}/drop": WHY,
        "POST /jobs/{job_id}/custody": {"kind": "disposed"},
        "POST /tests/{test_id}/hold": WHY,
        "POST /tests/{test_id}/resume": WHY,
        "POST /products": {
            "client": "Quay Awnings",
            "name": "Test cloth",
            "specification": {"material": "woven", "tests": [{"method": "iso-535"}]},
        },
        "POST /jobs/{job_id}/product": {"seen": 0},
        "POST /products/import": FILE,
    },
    "cut": {
        "PUT /jobs/{job_id}/sheet/areas": {"areas": [], "revision": 1},
        "PUT /jobs/{job_id}/sheet/layout": {"laid": [PLACE], "revision": 1},
        "POST /jobs/{job_id}/sheet/place": {"revision": 1, "seconds": 0},
        "POST /jobs/{job_id}/sheet/cut": {"revision": 1},
        "POST /tests/{test_id}/replacements/{direction}": None,
    },
    "condition": {
        "POST /enclosures/{enclosure_id}/hang": {"specimen_ids": [1]},
        "POST /enclosures/take-out": {"specimen_ids": [1]},
        "POST /specimens/{specimen_id}/weighings": {"mass_g": 4.2},
        "PUT /enclosures/{enclosure_id}/set-point": {
            "temperature_c": 20,
            "temperature_tolerance_c": 2,
            "humidity_percent": 65,
            "humidity_tolerance_percent": 4,
            "reason": "a new standard",
        },
        "POST /enclosures/{enclosure_id}/log": FILE,
        "PUT /tests/{test_id}/preparation": {"revision": 1},
    },
    "set limits": {
        "PUT /tests/{test_id}/limits": {"limits": [], "revision": 1},
        "PUT /tests/{test_id}/area-rule": {"area_rule": "mean", "revision": 1},
        "POST /enclosures": ROOM,
        "PUT /enclosures/{enclosure_id}": ROOM,
        "POST /enclosures/{enclosure_id}/close": None,
    },
    "test": {
        "POST /stations/{station_id}/pretend": {"fault": "none"},
        "POST /gauges/{gauge_id}/read": {"specimen_id": 1, "field": "width_mm"},
        "POST /gauges/{gauge_id}/pretend": {"fault": "none"},
        "POST /enclosures/{enclosure_id}/pretend": {"fault": "none"},
        "PUT /specimens/{specimen_id}/dimensions": {"dimensions": {}, "revision": 1},
        "POST /tests/{test_id}/grammage": {"masses_g": [1.0], "revision": 1},
        "PUT /tests/{test_id}/set-up": {"parameters": {}, "revision": 1},
        "POST /specimens/{specimen_id}/acts": {"act": "prepare", "seen": 0, "station_id": 1},
        "POST /specimens/{specimen_id}/acts/{number}/take-back": {"seen": 1},
        "POST /sequences": {"name": "Slow", "moves": "to break at 5"},
        "POST /instruments/{serial}/out": {"reason": "it was hit"},
        "POST /instruments/{serial}/log": {"kind": "note", "words": "as new"},
        "POST /checks/{check_id}/readings": {"value": 1},
        "POST /instruments/{serial}/barrel": {
            "sensors": [
                {
                    "sensor": "upper",
                    "displayed_c": 190,
                    "reference_c": 190.4,
                    "old_offset_c": 0,
                }
            ],
            "reference_serial": "RT-1",
        },
        "POST /tests/{test_id}/use-density": {"formulation": "PP-3", "revision": "B"},
        "POST /specimens/{specimen_id}/photos": FILE,
        "PUT /photos/{photo_id}": {"in_report": True},
        "DELETE /photos/{photo_id}": None,
        "POST /mappings": {"name": "Old frame", "columns": {"Last": "force_n"}},
        "POST /supplies": {"kind": "felt", "lot": "F-1"},
        "POST /supplies/{supply_id}/finish": None,
        "POST /specimens/{specimen_id}/trace": FILE,
        "POST /tests/{test_id}/readings": {"document": {"specimens": []}},
        "POST /tests/{test_id}/keep": None,
        "POST /tests/{test_id}/one-more": {"direction": "warp"},
        "POST /runs/{run_id}/stop": None,
        "POST /runs/{run_id}/keep": None,
        "POST /jobs/{job_id}/confirm": None,
        "POST /today/pin": {
            "test_id": 999_999,
            "step": "test",
            "start": "2199-01-01T00:00:00Z",
        },
        "POST /today/unpin": {"test_id": 999_999, "step": "test"},
        "POST /specimens/{specimen_id}/note": {"code": "extensometer-slip", "seen": True},
        "POST /specimens/{specimen_id}/void": {"code": "set-aside", "words": "it was nicked"},
        "POST /specimens/{specimen_id}/void/withdraw": {"reason": "it was another"},
    },
    "plan the day": {"POST /today": None},
    "equip": {
        "POST /enclosures/{enclosure_id}/set-point/confirm": None,
        "POST /house/confirm": {"revision": 0},
        "POST /house/decline": {"revision": 0},
        "POST /instruments": {
            "name": "Pendulum",
            "kind": "pendulum",
            "serial": "P-1",
            "certificate": "C-1",
            "calibrated_at": "2026-01-01T00:00Z",
            "calibration_due_at": SOON,
        },
        "DELETE /instruments/{serial}": None,
        "POST /instruments/{serial}/calibrate": {
            "certificate": "C-1",
            "calibrated_at": "2026-01-01T00:00Z",
            "calibration_due_at": SOON,
        },
        "POST /instruments/{serial}/back": {"reason": "it is whole"},
        "POST /instruments/{serial}/retire": {"reason": "it is sold"},
        "PUT /instruments/{serial}/room": {"enclosure_id": None},
        "POST /instruments/{serial}/checks": {
            "title": "Check mass",
            "unit": "g",
            "target": 1,
            "warn": 0.001,
            "limit": 0.002,
            "every_days": 1,
        },
        "POST /checks/{check_id}/close": None,
        "POST /people/{person_id}/authorisations": {"method": "iso-180"},
        "POST /authorisations/{authorisation_id}/withdraw": None,
    },
    "manage people": {
        "POST /people": {
            "login": "nora",
            "name": "Nora Tester",
            "role": "technician",
            "password": "long enough for it",
        },
        "PUT /house": {
            "name": "Test House",
            "address": "nowhere",
            "rounding": "half-up",
            "comparison": "as-rounded",
            "label_school": "by-failing-yarn",
            "conditioning_policy": "restart",
            "revision": 0,
            "reason": "the accreditor asked",
        },
        "PUT /people/{person_id}": {"name": "N", "role": "technician", "active": True},
        "PUT /people/{person_id}/hours": {"hours": None, "away": []},
    },
    "release": {
        "POST /jobs/{job_id}/release": {
            "password": "no password at all",
            "revision": 1,
            "content_sha256": "0" * 64,
        },
        "POST /reports/{report_id}/withdraw": {"reason": "a slip", "password": "guess"},
        "POST /jobs/{job_id}/correction": {"reason": "another limit"},
        "POST /tests/{test_id}/retest": WHY,
    },
    "approve densities": {
        "POST /tests/{test_id}/density": {"formulation": "PP-3", "revision": "B"},
        "POST /densities/{density_id}/withdraw": None,
    },
}
"""What each act is done by, with a body that is read before the person is looked at."""

MAY = {
    "receive": ("technician", "reviewer", "manager"),
    "cut": ("technician", "reviewer", "manager"),
    "condition": ("technician", "reviewer", "manager"),
    "set limits": ("technician", "reviewer", "manager"),
    "test": ("technician", "reviewer", "manager"),
    "plan the day": ("technician", "reviewer", "manager"),
    "equip": ("reviewer", "manager"),
    "manage people": ("manager",),
    "release": ("reviewer", "manager"),
    "approve densities": ("reviewer", "manager"),
}
ROLES = {"pelle": "trainee", "ines": "technician", "maren": "reviewer", "greta": "manager"}
ANYONE = ("POST /session",)
SIGNED_IN = (
    "PUT /people/{person_id}/password",
    "POST /analyse",
    "POST /conditioning",
    "POST /cutting",
    "POST /how-much",
    "POST /import",
    "POST /headers/import",
    "POST /tests/{test_id}/import",
    "POST /judge",
    "POST /plan",
    "POST /today/what-if",
    "POST /today/promise",
    "POST /sequences/understand",
    "POST /jobs/{job_id}/sheet/check",
    "POST /enclosures/read-loggers",
    "DELETE /session",
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


def asked(bench: Bench, route: str, body: Any) -> int:
    verb, path = route.split(" ")
    address = re.sub(r"\{[^}]+\}", str(NOWHERE), path)
    is_file = isinstance(body, dict) and "file" in body
    payload = {} if body is None else {"files": body} if is_file else {"json": body}
    return bench.call(verb, address, **payload).status_code


def test_every_route_is_in_the_table(bench: Bench) -> None:
    acts = {route for own in ACTS.values() for route in own}
    changing = {route for route in routes(bench) if not route.startswith("GET ")}
    assert changing == acts | set(SIGNED_IN) | set(ANYONE)


@pytest.mark.parametrize("login", ROLES)
def test_a_role_may_what_the_table_says_and_nothing_else(bench: Bench, login: str) -> None:
    person = bench.as_(login)
    for act, own in ACTS.items():
        for route, body in own.items():
            status = asked(person, route, body)
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
            acts = [act for act, own in ACTS.items() if name in own]
            if name in ANYONE:
                continue
            if login == "nobody":
                assert status == 401, (name, status)
            elif acts and ROLES[login] not in MAY[acts[0]]:
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
        assert asked(bench, route, None) == 401, route


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
        ("/products/import", "endurant.api.routes_jobs.table_of"),
        ("/specimens/1/trace", "endurant.work.bench.runs.read_trace_csv"),
        ("/enclosures/1/log", "endurant.work.preparation.enclosures.read_log_csv"),
        ("/specimens/1/photos", "endurant.api.routes_photos.encode"),
    ],
)
def test_a_file_is_not_opened_before_the_right_is_checked(
    bench: Bench, monkeypatch: pytest.MonkeyPatch, route: str, parser: str
) -> None:
    def opened(*_: object) -> None:
        raise AssertionError("it was opened")

    monkeypatch.setattr(parser, opened)
    pelle = bench.as_("pelle")
    monkeypatch.setattr("endurant.work.record.people.UNDER_SUPERVISION", ())
    said = pelle.refused("POST", route, 403, files={"file": ("a.bin", b"anything")})
    assert "a trainee may not" in said
