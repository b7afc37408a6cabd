"""Test documents made of CSV files: one trace a file, several in one, and tables."""

from __future__ import annotations

import pytest

from endurant.core.csv_import import import_csv
from endurant.core.document import analyse, read_document
from endurant.core.refusals import Invalid
from endurant.core.tables import Table
from endurant.reports.workbook import workbook_of

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


SIDE_BY_SIDE = (
    "Exported by a frame\n"
    ";S1;;S2;\n"
    "Time;Extension;Force;Extension;Force\n"
    "s;mm;kN;mm;kN\n"
    "0;0;0;0;0\n0,1;1,5;0,25;1;0,5\n0,2;3;0,5;;\n"
)


def test_specimens_side_by_side_with_units_in_a_row_of_their_own() -> None:
    taken = import_csv([("frame.csv", SIDE_BY_SIDE.encode("utf-16"))], "iso-13934-1")
    first, second = taken.document["specimens"]
    assert (first["label"], second["label"]) == ("S1", "S2")
    assert first["trace"] == {
        "time_s": [0, 0.1, 0.2],
        "extension_mm": [0, 1.5, 3],
        "force_n": [0, 250, 500],
    }
    assert second["trace"]["force_n"] == [0, 500]
    assert "2 specimens side by side: S1 (3 samples), S2 (2 samples)" in taken.said[0]


def test_numbered_columns_are_specimens_named_by_the_file() -> None:
    rows = b"Extension 1 (mm),Load 1 (N),Extension 2 (mm),Load 2 (N)\n0,1,0,3\n1,2,1,4\n"
    taken = import_csv([("W7.csv", rows)], "iso-13934-1")
    found = [(each["label"], each["trace"]["force_n"]) for each in taken.document["specimens"]]
    assert found == [("W7 1", [1, 2]), ("W7 2", [3, 4])]


def test_a_workbook_holds_a_specimen_a_sheet() -> None:
    trace = Table(("Extension (mm)", "Load (N)"), [(0, 1.25), (1.5, 2)])
    book = workbook_of({"W1": [trace], "W2": [trace]})
    taken = import_csv([("frame.xlsx", book)], "iso-13934-1")
    assert [each["label"] for each in taken.document["specimens"]] == ["W1", "W2"]
    assert taken.document["specimens"][0]["trace"] == {
        "extension_mm": [0, 1.5],
        "force_n": [1.25, 2],
    }
    alone = import_csv([("W9.xlsx", workbook_of({"Sheet": [trace]}))], "iso-13934-1")
    assert alone.document["specimens"][0]["label"] == "W9"


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
        (
            b"Time,Extension,Load\n0,0,1\n0.2,1,2\n0.1,2,3\n",
            "iso-13934-1",
            {},
            None,
            "csv.time-falls",
        ),
        (
            b"Extension,Load,Extension,Load\n0,1,0,1\n1,2,,\n2,3,2,3\n",
            "iso-13934-1",
            {},
            None,
            "csv.gap-side-by-side",
        ),
        (
            b"Extension,Load,Extension,Load\n0,1,,\n1,2,,\n",
            "iso-13934-1",
            {},
            None,
            "csv.no-samples-of",
        ),
        (b"Load,Force,Extension\n0,1,1\n", "iso-13934-1", {}, None, "csv.column-twice"),
        (b"PK\x03\x04\x00\x00", "iso-13934-1", {}, None, "workbook.unreadable"),
    ],
)
def test_bad_files_are_refused_with_the_file(
    data: bytes, method: str, mapped: dict[str, str], by: str | None, wording: str
) -> None:
    with pytest.raises(Invalid) as refusal:
        import_csv([("bad.csv", data)], method, mapped, by)
    assert refusal.value.sentence.startswith("bad.csv: ")
    assert refusal.value.code == wording
