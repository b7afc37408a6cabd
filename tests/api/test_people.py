"""Signing in, and who may do what."""

from __future__ import annotations

import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

from argon2 import extract_parameters

from endurant.core.refusals import Conflict, Forbidden
from endurant.work.use_cases.people.sign_in import GUESSES, sign_in
from tests.laboratory import PASSWORD, Bench, sample


def test_the_cookie_opens_the_door_and_signing_out_closes_it(bench: Bench) -> None:
    bench.client.cookies.clear()
    answer = bench.client.post("/api/session", json={"login": "ines", "password": PASSWORD})
    assert answer.json()["role"] == "technician"
    assert "HttpOnly" in answer.headers["set-cookie"]
    assert "SameSite=strict" in answer.headers["set-cookie"]
    assert bench.client.get("/api/jobs").status_code == 200
    bench.client.delete("/api/session")
    assert bench.client.get("/api/jobs").status_code == 401


def test_without_a_session_nothing_is_told(bench: Bench) -> None:
    bench.client.cookies.clear()
    for path in ("/api/jobs", "/api/clocks", "/api/methods", "/api/reports/1.pdf"):
        answer = bench.client.get(path)
        assert answer.status_code == 401
        assert answer.json()["code"] == "session.signed-out"


def test_guessing_is_slowed_down_and_names_are_not_given_away(bench: Bench) -> None:
    def attempt(login: str, password: str) -> tuple[int, str]:
        answer = bench.client.post("/api/session", json={"login": login, "password": password})
        return answer.status_code, answer.json()["code"]

    assert attempt("nobody", "wrong password") == attempt("ines", "wrong password")
    for _ in range(7):
        attempt("ines", "wrong password")
    status, wording = attempt("ines", PASSWORD)
    assert status == 409
    assert "sign-in.too-many-tries" in wording


def test_a_trainee_may_look_and_not_touch(bench: Bench) -> None:
    pelle = bench.as_("pelle")
    assert pelle.get("/jobs")["jobs"] == []
    assert pelle.refused("POST", "/jobs", 403, json=sample()) == "access.role"


def test_a_page_of_another_site_changes_nothing(bench: Bench) -> None:
    answer = bench.client.post(
        "/api/jobs",
        json=sample(),
        headers={"cookie": f"endurant={bench.token}", "origin": "http://elsewhere.invalid"},
    )
    assert answer.status_code == 403
    assert bench.get("/jobs")["jobs"] == []


def test_unknown_addresses_are_answered_with_a_problem(bench: Bench) -> None:
    assert bench.refused("GET", "/nowhere", 404) == "request.no-such-address"
    assert bench.refused("GET", "/jobs/99", 404) == "job.unknown"


def test_passwords_are_hashed_at_full_strength_outside_tests() -> None:
    script = (
        "from endurant.work.use_cases.people.sign_in import hash_password as h; "
        "print(h('somebody else'))"
    )
    kept = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True
    )
    costs = extract_parameters(kept.stdout.strip())
    assert costs.memory_cost >= 65_536
    assert costs.time_cost >= 3


def test_guesses_at_once_are_counted_before_they_are_looked_at(bench: Bench) -> None:
    def guess(number: int) -> str:
        try:
            sign_in("ines", f"wrong {number}", "10.0.0.9")
        except Conflict:
            return "refused"
        except Forbidden:
            return "wrong"
        return "in"

    with ThreadPoolExecutor(20) as pool:
        came = list(pool.map(guess, range(20)))
    assert came.count("wrong") == GUESSES
    assert came.count("refused") == 20 - GUESSES


def test_the_old_password_is_not_guessed_for_ever(bench: Bench) -> None:
    me = bench.get("/session")["id"]
    request = {"password": "a-new-one-of-mine", "old_password": "guess"}
    for _ in range(GUESSES):
        assert bench.call("PUT", f"/people/{me}/password", json=request).status_code == 403
    said = bench.refused("PUT", f"/people/{me}/password", 409, json=request)
    assert said == "sign-in.too-many-tries"
