"""Nonconformities: opened by hand or by a failed check, closed by another person."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from endurant.work.upkeep.verify import verify
from tests.api.test_instruments import FOIL
from tests.laboratory import Bench, queries, sample


def opened(bench: Bench, **more: Any) -> dict[str, Any]:
    view: dict[str, Any] = bench.post("/nonconformities", {"title": "wrong address"} | more)
    return view


def changed(bench: Bench, view: dict[str, Any], **more: Any) -> dict[str, Any]:
    names = ("title", "description", "cause", "action", "owner_id", "due_at", "revision")
    body = {name: view[name] for name in names} | more
    after: dict[str, Any] = bench.put(f"/nonconformities/{view['id']}", body)
    return after


def person(bench: Bench, login: str) -> int:
    row: int = next(each["id"] for each in bench.get("/people") if each["login"] == login)
    return row


def test_one_is_opened_worked_on_and_closed_by_another(bench: Bench) -> None:
    maren, greta = bench.as_("maren"), bench.as_("greta")
    job = bench.post("/jobs", sample())
    view = opened(bench, kind="complaint", job_id=job["id"])
    assert (view["number"], view["job_number"], view["opened_by"]) == (
        "NC-0001",
        job["number"],
        "Ines Tester",
    )
    path = f"/nonconformities/{view['id']}/close"
    body = {"remark": "looked at", "revision": 1}
    assert greta.refused("POST", path, 422, json=body) == "nonconformity.part-missing"
    view = changed(bench, view, cause="a typing error", owner_id=person(bench, "maren"))
    body["revision"] = view["revision"]
    assert greta.refused("POST", path, 422, json=body) == "nonconformity.part-missing"
    view = changed(maren, view, action="the address is read back")
    assert greta.refused("POST", path, 409, json=body) == "stale"
    body["revision"] = view["revision"]
    assert maren.refused("POST", path, 409, json=body) == "nonconformity.closed-by-another"
    assert bench.refused("POST", path, 403, json=body) == "access.role"
    closed = greta.post(path, body)
    assert (closed["closed_by"], closed["closing"], closed["may_change"]) == (
        "Greta Manager",
        "looked at",
        False,
    )
    assert greta.refused("POST", path, 409, json=body) == "nonconformity.closed-already"
    assert bench.get("/nonconformities") == []
    for query in ("state=closed", f"state=all&job_id={job['id']}"):
        (line,) = bench.get(f"/nonconformities?{query}")
        assert line["title"] == "wrong address"
    assert verify().sentences == []


def test_what_it_concerns_and_who_acts_must_be_known(bench: Bench) -> None:
    body = {"title": "x"}
    for more, status, code in (
        ({"job_id": 999}, 404, "job.unknown"),
        ({"serial": "T-999"}, 422, "nonconformity.instrument-unknown"),
        ({"owner_id": 999}, 422, "nonconformity.owner-unknown"),
    ):
        assert bench.refused("POST", "/nonconformities", status, json=body | more) == code
    assert bench.refused("POST", "/nonconformities", 422, json={"title": " "})
    assert bench.refused("GET", "/nonconformities/99", 404) == "nonconformity.none"
    assert opened(bench, serial="T-1")["serial"] == "T-1"


def test_a_released_report_that_a_failed_check_hits_appears_by_itself(bench: Bench) -> None:
    greta, maren = bench.as_("greta"), bench.as_("maren")
    (check,) = greta.post("/instruments/T-1/checks", FOIL)
    readings = f"/checks/{check['id']}/readings"
    bench.post(readings, {"value": 100.2})
    job = bench.job_ready_to_test()
    for label in ("W1", "W2"):
        bench.pull(job, label)
    bench.post(readings, {"value": 95.0})
    (line,) = bench.get("/nonconformities?serial=T-1")
    view = bench.get(f"/nonconformities/{line['id']}")
    (hit,) = view["affected"]
    assert (view["source"], hit["number"], hit["labels"], hit["released"]) == (
        "check",
        job["number"],
        "W1, W2",
        False,
    )
    assert [each["id"] for each in bench.get(f"/nonconformities?job_id={job['id']}")] == [
        view["id"]
    ]
    bench.post(readings, {"value": 94.0})
    assert len(bench.get("/nonconformities?serial=T-1")) == 1
    assert len(bench.get(f"/nonconformities/{view['id']}")["affected"]) == 1
    (due,) = [each for each in bench.get("/due")["lines"] if each["kind"] == "nonconformity"]
    assert (due["nonconformity_id"], due["overdue"]) == (view["id"], False)
    view = changed(bench, view, cause="dirt on the weight", action="the results were checked")
    body = {"remark": "agreed", "revision": view["revision"]}
    maren.post(f"/nonconformities/{view['id']}/close", body)
    bench.post(readings, {"value": 93.0})
    (again,) = bench.get("/nonconformities?serial=T-1")
    assert again["id"] != view["id"]
    assert verify().sentences == []


def test_a_late_one_is_overdue_and_lists_take_as_many_queries_for_many(
    bench: Bench, database: str
) -> None:
    late = (datetime.now(UTC) - timedelta(days=1)).isoformat()
    opened(bench, due_at=late, owner_id=person(bench, "maren"))
    with queries(database, "nonconformity") as few:
        (line,) = bench.get("/nonconformities")
    assert (line["overdue"], line["owner"]) == (True, "Maren Reviewer")
    for login in ("ines", "olga", "greta"):
        opened(bench, owner_id=person(bench, login))
    with queries(database, "nonconformity") as many:
        lines = bench.get("/nonconformities")
    assert [each["due_at"] is not None for each in lines] == [True, False, False, False]
    assert len(many) == len(few)


def test_a_report_to_be_collected_is_due_until_it_is_handed_over(bench: Bench) -> None:
    job = bench.tested_job()
    body = {"kind": "collected", "location": "A. Buyer"}
    path = f"/jobs/{job['id']}/custody"
    assert bench.refused("POST", path, 409, json=body) == "custody.not-released"
    bench.as_("maren").release(job["id"])

    def waiting() -> list[str]:
        return [line["title"] for line in bench.get("/due")["lines"] if line["kind"] == "report"]

    assert waiting() == []
    bench.put("/client", {"name": job["client"], "collects_reports": True})
    assert waiting() == [f"{job['number']} {job['product']}"]
    assert bench.refused("POST", path, 422, json=body | {"location": ""})
    bench.post(path, body)
    assert waiting() == []


def test_a_remainder_is_not_due_before_its_sample_came(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    until = (datetime.now(UTC) - timedelta(days=2)).isoformat()
    body = {"kind": "kept", "location": "B 4", "until": until}
    path = f"/jobs/{job['id']}/custody"
    assert bench.refused("POST", path, 422, json=body) == "custody.until-before-receipt"
