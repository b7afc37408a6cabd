"""A calendar subscribes to a person's plan by a secret address that can be revoked."""

from __future__ import annotations

import httpx2

from tests.laboratory import Bench, behind_its_back


def read(bench: Bench, path: str) -> httpx2.Response:
    """What a calendar gets, which has no cookie."""
    bench.client.cookies.clear()
    return bench.client.get(path)


def test_an_address_works_without_a_cookie_until_it_is_revoked(bench: Bench) -> None:
    assert bench.get("/calendar-address") == {"made_at": None, "path": None}
    made = bench.post("/calendar-address")
    first = made["path"]
    answer = read(bench, first)
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "X-WR-CALNAME:Ines Tester" in answer.text
    assert bench.get("/calendar-address") == {"made_at": made["made_at"], "path": None}
    second = bench.post("/calendar-address")["path"]
    assert read(bench, first).status_code == 401
    assert read(bench, second).status_code == 200
    assert bench.call("DELETE", "/calendar-address").json()["made_at"] is None
    refused = read(bench, second)
    assert (refused.status_code, refused.json()["code"]) == (401, "calendar.address-unknown")
    assert bench.call("DELETE", "/calendar-address").status_code == 200


def test_the_address_of_somebody_who_left_does_not_work(bench: Bench, database: str) -> None:
    path = bench.post("/calendar-address")["path"]
    behind_its_back(database, "UPDATE person SET active = 0 WHERE login = 'ines'")
    assert read(bench, path).status_code == 401
