"""A clock that is set while specimens wait: the record, the rail and the report say so."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import func, select

from endurant.api.app import build_app
from endurant.store import clock
from endurant.store.tables import AuditEntry
from endurant.work.base.clock_set import (
    ACTION,
    ClockWatch,
    clock_set_between,
    last_clock_set,
)
from endurant.work.base.transactions import transaction
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.preparation.enclosures import store_readings
from tests.laboratory import Bench, found

START = datetime(2026, 3, 2, 9, 0, tzinfo=UTC)
HOUR = timedelta(hours=1)


class Desk:
    """A computer with a clock that can be set, and a count that cannot."""

    def __init__(self, patch: pytest.MonkeyPatch) -> None:
        self.at, self.count_s = datetime.now(UTC), 1000.0
        self.watch = ClockWatch()
        patch.setattr(clock, "steady_s", lambda: self.count_s)

    def after(self, passed: timedelta, moved: timedelta = timedelta(0)) -> None:
        self.count_s += passed.total_seconds()
        self.at += passed + moved
        with clock.as_if(self.at):
            self.watch.look()


@pytest.fixture
def unwatched(database: str) -> Iterator[Bench]:
    """A laboratory whose own watches sleep, so that only the watch of the test looks."""
    found(0)
    with TestClient(build_app(supervise=False)) as client:
        yield Bench(client, "ines")


@pytest.fixture
def desk(monkeypatch: pytest.MonkeyPatch) -> Desk:
    return Desk(monkeypatch)


def noted() -> int:
    with transaction() as session:
        own = select(func.count()).where(AuditEntry.action == ACTION)
        return session.scalar(own) or 0


def test_a_clock_that_goes_on_or_drifts_is_nothing_to_say(unwatched: Bench, desk: Desk) -> None:
    desk.after(timedelta(0))
    for _ in range(3):
        desk.after(timedelta(seconds=5), moved=timedelta(seconds=2))
    desk.after(timedelta(hours=8))
    assert noted() == 0
    assert unwatched.get("/clocks")["clock_set"] is None


@pytest.mark.parametrize(
    ("moved", "wording"),
    [
        (HOUR, "set forward by 60 min. Running clocks end too early by the same amount"),
        (-HOUR, "set back by 60 min. Running clocks end too late by the same amount"),
        (timedelta(seconds=45), "set forward by 45 s."),
    ],
)
def test_a_clock_that_is_set_is_written_down_once_and_said_on_the_rail(
    unwatched: Bench, desk: Desk, moved: timedelta, wording: str
) -> None:
    other = ClockWatch()
    with clock.as_if(desk.at):
        other.look()
    desk.after(timedelta(0))
    desk.after(timedelta(seconds=5), moved=moved)
    with clock.as_if(desk.at):
        other.look()
        assert wording in unwatched.get("/clocks")["clock_set"]["text"]
    assert noted() == 1
    with transaction() as session:
        assert last_clock_set(session, desk.at + timedelta(hours=25)) is None


def test_a_record_that_ends_in_time_to_come_was_written_under_another_clock(
    unwatched: Bench, desk: Desk
) -> None:
    desk.at -= HOUR
    desk.after(timedelta(0))
    with clock.as_if(desk.at):
        assert "set back by 60 min" in unwatched.get("/clocks")["clock_set"]["text"]


def test_a_report_says_so_only_where_its_specimens_waited_across_it(
    unwatched: Bench, desk: Desk
) -> None:
    desk.after(timedelta(0))
    desk.after(timedelta(seconds=5), moved=HOUR)
    with transaction() as session:
        (said,) = clock_set_between(session, desk.at - 3 * HOUR, desk.at + HOUR)
        assert "set forward by 60 min" in said
        assert clock_set_between(session, desk.at - 3 * HOUR, desk.at - 2 * HOUR) == []
        assert clock_set_between(session, desk.at + HOUR, desk.at + 2 * HOUR) == []


def test_the_log_of_a_room_stands_when_the_clock_goes_back_into_an_hour_that_was_over(
    unwatched: Bench,
) -> None:
    for minute, now in ((0, 0), (62, 63), (29, 30)):
        with clock.as_if(START + timedelta(minutes=now)), transaction() as session:
            store_readings(session, 1, [(START + timedelta(minutes=minute), 20.0, 65.0)])
    with clock.as_if(START + timedelta(minutes=31)):
        assert verify().sentences == []
