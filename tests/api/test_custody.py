"""Where a sample is, what remains, what became of it, and a test that is done once more."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from endurant.store import clock
from endurant.work.upkeep.verify import verify
from tests.laboratory import PENDULUM, Bench, pieces, sample


def test_what_remains_is_kept_split_and_given_back(bench: Bench) -> None:
    with clock.as_if(datetime.now(UTC) - timedelta(days=3)):
        job = bench.post("/jobs", pieces("iso-180", PENDULUM | {"specimens_wanted": 5}))
    path = f"/jobs/{job['id']}/custody"
    first = bench.get(path)
    assert (first["code"], first["remains"], first["unit"]) == ("J-0401-R", 15, "pieces")
    until = (datetime.now(UTC) - timedelta(days=1)).isoformat()
    kept = bench.post(path, {"kind": "kept", "location": "shelf B4", "until": until})
    assert (kept["location"], kept["overdue"]) == ("shelf B4", True)
    wording = bench.refused(
        "POST", path, 422, json={"kind": "split", "location": "X", "amount": 16}
    )
    assert wording == "custody.amount-too-large"
    assert (
        bench.refused("POST", path, 422, json={"kind": "split", "location": "X"})
        == "custody.amount-missing"
    )
    assert bench.refused("POST", path, 422, json={"kind": "returned"}) == "custody.place-missing"
    split = bench.post(path, {"kind": "split", "location": "the chemists", "amount": 4})
    assert split["remains"] == 11
    gone = bench.post(path, {"kind": "returned", "location": "Quay Awnings"})
    assert (gone["is_here"], gone["location"]) == (False, "")
    wording = bench.refused("POST", path, 409, json={"kind": "disposed"})
    assert wording == "custody.gone"
    assert [line["kind"] for line in gone["lines"]] == ["returned", "split", "kept"]
    assert verify().sentences == []


def test_what_was_cut_off_a_roll_remains_no_more(bench: Bench) -> None:
    job = bench.post("/jobs", sample(length_mm=3000))
    path = f"/jobs/{job['id']}/custody"
    assert bench.get(path)["remains"] == 3000
    sheet = bench.get(f"/jobs/{job['id']}/sheet")
    body = {"revision": sheet["revision"], "seconds": 0}
    sheet = bench.post(f"/jobs/{job['id']}/sheet/place", body)
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    after = bench.get(path)
    assert 1500 < after["remains"] < 3000


def test_a_release_that_does_not_meet_asks_for_somebody_to_be_told(bench: Bench) -> None:
    job = bench.tested_job(limits={"warp": "99", "weft": "15.0"})
    path = f"/jobs/{job['id']}/custody"
    assert bench.get(path)["tell"] == ""
    bench.as_("maren").release(job["id"])
    assert bench.get(path)["tell"].startswith("The report of J-0401 states a fail: notify Quay")
    notified = bench.post(
        path, {"kind": "told", "location": "Quay Awnings", "remark": "by telephone"}
    )
    assert notified["tell"] == ""
    assert notified["lines"][0]["text"] == "notified Quay Awnings: by telephone"


def test_a_retest_is_allowed_by_whom_the_house_says_and_both_are_reported(bench: Bench) -> None:
    job = bench.tested_job()
    test = job["tests"][0]
    why = {"revision": test["revision"], "reason": "one roll end was wet"}
    path = f"/tests/{test['id']}/retest"
    assert bench.refused("POST", path, 403, json=why)
    greta = bench.as_("greta")
    laboratory = greta.get("/lab-settings")
    rules = {rule["name"]: rule["value"] for rule in laboratory["rules"]}
    assert rules["retest_by"] == "reviewer"
    changed = {key: laboratory[key] for key in ("name", "address", "revision")} | rules
    after = greta.put("/lab-settings", changed | {"retest_by": "manager", "reason": "agreed"})
    maren = bench.as_("maren")
    maren.post("/lab-settings/confirm", {"revision": after["revision"]})
    wording = maren.refused("POST", path, 403, json=why)
    assert wording == "retest.manager-only"
    again = greta.post(path, why)
    assert len(again["tests"]) == 2
    assert again["tests"][1]["rows"][0]["limit_text"] == test["rows"][0]["limit_text"]
    assert again["tests"][1]["specimens"][0]["code"].startswith("J-0401-2-")
    why["revision"] = again["tests"][0]["revision"]
    assert greta.refused("POST", path, 409, json=why) == "retest.exists"
    open_one = again["tests"][1]
    why["revision"] = open_one["revision"]
    wording = greta.refused("POST", f"/tests/{open_one['id']}/retest", 409, json=why)
    assert "retest.not-complete" in wording
    draft = bench.get(f"/jobs/{job['id']}/draft")
    assert any("allowed by Greta Manager: one roll end was wet" in d for d in draft["deviations"])


def test_nothing_is_cut_from_a_sample_that_was_disposed_of(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    bench.post(f"/jobs/{job['id']}/custody", {"kind": "disposed"})
    for what in ("place", "cut"):
        body = {"revision": job["revision"]}
        said = bench.refused("POST", f"/jobs/{job['id']}/sheet/{what}", 409, json=body)
        assert said == "sample.disposed"
