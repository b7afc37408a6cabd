"""What arrives is not always a roll, and what exists only at the bench is settled there."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from endurant.work.views.guides import example_document
from tests.laboratory import Bench, sample

IZOD = {"method": "iso-180", "parameters": {"specimens_wanted": 2}}


def ready(form: str, *tests: dict[str, Any], **sizes: Any) -> dict[str, Any]:
    """A sample that comes ready, in this form."""
    request = sample(tests=list(tests), form=form)
    plain = {name: value for name, value in request.items() if not name.endswith("_mm")}
    return plain | sizes


def bars(*labels: str) -> list[dict[str, Any]]:
    specimens = example_document("iso-180")[1]["specimens"]
    keep = ("energy_j", "break_type", "dimensions")
    return [
        {"label": label} | {name: specimen[name] for name in keep}
        for label, specimen in zip(labels, specimens, strict=False)
    ]


@pytest.mark.parametrize(
    ("body", "wording"),
    [
        (ready("pieces", IZOD), "sample.size-missing"),
        (ready("pieces", IZOD, count=12, width_mm=300), "sample.size-not-allowed"),
        (ready("granules", IZOD), "sample.size-missing"),
        (ready("granules", IZOD, count=4), "sample.size-not-allowed"),
        (sample(form="packs"), "sample.size-not-allowed"),
        (sample(count=3), "sample.size-not-allowed"),
    ],
)
def test_each_form_is_asked_for_what_it_is(
    bench: Bench, body: dict[str, Any], wording: str
) -> None:
    assert bench.refused("POST", "/jobs", 422, json=body) == wording


def test_ready_pieces_skip_the_sheet(bench: Bench) -> None:
    job = bench.post("/jobs", ready("pieces", IZOD, count=12))
    assert job["arrived"] == "12 pieces"
    assert job["is_cut"] is False
    assert "cut" not in job["next_text"].lower()
    assert bench.refused("GET", f"/jobs/{job['id']}/sheet", 409) == "sheet.none"


def test_set_up_is_settled_at_the_bench_or_by_the_document(bench: Bench) -> None:
    job = bench.post("/jobs", ready("pieces", IZOD, count=12))
    test = job["tests"][0]
    assert test["set_up_missing"] == ["pendulum_j", "friction_j"]
    readings = f"/tests/{test['id']}/readings"
    body: dict[str, Any] = {"document": {"specimens": bars("S1")}, "deviation": "not hung"}
    assert bench.refused("POST", readings, 422, json=body) == "import.set-up-missing"
    request = {"parameters": {"notch": "B"}, "revision": test["revision"]}
    refusal = bench.refused("PUT", f"/tests/{test['id']}/set-up", 422, json=request)
    assert refusal == "set-up.not-a-set-up-value"
    body["document"]["parameters"] = {"pendulum_j": 2.75, "friction_j": 0.02}
    test = bench.post(readings, body)
    assert test["set_up_missing"] == []
    assert test["parameters"]["pendulum_j"] == 2.75
    bench.post(f"/tests/{test['id']}/accept")
    test = bench.get(f"/tests/{test['id']}")
    later = {"parameters": {"friction_j": 0.03}, "revision": test["revision"]}
    refusal = bench.refused("PUT", f"/tests/{test['id']}/set-up", 409, json=later)
    assert refusal == "set-up.used"
    bench.put(f"/tests/{test['id']}/set-up", later | {"reason": "the free swing was read again"})
    draft = bench.get(f"/jobs/{job['id']}/draft")
    assert any("tested before: S1" in line for line in draft["deviations"])


def test_a_void_always_works_and_calls_another(bench: Bench) -> None:
    job = bench.post("/jobs", ready("pieces", IZOD, count=12))
    test = job["tests"][0]
    parameters = {"pendulum_j": 2.75, "friction_j": 0.02}
    body = {
        "document": {"parameters": parameters, "specimens": bars("S1", "S2")},
        "deviation": "not hung",
    }
    bench.post(f"/tests/{test['id']}/readings", body)
    test = bench.post(f"/tests/{test['id']}/accept")
    first, second, spare = test["specimens"]
    path = f"/specimens/{first['id']}/void"
    refusal = bench.refused("POST", path, 422, json={"code": "set-aside"})
    assert refusal == "void.reason-needed"
    bench.post(path, {"code": "set-aside", "remark": "a bubble in the break"})
    called = {
        specimen["label"]
        for specimen in bench.get(f"/tests/{test['id']}")["specimens"]
        if specimen["called"]
    }
    assert called == {"S2", "S3"}
    more = f"/tests/{test['id']}/additional-specimens"
    assert bench.refused("POST", more, 409, json={}) == "replacement.not-needed"
    bench.post(f"/specimens/{second['id']}/void", {"code": "set-aside", "remark": "mislabelled"})
    assert bench.get(f"/jobs/{job['id']}")["next_text"]
    test = bench.post(more, {})
    assert [specimen["label"] for specimen in test["specimens"]] == ["S1", "S2", "S3", "S4"]
    assert spare["label"] == "S3"


def test_a_specimen_that_the_analysis_voids_calls_its_spare(bench: Bench) -> None:
    job = bench.post("/jobs", ready("pieces", IZOD, count=12))
    test = job["tests"][0]
    late = [bars("S1")[0] | {"transfer_s": 9.0}]
    parameters = {"pendulum_j": 2.75, "friction_j": 0.02}
    body = {"document": {"parameters": parameters, "specimens": late}, "deviation": "not hung"}
    bench.post(f"/tests/{test['id']}/readings", body)
    test = bench.post(f"/tests/{test['id']}/accept")
    assert [specimen["called"] for specimen in test["specimens"]] == [True, True, True]
    assert test["to_go"] == 2


def test_thirty_samples_received_at_once_all_get_a_number_of_their_own(bench: Bench) -> None:
    headers = {"cookie": f"endurant={bench.token}"}

    def receive(_: int) -> Any:
        return bench.client.post("/api/jobs", json=sample(), headers=headers)

    with ThreadPoolExecutor(30) as crowd:
        answers = list(crowd.map(receive, range(30)))
    assert {answer.status_code for answer in answers} == {201}
    assert len({answer.json()["number"] for answer in answers}) == 30


def test_the_same_request_at_once_gives_the_same_job(bench: Bench) -> None:
    headers = {"cookie": f"endurant={bench.token}"}
    body = sample(request_key="K-2")

    def receive(_: int) -> Any:
        return bench.client.post("/api/jobs", json=body, headers=headers)

    with ThreadPoolExecutor(8) as crowd:
        answers = list(crowd.map(receive, range(8)))
    assert {answer.status_code for answer in answers} == {201}
    assert len({answer.json()["id"] for answer in answers}) == 1


def test_one_request_key_is_one_request(bench: Bench) -> None:
    body = sample(request_key="K-1")
    first = bench.post("/jobs", body)
    assert bench.post("/jobs", body)["id"] == first["id"]
    refusal = bench.refused("POST", "/jobs", 422, json=body | {"lot": "another"})
    assert refusal == "receiving.request-key-used"


def test_pieces_and_granules_say_what_they_are(bench: Bench) -> None:
    rods = {"form": "pieces", "width_mm": None, "length_mm": None, "count": 5}
    job = bench.post(
        "/jobs", sample(tests=[{"method": "astm-e8"}], **rods, piece_kind="turned rods")
    )
    assert job["arrived"] == "5 turned rods"
    melt = {"method": "iso-1133-1-a", "parameters": {"temperature_c": 230.0, "load_kg": 2.16}}
    bag = {"form": "granules", "width_mm": None, "length_mm": None, "mass_g": 400}
    own = {"bag": "B-7", "regrind_percent": 40}
    assert bench.post("/jobs", sample(tests=[melt], **bag, **own))["arrived"] == (
        "400 g of granules, bag B-7, 40 % regrind"
    )
    wording = bench.refused("POST", "/jobs", 422, json=sample(bag="B-7"))
    assert wording == "sample.size-not-allowed"
    over = bag | {"regrind_percent": 140}
    assert (
        bench.refused("POST", "/jobs", 422, json=sample(tests=[melt], **over)) == "field.above-max"
    )


def test_the_page_of_a_method_leaves_open_what_its_set_up_gives(bench: Bench) -> None:
    titles = {
        check["title"]
        for method in bench.get("/methods")
        for check in bench.get(f"/methods/{method['id']}")["ready_checks"]
    }
    assert "Pendulum of … J fitted" in titles
    assert not [title for title in titles if "{" in title]
