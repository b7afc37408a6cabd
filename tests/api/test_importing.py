"""Many files at once: matched by code or label, looked at, then brought in together."""

from __future__ import annotations

from typing import Any

from tests.laboratory import Bench, csv_of


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
    assert seen["matched"][3]["says"] == "it names no specimen of this test"
    assert bench.specimen(job, "W1")["state"] == "ready"
    bench.post(
        f"/tests/{test_id}/readings", {"document": seen["document"], "source_name": "4 files"}
    )
    assert bench.specimen(job, "F3")["state"] == "to-look-at"
    again = preview(bench, test_id, files[:1])
    assert again["matched"][0]["label"] is None


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
    assert "W1.csv: no header row was found" in bench.refused("POST", path, 422, files=sent)
    shown = bench.post("/headers/import", files={"file": files[0]})
    assert (shown["headers"], shown["taken"]) == (["Weg (mm)", "Kraft (N)"], [None, None])
    columns = {"Weg": "extension_mm", "Kraft": "force_n"}
    kept = bench.post("/mappings", {"name": "Old frame", "columns": columns})
    assert kept["revision"] == 1
    says = bench.refused("POST", "/mappings", 409, json={"name": "Old frame", "columns": columns})
    assert "is at revision 1" in says
    odd = {"name": "Odd", "columns": {"Weg": "speed"}}
    assert "cannot be taken as speed" in bench.refused("POST", "/mappings", 422, json=odd)
    seen = preview(bench, test_id, files, mapping="Old frame")
    assert seen["matched"][0]["label"] == "W1"
    assert bench.refused("POST", path, 404, files=sent, data={"mapping": "None such"})
    newer = bench.post("/mappings", {"name": "Old frame", "columns": columns, "seen": 1})
    assert [each["revision"] for each in bench.get("/mappings")] == [newer["revision"]]
