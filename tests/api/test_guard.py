"""No request can stop the others, and every answer is one of the contract."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from threading import Event

import pytest

from endurant.api import routes_methods
from endurant.api.app import body_limits
from endurant.api.session import FILE_BYTES
from endurant.core.messages import worded
from endurant.store.samples import pack_entry
from endurant.store.tables import Test
from endurant.work.base.watches import Watch
from endurant.work.facts import results
from tests.laboratory import Bench, behind_its_back, sample

SAFETY = ("x-content-type-options", "content-security-policy", "referrer-policy")


def test_one_record_that_cannot_be_computed_hides_no_other(bench: Bench, database: str) -> None:
    job = bench.job_ready_to_test()
    other = bench.post("/jobs", sample(product="Another cloth"))
    run = bench.bring_in(job, "W1")
    packed, sha256 = pack_entry({"trace": {"extension_mm": [0, 1], "force_n": [0, "much"]}})
    behind_its_back(
        database,
        "UPDATE run SET entry = :entry, sha256 = :hash WHERE id = :id",
        entry=packed,
        hash=sha256,
        id=run["id"],
    )
    lines = {line["id"]: line for line in bench.get("/jobs")["jobs"]}
    assert "force_n" in lines[job["id"]]["problem"]
    assert lines[other["id"]]["problem"] is None
    assert bench.get(f"/jobs/{job['id']}")["tests"][0]["problem"]
    assert bench.get("/clocks")
    assert bench.get("/conditioning")
    obstacles = bench.as_("maren").get(f"/jobs/{job['id']}/draft")["obstacles"]
    assert any("force_n" in line for line in obstacles)
    assert bench.as_("maren").release(job["id"]).status_code == 409
    assert bench.call("GET", f"/jobs/{other['id']}/draft.pdf").status_code == 200


def test_a_fault_of_a_computation_is_said_at_its_test_alone(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    def faulty(test: Test) -> None:
        raise ZeroDivisionError(test.id)

    other = bench.post("/jobs", sample(product="Another cloth"))
    monkeypatch.setattr(results, "test_result", faulty)
    job = bench.job_ready_to_test()
    bench.bring_in(job, "W1")
    (affected,) = bench.get(f"/jobs/{job['id']}")["tests"]
    assert affected["problem"] == worded("results.not-computed")
    assert "ZeroDivision" not in json.dumps(affected)
    assert bench.get(f"/jobs/{other['id']}")["tests"][0]["problem"] is None


@pytest.mark.parametrize(
    ("verb", "path", "status"),
    [
        ("GET", "/nowhere", 404),
        ("POST", "/nowhere", 404),
        ("GET", "/evaluate", 405),
        ("DELETE", "/jobs", 405),
        ("GET", "/jobs/999999999999999999999999", 404),
        ("GET", "/enclosures/1/log.csv?hours=nan", 422),
        ("GET", "/enclosures/1/log.csv?hours=-1", 422),
        ("GET", "/enclosures/1/log.csv?hours=1e300", 422),
        ("GET", "/jobs/1/draft.pdf", 404),
        ("POST", "/specimens/1/actions", 422),
    ],
)
def test_refusals_are_problem_documents_with_safety_headers(
    bench: Bench, verb: str, path: str, status: int
) -> None:
    answer = bench.call(verb, path)
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert all(name in answer.headers for name in SAFETY)
    if status == 405:
        assert answer.headers["allow"]


def test_labels_that_differ_by_capitals_alone_are_refused(bench: Bench) -> None:
    fire = {"method": "16-cfr-1610", "parameters": {"surface": "plain"}}
    test = bench.post("/jobs", sample(tests=[fire]))["tests"][0]
    facts = {"round": "first", "direction": "length", "code": "DNI"}
    specimens = [{"label": label, **facts} for label in ("a1", "A1")]
    body = {"document": {"specimens": specimens}, "deviation": "burned elsewhere"}
    refusal = bench.refused("POST", f"/tests/{test['id']}/readings", 422, json=body)
    assert refusal == "import.label-by-capitals"


def test_head_is_answered_without_a_body(bench: Bench) -> None:
    answer = bench.call("HEAD", "/jobs")
    assert answer.status_code == 200
    assert answer.content == b""


def test_documents_and_files_may_be_large_and_nothing_else() -> None:
    limits = {named(limit.address.pattern): limit for limit in body_limits()}
    assert set(limits) == {
        *(
            "/analyse",
            "/evaluate",
            "/conditioning",
            "/import",
            "/headers/import",
            "/products/import",
            "/products/preview",
            "/attachments",
        ),
        *("/tests/{test_id}/import", "/tests/{test_id}/readings", "/enclosures/{enclosure_id}/log"),
        *("/specimens/{specimen_id}/trace", "/specimens/{specimen_id}/photographs"),
    }
    assert {limit.max_bytes for limit in limits.values()} == {FILE_BYTES}
    assert {limit.method for limit in limits.values()} == {"POST"}


def named(pattern: str) -> str:
    """The address that a compiled pattern stands for."""
    return re.sub(r"\(\?P<(\w+)>[^)]*\)", r"{\1}", pattern.removeprefix("^/api").rstrip("$"))


def test_a_form_is_no_place_for_a_file(bench: Bench) -> None:
    much = "x" * 2_100_000
    wording = bench.refused("POST", "/sequences/interpret", 413, json={"moves": much})
    assert "request.too-large" in wording
    assert bench.call("POST", "/analyse", content=b"[" + b" " * 2_100_000).status_code == 422


def test_bodies_are_bounded_before_anybody_signs_in(bench: Bench) -> None:
    bench.client.cookies.clear()

    def endless() -> Iterator[bytes]:
        for _ in range(3000):
            yield b"[" * 1000

    answer = bench.client.post("/api/analyse", content=endless())
    assert answer.status_code == 401
    answer = bench.client.post("/api/session", content=endless())
    assert answer.status_code in (401, 413)
    assert bench.call("POST", "/jobs", content=b" " * 3_000_000).status_code == 413


@pytest.mark.parametrize(
    "changes",
    [
        {"product": "half \ud800 a letter"},
        {"due_at": "9999-12-31T23:59:59-14:00"},
        {"due_at": "0001-01-01T00:00:00+14:00"},
        {"x" * 5000: 1},
        {"tests": [{"method": "iso-13937-2", "parameters": {"\ud800": 1}}]},
    ],
)
def test_odd_text_and_moments_are_refused_in_words(
    bench: Bench, changes: dict[str, object]
) -> None:
    body = json.dumps(sample() | changes).encode()
    headers = {"cookie": f"endurant={bench.token}", "content-type": "application/json"}
    refused = bench.client.post("/api/jobs", content=body, headers=headers)
    assert refused.status_code == 422
    assert len(refused.json()["detail"]) < 300


def test_a_header_of_brackets_is_read_in_no_time(bench: Bench) -> None:
    odd = ("[" * 16_000 + ",Load (N)\n1,2\n2,3\n").encode()
    job = bench.job_ready_to_test()
    path = f"/specimens/{bench.specimen(job, 'W1')['id']}/trace"
    assert bench.call("POST", path, files={"file": ("a.csv", odd)}).status_code == 422


def test_a_trainee_does_not_make_loggers_be_read(bench: Bench) -> None:
    refusal = bench.as_("pelle").refused("POST", "/enclosures/read-loggers", 403)
    assert refusal == "access.role"


def test_enclosures_are_mended_and_closed(bench: Bench) -> None:
    mended = {"name": "Cloth room", "atmosphere": "textile-20-65"}
    view = bench.put("/enclosures/1", mended)
    (room,) = view["enclosures"]
    assert room["name"] == "Cloth room"
    seen = mended | {"capacity": 40, "revision": room["revision"]}
    assert bench.put("/enclosures/1", seen)["enclosures"][0]["capacity"] == 40
    late = bench.refused("PUT", "/enclosures/1", 409, json=seen | {"capacity": 50})
    assert "enclosure.stale" in late
    cold = {"temperature_c": 18, "temperature_tolerance_c": 2, "reason": "a cold test"}
    bench.put("/enclosures/1/set-point", cold)
    bench.as_("maren").post("/enclosures/1/set-point/confirm")
    other = bench.put("/enclosures/1", mended | {"atmosphere": "oven-105"})
    assert other["enclosures"][0]["temperature_c"] == 105
    assert other["atmospheres"]["oven-105"] == "Drying oven, 105\u00a0±\u00a03\u00a0°C"
    bench.put("/enclosures/1", mended)
    job = bench.job_ready_to_test()
    assert bench.refused("POST", "/enclosures/1/close", 409) == "enclosure.close-not-empty"
    ids = [specimen["id"] for specimen in job["tests"][0]["specimens"]]
    bench.post("/enclosures/removals", {"specimen_ids": ids})
    assert bench.post("/enclosures/1/close")["enclosures"] == []
    body = {"specimen_ids": ids[:1]}
    assert bench.refused("POST", "/enclosures/1/placements", 409, json=body) == "enclosure.closed"


def test_a_watch_goes_on_whatever_happens() -> None:
    seen: list[int] = []
    third = Event()

    def act() -> None:
        seen.append(len(seen))
        if len(seen) == 3:
            third.set()
        raise RuntimeError("odd")

    watch = Watch("odd-watch", 0.001, act)
    watch.start()
    assert third.wait(30)
    watch.stop()


def test_forty_long_requests_do_not_keep_a_short_one_waiting(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, go_on = Event(), Event()

    def long(_: object) -> dict[str, str]:
        begun.set()
        assert go_on.wait(60)
        return {}

    monkeypatch.setattr(routes_methods, "judge_document", long)
    headers = {"cookie": f"endurant={bench.token}"}
    client = bench.client
    with ThreadPoolExecutor(40) as crowd:
        waiting = [
            crowd.submit(client.post, "/api/evaluate", content=b"{}", headers=headers)
            for _ in range(40)
        ]
        assert begun.wait(60)
        assert client.get("/api/session", headers=headers).status_code == 200
        go_on.set()
        assert {answer.result().status_code for answer in waiting} == {200}
