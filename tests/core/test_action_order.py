"""Actions out of their order are refused by a code that says what stands in the way.

The actions are made up, so that each rule stands alone.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from endurant.core.bench.actions import GO, Action, Timer
from endurant.core.bench.engine import apply, held_by_clock, replay
from endurant.core.bench.events import Event, OutOfOrder, in_force
from endurant.core.bench.state import State
from endurant.core.departures import Departure
from endurant.core.methods.guide import Ask, Go, Turn
from endurant.core.refusals import Invalid

START = datetime(2026, 3, 2, 9, tzinfo=UTC)


def action(code: str, **given: Any) -> Action:
    return Action(code, f"{code} of {{label}}", f"why {code}", f"Do {code}", **given)


def state(*actions: Action) -> State:
    return State("S1", actions)


def event(before: State, kind: str, seconds: float = 0, by: str = "Ines", **facts: Any) -> Event:
    return Event(before.last + 1, kind, START + timedelta(seconds=seconds), by, facts)


def done(before: State, kind: str, seconds: float = 0, by: str = "Ines", **facts: Any) -> State:
    return apply(before, event(before, kind, seconds, by, **facts))


def refused(before: State, kind: str, **facts: Any) -> str:
    with pytest.raises((OutOfOrder, Invalid)) as refusal:
        done(before, kind, **facts)
    return refusal.value.code


GRIP, START_RUN = action("grip"), action("start", records=True)
LOOK = action("look", phase="after")
TEST = state(action("zero"), GRIP, START_RUN, LOOK)


def test_one_action_comes_after_another() -> None:
    assert refused(TEST, "grip") == "bench.comes-after"
    zeroed = done(TEST, "zero")
    assert zeroed.done == ("zero",)
    assert refused(zeroed, "zero") == "bench.already-done"
    assert refused(zeroed, "start") == "bench.comes-after"
    assert done(zeroed, "grip").done == ("zero", "grip")


def test_an_action_that_the_test_does_not_have_is_named_with_those_it_has() -> None:
    with pytest.raises(OutOfOrder) as refusal:
        done(TEST, "polish")
    assert refusal.value.code == "bench.action-unknown"
    assert "zero, grip, start, look" in refusal.value.sentence


def test_each_phase_has_its_own_actions() -> None:
    assert refused(TEST, "look") == "bench.not-now-after"
    running = done(done(done(TEST, "zero"), "grip"), "start")
    assert running.phase == "recording"
    assert refused(running, "grip") == "bench.not-now-before"
    assert refused(TEST, "paused") == "bench.not-recording"
    over = done(running, "ended")
    assert over.phase == "after"
    assert done(over, "look").phase == "complete"
    assert refused(done(over, "look"), "look") == "bench.test-complete"


def test_a_run_that_gave_nothing_begins_again_and_keeps_what_was_noted_and_why() -> None:
    noted = done(TEST, "noted", values={"width_mm": 50.0})
    reasoned = done(noted, "reason", codes=["late"], why="the frame was away")
    running = done(done(done(reasoned, "zero"), "grip"), "start")
    again = done(running, "abandoned")
    assert (again.phase, again.done) == ("before", ())
    assert again.facts == {"width_mm": 50.0}
    assert again.reasons == {"late": "the frame was away"}


def test_an_optional_action_holds_nothing_up_and_is_too_late_once_something_followed() -> None:
    test = state(action("wipe", optional=True), action("grip"), action("start", records=True))
    gripped = done(test, "grip")
    assert refused(gripped, "wipe") == "bench.too-late"
    wiped = done(done(test, "wipe"), "wipe")
    assert wiped.done == ("wipe",)


def test_an_action_excluded_by_a_later_one_is_named_with_it() -> None:
    test = state(
        action("adjust", only_before="lock", optional=True),
        action("lock"),
        action("start", records=True),
    )
    locked = done(test, "lock")
    with pytest.raises(OutOfOrder) as refusal:
        done(locked, "adjust")
    assert refusal.value.code == "bench.excluded-by-later"
    assert "lock of S1" in refusal.value.sentence


def test_an_action_is_only_there_when_the_facts_ask_for_it() -> None:
    test = state(
        action("answer", asks=(Ask("bell", "bell", kind="choice", choices=("a", "b")),)),
        action("only-a", when=lambda facts: facts.get("bell") == "a"),
    )
    assert refused(test, "only-a") == "bench.not-of-this-test"
    assert done(test, "answer", bell="b").phase == "complete"
    a = done(test, "answer", bell="a")
    assert a.phase == "before"
    assert done(a, "only-a").phase == "complete"


def test_what_a_person_vouches_for_is_confirmed_each_time() -> None:
    test = state(action("grip", confirms={"clean": "Jaws clean", "flat": "Specimen flat"}))
    with pytest.raises(Invalid) as refusal:
        done(test, "grip", confirmed=["clean"])
    assert refusal.value.code == "bench.checks-unconfirmed"
    assert "Specimen flat" in refusal.value.sentence
    assert done(test, "grip", confirmed=["clean", "flat"]).phase == "complete"


def test_values_that_are_typed_and_values_that_are_set_enter_the_facts() -> None:
    asks = (Ask("mass_g", "mass", "g", low=0.1), Ask("remark", "remark", required=False))
    test = state(action("weigh", asks=asks, sets={"weighed": True}))
    assert refused(test, "weigh") == "bench.value-missing"
    assert refused(test, "weigh", mass_g=0.01) == "bench.value-out-of-range"
    weighed = done(test, "weigh", mass_g=12.5)
    assert weighed.facts == {"mass_g": 12.5, "weighed": True}


def grades(items: Sequence[Any]) -> Turn | None:
    if len(items) >= 2:
        return None
    return Turn(f"Grade {len(items) + 1}", "alone", "Record grade", asks=(Ask("grade", "grade"),))


SERIES = state(action("grade", turns=grades, collects="grades", plain="grade"))


def test_a_series_is_through_when_no_turn_is_left() -> None:
    first = done(SERIES, "grade", grade=4.0)
    assert (first.facts["grades"], first.done) == ([4.0], ())
    both = done(first, "grade", by="Olga", grade=4.5)
    assert both.facts["grades"] == [4.0, 4.5]
    assert both.people["grade"] == ("Ines", "Olga")
    assert both.phase == "complete"
    assert refused(both, "grade", grade=3.0) == "bench.test-complete"


def test_a_series_that_is_through_takes_no_further_item_while_others_are_left() -> None:
    test = state(
        action("grade", turns=grades, collects="grades", plain="grade", reads=("x",)),
        action("clean"),
    )
    through = done(done(test, "grade", grade=4.0), "grade", grade=4.0)
    assert refused(through, "grade", grade=4.0) == "bench.series-complete"


def test_a_series_is_ended_by_its_own_action_once_it_has_begun() -> None:
    def endless(items: Sequence[Any]) -> Turn:
        return Turn(f"Cut {len(items) + 1}", "", "Cut", asks=(Ask("mass_g", "mass"),))

    test = state(
        action("finish", ends_series="cut", optional=True),
        action("cut", turns=endless, collects="cuts"),
    )
    assert refused(test, "finish") == "bench.nothing-to-end"
    cut = done(test, "cut", mass_g=0.2)
    assert cut.phase == "before"
    finished = done(cut, "finish")
    assert finished.facts["cuts"] == [{"mass_g": 0.2}]
    assert (finished.done, finished.phase) == (("cut", "finish"), "complete")


def rubbed(items: Sequence[Mapping[str, Any]]) -> Turn | None:
    if len(items) >= 2:
        return None
    due = 100 * (len(items) + 1)
    return Turn(
        f"Examine at {due}",
        "",
        "Record look",
        asks=(Ask("count", "count", whole=True),),
        goes=Go(f"Run to {due}", "", "Start", seconds=60, counts=due),
    )


RUBBING = state(action("look", turns=rubbed, collects="inspections"))


def test_a_rig_runs_to_each_look_before_it_is_recorded() -> None:
    assert refused(RUBBING, "look", count=100) == "bench.turn-comes-after"
    running = done(RUBBING, GO + "look")
    assert running.going == "look"
    assert refused(running, GO + "look") == "bench.already-running"
    looked = done(running, "look", seconds=60, count=100)
    assert (looked.going, looked.facts["inspections"]) == ("", [{"count": 100}])
    again = done(done(looked, GO + "look", 60), "look", seconds=120, count=200)
    assert again.phase == "complete"


def test_only_a_series_with_a_rig_can_be_started() -> None:
    assert refused(TEST, GO + "zero") == "bench.nothing-to-start"


SOAK = Timer("soak", "Soak", "at-least", 60, 1, holds=True, fact="soaked_s")
SOAKING = state(action("soak", starts=SOAK), action("strike", ends="soak"))


@pytest.mark.parametrize(("seconds", "is_held"), [(10, True), (58, True), (59, False), (90, False)])
def test_a_clock_holds_the_action_that_ends_it_up(seconds: float, is_held: bool) -> None:
    soaking = done(SOAKING, "soak")
    at = START + timedelta(seconds=seconds)
    held = held_by_clock(soaking, soaking.act("strike"), at)
    assert bool(held) is is_held


@pytest.mark.parametrize(("seconds", "departures"), [(75, 0), (30, 1)])
def test_a_clock_that_was_not_kept_departs_with_the_reason_given(
    seconds: float, departures: int
) -> None:
    struck = done(done(SOAKING, "soak"), "strike", seconds, why="the chamber failed")
    assert struck.facts["soaked_s"] == seconds
    assert [each.why for each in struck.departed] == ["the chamber failed"] * departures
    assert struck.clocks == ()
    assert len(struck.remarks) == departures


def test_answers_can_depart_from_a_rule() -> None:
    def off(facts: Mapping[str, Any]) -> list[Departure]:
        if facts["count"] == 100:
            return []
        return [Departure.of("count-not-kept", count=float(facts["count"]), required=100)]

    test = state(action("read", asks=(Ask("count", "count", whole=True),), departs=off))
    assert done(test, "read", count=100).departed == ()
    (departed,) = done(test, "read", count=80, why="the counter slipped").departed
    assert (departed.code, departed.why) == ("count-not-kept", "the counter slipped")


def test_an_event_that_was_undone_counts_no_more_and_undoing_it_is_no_event_either() -> None:
    zero = Event(1, "zero", START, "Ines")
    grip = Event(2, "grip", START, "Ines")
    undone = Event(3, "taken-back", START, "Ines", undoes=2)
    assert in_force([zero, grip, undone]) == [zero]
    replayed = replay(TEST, [zero, grip, undone])
    assert (replayed.done, replayed.last) == (("zero",), 3)
    assert replay(TEST, []).last == 0


def test_stored_events_of_another_set_up_are_read_all_the_same() -> None:
    """An action that the set-up no longer has is passed over; what was done stays done."""
    events = [Event(1, "polish", START, "Ines"), Event(2, "grip", START, "Ines")]
    with pytest.raises(OutOfOrder):
        replay(TEST, events)
    replayed = replay(TEST, events, strict=False)
    assert (replayed.done, replayed.last) == (("grip",), 2)
