"""What is signed is what was seen, by a second pair of eyes."""

from __future__ import annotations

from typing import Any

import pytest

from tests.laboratory import PASSWORD, Bench


def limits_of(test: dict[str, Any], limit: str, **more: Any) -> dict[str, Any]:
    criterion = {"on": "mean", "op": ">=", "limit": limit}
    request = {"property": "tear_force", "direction": "warp", "criterion": criterion}
    return {"revision": test["revision"], "limits": [request], **more}


def test_a_draft_that_changed_after_it_was_opened_is_not_released(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    seen = maren.get(f"/jobs/{job['id']}/draft")
    test = seen["job"]["tests"][0]
    taken_away = {"revision": test["revision"], "limits": [], "reason": "client asks for none"}
    bench.put(f"/tests/{test['id']}/limits", taken_away)
    body = {
        "password": PASSWORD,
        "revision": maren.get(f"/jobs/{job['id']}")["revision"],
        "content_sha256": seen["content_sha256"],
    }
    refusal = maren.refused("POST", f"/jobs/{job['id']}/release", 409, json=body)
    assert refusal == "release.draft-changed"
    assert maren.get(f"/jobs/{job['id']}")["released"] is False


def test_limits_changed_after_testing_need_a_reason_and_are_a_deviation(bench: Bench) -> None:
    job = bench.tested_job()
    test = job["tests"][0]
    path = f"/tests/{test['id']}/limits"
    assert bench.refused("PUT", path, 422, json=limits_of(test, "30")) == "limit.reason-needed"
    bench.put(path, limits_of(test, "30", reason="the order names 30 N"))
    draft = bench.as_("maren").get(f"/jobs/{job['id']}/draft")
    assert any("the order names 30 N" in line for line in draft["deviations"])
    report = bench.as_("maren").release(job["id"]).json()["reports"][0]
    content = bench.get(f"/reports/{report['id']}.json")
    assert any("the order names 30 N" in line for line in content["deviations"])


@pytest.mark.parametrize("hand", ["keep", "void", "withdraw", "limits"])
def test_whoever_had_a_hand_in_it_does_not_release_it(bench: Bench, hand: str) -> None:
    job = bench.job_ready_to_test()
    maren = bench.as_("maren")
    run = bench.bring_in(job, "W1", keep=False)
    specimen = f"/specimens/{run['specimen_id']}/void"
    if hand == "keep":
        maren.post(f"/runs/{run['id']}/accept")
    else:
        bench.post(f"/runs/{run['id']}/accept")
    if hand == "void":
        maren.post(specimen, {"code": "jaw-slip"})
    if hand == "withdraw":
        bench.post(specimen, {"code": "jaw-slip"})
        maren.post(f"{specimen}/withdraw", {"reason": "it did not slip after all"})
    if hand == "limits":
        test = bench.get(f"/jobs/{job['id']}")["tests"][0]
        maren.put(f"/tests/{test['id']}/limits", limits_of(test, "20", reason="misread"))
    wording = maren.get(f"/jobs/{job['id']}/draft")["not_by_you"]
    refusal = maren.release(job["id"]).json()
    assert refusal["code"] == "release.own-work"
    assert refusal["params"] == {"reason": wording}


def test_a_wrong_password_elsewhere_does_not_block_a_release(bench: Bench) -> None:
    job = bench.tested_job()
    maren = bench.as_("maren")
    for _ in range(12):
        bench.client.cookies.clear()
        bench.client.post("/api/session", json={"login": "maren", "password": "guess guess"})
    assert maren.release(job["id"]).status_code == 200
