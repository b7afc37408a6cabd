"""A stay counted as its log grows is the stay counted from its whole log."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.conditioning.document import condition_document
from endurant.core.conditioning.periods import (
    Elapsed,
    LogRules,
    Policy,
    Reading,
    Tally,
    elapsed_by_log,
    stretches_of,
    tally_of,
)

START = datetime(2026, 3, 2, 8, tzinfo=UTC)
RULES = LogRules(find_atmosphere("geo-21-65"))
MINUTES = st.integers(1, 40)
READINGS = st.tuples(MINUTES, st.sampled_from([21.0, 21.9, 19.0, 23.0, 23.4]), st.just(65.0))


def log_from(steps: list[tuple[int, float, float]]) -> list[Reading]:
    """Readings so many minutes apart, the first ten before the stay begins."""
    at, rows = START - timedelta(minutes=10), list[Reading]()
    for minutes, celsius, percent in steps:
        rows.append((at, celsius, percent))
        at += timedelta(minutes=minutes)
    return rows


def counted(log: list[Reading], now: datetime, policy: Policy) -> Elapsed:
    return elapsed_by_log(log, (START, now), RULES, policy)


@given(
    st.lists(READINGS, max_size=30),
    st.integers(0, 900),
    st.integers(0, 30),
    st.sampled_from(["restart", "subtract"]),
)
def test_counting_in_pieces_gives_what_counting_at_once_gives(
    steps: list[tuple[int, float, float]], minutes: int, parted_at: int, policy: Policy
) -> None:
    log, now = log_from(steps), START + timedelta(minutes=minutes)
    before = [row for row in log if row[0] <= now]
    first = tally_of(Tally(START), before[:parted_at], RULES)
    whole = tally_of(first, before[parted_at:], RULES)
    after = next((row[0] for row in log if row[0] > now), None)
    assert whole.at(now, RULES, after).elapsed(policy) == counted(log, now, policy)


@given(st.lists(READINGS, max_size=30), st.integers(0, 900))
def test_the_document_says_what_the_stay_counts(
    steps: list[tuple[int, float, float]], minutes: int
) -> None:
    log, now = log_from(steps), START + timedelta(minutes=minutes)
    answer = condition_document(
        {
            "kind": "conditioning",
            "atmosphere": "geo-21-65",
            "log": [[row[0].isoformat(), *row[1:]] for row in log],
            "hung_at": START.isoformat(),
            "now": now.isoformat(),
        }
    )
    elapsed = counted(log, now, "restart")
    assert answer["restart"]["minutes"] == elapsed.restart_minutes
    assert answer["subtract"]["minutes"] == elapsed.subtract_minutes
    assert answer["minutes_outside"] == elapsed.outside_minutes
    assert answer["minutes_unproven"] == elapsed.unproven_minutes
    assert len(answer["excursions"]) == elapsed.excursions
    assert answer["ready"] == elapsed.ready


@given(st.lists(READINGS, max_size=30), st.integers(0, 900))
def test_the_stretches_of_a_stay_are_the_whole_stay(
    steps: list[tuple[int, float, float]], minutes: int
) -> None:
    now = START + timedelta(minutes=minutes)
    stretches = stretches_of(log_from(steps), (START, now), RULES)
    assert sum(stretch.minutes for stretch in stretches) == minutes
    elapsed = counted(log_from(steps), now, "restart")
    inside = sum(stretch.minutes for stretch in stretches if stretch.state == "inside")
    assert elapsed.minutes <= inside <= minutes


def test_an_excursion_restarts_the_clock_and_a_gap_proves_nothing() -> None:
    log = log_from([(10, 21, 65), (10, 21, 65), (10, 25, 65), (10, 21, 65), (30, 21, 65)])
    at_40 = counted(log, START + timedelta(minutes=29), "restart")
    assert (at_40.minutes, at_40.excursions, at_40.outside_minutes) == (9, 1, 10)
    silent = counted(log, START + timedelta(minutes=60), "restart")
    assert silent.unproven_minutes == 30
    assert silent.due_at is None
