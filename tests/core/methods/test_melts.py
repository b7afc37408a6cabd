"""Cuts of a melt: which count, how far they lie apart, what to charge, and when to cut."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.methods.melting import (
    Cut,
    advise,
    charge_for,
    flag_charge,
    give_mfr_by_mass,
    good_cuts,
    interval_for,
    next_cut,
    next_travel,
    spread_of,
)
from endurant.core.methods.results import SpecimenResult

TABLES = ("iso-newer", "iso-older")


def result() -> SpecimenResult:
    return SpecimenResult("C1", None, "original")


def cuts(*masses: float, bubbles: tuple[int, ...] = ()) -> list[Cut]:
    return [Cut(mass_g=mass, bubbles=place in bubbles) for place, mass in enumerate(masses)]


def test_cuts_with_bubbles_do_not_count() -> None:
    given = cuts(0.2, 0.9, 0.21, 0.22, bubbles=(1,))
    taken = result()
    assert [cut.mass_g for cut in good_cuts(taken, given, 3)] == [0.2, 0.21, 0.22]
    assert taken.flags == []


@pytest.mark.parametrize(("bubbles", "is_void"), [((), False), ((0,), False), ((0, 1), True)])
def test_too_few_good_cuts_void_the_charge(bubbles: tuple[int, ...], is_void: bool) -> None:
    taken = result()
    good_cuts(taken, cuts(0.2, 0.2, 0.2, 0.2, bubbles=bubbles), 3)
    assert [flag.code for flag in taken.flags] == (["too-few-cuts"] if is_void else [])
    assert taken.valid is not is_void


@pytest.mark.parametrize(
    ("values", "spread"),
    [([1.0, 1.0], 0.0), ([0.9, 1.1], 0.2), ([2.0, 2.0, 5.0], 1.0), ([0.0101, 0.0099], 0.02)],
)
def test_the_spread_is_the_range_over_the_mean(values: list[float], spread: float) -> None:
    assert spread_of(values) == pytest.approx(spread)


@pytest.mark.parametrize("mass_g", [0.05, 0.2, 1.75])
@pytest.mark.parametrize("interval_s", [5, 20, 240])
def test_the_flow_is_what_would_come_in_ten_minutes(mass_g: float, interval_s: float) -> None:
    taken = result()
    flow = give_mfr_by_mass(taken, "mfr", cuts(mass_g, mass_g), interval_s)
    assert flow == pytest.approx(mass_g / interval_s * 600)
    assert taken.figure("mfr") == flow
    assert taken.values["mfr"].unit == "g/10 min"


@pytest.mark.parametrize("table", TABLES)
def test_a_faster_melt_is_cut_sooner_and_charged_with_more(table: str) -> None:
    flows = [0.16, 0.6, 1.5, 4.0, 12.0, 40.0]
    intervals = [interval_for(flow, table) for flow in flows]
    known = [interval for interval in intervals if interval is not None]
    assert known == sorted(known, reverse=True)
    charges = [window for flow in flows if (window := charge_for(flow, table))]
    assert charges == sorted(charges)
    assert all(low < high for low, high in charges)


@pytest.mark.parametrize("table", TABLES)
def test_a_flow_below_the_table_has_neither_interval_nor_charge(table: str) -> None:
    assert interval_for(0.01, table) is None
    assert charge_for(0.01, table) is None
    taken = result()
    charged: Any = type("Charge", (), {"charge_g": 99.0})()
    flag_charge(taken, charged, 0.01, table)
    assert (taken.flags, taken.working) == ([], [])


@pytest.mark.parametrize(
    ("charge_g", "is_flagged"), [(None, False), (4.5, False), (2.0, True), (9.0, True)]
)
def test_a_charge_that_is_not_the_tables_is_flagged(
    charge_g: float | None, is_flagged: bool
) -> None:
    window = charge_for(2.0, "iso-newer")
    assert window is not None
    assert window[0] <= 4.5 <= window[1]
    taken = result()
    charged: Any = type("Charge", (), {"charge_g": charge_g})()
    flag_charge(taken, charged, 2.0, "iso-newer")
    assert taken.has_flag("charge-not-for-this-flow") is is_flagged
    assert taken.working[0].gives.endswith(" g")


def a_cut(bubbles: bool = False) -> dict[str, Any]:
    return {"mass_g": 0.2, "length_mm": 15.0, "bubbles": bubbles}


def test_cutting_goes_on_until_enough_are_good() -> None:
    first = next_cut({"cut_interval_s": 20}, [])
    assert first is not None
    assert (first.title, first.every_s) == ("Cut 1", 20)
    assert [ask.name for ask in first.asks] == ["mass_g", "length_mm", "bubbles"]
    assert "Every 20 s" in first.why
    assert next_cut({}, [a_cut(), a_cut()]) is not None
    assert next_cut({}, [a_cut(), a_cut(), a_cut()]) is None
    again = next_cut({}, [a_cut(), a_cut(bubbles=True), a_cut()])
    assert again is not None
    assert again.title == "Cut 4"
    assert "2 good so far, 3 needed." in again.why
    assert next_cut({"min_cuts": 5}, [a_cut()] * 4) is not None
    assert next_cut({"min_cuts": 5}, [a_cut()] * 5) is None


def test_three_travels_are_timed() -> None:
    titles = []
    travels: list[Any] = []
    while (turn := next_travel({}, travels)) is not None:
        titles.append(turn.title)
        travels.append({"length_mm": 25.0, "time_s": 20.0})
    assert titles == ["Travel 1 of 3", "Travel 2 of 3", "Travel 3 of 3"]


def test_a_trial_cut_proposes_the_interval_of_a_strand_of_15_mm() -> None:
    advice = advise({"cut_interval_s": 20}, [], {"trial_length_mm": 30, "trial_interval_s": 20})
    assert advice.proposes == {"cut_interval_s": 10.0}
    assert "30 mm in 20 s" in advice.text[0]


def test_the_flow_of_the_charge_before_proposes_the_interval_of_the_table() -> None:
    before = {"label": "C1", "cuts": [a_cut(), a_cut()]}
    flow = 600 * 0.2 / 20
    due_s = interval_for(flow, "iso-newer")
    advice = advise({"cut_interval_s": 20}, [before], {})
    assert "Flow rate of C1: 6 g/10 min." in advice.text[0]
    assert advice.proposes == ({} if due_s == 20 else {"cut_interval_s": float(due_s or 0)})
    again = advise({"cut_interval_s": due_s}, [before | {"cuts": [a_cut(bubbles=True)]}], {})
    assert (again.text, again.proposes) == ((), {})


def test_nothing_is_proposed_that_is_set_already() -> None:
    advice = advise({"cut_interval_s": 10.0}, [], {"trial_length_mm": 30, "trial_interval_s": 20})
    assert advice.proposes == {}
