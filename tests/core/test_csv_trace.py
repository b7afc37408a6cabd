"""Traces from CSV files, good and bad."""

from __future__ import annotations

import numpy as np
import pytest

from endurant.core.csv_trace import headers_of, read_trace_csv
from endurant.core.refusals import Invalid


@pytest.mark.parametrize(
    ("text", "force"),
    [
        ("extension_mm,force_n\n0,1\n1,2\n", [1, 2]),
        ("Extension (mm),Load (kN)\n0,0.001\n1,0.002\n", [1, 2]),
        ("Extension [cm];Load [N];Remark\n0,5;1,25;3\n1,5;2,5;3\n", [1.25, 2.5]),
        (
            "Operator: nobody\nLot: 4\n\nTime (s)\tTravel (mm)\tForce (lbf)\n0\t0\t1\n1\t1\t2\n",
            [4.4482, 8.8964],
        ),
        ("Extension;Load;Remark\n(mm);[kN];\n0;0,001;7\n1;0,002;8\n", [1, 2]),
        ("\ufeffExtension (mm);Load (N)\r\n0;1e0\r\n1;2\r\n\r\n", [1, 2]),
    ],
)
def test_files_are_read_and_units_converted(text: str, force: list[float]) -> None:
    taken = read_trace_csv(text.encode())
    assert taken.columns["force_n"].tolist() == pytest.approx(force, rel=1e-4)
    assert any("force_n" in line for line in taken.said)


def test_centimetres_become_millimetres() -> None:
    taken = read_trace_csv(b"Extension (cm),Load (N)\n0,1\n1.5,2\n")
    assert taken.columns["extension_mm"].tolist() == [0, 15]


@pytest.mark.parametrize(
    ("data", "wording"),
    [
        (b"", "csv.empty"),
        (b"0,1\n1,2\n", "csv.no-header"),
        (b"Extension (mm),Load (N)\n", "csv.no-samples"),
        (
            b"Extension (mm),Load (N)\n0,1\n1,slip\n",
            "csv.not-a-number",
        ),
        (b"Extension (mm),Load (N)\n0,1\n1,\n", "csv.value-count"),
        (b"Extension (mm),Load (N)\n0,1\n1\n", "csv.value-count"),
        (b"Extension (mm),Load (N)\n0,5,1,2\n1,5,2,4\n", "csv.value-count-decimal-commas"),
        (b"Extension (mm),Load (N)\n0,nan\n1,2\n", "csv.not-a-number"),
        (b"Extension (mm),Load (s)\n0,1\n1,2\n", "quantity.unit-of-other-kind"),
        (b"Extension (mm),Load (furz)\n0,1\n1,2\n", "quantity.unit-unknown"),
        (b"Time (s),Load (N)\n0,1\n1,2\n", "csv.column-missing"),
        (b"Load (N),Force (N),Extension\n0,1,1\n", "csv.column-twice"),
        (b"PK\x03\x04\x00\x00\x00", "csv.not-text"),
    ],
)
def test_bad_files_are_refused_with_the_place(data: bytes, wording: str) -> None:
    with pytest.raises(Invalid) as refusal:
        read_trace_csv(data)
    assert refusal.value.code == wording


def test_two_million_rows_are_too_many() -> None:
    with pytest.raises(Invalid, match="csv.too-many-samples"):
        read_trace_csv(b"Extension (mm),Load (N)\n" + b"1,2\n" * 2_000_000)


def test_every_digit_is_kept() -> None:
    figures = np.random.default_rng(1).random(50).tolist()
    rows = "".join(f"{place},{figure!r}\n" for place, figure in enumerate(figures))
    taken = read_trace_csv(("extension_mm,force_n\n" + rows).encode())
    assert taken.columns["force_n"].tolist() == figures


@pytest.mark.parametrize(
    "encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"]
)
def test_a_trace_is_read_in_every_usual_encoding(encoding: str) -> None:
    last = "Stand" if encoding.startswith("utf-16-") else "Größe"
    text = f"Extension (mm),Load (N),{last}\n" + "".join(f"{x},{2 * x},1\n" for x in range(5))
    taken = read_trace_csv(text.encode(encoding))
    assert taken.columns["force_n"].tolist() == [0, 2, 4, 6, 8]


def test_headers_are_found_above_a_row_of_units() -> None:
    names, known = headers_of(b"Frame 4\nWeg;Kraft;Load\nmm;N;N\n0;1;1\n")
    assert names == ["Weg", "Kraft", "Load"]
    assert known == [None, None, "force_n"]
