"""Files are matched with specimens by code or label, and never by half of one."""

from __future__ import annotations

import pytest

from endurant.core.csv_trace import headers_of
from endurant.core.file_matching import match
from endurant.core.refusals import Invalid

SPECIMENS = [(f"S{n}", f"J-0421-1-S{n}") for n in (1, 2, 12)] + [("W3", "J-0421-2-W3")]


@pytest.mark.parametrize(
    ("name", "label"),
    [
        ("J-0421-1-S1", "S1"),
        ("frame2_j-0421-1-s12_run3", "S12"),
        ("S2", "S2"),
        ("specimen s02 (again)", "S2"),
        ("S012", "S12"),
        ("W3 warp", "W3"),
        ("S22", None),
        ("XS1", None),
        ("S1 and S2", None),
        ("J-0421-2-W3 beside S1", "W3"),
    ],
)
def test_a_name_is_of_one_specimen_or_of_none(name: str, label: str | None) -> None:
    (matched,) = match([name], SPECIMENS)
    assert matched.label == label
    assert bool(matched.text) is (label is None)


def test_two_names_for_one_specimen_are_both_left_open() -> None:
    first, second, third = match(["S1 morning", "S1 again", "S2"], SPECIMENS)
    assert (first.label, second.label, third.label) == (None, None, "S2")
    assert first.text == "2 fit S1"


def test_headers_are_found_whatever_they_are_called() -> None:
    text = "Program 7\nRun;12\n\nWeg [mm];Kraft [N];Zeit\n0,0;0,1;0\n0,1;2,4;1\n"
    headers, taken = headers_of(text.encode())
    assert headers == ["Weg [mm]", "Kraft [N]", "Zeit"]
    assert taken == [None, None, None]
    assert headers_of(b"Extension (mm),Load (N)\n0,1\n")[1] == ["extension_mm", "force_n"]
    with pytest.raises(Invalid, match="csv.no-names"):
        headers_of(b"nothing here\nat all\n")
