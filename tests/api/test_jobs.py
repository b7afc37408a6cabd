"""Receiving, the sheet, conditioning and limits over the API."""

from __future__ import annotations

from typing import Any

import pytest

from tests.laboratory import Bench, sample


def received(bench: Bench, **changes: Any) -> dict[str, Any]:
    job: dict[str, Any] = bench.post("/jobs", sample(**changes))
    return job


def place(bench: Bench, job: dict[str, Any]) -> dict[str, Any]:
    revision = bench.get(f"/jobs/{job['id']}/sheet")["revision"]
    sheet: dict[str, Any] = bench.post(
        f"/jobs/{job['id']}/sheet/place", {"revision": revision, "seconds": 0}
    )
    return sheet


def test_a_job_has_five_and_a_spare_each_way(bench: Bench) -> None:
    job = received(bench)
    specimens = job["tests"][0]["specimens"]
    assert [specimen["label"] for specimen in specimens] == [
        f"{d}{n}" for d in "WF" for n in range(1, 7)
    ]
    assert [specimen["label"] for specimen in specimens if specimen["spare"]] == ["W6", "F6"]
    assert specimens[0]["long_side"] == "weft"
    assert specimens[0]["works_on"] == "tears warp yarns"
    assert job["next_text"] == "Place and cut specimens"
    assert [row["rule"]["limit_text"] for row in job["tests"][0]["rows"]] == [
        "mean ≥ 20\u00a0N",
        "mean ≥ 15.0\u00a0N",
    ]


def test_a_repeated_request_receives_once(bench: Bench) -> None:
    body = sample(request_key="key-1")
    assert bench.post("/jobs", body)["id"] == bench.post("/jobs", body)["id"]
    assert len(bench.get("/jobs")["jobs"]) == 1


@pytest.mark.parametrize(
    ("changes", "wording"),
    [
        ({"limits": {"warp": "1e3"}}, "limit.not-a-number"),
        ({"limits": {"diagonal": "5"}}, "limit.direction-unknown"),
        ({"width_mm": 0}, "field.too-low"),
        ({"client": "  "}, "field.empty"),
        ({"colour": "red"}, "field.unknown"),
        ({"due_at": "2026-01-01T00:00:00"}, "request.no-time-zone"),
        ({"tests": [{"method": "iso-0"}]}, "method.unknown"),
        (
            {"tests": [{"method": "iso-13937-2", "parameters": {"speed_mm_min": -1}}]},
            "field.too-low",
        ),
    ],
)
def test_what_makes_no_sense_is_refused_and_nothing_is_received(
    bench: Bench, changes: dict[str, Any], wording: str
) -> None:
    assert bench.refused("POST", "/jobs", 422, json=sample(**changes)) == wording
    assert bench.get("/jobs")["jobs"] == []


def test_placing_marking_moving_and_cutting(bench: Bench) -> None:
    job = received(bench)
    path = f"/jobs/{job['id']}/sheet"
    sheet = place(bench, job)
    assert sheet["broken"] == []
    area = {"reason": "crease", "corners": [[0, 60], [1480, 60], [1480, 90], [0, 90]]}
    answer = bench.call(
        "PUT", f"{path}/areas", json={"areas": [area], "revision": sheet["revision"]}
    )
    sheet = answer.json()
    assert {rule["code"] for rule in sheet["broken"]} == {"avoided-area"}
    refusal = bench.refused("POST", f"{path}/cut", 409, json={"revision": sheet["revision"]})
    assert refusal == "sheet.rule-broken"
    sheet = place(bench, job)
    assert sheet["broken"] == []

    w1 = sheet["specimens"][0]
    spot = {"specimen_id": w1["id"], "x_mm": 160, "y_mm": 300}
    assert "selvedge" in {rule["code"] for rule in bench.post(f"{path}/check", spot)}
    assert bench.get(path)["revision"] == sheet["revision"]
    body = {"laid": [spot], "revision": sheet["revision"]}
    moved = bench.call("PUT", f"{path}/layout", json=body).json()
    assert "60 mm from the left selvedge" in moved["broken"][0]["sentence"]

    sheet = place(bench, job)
    cut = bench.post(f"{path}/cut", {"revision": sheet["revision"]})
    refusal = bench.refused("POST", f"{path}/place", 409, json={"revision": cut["revision"]})
    assert refusal == "sheet.already-cut"


def test_the_second_person_at_a_sheet_is_told(bench: Bench) -> None:
    job = received(bench)
    path = f"/jobs/{job['id']}/sheet"
    seen = bench.get(path)["revision"]
    bench.as_("olga").post(f"{path}/place", {"revision": seen})
    refusal = bench.refused("POST", f"{path}/place", 409, json={"revision": seen})
    assert refusal == "stale"


def test_a_sample_too_small_says_how_much_is_missing(bench: Bench) -> None:
    job = received(bench, length_mm=320)
    sheet = place(bench, job)
    assert "mm too short" in sheet["shortage"]
    refusal = bench.refused(
        "POST", f"/jobs/{job['id']}/sheet/cut", 409, json={"revision": sheet["revision"]}
    )
    assert refusal == "sheet.specimens-unplaced"


@pytest.mark.parametrize(
    ("area", "wording"),
    [
        ([[10, 10], [50, 10], [10, 10], [50, 10]], "area.crosses-itself"),
        ([[0, 0], [100, 100], [100, 0], [0, 100]], "area.crosses-itself"),
        ([[10, 10], [20, 20]], "area.too-few-corners"),
        ([[2000, 10], [2100, 10], [2100, 50]], "area.off-the-sheet"),
    ],
)
def test_areas_that_make_no_sense(bench: Bench, area: list[Any], wording: str) -> None:
    job = received(bench)
    body = {"areas": [{"reason": "stain", "corners": area}], "revision": job["revision"]}
    assert bench.refused("PUT", f"/jobs/{job['id']}/sheet/areas", 422, json=body) == wording


def test_hanging_starts_the_clock_and_is_done_once(bench: Bench) -> None:
    job = received(bench)
    sheet = place(bench, job)
    ids = {"specimen_ids": [specimen["id"] for specimen in job["tests"][0]["specimens"]]}
    assert (
        bench.refused("POST", "/enclosures/1/placements", 409, json=ids) == "conditioning.not-cut"
    )
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    bench.post("/enclosures/1/placements", ids)
    assert (
        bench.refused("POST", "/enclosures/1/placements", 409, json=ids)
        == "conditioning.already-placed"
    )
    clocks = bench.get("/clocks")["clocks"]
    assert len(clocks) == 1
    assert bench.specimen(job, "W1")["state"] == "conditioning"
    bench.post("/enclosures/removals", ids)
    assert bench.get("/clocks")["clocks"] == []


def test_a_served_specimen_is_ready(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    assert bench.specimen(job, "W1")["state"] == "ready"
    assert bench.get(f"/jobs/{job['id']}")["next_text"] == "Start testing"


def test_limits_change_until_release_and_not_behind_anyones_back(bench: Bench) -> None:
    job = received(bench)
    test = job["tests"][0]
    limit = {
        "property": "tear_force",
        "direction": "warp",
        "criterion": {"on": "mean", "op": ">=", "limit": "30"},
    }
    body = {"limits": [limit], "revision": test["revision"]}
    answer = bench.call("PUT", f"/tests/{test['id']}/limits", json=body)
    assert answer.json()["rows"][1]["criterion"] is None
    refusal = bench.refused("PUT", f"/tests/{test['id']}/limits", 409, json=body)
    assert refusal == "stale"


def test_a_code_finds_its_specimen(bench: Bench) -> None:
    job = received(bench)
    code = job["tests"][0]["specimens"][3]["code"]
    specimen = bench.get(f"/specimens/by-code/{code.lower()}")
    assert specimen["job_id"] == job["id"]
    assert specimen["specimen"]["label"] == "W4"
    assert bench.get("/specimens/by-code/J-9999-1-W1") is None


def test_a_guarded_limit_is_met_only_beyond_the_uncertainty(bench: Bench) -> None:
    job = bench.tested_job()
    test = bench.get(f"/tests/{job['tests'][0]['id']}")
    row = next(row for row in test["rows"] if row["direction"] == "warp")
    mean, expanded = row["summary"]["mean"], None
    budget = [{"name": "load cell", "value": 100, "expanded": 2.0}]

    def judged(limit: str, guard: dict[str, Any] | None) -> dict[str, Any]:
        now = bench.get(f"/tests/{test['id']}")
        request = {
            "property": "tear_force",
            "direction": "warp",
            "criterion": {"on": "mean", "op": ">=", "limit": limit},
            "guard": guard,
        }
        body = {"limits": [request], "revision": now["revision"], "reason": "to see its guard"}
        rows = bench.put(f"/tests/{test['id']}/limits", body)["rows"]
        return next(row for row in rows if row["direction"] == "warp")

    just_below = f"{mean - 0.1:.1f}"
    assert judged(just_below, None)["verdict"] == "meets"
    guarded = judged(just_below, {"budget": budget})
    expanded = guarded["expanded_u"]
    n, sd = row["summary"]["n"], row["summary"]["sd"]
    relative = ((sd / n**0.5 / mean) ** 2 + (1.0 / 100) ** 2) ** 0.5
    assert expanded == pytest.approx(2 * relative * mean)
    assert guarded["verdict"] == "cannot say"
    (band,) = guarded["rule"]["guarded"]
    assert band["end"] - band["start"] == pytest.approx(2 * expanded)
    assert any("guards the limit" in line["says"] for line in guarded["working"])
    assert judged(f"{mean - expanded - 0.2:.1f}", {"budget": budget})["verdict"] == "meets"
    assert judged(f"{mean + expanded + 0.2:.1f}", {"budget": budget})["verdict"] == "does not meet"
    refused = {
        "limits": [
            {
                "property": "tear_force",
                "direction": "warp",
                "criterion": {"on": "report-only"},
                "guard": {"budget": []},
            }
        ],
        "revision": bench.get(f"/tests/{test['id']}")["revision"],
        "reason": "to see it refused",
    }
    path = f"/tests/{test['id']}/limits"
    assert bench.refused("PUT", path, 422, json=refused) == "limit.guard-not-allowed"
