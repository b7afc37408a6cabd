"""What a trace gives away: the simulated faults are found, and clean traces raise nothing."""

from __future__ import annotations

import numpy as np
import pytest

from endurant.core.bench.sequence_suspicions import expected_sequence, sequence_suspicions
from endurant.core.bench.suspicions import Expected, suspicions
from endurant.core.bench.trace import expected_of
from endurant.core.bench.trial import LOOKED_FOR, SEQUENCE_FAULTS, SEQUENCES, tried, tried_sequence
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.moves import Move, read_moves
from endurant.core.simulate.tear import TearFault, sample_tear, specimen_from_label
from endurant.core.simulate.traces import pulled_methods

NOT_TO_BE_SEEN = {
    "slip": {"iso-13937-2", "astm-d2261", "astm-d624", "iso-34-1", "astm-f88"},
    "early-stop": {"astm-d624", "iso-34-1", "astm-f88", "iso-12048", "iso-3037"},
}
"""A short dip among the valleys of a tear, and an end where nothing has to break."""


@pytest.mark.parametrize("method_id", pulled_methods())
def test_faults_are_found_and_clean_traces_raise_none(method_id: str) -> None:
    row = tried(method_id, 12)
    assert row.false == 0
    for fault in LOOKED_FOR:
        share = row.shares[fault]
        if share is not None and method_id not in NOT_TO_BE_SEEN.get(fault, set()):
            assert share >= 0.9, fault


@pytest.mark.parametrize("name", SEQUENCES)
def test_faults_of_a_sequence_are_found_and_clean_ones_raise_none(name: str) -> None:
    row = tried_sequence(name, 12)
    assert row.false == 0
    assert {fault: row.shares[fault] for fault in SEQUENCE_FAULTS} == dict.fromkeys(
        SEQUENCE_FAULTS, 1.0
    )


def test_a_sequence_says_on_which_way_it_ended() -> None:
    moves = read_moves("cycle 3 x 5 N to 60 N at 100")
    expected = expected_sequence(moves, 100, jagged=False)
    assert (expected.ways, expected.lasts_s, expected.speeds_mm_min) == (6, None, (100.0,))
    there = np.linspace(0, 10, 301)
    x = np.concatenate([there, there[::-1], there])
    time_s = np.arange(x.size) * (there[1] / (100 / 60))
    (early,) = sequence_suspicions(x, 6 * x, time_s, expected)
    assert early.code == "early-end"
    assert early.message == Message("suspicion.ways-short", {"way": 3, "ways": 6})


@pytest.mark.parametrize("label", ["J-1-1-W1", "J-1-1-F2", "J-7-1-W3", "J-9-2-F4"])
@pytest.mark.parametrize("fault", ["none", "jaw-slip"])
def test_a_leg_that_lets_go_is_seen_among_the_peaks_of_a_tear(label: str, fault: TearFault) -> None:
    columns = sample_tear(specimen_from_label(label, fault), 150)
    x, force, time_s = (np.array(columns[name]) for name in ("extension_mm", "force_n", "time_s"))
    expected = expected_of(find_method("iso-13937-2"), {"speed_mm_min": 100})
    raised = suspicions(x, force, time_s, expected)
    assert [suspicion.code for suspicion in raised] == (["slip"] if fault == "jaw-slip" else [])
    if raised:
        assert 84 <= raised[0].at_x <= 100


def test_a_shift_in_travel_changes_no_suspicion_but_where_it_is() -> None:
    x = np.linspace(0, 40, 800)
    force = np.where((x > 20) & (x < 20.6), 0.6, 1.0) * 10 * x
    force[-6:] = 0
    expected = Expected(jagged=False, breaks=True)
    here, there = (suspicions(x + by, force, None, expected) for by in (0.0, 5.0))
    assert [suspicion.code for suspicion in here] == ["slip"]
    assert there[0].at_x == pytest.approx(here[0].at_x + 5)
    assert here[0].message.params["share"] == "39.4 %"


def test_a_break_is_low_only_beside_others() -> None:
    x = np.linspace(0, 40, 800)
    force = np.where(x < 30, x, 0.0)
    expected = Expected(jagged=False, breaks=True)
    alone = suspicions(x, force, None, expected, others_n=[50.0, 51.0])
    assert alone == []
    (low,) = suspicions(x, force, None, expected, others_n=[50.0, 51.0, 49.0])
    assert low.code == "low-break"
    assert low.message.params == {"force_n": 30.0, "share": "40 %"}


def test_an_extensometer_that_came_off_did_not_slip() -> None:
    x = np.linspace(0, 40, 800)
    strain = np.where(x < 20, x / 50, np.nan)
    force = np.where(x < 38, 10 * x, 0.0)
    expected = Expected(jagged=False, breaks=True)
    assert suspicions(x, force, None, expected, strain) == []
    (slip,) = suspicions(x, force, None, expected, strain - 0.03 * (x > 10))
    assert slip.code == "extensometer-slip"
    assert slip.at_x == pytest.approx(10, abs=0.1)


def test_the_other_half_of_a_pair_begins_at_zero_and_did_not_slip() -> None:
    half = np.linspace(0, 4, 400)
    x = np.r_[half, half]
    force = np.r_[50 * half, 40 * half]
    time_s = np.arange(x.size) * 0.02
    moves = (Move("to", 200, "N", 30), Move("exchange"), Move("to", 160, "N", 30))
    expected = expected_sequence(moves, 100, jagged=False)
    assert expected.ways == 2
    assert sequence_suspicions(x, force, time_s, expected) == []
    slipped = np.where((x > 2) & (x < 2.2), force - 20, force)
    (slip,) = sequence_suspicions(x, slipped, time_s, expected)
    assert slip.code == "slip"
    (short,) = sequence_suspicions(x[:400], force[:400], time_s[:400], expected)
    assert short.message.params == {"way": 1, "ways": 2}


def test_too_little_to_judge_by_raises_nothing() -> None:
    few = np.linspace(0, 1, 10)
    assert suspicions(few, few, None, Expected(False, True)) == []
    many = np.linspace(0, 1, 100)
    assert suspicions(many, np.zeros(100), None, Expected(False, True)) == []
