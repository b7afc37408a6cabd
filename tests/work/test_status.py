"""How far specimens and jobs have come, read off rows."""

from __future__ import annotations

from datetime import timedelta

import pytest

from endurant.core.refusals import Conflict
from endurant.work.facts.called_specimens import called_specimens, missing_replacements
from endurant.work.facts.job_status import arrived_in_words
from endurant.work.facts.next_step import NEXT, next_of, next_step, stage_of_job
from endurant.work.facts.status import (
    directions_of,
    is_to_cut,
    last_run,
    refuse_stale,
    required_count,
    state_of,
    to_go,
)
from tests.work.rows import NOW, a_job, place_in, run, specimen, void


@pytest.mark.parametrize(
    ("state", "expected"),
    [
        ("running", "running"),
        ("recorded", "running"),
        ("ended", "to-look-at"),
        ("settled", "tested"),
    ],
)
def test_a_run_decides_over_everything_but_a_void(state: str, expected: str) -> None:
    w1 = specimen(a_job(), "W1")
    run(w1, state)
    assert state_of(w1, NOW) == expected
    void(w1)
    assert state_of(w1, NOW) == "void"


def test_a_run_without_samples_is_as_if_it_had_never_been() -> None:
    w1 = specimen(a_job(), "W1")
    run(w1, "abandoned")
    assert last_run(w1) is None
    assert state_of(w1, NOW) == "cut"


def test_a_void_that_was_withdrawn_stands_in_no_way() -> None:
    w1 = specimen(a_job(), "W1")
    void(w1)
    w1.voids[0].open_for = None
    assert state_of(w1, NOW) == "cut"


def test_a_sheet_is_cut_before_anything_else() -> None:
    job = a_job(form="sheet")
    w1 = specimen(job, "W1")
    assert is_to_cut(w1)
    assert state_of(w1, NOW) == "to-cut"
    job.cut_at = NOW
    w1.x_mm = 10.0
    assert state_of(w1, NOW) == "cut"
    w1.laid_later = True
    assert state_of(w1, NOW) == "to-cut"


@pytest.mark.parametrize(("hours", "expected"), [(1.0, "conditioning"), (30.0, "ready")])
def test_conditioning_goes_by_the_clock_where_no_log_is_kept(hours: float, expected: str) -> None:
    w1 = specimen(a_job(), "W1")
    place_in(w1, hours)
    assert state_of(w1, NOW) == expected


def test_how_many_are_wanted_and_to_go() -> None:
    test = a_job().tests[0]
    assert directions_of(test) == ["warp", "weft"]
    assert required_count(test) == 6
    assert (to_go(test, "warp", {"W1", "W2", "F1"}), to_go(test, "weft", {"F1"})) == (1, 2)
    assert to_go(test, "warp", {"W1", "W2", "W3", "W4"}) == 0


def test_a_spare_is_called_by_a_void_and_by_nothing_else() -> None:
    job = a_job()
    test = job.tests[0]
    assert [each.label for each in called_specimens(test)] == ["W1", "W2", "W3", "F1", "F2", "F3"]
    void(specimen(job, "W2"))
    assert [each.label for each in called_specimens(test)][:3] == ["W1", "W3", "W4"]
    assert missing_replacements(test) == {}
    void(specimen(job, "W4"))
    assert [each.label for each in called_specimens(test)][:2] == ["W1", "W3"]
    assert missing_replacements(test) == {"warp": 1}


def test_nothing_is_called_of_what_is_held_or_cancelled() -> None:
    job = a_job()
    job.tests[0].held_at = NOW
    assert called_specimens(job.tests[0]) == []
    assert missing_replacements(job.tests[0]) == {}
    job.tests[0].held_at = None
    job.cancelled_at = NOW
    assert called_specimens(job.tests[0]) == []


def test_the_next_step_follows_the_specimens() -> None:
    job = a_job()
    called = called_specimens(job.tests[0])

    def now_due() -> tuple[str, str]:
        stage = stage_of_job(job, called, [], NOW)
        return stage, next_step(job, stage, called, [], NOW)

    assert now_due() == ("cut", "start-conditioning")
    for each in called:
        place_in(each, 1)
    assert now_due() == ("cut", "wait")
    called[0].periods[0].placed_at = NOW - timedelta(hours=40)
    assert now_due() == ("conditioned", "test")
    job.cancelled_at = NOW
    assert now_due() == ("cancelled", "read-cancelled")
    job.released_at = NOW
    assert now_due() == ("released", "read-report")


def test_a_sheet_is_cut_first_and_then_what_was_added() -> None:
    job = a_job(form="sheet")
    called = called_specimens(job.tests[0])
    stage = stage_of_job(job, called, [], NOW)
    assert (stage, next_step(job, stage, called, [], NOW)) == ("received", "cut")
    job.cut_at = NOW
    for each in called:
        each.x_mm = 5.0
        place_in(each, 30)
        run(each, "settled")
    called[0].runs.clear()
    called[0].periods.clear()
    called[0].laid_later = True
    stage = stage_of_job(job, called, [], NOW)
    assert next_step(job, stage, called, [], NOW) == "cut-remaining"


def test_every_next_step_has_words_and_a_screen() -> None:
    assert all(next_of(code) == said for code, said in NEXT.items())


def test_whoever_is_second_is_told_to_look_again() -> None:
    refuse_stale("the sheet", 4, 4)
    with pytest.raises(Conflict, match="stale"):
        refuse_stale("the sheet", 5, 4)


@pytest.mark.parametrize(
    ("form", "arrived", "wording"),
    [
        ("pieces", {"count": 12}, "12 pieces"),
        ("pieces", {"count": 3, "piece_kind": "bars", "size_mm": [80, 10, 4]}, "3 bars of 80 x 10"),
        ("granules", {"mass_g": 800}, "800 g of granules"),
        ("granules", {"mass_g": 800, "bag": "B2", "regrind_percent": 30}, "bag B2, 30 % regrind"),
        ("packs", {"count": 2, "gross_mass_kg": 11.5, "faces": "A to F"}, "11.5 kg, faces: A to F"),
    ],
)
def test_what_arrived_is_said_as_it_is_read(
    form: str, arrived: dict[str, object], wording: str
) -> None:
    job = a_job(form=form)
    job.arrived = dict(arrived)
    assert wording in arrived_in_words(job)


def test_a_sheet_is_said_by_its_sides() -> None:
    job = a_job(form="sheet")
    job.width_mm, job.length_mm = 1480.0, 1000.0
    assert arrived_in_words(job) == "1480 x 1000 mm"
