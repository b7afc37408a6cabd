"""Tests that go turn by turn: what is due next, when it is through, and what it gives."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from endurant.core.bench.engine import apply, departures_of, held_by_clock, replay
from endurant.core.bench.events import Event, OutOfOrder
from endurant.core.bench.next_steps import next_step, optional_steps
from endurant.core.bench.procedure import begin
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State
from endurant.core.document import analyse, read_document
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid

START = datetime(2026, 3, 2, 9, tzinfo=UTC)
DART = {"dart": "A", "start_g": 150.0, "step_g": 15.0}
MELT = {"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0}


USUAL = {
    "upper_c": 190.1,
    "lower_c": 189.9,
    "settled_min": 45.0,
    "cloth_dry_g": 0.8,
    "cloth_wet_g": 1.58,
}
"""Answers to what is asked before a test; other answers are given by the test itself."""


class Walk:
    """A specimen that is taken through its actions."""

    def __init__(self, method_id: str, **parameters: Any) -> None:
        self.method = find_method(method_id)
        self.parameters = parameters
        self.events: list[Event] = []
        self.begun = begin(procedure_of(self.method), self.method, parameters, "S1")
        self.now = START

    @property
    def state(self) -> State:
        return replay(self.begun, self.events)

    @property
    def step(self) -> Any:
        return next_step(self.state, None, self.parameters)

    def do(self, act: str = "", after_s: float = 1, **facts: Any) -> None:
        step, now = self.step, self.now + timedelta(seconds=after_s)
        kind = act or step.act
        if not act and step.held_until is not None and after_s == 1:
            now = max(now, step.held_until)
        confirmed: dict[str, Any] = {"confirmed": list(step.confirms)}
        usual = {} if act else {ask.name: USUAL.get(ask.name, ask.preset) for ask in step.asks}
        given = {name: value for name, value in (usual | facts).items() if value is not None}
        event = Event(len(self.events) + 1, kind, now, "Ines", confirmed | given)
        apply(self.state, event)
        self.events.append(event)
        self.now = now

    def confirm_up_to(self, act: str) -> None:
        while self.step.act != act:
            self.do()

    def entry(self) -> dict[str, Any]:
        return procedure_of(self.method).readings(self.method, self.state)

    def result(self) -> Any:
        document = {
            "method": self.method.id,
            "parameters": self.parameters,
            "specimens": [{"label": "S1", **self.entry()}],
        }
        return analyse(read_document(document)).specimens[0]


def test_a_turn_says_what_its_button_confirms() -> None:
    walk = Walk("astm-d1709", **DART)
    walk.confirm_up_to("drop")
    assert walk.step.confirms == ("clear",)
    assert walk.step.caution.endswith("You confirm: Hands clear of the dart.")


def test_a_dart_climbs_and_falls_by_the_rule_and_ends_by_it() -> None:
    walk = Walk("astm-d1709", **DART)
    walk.confirm_up_to("drop")
    assert walk.step.title == "Drop 1: 150 g"
    masses = []
    while walk.step.act == "drop":
        mass = float(walk.step.title.split(": ")[1].split()[0])
        masses.append(mass)
        walk.do(failed="failed" if mass > 150 else "held")
    assert masses[:4] == [150, 165, 150, 165]
    assert len(masses) == 20
    assert walk.state.phase == "complete"
    drops = walk.entry()["drops"]
    assert drops[1] == {"mass_g": 165.0, "failed": True}
    assert walk.result().figure("failure_mass") == pytest.approx(165 + 15 * (0 - 0.5))


@pytest.mark.parametrize(
    ("shown", "codes"),
    [
        ({"upper_c": 190.4, "lower_c": 189.6, "settled_min": 20.0}, []),
        ({"upper_c": 190.0, "lower_c": 186.0, "settled_min": 20.0}, ["barrel-temperature"]),
        ({"upper_c": 190.0, "lower_c": 190.0, "settled_min": 12.0}, ["barrel-not-settled"]),
    ],
)
def test_a_barrel_that_is_cold_or_not_settled_departs(
    shown: dict[str, float], codes: list[str]
) -> None:
    walk = Walk("iso-1133-1-a", **MELT)
    walk.confirm_up_to("settled")
    act = walk.state.act("settled")
    assert [each.code for each in departures_of(act, shown)] == codes
    walk.do("", 1, why="the reference resin flows as it should", **shown)
    assert [(each.code, each.why) for each in walk.state.departed] == [
        (code, "the reference resin flows as it should") for code in codes
    ]


def test_the_clock_of_the_preheat_holds_the_purge() -> None:
    walk = Walk("iso-1133-1-a", **MELT)
    walk.confirm_up_to("charging")
    walk.do()
    walk.do(charge_g=5.0)
    begun, purge = walk.now - timedelta(seconds=1), walk.state.act("purged")
    early = held_by_clock(walk.state, purge, begun + timedelta(seconds=13))
    assert early == "Preheat: 13 s of 300 s have passed; 287 s are left"
    assert held_by_clock(walk.state, purge, begun + timedelta(seconds=270)) == ""
    assert walk.step.held_until == begun + timedelta(seconds=270)


def test_the_piston_travel_of_a_density_is_not_the_length_of_a_strand() -> None:
    walk = Walk("melt-density", **MELT)
    walk.confirm_up_to("charging")
    walk.do()
    walk.do(charge_g=5.0)
    walk.do()
    assert walk.step.asks[1].title == "piston travel during the cut"
    with pytest.raises(Invalid, match="melt.travel-implausible"):
        walk.do(mass_g=0.056, length_mm=15.0)
    walk.do(mass_g=0.056, length_mm=1.03)
    assert walk.state.facts["cuts"][0]["bubbles"] is False


def test_an_answer_that_is_none_of_the_choices_is_refused() -> None:
    walk = Walk("astm-d1709", **DART)
    walk.confirm_up_to("drop")
    with pytest.raises(Invalid, match="bench.choice-expected"):
        walk.do(failed="perhaps")
    with pytest.raises(Invalid, match="bench.value-missing"):
        walk.do()


def test_the_last_drop_is_taken_back_and_one_that_others_stand_on_is_not() -> None:
    walk = Walk("astm-d1709", **DART)
    walk.confirm_up_to("drop")
    walk.do(failed="held")
    walk.do(failed="held")

    def without(number: int) -> State:
        gone = Event(len(walk.events) + 1, "taken-back", walk.now, "Ines", {}, undoes=number)
        return replay(walk.begun, [*walk.events, gone])

    last = walk.events[-1].number
    assert without(last).facts["drops"] == [{"mass_g": 150.0, "failed": False}]
    kept = replace(walk.events[-1], facts={**walk.events[-1].facts, "set": {"mass_g": 165.0}})
    walk.events[-1] = kept
    with pytest.raises(Invalid, match="reading.dart-mass-wrong"):
        without(last - 1)


def test_a_series_is_ended_earlier_only_once_it_has_begun() -> None:
    walk = Walk("scuff", weight_n=9.0, interval=50)
    walk.confirm_up_to("look")
    assert optional_steps(walk.state) == []
    with pytest.raises(OutOfOrder, match="bench.nothing-to-end"):
        walk.do("enough-look")
    walk.do(count=50, acceptable="acceptable")
    (ending,) = optional_steps(walk.state)
    assert (ending.act, ending.kind) == ("enough-look", "end")
    walk.do("enough-look")
    assert walk.state.phase == "complete"
    assert walk.result().values["last_acceptable"].value == 50


def test_looks_come_at_their_interval_up_to_the_preset_count() -> None:
    walk = Walk("scuff", weight_n=9.0, interval=50, preset_count=120)
    walk.confirm_up_to("look")
    due = []
    while walk.step.act == "look":
        (count, _) = walk.step.asks
        due.append(count.preset)
        walk.do(count=count.preset, acceptable="acceptable")
        if walk.step.act == "start-look":
            with pytest.raises(OutOfOrder, match="bench.turn-comes-after"):
                walk.do("look", count=100, acceptable="acceptable")
            walk.do()
    assert due == [50, 100, 120]


def test_wear_is_looked_at_the_more_rarely_the_longer_it_lasts() -> None:
    walk = Walk("iso-12947-2", pressure_kpa=12.0)
    walk.confirm_up_to("look")
    assert walk.step.asks[0].preset == 200
    walk.do(count=2000, acceptable="no breakdown")
    walk.do()
    assert walk.step.asks[0].preset == 3000
    walk.do(count=3000, acceptable="breakdown")
    assert walk.state.phase == "complete"
    assert walk.result().figure("endurance") == 2000


def test_a_scratch_is_found_by_halving() -> None:
    walk = Walk("scratch", step_n=0.5, max_force_n=40.0, tip="1 mm ball", speed_mm_s=10.0)
    walk.confirm_up_to("trace")
    drawn = []
    while walk.step.act == "trace":
        force = float(walk.step.title.split()[-2])
        drawn.append(force)
        walk.do(visible="visible" if force >= 7.5 else "not visible")
    assert drawn[:3] == [40, 20, 10]
    assert len(drawn) < 10
    result = walk.result()
    assert result.figure("threshold_force") == 7.5
    assert result.figure("no_trace_force") == 7


def test_two_assessors_who_agree_are_enough_and_a_third_is_asked_for_otherwise() -> None:
    agree = Walk("iso-105-x12")
    agree.confirm_up_to("grade")
    agree.do(grade="3-4")
    agree.do(grade="4")
    assert agree.state.phase == "complete"
    apart = Walk("iso-105-x12")
    apart.confirm_up_to("grade")
    apart.do(grade="3")
    apart.do(grade="4")
    assert "disagree" in apart.step.why
    apart.do(grade="3-4")
    assert apart.state.phase == "complete"
    assert apart.entry() == {"grades": ["3", "4", "3-4"]}


def test_felt_and_surface_are_graded_one_after_the_other() -> None:
    walk = Walk("liquid-rub", liquid="water", cycles=20, force_n=9.0)
    walk.confirm_up_to("change")
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        walk.do("stain", grade="4")
    for grade in ("4", "4", "3", "3-4"):
        walk.do(grade=grade)
    assert walk.entry() == {"change_grades": ["4", "4"], "stain_grades": ["3", "3-4"]}


def test_a_pack_falls_in_the_order_that_was_fixed() -> None:
    walk = Walk("iso-2248", sequence=["3", "2-3", "2-3-5"])
    walk.confirm_up_to("drop")
    titles = []
    while walk.step.act == "drop":
        titles.append(walk.step.title)
        request = [ask.name for ask in walk.step.asks]
        assert ("damage_inside" in request) == (len(titles) == 3)
        inside = {"damage_inside": "none"} if "damage_inside" in request else {}
        walk.do("", 1, height_mm=600.0, damage_outside="slight", leak="tight", **inside)
    assert titles[1:] == ["Drop 2 of 3: on edge 2-3", "Drop 3 of 3: on corner 2-3-5"]
    assert walk.entry()["drops"][2]["position"] == "2-3-5"
    assert walk.entry()["drops"][0]["damage_outside"] == 1


def test_a_charge_goes_through_its_clocks_and_what_was_missed_is_flagged() -> None:
    walk = Walk("iso-1133-1-a", **MELT)
    walk.confirm_up_to("charging")
    walk.do()
    assert {clock.timer.code for clock in walk.state.clocks} == {
        "charging",
        "preheat",
        "from-charge",
    }
    walk.do(after_s=72, charge_g=5.0)
    walk.do(after_s=300 - 72)
    (due, _) = (clock.timer for clock in walk.state.clocks if clock.timer.code != "charging")
    assert {due.code, _.code} == {"from-charge", "cut"}
    for mass in (0.056, 0.058, 0.057):
        walk.do(after_s=20, mass_g=mass, length_mm=15.0, bubbles="none")
    walk.do(after_s=30)
    assert walk.step.act == "cleaned"
    walk.do()
    entry = walk.entry()
    assert (entry["charge_s"], entry["preheat_s"], entry["finished_min"]) == (72, 300, 6.5)
    result = walk.result()
    assert [flag.code for flag in result.flags if flag.severity == "warn"] == ["charged-late"]
    assert result.figure("mfr") == pytest.approx(600 * 0.057 / 20)


def test_a_cut_with_bubbles_is_not_counted_among_those_that_are_needed() -> None:
    walk = Walk("iso-1133-1-a", **MELT)
    walk.confirm_up_to("charging")
    walk.do()
    walk.do(charge_g=5.0)
    walk.do()
    walk.do(mass_g=0.05, length_mm=15.0, bubbles="bubbles")
    assert "0 good so far" in walk.step.why
    for _ in range(3):
        walk.do(mass_g=0.056, length_mm=15.0, bubbles="none")
    assert walk.step.act == "finished"


def test_no_flame_with_the_fan_on_and_no_fan_while_it_burns() -> None:
    walk = Walk("16-cfr-1610", surface="plain", max_transfer_s=45.0)
    walk.confirm_up_to("taken-out")
    walk.do()
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        walk.do("lit", confirmed=["door-shut"])
    walk.do()
    walk.do(after_s=50)
    for act in ("fan-on", "ventilate"):
        with pytest.raises(OutOfOrder):
            walk.do(act)
    assert walk.state.remarks
    walk.do(round="first", side="face", code="BURN", burn_time_s=4.2)
    walk.do()
    assert walk.state.phase == "complete"
    assert walk.entry()["transfer_s"] == 51.0


def test_a_jar_is_looked_at_before_air_is_let_in() -> None:
    walk = Walk("bubble-leak", vacuum_kpa=60.0, dwell_s=30.0)
    walk.confirm_up_to("vacuum")
    walk.do()
    with pytest.raises(OutOfOrder, match="bench.comes-after"):
        walk.do("aired")
    walk.do(after_s=12, bubbles="none")
    assert walk.state.remarks == ("Under vacuum: 12 s. Required: at least 30 s.",)
    walk.do()
    assert walk.state.phase == "complete"
