"""What was read off each specimen, in the columns and the lines of a report."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, cast

from endurant.core.writing import Writing
from endurant.reports.read_off import long_readings, readings_tables
from endurant.work.use_cases.reporting.models import ReportedTest


def reported(method: str, *specimens: dict[str, Any]) -> ReportedTest:
    """As much of a reported test as its readings need."""
    document = {"method": method, "parameters": {}, "specimens": list(specimens)}
    return cast(
        ReportedTest, SimpleNamespace(view=SimpleNamespace(method=method), document=document)
    )


def test_each_bar_has_its_energy_temperature_and_break_in_words() -> None:
    bar = {"dimensions": {"thickness_mm": [4.0, 4.02]}, "energy_j": 0.512, "soaked_min": None}
    test = reported(
        "iso-180",
        bar | {"label": "A1", "break_type": "C", "temperature_c": -30.0},
        bar | {"label": "A2", "break_type": "N", "observations": ["late-strike"]},
    )
    (table,) = readings_tables(test, Writing())
    assert table.headings == ["thickness, mm", "energy, J", "break type", "temperature, °C"]
    assert table.rows == [
        ("A1", ["4, 4.02", "0.512", "C, complete", "−30"]),
        ("A2", ["4, 4.02", "0.512", "N, no break", "–"]),
    ]
    assert long_readings(test, Writing()) == []


def test_each_strip_of_cloth_has_its_round_side_code_and_time() -> None:
    strip = {"label": "L1", "round": "first", "side": "face", "code": "BURN", "burn_time_s": 4.2}
    (table,) = readings_tables(reported("16-cfr-1610", strip), Writing())
    assert table.headings == ["round", "side", "code", "burn time, s"]
    assert table.rows == [("L1", ["first", "face", "BURN", "4.2"])]


def test_a_series_of_looks_is_a_line_of_its_own_and_a_recording_is_none() -> None:
    looks = [{"count": 50, "acceptable": True}, {"count": 100, "acceptable": False}]
    test = reported("scuff", {"label": "S1", "inspections": looks})
    assert readings_tables(test, Writing()) == []
    (line,) = long_readings(test, Writing())
    assert line.wording == "count 50, acceptable; count 100, not acceptable"
    trace = {"extension_mm": [0.0, 1.0], "force_n": [0.0, 5.0]}
    for recording in ({"trace": trace}, {"traces": [trace]}):
        pulled = reported("scratch", {"label": "T1", **recording})
        assert (readings_tables(pulled, Writing()), long_readings(pulled, Writing())) == ([], [])


def test_more_columns_than_fit_are_two_tables() -> None:
    read = dict.fromkeys(("a_n", "b_n", "c_n", "d_n", "e_n", "f_n", "g_n"), 1.5)
    first, second = readings_tables(reported("iso-535", {"label": "C1", **read}), Writing())
    assert len(first.headings) == 6
    assert second.headings == ["g, N"]


def test_what_somebody_typed_keeps_its_point_where_figures_have_a_comma() -> None:
    test = reported("iso-535", {"label": "C1", "lot_of_water": "10.25", "mass_g": 1.25})
    (table,) = readings_tables(test, Writing(decimal_sign="comma"))
    assert table.rows == [("C1", ["10.25", "1,25"])]
