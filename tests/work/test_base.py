"""The ground of every use case: rights, memory, one reading of the database, commit hooks."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, cast

import pytest
from sqlalchemy.orm import Session

from endurant.core.refusals import Forbidden
from endurant.store import clock
from endurant.work.base import transactions
from endurant.work.base.actors import Actor
from endurant.work.base.memory import Remembered
from endurant.work.base.read_scope import looking, once


def test_a_role_may_what_its_table_says() -> None:
    technician = Actor(1, "Ines", "technician")
    assert technician.may("test")
    assert not technician.may("release")
    assert "equip" not in technician.actions()
    with pytest.raises(Forbidden, match="access.role"):
        technician.must("release")


def test_a_trainee_works_under_a_named_supervisor_only() -> None:
    alone, led = Actor(2, "Pelle", "trainee"), Actor(2, "Pelle", "trainee", supervisor_id=1)
    assert not alone.may("test")
    assert led.actions() == ["cut", "condition", "test"]
    assert not led.may("receive")


def test_the_oldest_is_forgotten_first_and_what_was_read_stays() -> None:
    memory: Remembered[str] = Remembered(2)
    memory.put((1,), "one")
    memory.put((2,), "two")
    assert memory.get((1,)) == "one"
    memory.put((3,), "three")
    assert (memory.get((1,)), memory.get((2,)), memory.get((3,))) == ("one", None, "three")


def test_within_one_reading_nothing_is_worked_out_twice() -> None:
    made: list[int] = []

    def make() -> int:
        made.append(len(made))
        return made[-1]

    session = cast(Session, SimpleNamespace(info={}))
    assert (once(session, ("a",), make), once(session, ("a",), make)) == (0, 1)
    with looking(session):
        began = clock.now()
        assert (once(session, ("a",), make), once(session, ("a",), make)) == (2, 2)
        with looking(session):
            assert once(session, ("a",), make) == 2
        assert once(session, ("b",), make) == 3
        assert clock.now() == began
    assert once(session, ("a",), make) == 4
    assert once(None, ("a",), make) == 5


def test_facts_are_not_changed_where_no_read_model_follows(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    changed: list[Any] = []
    monkeypatch.setattr(transactions, "changed_rows", lambda _: changed)
    monkeypatch.setattr(transactions, "_hooks", [])
    session = cast(Session, SimpleNamespace())
    transactions._bring_up_to_date(session, at_once=True)
    changed.append("a row")
    with pytest.raises(RuntimeError, match=r"import endurant\.work\.read_models"):
        transactions._bring_up_to_date(session, at_once=True)


def test_a_hook_writes_at_once_or_marks_for_later(monkeypatch: pytest.MonkeyPatch) -> None:
    called: list[str] = []
    hook = transactions.CommitHook(
        at_once=lambda _: called.append("at once"), later=lambda _: called.append("later")
    )
    monkeypatch.setattr(transactions, "changed_rows", lambda _: ["a row"])
    monkeypatch.setattr(transactions, "_hooks", [])
    transactions.register(hook)
    session = cast(Session, SimpleNamespace())
    transactions._bring_up_to_date(session, at_once=True)
    transactions._bring_up_to_date(session, at_once=False)
    assert called == ["at once", "later"]
