"""Test documents made of CSV files: one trace a file, several in one, and tables."""

from __future__ import annotations

import pytest

from endurant.core.csv_import import import_csv
from endurant.core.document import analyse, read_document
from endurant.core.refusals import Invalid

STRIP = b"Operator;nobody\n\nWeg (mm);Last (kN)\n0;0\n10,5;0,4\n20;0,9\n21;0,1\n"


def test_a_trace_a_file_named_by_the_file() -> None:
    taken = import_csv(
        [("W1.csv", STRIP), ("data/W2.csv", STRIP)],
        "iso-13934-1",
        {"Weg": "extension_mm", "Last": "force_n"},
        given={"direction": "warp"},
    )
    assert [specimen["label"] for specimen in taken.document["specimens"]] == ["W1", "W2"]
    assert taken.document["specimens"][0]["trace"]["force_n"] == [0, 400, 900, 100]
    assert any("Last (kN)" in line and "times 1000" in line for line in taken.said)
    result = analyse(read_document(taken.document))
    assert result.specimens[0].figure("max_force") == pytest.approx(900)


def test_specimens_told_apart_by_a_column() -> None:
    rows = "Probe,Extension (in),Load (lbf),Remark\n"
    rows += "".join(f"{name},{x},{x * 2},ok\n" for name in ("A", "B") for x in range(4))
    taken = import_csv([("all.csv", rows.encode())], "iso-13934-1", specimens_by="Probe")
    first, second = taken.document["specimens"]
    assert (first["label"], second["label"]) == ("A", "B")
    assert first["trace"]["extension_mm"][1] == pytest.approx(25.4)
    assert "2 specimens separated by “Probe”: A (4 samples), B (4 samples)" in taken.said[0]


def test_a_table_of_small_readings() -> None:
    table = b"label;direction;dry_g;wet_g\nT1;top;2,412;2,696\nT2;top;2,398;2,689\n"
    taken = import_csv([("cobb.csv", table)], "iso-535")
    result = analyse(read_document(taken.document))
    assert result.specimens[0].figure("absorption") == pytest.approx(28.4)


@pytest.mark.parametrize(
    ("data", "method", "mapped", "by", "wording"),
    [
        (STRIP, "iso-13934-1", {}, None, "csv.no-header"),
        (STRIP, "iso-13934-1", {"Last": "furz"}, None, "csv.column-unknown"),
        (STRIP, "iso-13934-1", {"Kraft": "force_n"}, None, "csv.no-header"),
        (
            STRIP,
            "iso-13934-1",
            {"Weg": "extension_mm", "Last": "force_n", "Kraft": "force_n"},
            None,
            "csv.header-missing",
        ),
        (
            b"Extension,Load\n0,1\n1,2\n",
            "iso-13934-1",
            {},
            "Probe",
            "csv.specimen-column-missing",
        ),
        (b"Probe,Extension,Load\nA,0,x\n", "iso-13934-1", {}, "Probe", "csv.not-a-number"),
        (b"Probe,Extension,Load\n,0,1\n", "iso-13934-1", {}, "Probe", "csv.specimen-missing"),
        (b"label,dry_g,wet\nA,1,2\n", "iso-535", {}, None, "csv.column-not-of-method"),
        (b"Extension,Load\n0,1\n1,2\n", "relaxation", {}, None, "csv.column-missing"),
    ],
)
def test_bad_files_are_refused_with_the_file(
    data: bytes, method: str, mapped: dict[str, str], by: str | None, wording: str
) -> None:
    with pytest.raises(Invalid) as refusal:
        import_csv([("bad.csv", data)], method, mapped, by)
    assert refusal.value.sentence.startswith("bad.csv: ")
    assert refusal.value.code == wording
