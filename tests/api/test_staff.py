"""The people: roles, passwords, authorisations, and trainees under a supervisor."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from endurant.work.upkeep.verify import verify
from tests.laboratory import PASSWORD, Bench

NORA = {"login": "nora", "name": "Nora Tester", "role": "technician", "password": PASSWORD}


def person(bench: Bench, login: str) -> dict[str, Any]:
    (found,) = (each for each in bench.get("/people") if each["login"] == login)
    return dict(found)


def changed(bench: Bench, login: str, **changes: Any) -> dict[str, Any]:
    kept = person(bench, login)
    body = {name: kept[name] for name in ("name", "role", "active", "supervisor_id")}
    return body | changes


def test_someone_is_added_signs_in_and_leaves(bench: Bench) -> None:
    greta = bench.as_("greta")
    greta.post("/people", NORA)
    assert greta.refused("POST", "/people", 409, json=NORA) == "person.login-taken"
    short = NORA | {"login": "kim", "password": "short"}
    assert greta.refused("POST", "/people", 422, json=short) == "password.too-short"
    nora = bench.as_("nora")
    path = f"/people/{person(bench, 'nora')['id']}"
    greta.put(path, changed(bench, "nora", active=False))
    assert nora.call("GET", "/jobs").status_code == 401
    assert [each["login"] for each in bench.get("/people")][-1] == "nora"
    assert verify().sentences == []


def test_the_last_manager_stays_and_nobody_locks_themselves_out(bench: Bench) -> None:
    greta = bench.as_("greta")
    own = f"/people/{person(bench, 'greta')['id']}"
    wording = greta.refused("PUT", own, 409, json=changed(bench, "greta", active=False))
    assert "person.lockout" in wording
    maren = f"/people/{person(bench, 'maren')['id']}"
    greta.put(maren, changed(bench, "maren", role="manager"))
    second = bench.as_("maren")
    second.put(own, changed(bench, "greta", role="technician"))
    wording = second.refused("PUT", maren, 409, json=changed(bench, "maren", role="reviewer"))
    assert "person.lockout" in wording
    assert greta.refused("POST", "/people", 403, json=NORA) == "access.role"


def test_a_password_is_changed_with_the_old_one_or_by_a_manager(bench: Bench) -> None:
    ines = person(bench, "ines")["id"]
    path = f"/people/{ines}/password"
    body = {"password": "another long one"}
    assert bench.refused("PUT", path, 403, json=body) == "password.wrong"
    olga = bench.as_("olga")
    assert olga.refused("PUT", path, 403, json=body) == "access.role"
    answer = bench.call("PUT", path, json=body | {"old_password": PASSWORD})
    assert answer.status_code == 204
    assert bench.call("GET", "/jobs").status_code == 401
    assert bench.as_("greta").call("PUT", path, json={"password": PASSWORD}).status_code == 204
    assert bench.as_("ines").get("/session")["name"] == "Ines Tester"


def test_who_is_not_authorised_is_told_who_is(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    greta = bench.as_("greta")
    olga = person(bench, "olga")["id"]
    until = (datetime.now(UTC) + timedelta(days=300)).isoformat()
    request = {"method": "iso-13937-2", "until": until}
    greta.post(f"/people/{olga}/authorisations", request)
    assert greta.refused("POST", f"/people/{olga}/authorisations", 409, json=request)
    view = bench.at_bench(job, "W1")
    act = {"act": "prepare", "seen": 0, "station_id": 1}
    path = f"/specimens/{view['specimen_id']}/actions"
    wording = bench.refused("POST", path, 403, json=act)
    assert wording == "authorisation.missing"
    bench.as_("olga").post(path, act)
    (own,) = person(bench, "olga")["authorised"]
    greta.post(f"/authorisations/{own['id']}/withdraw")
    bench.post(f"/specimens/{bench.specimen(job, 'W2')['id']}/actions", act | {"deviation": "mine"})
    past = {"method": "iso-180", "until": "2020-01-01T00:00Z"}
    assert (
        greta.refused("POST", f"/people/{olga}/authorisations", 422, json=past)
        == "authorisation.ends-in-past"
    )


def test_a_trainee_tests_under_a_supervisor_who_confirms(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    pelle = bench.as_("pelle")
    view = bench.at_bench(job, "W1")
    act = {"act": "prepare", "seen": 0, "station_id": 1}
    assert (
        pelle.refused("POST", f"/specimens/{view['specimen_id']}/actions", 403, json=act)
        == "access.role"
    )
    greta = bench.as_("greta")
    path = f"/people/{person(bench, 'pelle')['id']}"
    odd = changed(bench, "pelle", supervisor_id=person(bench, "pelle")["id"])
    assert greta.refused("PUT", path, 422, json=odd) == "person.supervisor-trainee"
    greta.put(path, changed(bench, "pelle", supervisor_id=person(bench, "ines")["id"]))
    pelle = bench.as_("pelle")
    assert "test" in pelle.get("/session")["may"]
    for direction in "WF":
        for number in range(1, 6):
            who = pelle if (direction, number) == ("W", 1) else bench
            who.bring_in(job, f"{direction}{number}")
    draft = bench.get(f"/jobs/{job['id']}/draft")
    assert draft["obstacles"] == [
        "W1: tested by Pelle Trainee, Ines Tester has not confirmed it yet"
    ]
    assert draft["to_confirm"] is True
    assert bench.as_("maren").release(job["id"]).json()["code"] == "release.not-ready"
    olga = bench.as_("olga")
    assert olga.refused("POST", f"/jobs/{job['id']}/confirm", 403) == "supervision.other-supervisor"
    bench.post(f"/jobs/{job['id']}/confirm")
    assert bench.refused("POST", f"/jobs/{job['id']}/confirm", 409)
    draft = bench.get(f"/jobs/{job['id']}/draft")
    assert draft["obstacles"] == []
    assert any("by the trainee Pelle Trainee under Ines Tester" in e for e in draft["deviations"])
    assert bench.as_("maren").release(job["id"]).status_code == 200
    assert verify().sentences == []
