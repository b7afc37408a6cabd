"""Many files at once: matched by code or label, looked at, then brought in together."""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime, timedelta
from typing import Any

from endurant.store import clock
from endurant.store.tables import Run
from endurant.store.uploads import SourceFile, Upload
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.bench.uploads import KEPT_FOR
from tests.laboratory import Bench, behind_its_back, csv_of


def preview(bench: Bench, test_id: int, files: list[tuple[str, bytes]], **fields: str) -> Any:
    sent = [("files", file) for file in files]
    return bench.post(f"/tests/{test_id}/import", files=sent, data=fields)


def test_many_files_are_matched_looked_at_and_brought_in(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    codes = [bench.specimen(job, label)["code"] for label in ("W1", "W2", "F3")]
    files = [(f"frame2_{code}_v1.csv", csv_of(code)) for code in codes]
    seen = preview(bench, test_id, [*files, ("readme W99.csv", csv_of("x"))])
    labels = [(each["label"], each["samples"] > 100) for each in seen["matched"]]
    assert labels == [("W1", True), ("W2", True), ("F3", True), (None, True)]
    assert seen["matched"][3]["text"] == "it names no specimen of this test"
    assert bench.specimen(job, "W1")["state"] == "ready"
    brought = {"upload_id": seen["upload_id"]}
    bench.post(f"/tests/{test_id}/readings", brought)
    third = bench.specimen(job, "F3")
    assert third["state"] == "to-look-at"
    run = bench.get(f"/runs/{third['run_id']}")
    assert run["source_name"] == files[2][0]
    assert f"{files[2][0]}: " in run["said"][0]
    path = f"/tests/{test_id}/readings"
    assert bench.refused("POST", path, 409, json=brought) == "upload.used"
    again = preview(bench, test_id, files[:1])
    assert again["matched"][0]["label"] is None
    assert again["matched"][0]["text"].startswith("W1 cannot be tested: it is tested")


def test_a_column_tells_specimens_apart(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    rows = "".join(f"W{n},{x},{20 + x % 5}\n" for n in (1, 2) for x in range(60))
    table = f"Specimen,Extension (mm),Load (N)\n{rows}".encode()
    seen = preview(bench, job["tests"][0]["id"], [("all.csv", table)], specimens_by="Specimen")
    assert [each["label"] for each in seen["matched"]] == ["W1", "W2"]


def test_a_mapping_is_kept_by_name_and_used(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    data = "Weg (mm);Kraft (N)\n" + "".join(f"{x};{20 + x % 5}\n" for x in range(60))
    files = [("W1.csv", data.encode())]
    sent = [("files", file) for file in files]
    path = f"/tests/{test_id}/import"
    assert bench.refused("POST", path, 422, files=sent) == "csv.no-header"
    shown = bench.post("/headers/import", files={"file": files[0]})
    assert (shown["headers"], shown["taken"]) == (["Weg (mm)", "Kraft (N)"], [None, None])
    columns = {"Weg": "extension_mm", "Kraft": "force_n"}
    kept = bench.post("/mappings", {"name": "Old frame", "columns": columns})
    assert kept["revision"] == 1
    wording = bench.refused(
        "POST", "/mappings", 409, json={"name": "Old frame", "columns": columns}
    )
    assert "import.mapping-stale" in wording
    odd = {"name": "Odd", "columns": {"Weg": "speed"}}
    assert bench.refused("POST", "/mappings", 422, json=odd) == "import.column-unknown"
    seen = preview(bench, test_id, files, mapping="Old frame")
    assert seen["matched"][0]["label"] == "W1"
    assert bench.refused("POST", path, 404, files=sent, data={"mapping": "None such"})
    newer = bench.post("/mappings", {"name": "Old frame", "columns": columns, "seen": 1})
    assert [each["revision"] for each in bench.get("/mappings")] == [newer["revision"]]


def test_an_upload_is_imported_by_its_sender_into_its_test_alone(bench: Bench) -> None:
    job, other = bench.job_ready_to_test(), bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    seen = preview(bench, test_id, [("W1.csv", csv_of("W1"))])
    brought = {"upload_id": seen["upload_id"]}
    elsewhere = f"/tests/{other['tests'][0]['id']}/readings"
    assert bench.refused("POST", elsewhere, 404, json=brought) == "upload.gone"
    path = f"/tests/{test_id}/readings"
    assert bench.as_("olga").refused("POST", path, 404, json=brought) == "upload.gone"
    both = brought | {"document": {"specimens": []}}
    assert bench.refused("POST", path, 422, json=both) == "import.nothing-given"
    assert bench.refused("POST", path, 422, json={}) == "import.nothing-given"
    bench.post(path, brought)
    assert bench.specimen(job, "W1")["state"] == "to-look-at"


def test_what_is_imported_is_what_was_sent_whatever_happens_between(
    bench: Bench, database: str
) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    sent = csv_of("W1")
    seen = preview(bench, test_id, [("W1.csv", sent)])
    bench.post(f"/tests/{test_id}/readings", {"upload_id": seen["upload_id"]})
    name = hashlib.sha256(sent).hexdigest()
    with transaction() as session:
        assert session.get_one(SourceFile, name).content == sent
        run = session.query(Run).one()
        assert (run.source_name, run.source_sha256) == ("W1.csv", name)
    assert verify().sentences == []
    behind_its_back(database, "UPDATE source_file SET content = CONCAT(content, ' ')")
    assert verify().sentences == ["the source file of run 1 was changed"]
    behind_its_back(database, "DELETE FROM source_file")
    assert verify().sentences == ["the source file of run 1 is gone"]


def test_what_nobody_imports_is_forgotten_after_a_day(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    with clock.as_if(datetime.now(UTC) - KEPT_FOR - timedelta(minutes=1)):
        preview(bench, test_id, [("W1.csv", csv_of("W1")), ("W2.csv", csv_of("W2"))])
    preview(bench, test_id, [("W1.csv", csv_of("W1"))])
    with transaction() as session:
        assert len(session.query(Upload).all()) == 1
        (held,) = session.query(SourceFile).all()
        assert held.content == csv_of("W1")


def test_a_person_keeps_one_upload_that_waits(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    first = preview(bench, test_id, [("W1.csv", csv_of("W1"))])
    preview(bench, test_id, [("W2.csv", csv_of("W2"))])
    path, sent = f"/tests/{test_id}/readings", {"upload_id": first["upload_id"]}
    assert bench.refused("POST", path, 404, json=sent) == "upload.gone"
    with transaction() as session:
        assert [row.content for row in session.query(SourceFile)] == [csv_of("W2")]


def test_an_upload_whose_file_is_gone_is_refused_in_words(bench: Bench, database: str) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    seen = preview(bench, test_id, [("W1.csv", csv_of("W1"))])
    behind_its_back(database, "DELETE FROM source_file")
    path, sent = f"/tests/{test_id}/readings", {"upload_id": seen["upload_id"]}
    assert bench.refused("POST", path, 404, json=sent) == "upload.gone"


def test_a_document_is_previewed_as_a_file_is(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    test_id = job["tests"][0]["id"]
    path = f"/tests/{test_id}/import"
    for text, wording in (
        ('{"specimens": []}', "import.not-a-test-document"),
        ('[{"label": "W1"}]', "import.not-a-test-document"),
        ('{"specimens": [{"trace": {}}]}', "import.specimen-without-label"),
        ('{"specimens": ', "json.not-json"),
    ):
        files = [("files", ("W1.json", text.encode()))]
        assert bench.refused("POST", path, 422, files=files) == wording, text
