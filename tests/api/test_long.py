"""Work in a process of its own: answered, refused, or ended when nobody waits for it."""

from __future__ import annotations

import asyncio
import multiprocessing
import os
import signal
import threading
from collections.abc import Coroutine
from concurrent.futures import Future, ThreadPoolExecutor
from multiprocessing.context import ForkServerProcess
from typing import Any, cast

import pytest
from fastapi import Request

from endurant.api.long import drop_late_results, in_process
from endurant.core.refusals import Conflict, Invalid, Unavailable


class Sender:
    """Someone who waits, or who has gone after so many looks."""

    def __init__(self, patience: int = 1_000_000) -> None:
        self.patience = patience
        self.looked = asyncio.Event()

    async def is_disconnected(self) -> bool:
        """Whether they are gone."""
        self.looked.set()
        self.patience -= 1
        return self.patience < 0


def in_a_loop_of_its_own(work: Coroutine[Any, Any, Any]) -> Any:
    """What it gives; a browser test before this one may have left a loop running in this thread."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


def answered(work: Any, given: Any, sender: Sender, within_s: float = 60) -> Any:
    return in_a_loop_of_its_own(in_process(cast(Request, sender), work, given, within_s))


def double(given: int) -> int:
    return 2 * given


def refuse(given: str) -> None:
    raise Invalid("csv.not-text", field=given)


def never(_: object) -> None:
    signal.pause()


def end_at_once(_: object) -> None:
    os._exit(3)


def test_an_answer_and_a_refusal_come_back() -> None:
    assert answered(double, 21, Sender()) == 42
    with pytest.raises(Invalid, match="csv.not-text") as refusal:
        answered(refuse, "this", Sender())
    assert refusal.value.field == "this"


def test_what_is_given_is_handed_over_beside_the_event_loop(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A process takes half a second to begin; more than a pipe holds waits until then."""
    start, starters = ForkServerProcess.start, list[str]()

    def noted(process: ForkServerProcess) -> None:
        starters.append(threading.current_thread().name)
        start(process)

    monkeypatch.setattr(ForkServerProcess, "start", noted)
    assert answered(len, b"x" * 5_000_000, Sender()) == 5_000_000
    assert [name.split(" ")[0] for name in starters] == ["AnyIO"]


def test_it_is_ended_when_nobody_waits_or_the_time_is_over() -> None:
    with pytest.raises(Conflict, match="long.no-longer-waited-for"):
        answered(never, None, Sender(patience=3))
    with pytest.raises(Unavailable, match="long.no-answer-in-time"):
        answered(never, None, Sender(), within_s=0.2)
    with pytest.raises(Unavailable):
        answered(end_at_once, None, Sender())
    assert multiprocessing.active_children() == []
    assert answered(double, 1, Sender()) == 2


def test_a_person_has_one_place_and_the_others_have_theirs() -> None:
    hers = Sender()

    async def ask(work: Any, given: Any, sender: Sender, whose: int) -> Any:
        return await in_process(cast(Request, sender), work, given, 60, whose=whose)

    async def all_at_once() -> tuple[Any, int]:
        first = asyncio.create_task(ask(never, None, hers, 1))
        await hers.looked.wait()
        with pytest.raises(Conflict, match="long.no-longer-waited-for"):
            await ask(double, 1, Sender(patience=3), 1)
        other = await ask(double, 21, Sender(), 2)
        hers.patience = 0
        with pytest.raises(Conflict, match="long.no-longer-waited-for"):
            await first
        return other, await ask(double, 4, Sender(), 1)

    assert in_a_loop_of_its_own(all_at_once()) == (42, 8)


@pytest.mark.parametrize("is_refusal", [False, True])
def test_what_arrives_just_as_the_work_is_cancelled_is_dropped(is_refusal: bool) -> None:
    late: Future[Any] = Future()
    drop_late_results(late)
    assert late.cancel()
    if is_refusal:
        late.set_exception(ValueError("late"))
    else:
        late.set_result(("answered", 1))
    assert late.cancelled()


def test_what_arrives_in_time_is_given() -> None:
    waiting: Future[Any] = Future()
    drop_late_results(waiting)
    waiting.set_result(("answered", 1))
    assert waiting.result() == ("answered", 1)
    other: Future[Any] = Future()
    drop_late_results(other)
    other.set_exception(ValueError("no"))
    assert isinstance(other.exception(), ValueError)
