"""Any method through the application: asked for, brought in, judged, reported, released."""

from __future__ import annotations

import json
from typing import Any

import pytest
from sqlalchemy import select, text
from sqlalchemy.orm import undefer

from endurant.core.methods import MODULES, find_method
from endurant.store.engine import engine_for
from endurant.store.samples import unpack_entry
from endurant.store.tables import Run
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.verify import verify
from endurant.work.views.guides import example_document
from tests.laboratory import Bench, sample
from tests.pdf_text import text_of

BOX = {
    "method": "iso-12048",
    "parameters": {"boxes_above": 4, "gross_mass_kg": 11.5, "specimens_wanted": 3},
    "limits": [
        {"property": "max_force", "direction": "", "criterion": {"on": "mean", "limit": "2400"}}
    ],
}
FIRE = {
    "method": "16-cfr-1610",
    "parameters": {"surface": "raised"},
    "limits": [
        {"property": "class", "direction": "", "criterion": {"on": "class", "limit": "1"}},
    ],
}


def received(bench: Bench, *tests: dict[str, Any]) -> dict[str, Any]:
    job: dict[str, Any] = bench.post("/jobs", sample(tests=list(tests)))
    return job


def boxes(*labels: str) -> list[dict[str, Any]]:
    specimens: list[dict[str, Any]] = example_document("iso-12048")[1]["specimens"]
    return [specimen | {"label": label} for specimen, label in zip(specimens, labels, strict=False)]


def bring(bench: Bench, job: dict[str, Any], specimens: Any, **more: Any) -> dict[str, Any]:
    path = f"/tests/{job['tests'][0]['id']}"
    data = json.dumps({"specimens": specimens, **more}).encode()
    seen = bench.post(f"{path}/import", files=[("files", ("boxes.json", data))])
    body = {"upload_id": seen["upload_id"], "deviation": "conditioned at the maker's"}
    post: dict[str, Any] = bench.post(f"{path}/readings", body)
    return post


def test_methods_can_be_asked_for_and_their_examples_are_shown(bench: Bench) -> None:
    for name in list(MODULES)[::6]:
        page = bench.get(f"/methods/{name}")
        example = bench.get(f"/methods/{name}/example")
        assert page["steps"]
        assert example["specimens"]
        needed = example["parameters"]
        job = received(bench, {"method": name, "parameters": needed})
        assert job["tests"][0]["method"] == name
        assert job["next_text"] in (
            "Place and cut specimens",
            "Start conditioning",
            "Start testing",
            "Import readings",
        )
        if find_method(name).runs_live:
            assert job["next_text"] != "Import readings"


def test_boxes_are_brought_in_judged_and_released(bench: Bench, database: str) -> None:
    job = received(bench, BOX)
    assert job["next_screen"] == "conditioning"
    test = bring(bench, job, boxes("S1", "S2", "S3"))
    assert {specimen["state"] for specimen in test["specimens"] if specimen["run_id"]} == {
        "to-look-at"
    }
    assert test["to_go"] == 3
    test = bench.post(f"/tests/{test['id']}/accept")
    assert test["to_go"] == 0
    assert test["rows"][0]["verdict"] == "meets"
    run = bench.get(f"/runs/{test['specimens'][0]['run_id']}")
    assert run["curves"][0]["y_unit"] == "N"
    assert run["result"]["values"]["max_force"]["value"] == pytest.approx(2575.7)

    maren = bench.as_("maren")
    report = maren.release(job["id"]).json()["reports"][0]
    wording = text_of(maren.call("GET", f"/reports/{report['id']}.pdf").content)
    for expected in (
        "Box compression",
        "Maximum force",
        "S1, S2, S3: imported from the file",
        "S1 to S3: The specimen was not conditioned. Reason: conditioned at the maker's.",
        "layers would be safe",
    ):
        assert expected in wording
    content = maren.get(f"/reports/{report['id']}.json")
    assert content["tests"][0]["result"]["stacking"]["factor"] == 1
    traces = maren.call("GET", f"/reports/{report['id']}/traces.csv").text
    assert traces.startswith("method,specimen,trace,extension_mm,")
    assert (
        bench.refused(
            "POST", f"/tests/{test['id']}/readings", 409, json={"document": {"specimens": []}}
        )
        == "job.released"
    )
    assert verify().sentences == []
    with engine_for(database).begin() as connection:
        connection.execute(text("UPDATE run SET sha256 = REPEAT('0', 64) WHERE id = 1"))
    assert "the readings of run 1 are not those that were stored" in verify().sentences


def test_a_document_names_the_specimens_of_a_fire_test(bench: Bench) -> None:
    job = received(bench, FIRE)
    document = example_document("16-cfr-1610")[1]
    test = bring(bench, job, document["specimens"])
    assert sum(specimen["run_id"] is not None for specimen in test["specimens"]) == 18
    test = bench.post(f"/tests/{test['id']}/accept")
    verdicts = {row["group"]: row["verdict"] for row in test["rows"] if row["property"] == "class"}
    assert verdicts["all"] == "does not meet"
    assert bench.get(f"/jobs/{job['id']}")["next_text"] == "Review and release"


@pytest.mark.parametrize(
    ("body", "status", "wording"),
    [
        ({"document": {"specimens": [{"label": "S1"}]}}, 422, "field.missing"),
        ({"document": {"specimens": [{"label": "X"}]}}, 422, "field.missing"),
        ({"document": {"method": "iso-37", "specimens": []}}, 422, "import.other-method"),
        (
            {"document": {"parameters": {"preload_n": 445}, "specimens": [{"label": "S1"}]}},
            422,
            "import.parameter-differs",
        ),
        ({"document": {"parameters": 5, "specimens": []}}, 422, "import.parameters-shape"),
        ({"document": []}, 422, "field.object-expected"),
    ],
)
def test_readings_that_do_not_fit_are_refused_and_nothing_is_taken(
    bench: Bench, body: dict[str, Any], status: int, wording: str
) -> None:
    job = received(bench, BOX)
    path = f"/tests/{job['tests'][0]['id']}/readings"
    assert bench.refused("POST", path, status, json=body) == wording
    two = {"document": {"specimens": [*boxes("S1"), *boxes("X9")]}, "deviation": "as it came"}
    assert bench.refused("POST", path, 422, json=two) == "import.label-unknown"
    assert not any(
        specimen["run_id"] for specimen in bench.get(f"/jobs/{job['id']}")["tests"][0]["specimens"]
    )


def test_readings_come_once_and_a_void_calls_a_spare(bench: Bench) -> None:
    leak = {"method": "iso-535", "parameters": {"specimens_wanted": 2}}
    job = received(bench, leak)
    path = f"/tests/{job['tests'][0]['id']}"
    specimen = {"document": {"specimens": [{"label": "T1", "dry_g": 2.4, "wet_g": 2.7}]}}
    assert bench.refused("POST", f"{path}/readings", 409, json=specimen) == "specimen.not-cut"
    sheet = bench.get(f"/jobs/{job['id']}/sheet")
    placed = bench.post(
        f"/jobs/{job['id']}/sheet/place", {"revision": sheet["revision"], "seconds": 0}
    )
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": placed["revision"]})
    assert bench.refused("POST", f"{path}/readings", 409, json=specimen) == "bench.departed-wait"
    test = bench.post(f"{path}/readings", specimen | {"deviation": "came from a conditioned store"})
    assert bench.refused("POST", f"{path}/readings", 409, json=specimen) == "specimen.not-decided"
    first = next(specimen for specimen in test["specimens"] if specimen["label"] == "T1")
    bench.post(f"/specimens/{first['id']}/void", {"code": "leaked-at-ring", "remark": ""})
    test = bench.get(path)
    assert {specimen["label"] for specimen in test["specimens"] if specimen["called"]} >= {
        "T2",
        "T3",
    }
    assert bench.refused("POST", f"{path}/keep", 409) == "accept.nothing-waiting"


def test_documents_are_answered_without_a_job(bench: Bench) -> None:
    about, document = example_document("astm-d4595")
    result = bench.post("/analyse", document)
    inches = bench.post("/analyse?units=inch-pound", document)
    assert about
    assert inches["summary"][0]["unit"] == "lbf/in"
    assert inches["summary"][0]["mean"] == pytest.approx(5.710147 * result["summary"][0]["mean"])
    judged = bench.post("/evaluate", {"kind": "rounding", "value": "2.675", "decimals": 2})
    assert judged == {"text": "2.68"}
    period = {"weighings": [["2026-03-02T08:00:00Z", 100.0], ["2026-03-02T10:00:00Z", 100.1]]}
    assert bench.post("/conditioning", period)["reached"] is True
    assert bench.refused("POST", "/analyse", 422, content=b"{") == "json.not-json"
    large = {"content-length": "200000000"}
    token = {"cookie": f"endurant={bench.token}"} | large
    answer = bench.client.request("POST", "/api/analyse", headers=token, content=b"{}")
    assert answer.json()["code"] == "request.too-large"


def test_files_are_made_into_a_document(bench: Bench) -> None:
    files = [("files", ("S1.csv", b"Extension (mm);Load (kN)\n0;0\n1;2,5\n2;1\n"))]
    made = bench.post("/import", files=files, data={"method": "iso-12048"})
    assert made["document"]["specimens"][0]["trace"]["force_n"] == [0, 2500, 1000]
    assert any("Load (kN)" in line for line in made["said"])
    assert json.dumps(made)


def test_figures_as_text_with_a_comma_are_kept_as_numbers(bench: Bench) -> None:
    board = {"method": "iso-535", "parameters": {}, "limits": []}
    job = received(bench, board)
    sheet = bench.get(f"/jobs/{job['id']}/sheet")
    sheet = bench.post(f"/jobs/{job['id']}/sheet/place", {"revision": sheet["revision"]})
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    entry = {"label": "T1", "dry_g": "2,412", "wet_g": 2.696}
    body = {"document": {"specimens": [entry]}, "deviation": "tested as received"}
    bench.post(f"/tests/{job['tests'][0]['id']}/readings", body)
    with transaction() as session:
        (run,) = session.scalars(select(Run).options(undefer(Run.entry)))
        assert run.entry is not None
        assert unpack_entry(run.entry)["dry_g"] == 2.412
    odd = {"document": {"specimens": [entry | {"label": "T2", "dry_g": "2,4,1"}]}}
    bench.refused("POST", f"/tests/{job['tests'][0]['id']}/readings", 422, json=body | odd)
