"""Addresses of the release before answer as their new ones, and say where those are."""

from __future__ import annotations

import pytest

from endurant.api.old_addresses import new_address
from tests.laboratory import Bench

RENAMED = {
    "/api/stations/3/pretend": "/api/stations/3/simulation",
    "/api/instruments/LC-1/touched": "/api/instruments/LC-1/affected",
    "/api/how-much": "/api/required-sample-size",
    "/api/specimens/12/acts": "/api/specimens/12/actions",
    "/api/specimens/12/acts/4/take-back": "/api/specimens/12/actions/4/undo",
    "/api/specimens/12/bench/ghosts": "/api/specimens/12/bench/previous-curves",
    "/api/tests/7/one-more": "/api/tests/7/additional-specimens",
    "/api/runs/9/keep": "/api/runs/9/accept",
    "/api/tests/9/keep": "/api/tests/9/accept",
    "/api/supplies": "/api/consumables",
    "/api/supplies/2/finish": "/api/consumables/2/finish",
    "/api/enclosures/3/hang": "/api/enclosures/3/placements",
    "/api/enclosures/take-out": "/api/enclosures/removals",
    "/api/house": "/api/lab-settings",
    "/api/house/confirm": "/api/lab-settings/confirm",
    "/api/today": "/api/schedule",
    "/api/today/order": "/api/schedule/order-of-work",
    "/api/today/calendar.ics": "/api/schedule/calendar.ics",
    "/api/specimens/12/photos": "/api/specimens/12/photographs",
    "/api/photos/5": "/api/photographs/5",
    "/api/instruments/LC-1/out": "/api/instruments/LC-1/take-out-of-service",
    "/api/instruments/LC-1/back": "/api/instruments/LC-1/return-to-service",
    "/api/judge": "/api/evaluate",
    "/api/sequences/understand": "/api/sequences/interpret",
    "/api/tests/9/drop": "/api/tests/9/cancel",
}


@pytest.mark.parametrize("old", RENAMED)
def test_each_has_a_new_address(old: str) -> None:
    assert new_address(old) == RENAMED[old]


def test_no_other_address_is_changed() -> None:
    for path in ("/api/specimens/12/actions", "/api/supplies/2", "/api/runs/9/keep/4", "/supplies"):
        assert new_address(path) is None


def test_an_old_address_answers_and_names_the_new_one(bench: Bench) -> None:
    old, new = bench.call("GET", "/supplies"), bench.call("GET", "/consumables")
    assert (old.status_code, old.json()) == (200, new.json())
    assert old.headers["link"] == '</api/consumables>; rel="successor-version"'
    assert "deprecation" not in new.headers
    refused = bench.call("POST", "/stations/99/pretend", json={"fault": "none"})
    assert refused.status_code == 404
    assert refused.json()["code"] == "station.unknown"
