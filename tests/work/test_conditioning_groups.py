"""Groups of specimens in conditioning and waiting for it, read off rows without a database."""

from __future__ import annotations

from datetime import timedelta

import pytest

from endurant.store.tables import Enclosure, Weighing
from endurant.work.facts.conditioning_groups import (
    conditioning_groups,
    turns_at,
    waiting_groups,
    waiting_in,
)
from endurant.work.facts.conditioning_progress import (
    chain_state,
    conditioning_facts,
    departures,
    next_stage,
    stages_for,
)
from endurant.work.facts.test_status import conditioned_at
from tests.work.rows import NOW, a_job, place_in, run, specimen, void


def test_specimens_of_a_test_that_are_cut_wait_in_one_group() -> None:
    (group,) = waiting_groups(a_job(), NOW)
    assert group.atmosphere == "textile-20-65"
    assert [each.label for each in group.specimens] == [
        "W1",
        "W2",
        "W3",
        "W4",
        "F1",
        "F2",
        "F3",
        "F4",
    ]
    assert (group.latest_at, group.damp) == (None, False)


def test_a_sheet_that_is_not_cut_waits_for_nothing() -> None:
    assert waiting_groups(a_job(form="sheet"), NOW) == []


def test_what_was_tested_is_void_or_released_waits_no_more() -> None:
    job = a_job()
    run(specimen(job, "W1"), "settled")
    void(specimen(job, "W2"))
    place_in(specimen(job, "W3"), 2)
    (group,) = waiting_groups(job, NOW)
    assert {each.label for each in group.specimens} == {"W4", "F1", "F2", "F3", "F4"}
    job.released_at = NOW
    assert waiting_groups(job, NOW) == []
    assert turns_at(job, NOW) is None


def test_a_group_is_offered_the_rooms_that_keep_its_atmosphere() -> None:
    (group,) = waiting_groups(a_job(), NOW)
    rooms = [(1, "film-23-50"), (2, "textile-20-65"), (3, "textile-20-65")]
    shown = waiting_in(rooms, group)
    assert shown.enclosures == [2, 3]
    assert shown.atmosphere_title == "Textile room"


def test_specimens_placed_together_are_one_group_and_later_ones_another() -> None:
    job = a_job()
    for label in ("W1", "W2"):
        place_in(specimen(job, label), 30)
    place_in(specimen(job, "F1"), 2)
    first, second = conditioning_groups(job, NOW)
    assert [each.label for each in first.specimens] == ["W1", "W2"]
    assert [each.label for each in second.specimens] == ["F1"]
    assert first.then == "then the test"
    assert first.least_minutes == 24 * 60
    assert first.awaited


def test_specimens_in_the_wrong_room_count_nothing() -> None:
    job = a_job()
    place_in(specimen(job, "W1"), 30, atmosphere="film-23-50")
    (group,) = conditioning_groups(job, NOW)
    assert group.atmosphere is None
    assert group.then == "does not count: requires textile room"
    w1 = specimen(job, "W1")
    assert [each.code for each in departures(w1, NOW)] == ["not-conditioned"]


def test_a_room_for_drying_leads_to_the_first_stage() -> None:
    job = a_job()
    place_in(specimen(job, "W1"), 3, atmosphere="pre-conditioning")
    (group,) = conditioning_groups(job, NOW)
    assert group.then == "then the textile room"
    (waiting,) = waiting_groups(job, NOW)
    assert "W1" not in {each.label for each in waiting.specimens}


def test_a_damp_sample_is_said_to_be_damp_until_it_was_placed() -> None:
    job = a_job()
    job.damp = True
    (group,) = waiting_groups(job, NOW)
    assert group.damp
    w1 = specimen(job, "W1")
    place_in(w1, 3).open_for = None
    w1.periods[0].removed_at = NOW - timedelta(hours=2)
    (group,) = waiting_groups(job, NOW)
    assert group.specimens[0].label == "W1"
    assert group.damp, "the others were never placed"
    job.tests[0].specimens = [w1]
    (group,) = waiting_groups(job, NOW)
    assert not group.damp


@pytest.mark.parametrize(
    ("hours", "ready", "codes"),
    [(23.0, False, ["time-not-served"]), (24.0, True, []), (400.0, True, [])],
)
def test_a_specimen_is_conditioned_after_its_hours(
    hours: float, codes: list[str], *, ready: bool
) -> None:
    w1 = specimen(a_job(), "W1")
    place_in(w1, hours)
    assert chain_state(w1, NOW).ready is ready
    assert [each.code for each in departures(w1, NOW)] == codes
    assert conditioned_at(w1, NOW) == NOW + timedelta(hours=24 - hours)


def test_a_specimen_that_was_never_placed_is_tested_with_a_deviation() -> None:
    w1 = specimen(a_job(), "W1")
    (departed,) = departures(w1, NOW)
    assert departed.code == "not-conditioned"
    assert conditioning_facts(w1, NOW) is None
    stage = next_stage(w1, chain_state(w1, NOW))
    assert stage is not None
    assert stage.atmosphere == "textile-20-65"


def test_what_a_report_says_of_conditioning_is_counted_to_the_moment() -> None:
    w1 = specimen(a_job(), "W1")
    place_in(w1, 25.5)
    facts = conditioning_facts(w1, NOW)
    assert facts is not None
    assert (facts.enclosure, facts.minutes, facts.is_complete) == ("Textile room", 1530.0, True)
    assert (facts.until, facts.counted_by) == (NOW, "clock")
    assert len(facts.periods) == 1


def test_time_turns_a_job_a_second_after_its_next_specimen_is_conditioned() -> None:
    job = a_job()
    place_in(specimen(job, "W1"), 20)
    place_in(specimen(job, "W2"), 10)
    assert turns_at(job, NOW) == NOW + timedelta(hours=4, seconds=1)
    run(specimen(job, "W1"), "settled")
    assert turns_at(job, NOW) == NOW + timedelta(hours=14, seconds=1)


def test_weighings_of_a_group_are_those_since_it_was_placed() -> None:
    job = a_job()
    w1 = specimen(job, "W1")
    place_in(w1, 5)
    for hours_ago, grams in ((9.0, 12.0), (4.0, 10.0), (1.0, 10.01)):
        at = NOW - timedelta(hours=hours_ago)
        w1.weighings.append(Weighing(specimen_id=w1.id, at=at, mass_g=grams))
    (group,) = conditioning_groups(job, NOW)
    (kept,) = group.specimens
    assert [each.mass_g for each in kept.weighings] == [10.0, 10.01]
    assert kept.equilibrium_at == NOW - timedelta(hours=1)
    assert kept.equilibrium is not None
    assert kept.equilibrium.startswith("in equilibrium: 0.10 %")


def test_one_weighing_asks_for_another() -> None:
    job = a_job()
    w1 = specimen(job, "W1")
    place_in(w1, 5)
    w1.weighings.append(Weighing(specimen_id=1, at=NOW - timedelta(hours=1), mass_g=10.0))
    (group,) = conditioning_groups(job, NOW)
    assert group.specimens[0].equilibrium == "weigh again 2 h after the first weighing"


def test_a_method_without_conditioning_places_nothing() -> None:
    job = a_job("astm-e8")
    assert stages_for(job.tests[0]) == ()
    assert waiting_groups(job, NOW) == []
    assert departures(specimen(job, "W1"), NOW) == []


def test_a_room_keeps_its_name_in_the_deviation() -> None:
    w1 = specimen(a_job(), "W1")
    period = place_in(w1, 2)
    period.enclosure = Enclosure(id=2, name="Cabinet 3", atmosphere="textile-20-65")
    (departed,) = departures(w1, NOW)
    params = departed.message.plain_params()
    assert (params["elapsed"], params["required"]) == ("2 h", "24 h")
    assert params["enclosure"] == "Cabinet 3"
