"""A job changes after it was written down, by whom and why; nothing that was done is lost."""

from __future__ import annotations

from typing import Any

from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench, sample

WHY = "the client called"


def amended(job: dict[str, Any], **changes: Any) -> dict[str, Any]:
    names = ("client", "product", "lot", "material", "due_at", "priority", "client_remark", "shelf")
    kept = {name: job[name] for name in names}
    return kept | {"revision": job["revision"], "reason": WHY} | changes


def why(thing: dict[str, Any], reason: str = WHY) -> dict[str, Any]:
    return {"revision": thing["revision"], "reason": reason}


def test_due_date_lot_and_words_are_changed_with_a_reason(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    path = f"/jobs/{job['id']}"
    wording = bench.refused("PUT", path, 422, json=amended(job))
    assert wording == "job.nothing-changed"
    changes = {"due_at": "2031-05-01T12:00:00Z", "shelf": "B 4", "client_remark": "urgent"}
    after = bench.put(path, amended(job, **changes))
    assert (after["shelf"], after["client_remark"]) == ("B 4", "urgent")
    assert after["events"][0]["code"] == "amend"
    assert after["events"][0]["text"] == (
        "Ines Tester changed the job: due 01 May 2031 12:00, client says urgent, shelf B 4: "
        "the client called"
    )
    olga = bench.as_("olga")
    assert olga.refused("PUT", path, 409, json=amended(job, lot="X")) == "stale"
    assert bench.refused("PUT", path, 422, json=amended(after, reason=""))
    assert verify().sentences == []


def test_a_cancelled_job_is_in_nobodys_way_and_can_come_back(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    path = f"/jobs/{job['id']}"
    cancelled = bench.post(f"{path}/cancel", why(bench.get(path)))
    assert (cancelled["stage"], cancelled["cancelled"]) == ("cancelled", WHY)
    assert bench.get("/jobs")["jobs"] == []
    assert bench.get("/conditioning")["waiting"] == []
    act = {"act": "prepare", "seen": 0, "station_id": 1}
    w1 = bench.specimen(job, "W1")["id"]
    wording = bench.refused("POST", f"/specimens/{w1}/actions", 409, json=act)
    assert "job.cancelled" in wording
    assert bench.refused("POST", f"{path}/cancel", 409, json=why(cancelled))
    back = bench.post(f"{path}/reinstate", why(cancelled, "it was a mistake"))
    assert back["stage"] != "cancelled"
    assert [line["id"] for line in bench.get("/jobs")["jobs"]] == [job["id"]]
    assert bench.refused("POST", f"{path}/reinstate", 409, json=why(back))
    assert verify().sentences == []


def test_a_test_is_added_held_resumed_and_dropped(bench: Bench) -> None:
    job = bench.tested_job()
    path = f"/jobs/{job['id']}"
    tear = job["tests"][0]
    wording = bench.refused("POST", f"/tests/{tear['id']}/cancel", 409, json=why(tear))
    assert "test.only-one" in wording
    body = why(job) | {"test": {"method": "iso-13934-1", "parameters": {"specimens_wanted": 2}}}
    more = bench.post(f"{path}/tests", body)
    strip = more["tests"][1]
    assert [specimen["code"][-4:] for specimen in strip["specimens"][:2]] == ["2-W1", "2-W2"]
    assert more["stage"] != "tested"
    held = bench.post(f"/tests/{strip['id']}/hold", why(strip, "no cloth left"))
    strip = held["tests"][1]
    assert strip["held"] == "no cloth left"
    draft = bench.get(f"{path}/draft")
    assert any("is on hold: no cloth left" in line for line in draft["obstacles"])
    assert bench.refused("POST", f"/tests/{strip['id']}/hold", 409, json=why(strip))
    strip = bench.post(f"/tests/{strip['id']}/resume", why(strip))["tests"][1]
    dropped = bench.post(f"/tests/{tear['id']}/cancel", why(tear, "another sample came"))
    assert [test["id"] for test in dropped["tests"]] == [strip["id"]]
    (wording,) = dropped["dropped"]
    assert "W1, W2, W3" in wording
    assert wording.endswith("had been tested: another sample came")
    assert wording in bench.get(f"{path}/draft")["deviations"]
    wording = bench.refused("POST", f"/tests/{tear['id']}/cancel", 409, json=why(tear))
    assert "test.dropped" in wording
    assert verify().sentences == []


def test_colour_rub_that_is_added_is_a_dry_and_a_wet_test(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    body = why(job) | {"test": {"method": "iso-105-x12", "parameters": {}}}
    more = bench.post(f"/jobs/{job['id']}/tests", body)
    rubs = [bench.get(f"/tests/{test['id']}")["parameters"]["rub"] for test in more["tests"][1:]]
    assert rubs == ["dry", "wet"]
    codes = [specimen["code"] for test in more["tests"] for specimen in test["specimens"]]
    assert len(set(codes)) == len(codes)


def test_a_count_is_changed_before_and_after(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    test = job["tests"][0]
    path = f"/tests/{test['id']}"
    fewer = {"parameters": {"specimens_wanted": 3}, **why(test)}
    test = bench.put(path, fewer)["tests"][0]
    planned = [each["label"] for each in test["specimens"] if not each["spare"]]
    assert planned == ["W1", "W2", "W3", "F1", "F2", "F3"]
    more = {"parameters": {"specimens_wanted": 7}, **why(test)}
    test = bench.put(path, more)["tests"][0]
    labels = [each["label"] for each in test["specimens"] if each["direction"] == "warp"]
    assert labels == [f"W{n}" for n in range(1, 8)]
    assert test["required"] == 14
    odd = {"parameters": {"load_cell_n": 100.0}, **why(test)}
    assert bench.refused("PUT", path, 422, json=odd) == "test.parameter-unknown"
    none = {"parameters": {"specimens_wanted": 0}, **why(test)}
    assert bench.refused("PUT", path, 422, json=none)
    assert bench.get(f"/jobs/{job['id']}")["tests"][0]["required"] == 14
    assert verify().sentences == []


def test_two_who_amend_at_once_do_not_undo_each_other(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    test = job["tests"][0]
    path = f"/tests/{test['id']}"
    bench.put(path, {"parameters": {"specimens_wanted": 4}, **why(test)})
    olga = bench.as_("olga")
    late = {"parameters": {"specimens_wanted": 6}, **why(test)}
    assert olga.refused("PUT", path, 409, json=late) == "stale"


def test_a_released_job_is_amended_no_more(bench: Bench) -> None:
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    after = bench.get(f"/jobs/{job['id']}")
    path = f"/jobs/{job['id']}"
    assert bench.refused("PUT", path, 409, json=amended(after, lot="X")) == "job.released"
    assert bench.refused("POST", f"{path}/cancel", 409, json=why(after)) == "job.released"
