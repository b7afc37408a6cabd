"""Two transactions that want the same rows: one is done again, and nobody is told to look again."""

from __future__ import annotations

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from endurant.core.refusals import Crossed
from endurant.store import engine
from endurant.store.audit import seal_the_rest
from endurant.store.tables import Job
from endurant.work.base.transactions import MAX_TRIES, again
from tests.laboratory import Bench, sample

DEADLOCK = "SIGNAL SQLSTATE '40001' SET MYSQL_ERRNO = 1213, MESSAGE_TEXT = 'Deadlock found'"


def test_a_deadlock_is_a_crossing_and_leaves_nothing_behind(bench: Bench) -> None:
    with pytest.raises(Crossed, match="database.same-moment"), engine.transaction() as session:
        session.execute(text(DEADLOCK))


def test_work_that_crossed_is_done_again_a_few_times() -> None:
    tried: list[int] = []

    def work() -> str:
        tried.append(1)
        if len(tried) < 3:
            raise Crossed("crossed")
        return "done"

    assert again(work, "a test") == "done"
    assert len(tried) == 3
    tried.clear()

    def never() -> None:
        tried.append(1)
        raise Crossed("crossed")

    with pytest.raises(Crossed):
        again(never, "a test")
    assert len(tried) == MAX_TRIES


def test_a_request_that_crossed_is_answered_once_more(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    crossings = [1]

    def refusing(session: Session) -> None:
        """The first that writes a job is the victim of a deadlock."""
        seal_the_rest(session)
        if crossings and any(isinstance(row, Job) for row in session):
            crossings.pop()
            session.execute(text(DEADLOCK))

    monkeypatch.setattr("endurant.work.base.transactions.seal_the_rest", refusing)
    job = bench.post("/jobs", sample())
    assert crossings == []
    assert job["number"].startswith("J-")
    assert len(bench.get("/jobs")["jobs"]) == 1
