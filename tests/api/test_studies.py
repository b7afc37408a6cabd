"""Several samples received together: each a job of its own, held beside the others."""

from __future__ import annotations

import io
from datetime import UTC, datetime, timedelta
from typing import Any

from openpyxl import load_workbook

from endurant.store import clock
from endurant.work.upkeep.founding import add_enclosure
from endurant.work.upkeep.verify import verify
from tests.laboratory import BAR, PENDULUM, Bench, pieces, sample, through
from tests.pdf_text import pages_of, text_of

VARIANTS = [
    {"name": "flat", "count": 12},
    {"name": "on edge", "lot": "T-2", "tests": [0]},
    {"name": "upright"},
]


def bars(**changes: Any) -> dict[str, Any]:
    request = pieces("iso-180", PENDULUM) | {"count": 10}
    density = {"method": "scuff", "parameters": {"weight_n": 9.0}}
    return {**request, "tests": [*request["tests"], density], "variants": VARIANTS, **changes}


def test_samples_are_received_together_each_as_a_job_of_its_own(bench: Bench) -> None:
    request = bars(request_key="one-parcel")
    first = bench.post("/jobs", request)
    assert bench.post("/jobs", request)["id"] == first["id"]
    other = request | {"variants": request["variants"][:2]}
    assert bench.refused("POST", "/jobs", 422, json=other) == "receiving.request-key-used"
    study = bench.get(f"/studies/{first['study_id']}")
    jobs = [bench.get(f"/jobs/{each['job']['id']}") for each in study["samples"]]
    assert [job["variant"] for job in jobs] == ["flat", "on edge", "upright"]
    assert [job["lot"] for job in jobs] == ["T-1", "T-2", "T-1"]
    assert [len(job["tests"]) for job in jobs] == [2, 1, 2]
    assert [job["arrived"] for job in jobs] == ["12 pieces", "10 pieces", "10 pieces"]
    listed = bench.get("/jobs?search=upright")["jobs"]
    assert [line["variant"] for line in listed] == ["upright"]
    assert verify().sentences == []


def test_a_study_that_makes_no_sense_is_refused_whole(bench: Bench) -> None:
    twice = [{"name": "flat"}, {"name": "flat "}]
    assert bench.refused("POST", "/jobs", 422, json=bars(variants=twice)) == "study.sample-twice"
    none = [{"name": "flat"}, {"name": "upright", "tests": [7]}]
    wording = bench.refused("POST", "/jobs", 422, json=bars(variants=none))
    assert wording == "study.tests-of-sample"
    sheet = [{"name": "flat", "width_mm": 100}]
    assert (
        bench.refused("POST", "/jobs", 422, json=bars(variants=sheet)) == "sample.size-not-allowed"
    )
    assert bench.get("/jobs")["total"] == 0
    assert bench.refused("GET", "/studies/1", 404) == "study.unknown"


def struck(bench: Bench, reports: str = "each") -> dict[str, Any]:
    """Two samples of two bars each that hung long enough."""
    request = pieces("iso-180", PENDULUM | {"specimens_wanted": 2})
    variants = [{"name": "flat"}, {"name": "upright"}]
    with clock.as_if(datetime.now(UTC) - timedelta(hours=80)):
        first = bench.post("/jobs", request | {"variants": variants, "reports": reports})
        room = add_enclosure("Room", "plastics-23-50")
        study: dict[str, Any] = bench.get(f"/studies/{first['study_id']}")
        for each in study["samples"]:
            job = bench.get(f"/jobs/{each['job']['id']}")
            ids = [specimen["id"] for specimen in job["tests"][0]["specimens"]]
            bench.post(f"/enclosures/{room}/placements", {"specimen_ids": ids})
    return study


def strike(bench: Bench, job_id: int, *energies: float) -> None:
    job = bench.get(f"/jobs/{job_id}")
    for number, energy in enumerate(energies, start=1):
        specimen = bench.specimen(job, f"S{number}")
        sizes = {"dimensions": BAR, "revision": specimen["revision"]}
        bench.put(f"/specimens/{specimen['id']}/dimensions", sizes)
        view = through(bench, bench.at_bench(job, f"S{number}"), until="read")
        bench.act(bench.act(view, values={"energy_j": energy, "break_type": "C"}))


def test_results_stand_side_by_side_on_one_scale(bench: Bench) -> None:
    study = struck(bench)
    path = f"/studies/{study['id']}"
    flat, upright = (each["job"]["id"] for each in study["samples"])
    strike(bench, flat, 1.9, 2.1)
    empty = bench.get(path)["comparisons"][0]["samples"]
    assert [each["text"] for each in empty] == [
        "baseline",
        "no specimen is tested yet",
    ]
    strike(bench, upright, 2.9, 3.1)
    first, second = bench.get(path)["comparisons"][0]["samples"]
    assert [(each["name"], each["rank"]) for each in (first, second)] == [
        ("upright", 1),
        ("flat", 2),
    ]
    assert first["difference"] > 0
    assert len({(each["rule"]["low"], each["rule"]["high"]) for each in (first, second)}) == 1
    _, turned = bench.get(f"{path}?against={upright}")["comparisons"][0]["samples"]
    assert turned["difference"] == -first["difference"]
    wording = bench.refused("GET", f"{path}?against=99", 422)
    assert wording == "study.baseline-unknown"
    book = bench.call("GET", f"{path}/table.xlsx").content
    head, row, *_ = load_workbook(io.BytesIO(book)).worksheets[0].iter_rows(values_only=True)
    assert head[:3] == ("test", "property", "group")
    assert (row[6], row[5]) == ("upright", 1)


def test_the_report_of_all_holds_what_was_released_of_each(bench: Bench) -> None:
    study = struck(bench, reports="one")
    path = f"/studies/{study['id']}"
    flat, upright = (each["job"]["id"] for each in study["samples"])
    strike(bench, flat, 1.9, 2.1)
    strike(bench, upright, 2.9, 3.1)
    assert bench.as_("maren").release(flat).is_success
    wording = bench.refused("GET", f"{path}/report.pdf", 409)
    assert wording == "study.not-all-released"
    assert bench.as_("maren").release(upright).is_success
    text = text_of(bench.call("GET", f"{path}/report.pdf").content)
    for part in ("samples side by side", "Test cloth, flat", "Test cloth, upright"):
        assert part in text


def test_a_cancelled_sample_does_not_hold_up_the_report_of_the_others(bench: Bench) -> None:
    study = struck(bench, reports="one")
    path = f"/studies/{study['id']}"
    flat, upright = (each["job"]["id"] for each in study["samples"])
    strike(bench, upright, 2.9, 3.1)
    job = bench.get(f"/jobs/{flat}")
    why = {"revision": job["revision"], "reason": "it broke in the post"}
    bench.post(f"/jobs/{flat}/cancel", why)
    view = bench.get(path)
    assert [each["cancelled"] for each in view["samples"]] == ["it broke in the post", None]
    assert (view["against"], len(view["to_release"])) == (upright, 1)
    assert bench.as_("maren").release(upright).is_success
    first, *_ = pages_of(bench.call("GET", f"{path}/report.pdf").content)
    assert "cancelled: it broke in the post" in first


def test_the_workbook_is_held_against_the_sample_that_was_chosen(bench: Bench) -> None:
    study = struck(bench)
    flat, upright = (each["job"]["id"] for each in study["samples"])
    strike(bench, flat, 1.9, 2.1)
    strike(bench, upright, 2.9, 3.1)
    path = f"/studies/{study['id']}/table.xlsx?against={upright}"
    sheet = load_workbook(io.BytesIO(bench.call("GET", path).content)).worksheets[0]
    head, *rows = sheet.iter_rows(values_only=True)
    assert {row[head.index("against")] for row in rows} == {"upright"}
    differences = [row[head.index("difference")] for row in rows]
    shown = bench.get(f"/studies/{study['id']}?against={upright}")["comparisons"][0]["samples"]
    by_name = {each["name"]: each["difference"] for each in shown}
    for row, difference in zip(rows, differences, strict=True):
        exact = by_name[row[head.index("sample")]]
        assert difference == (None if exact is None else float(f"{exact:.3g}"))


def test_a_study_of_cancelled_samples_has_no_report(bench: Bench) -> None:
    study = struck(bench, reports="one")
    for each in study["samples"]:
        job = bench.get(f"/jobs/{each['job']['id']}")
        why = {"revision": job["revision"], "reason": "not wanted"}
        bench.post(f"/jobs/{job['id']}/cancel", why)
    code = bench.refused("GET", f"/studies/{study['id']}/report.pdf", 409)
    assert code == "study.all-cancelled"


def test_another_job_is_received_like_the_last_one(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    assert bench.get("/counter")["last_job_id"] == job["id"]
    like = bench.get(f"/jobs/{job['id']}/specification")
    assert (like["client"], like["lot"]) == ("Quay Awnings", "T-1")
    again = sample(lot="T-2", tests=like["specification"]["tests"])
    other = bench.post("/jobs", again)
    assert other["tests"][0]["rows"][0]["limit_text"] == job["tests"][0]["rows"][0]["limit_text"]
