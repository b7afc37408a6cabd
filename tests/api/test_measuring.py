"""Sizes over the API: kept once, looked at, refused, and carried into the figures."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from endurant.work.upkeep.founding import NewGauge, add_enclosure, add_gauge
from endurant.work.views.guides import example_document
from tests.api.test_conditioning import cut_job
from tests.conftest import StandIn
from tests.laboratory import Bench

STRIPS = {"method": "astm-d882", "parameters": {"specimens_wanted": 2, "gauge_length_mm": 100.0}}
WIDE = [14.9, 15.0, 15.0, 15.1, 15.0]
THICK = [0.08, 0.081, 0.08, 0.079, 0.08]


@pytest.fixture
def strips(bench: Bench) -> tuple[Bench, dict[str, Any]]:
    """Film strips that were cut and hang."""
    add_enclosure("Film room", "film-23-50")
    return bench, cut_job(bench, STRIPS)


def measuring(bench: Bench, job: dict[str, Any], label: str = "M1") -> tuple[Any, Any]:
    view = bench.get(f"/tests/{job['tests'][0]['id']}/measuring")
    return view, next(specimen for specimen in view["specimens"] if specimen["label"] == label)


def measure(bench: Bench, specimen: Any, **dimensions: list[float]) -> Any:
    body = {"dimensions": dimensions, "with_gauges": ["CAL-7"], "revision": specimen["revision"]}
    return bench.call("PUT", f"/specimens/{specimen['id']}/dimensions", json=body)


def test_sizes_are_kept_with_mean_section_and_remarks(strips: Any) -> None:
    bench, job = strips
    _, m1 = measuring(bench, job)
    assert [len(size["places_mm"]) for size in m1["sizes"]] == [5, 5]
    view = measure(bench, m1, width_mm=WIDE, thickness_mm=THICK).json()
    m1 = view["specimens"][0]
    assert m1["done"]
    assert m1["sizes"][0]["mean_mm"] == pytest.approx(15.0)
    assert m1["min_mm2"] == pytest.approx(min(a * b for a, b in zip(WIDE, THICK, strict=True)))
    _, m2 = measuring(bench, job, "M2")
    specimen = measure(bench, m2, thickness_mm=[0.00315]).json()["specimens"][1]
    assert specimen["sizes"][1]["remarks"][0]["text"].startswith("0.00315 looks like inches")
    events = bench.get(f"/jobs/{job['id']}")["events"]
    assert any(
        "measured M1 with CAL-7: width 14.9, 15, 15, 15.1, 15 mm" in event["text"]
        for event in events
    )


def test_two_people_do_not_overwrite_each_other(strips: Any) -> None:
    bench, job = strips
    _, m1 = measuring(bench, job)
    assert measure(bench, m1, width_mm=[15.0]).status_code == 200
    late = measure(bench.as_("olga"), m1, width_mm=[14.0])
    assert late.status_code == 409
    assert late.json()["code"] == "stale"


@pytest.mark.parametrize(
    ("dimensions", "wording"),
    [
        ({"width_mm": [15.0, -1.0]}, "measuring.reading-out-of-range"),
        ({"width_mm": [1e9]}, "measuring.reading-out-of-range"),
        ({"mass_g": [1.0]}, "measuring.dimension-unknown"),
        ({"width_mm": [15.0] * 51}, "measuring.too-many-readings"),
        ({"width_mm": ["wide"]}, "field.number-expected"),
    ],
)
def test_odd_sizes_are_refused_and_nothing_is_kept(
    strips: Any, dimensions: dict[str, Any], wording: str
) -> None:
    bench, job = strips
    _, m1 = measuring(bench, job)
    answer = measure(bench, m1, **dimensions)
    assert answer.status_code == 422
    assert answer.json()["code"] == wording
    assert measuring(bench, job)[1]["sizes"][0]["readings"] == []


def test_measured_sizes_enter_the_figures(strips: Any) -> None:
    bench, job = strips
    _, m1 = measuring(bench, job)
    example = example_document("astm-d882")[1]["specimens"][0]
    readings = {"label": "M1", "direction": "md", "trace": example["trace"]}
    path = f"/tests/{job['tests'][0]['id']}/readings"
    body = {"document": {"specimens": [readings]}, "deviation": "conditioned before"}
    missing = bench.refused("POST", path, 422, json=body)
    assert "reading.dimension-missing" in missing
    measure(bench, m1, width_mm=WIDE, thickness_mm=THICK)
    bench.post(path, body)
    document = bench.get(f"/tests/{job['tests'][0]['id']}/document.json")
    assert document["specimens"][0]["dimensions"] == {"width_mm": WIDE, "thickness_mm": THICK}
    assert measuring(bench, job)[1]["why_closed"] == ""
    bench.post(path.replace("readings", "keep"))
    _, m1 = measuring(bench, job)
    assert m1["why_closed"] == "was tested and accepted"
    closed = measure(bench, m1, width_mm=[1.0])
    assert closed.json()["code"] == "measuring.fixed"


def gauge(port: int, serial: str, kind: str, *, simulated: bool = True) -> int:
    now = datetime.now(UTC)
    return add_gauge(
        NewGauge(
            name=f"{kind} {serial}",
            kind=kind,
            serial=serial,
            host="127.0.0.1",
            port=port,
            simulated=simulated,
            certificate="C",
            calibrated_at=now,
            calibration_due_at=now + timedelta(days=9),
        )
    )


def test_a_caliper_is_read_and_its_rubbish_refused(strips: Any, frame: StandIn) -> None:
    bench, job = strips
    caliper = gauge(frame.port, "CAL-7", "caliper")
    _, m1 = measuring(bench, job)
    ask = {"specimen_id": m1["id"], "field": "width_mm"}
    post = bench.post(f"/gauges/{caliper}/read", ask)
    assert post["value"] == pytest.approx(15, rel=0.02)
    assert (post["unit"], post["gauge"]) == ("mm", "CAL-7")
    bench.post(f"/gauges/{caliper}/simulation", {"fault": "rubbish"})
    said = bench.refused("POST", f"/gauges/{caliper}/read", 503, json=ask)
    assert said == "device.unreadable"
    bench.post(f"/gauges/{caliper}/simulation", {"fault": "none"})
    assert measuring(bench, job)[1]["sizes"][0]["readings"] == []
    assert bench.refused("POST", "/gauges/9/read", 404, json=ask) == "gauge.unknown"
    real = gauge(frame.port, "CAL-9", "caliper", simulated=False)
    refused = bench.refused("POST", f"/gauges/{real}/simulation", 403, json={"fault": "none"})
    assert refused == "gauge.real"


def test_grammage_is_weighed_into_the_parameters(bench: Bench) -> None:
    job = cut_job(bench, {"method": "iso-1974", "parameters": {"capacity_n": 8.0}})
    test = job["tests"][0]
    path = f"/tests/{test['id']}/grammage"
    body = {"masses_g": [0.252, 0.252], "revision": test["revision"]}
    view = bench.post(path, body)
    assert view["grammage_g_m2"] == 80.0
    stale = bench.refused("POST", path, 409, json=body)
    assert "stale" in stale
    zero = {"masses_g": [0], "revision": view["revision"]}
    assert bench.refused("POST", path, 422, json=zero) == "field.too-low"
    other = cut_job(bench, {"method": "iso-13937-2"})["tests"][0]
    none = {"masses_g": [1], "revision": other["revision"]}
    assert (
        bench.refused("POST", f"/tests/{other['id']}/grammage", 422, json=none)
        == "measuring.no-grammage"
    )


def test_the_school_of_sections_is_chosen_before_anything_is_tested(strips: Any) -> None:
    bench, job = strips
    view, _ = measuring(bench, job)
    assert (view["area_rule"], view["may_change_area_rule"]) == ("mean", True)
    path = f"/tests/{job['tests'][0]['id']}/area-rule"
    body = {"area_rule": "minimum", "revision": view["revision"]}
    assert bench.call("PUT", path, json=body).json()["area_rule"] == "minimum"
    assert bench.refused("PUT", path, 409, json=body) == "stale"
    draft = bench.get(f"/jobs/{job['id']}/draft")["deviations"]
    assert any("area rule" in line or "area_rule" in line for line in draft)
