"""Requests that compute for long: kept out of the way of the short ones.

Long work has a few threads of its own, so that it waits for its like and for nothing else; what
a stranger's document can make heavy is answered in a process that is ended when nobody waits.
"""

from __future__ import annotations

import asyncio
import contextvars
import multiprocessing
from collections.abc import Callable
from concurrent.futures import Future, InvalidStateError, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from threading import BoundedSemaphore
from typing import Any, TypeVar

from fastapi import Request
from pebble import ProcessExpired, concurrent
from starlette.concurrency import run_in_threadpool

from endurant.api.worker import Outcome, answer
from endurant.core.refusals import Conflict, Invalid, Unavailable

T = TypeVar("T")

AT_ONCE = 4
PROCESSES = 2
PHOTOGRAPHS = 2
LOOK_EVERY_S = 0.05

_threads = ThreadPoolExecutor(AT_ONCE, thread_name_prefix="long")
_places = BoundedSemaphore(PROCESSES)
plan_place = BoundedSemaphore(1)
"""The plan of the laboratory has a place of its own, whoever else computes."""
_people: set[int | None] = set()
"""Who has a place now; only the event loop changes it."""
photograph_places = BoundedSemaphore(PHOTOGRAPHS)
"""Photographs are unfolded in so many processes at once, beside those for documents."""
_processes = multiprocessing.get_context("forkserver")
_processes.set_forkserver_preload(
    [
        "endurant.api.worker",
        "endurant.core.cutting.document",
        "endurant.core.planning.kept",
        "endurant.core.workbooks",
        "endurant.work.use_cases.photographs.encoding",
    ]
)


async def in_long_thread(work: Callable[[], T]) -> T:
    """What the work gives, done in one of the few threads for long work."""
    context = contextvars.copy_context()
    return await asyncio.get_running_loop().run_in_executor(_threads, context.run, work)


async def in_process(
    request: Request,
    work: Callable[[Any], Any],
    given: Any,
    within_s: float,
    places: BoundedSemaphore = _places,
    whose: int | None = None,
) -> Any:
    """What the work gives, done in a process of its own once one of the places is free.

    A person (`whose`) has one place at a time: what else they ask for waits for it.

    The process is ended when the sender is gone or the time is over. Raises what the work
    refuses, and Unavailable when it takes too long or ends by itself.
    """
    while not _takes_place(places, whose):
        if await request.is_disconnected():
            raise Conflict("long.no-longer-waited-for")
        await asyncio.sleep(LOOK_EVERY_S)
    try:
        return await _in_worker(request, work, given, within_s)
    finally:
        _people.discard(whose)
        places.release()


@dataclass(frozen=True)
class BesideTheServer:
    """The long work of one request: what reads in the threads for it, what solves in a process."""

    request: Request
    within_s: float
    places: BoundedSemaphore = _places
    whose: int | None = None

    async def read(self, work: Callable[[], T]) -> T:
        """What the work gives, from one of the threads for long work."""
        return await in_long_thread(work)

    async def solve(self, work: Callable[[Any], Any], document: Any) -> Any:
        """What the work makes of the document, in a process of its own."""
        return await in_process(
            self.request, work, document, self.within_s, self.places, self.whose
        )


async def _in_worker(
    request: Request, work: Callable[[Any], Any], given: Any, within_s: float
) -> Any:
    # The library reads `context`; its own type hints name it otherwise.
    apart = concurrent.process(timeout=within_s, context=_processes)(answer)  # type: ignore[call-overload]
    # What is given goes through a pipe that the process empties once it runs: a long wait.
    worker = await run_in_threadpool(apart, work, given, within_s)
    drop_late_results(worker)
    try:
        while not worker.done():
            if await request.is_disconnected():
                raise Conflict("long.no-longer-waited-for")
            await asyncio.sleep(LOOK_EVERY_S)
        return _sent(worker.result())
    except TimeoutError as late:
        raise Unavailable("long.no-answer-in-time", within_s=within_s) from late
    except ProcessExpired as ended:
        raise Unavailable("long.ended-early") from ended
    finally:
        worker.cancel()


def drop_late_results(worker: Future[Any]) -> None:
    """Let what arrives just as the work is cancelled be dropped.

    The library gives the result in a thread of its own, which would end with an InvalidStateError.
    """

    def dropping(give: Callable[[Any], None]) -> Callable[[Any], None]:
        def give_or_drop(outcome: Any) -> None:
            with suppress(InvalidStateError):
                give(outcome)

        return give_or_drop

    worker.set_result = dropping(worker.set_result)  # type: ignore[method-assign, assignment]
    worker.set_exception = dropping(worker.set_exception)  # type: ignore[method-assign, assignment]


def _takes_place(places: BoundedSemaphore, whose: int | None) -> bool:
    """True when a place is taken, and is the only one of this person."""
    if whose in _people or not places.acquire(blocking=False):
        return False
    if whose is not None:
        _people.add(whose)
    return True


def _sent(received: Outcome) -> Any:
    how, outcome = received
    if how == "refused":
        message, field, specimen = outcome
        raise Invalid(message, field=field, specimen=specimen)
    if how == "failed":
        raise RuntimeError(outcome)
    return outcome
