"""Changes as they happen, to every browser that listens: nobody has to ask again and again."""

from __future__ import annotations

import asyncio
import time
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from endurant.api.route import Route
from endurant.api.session import SignedIn, signed_in
from endurant.core.refusals import Refusal
from endurant.work.read_models.changes import Lookout

router = APIRouter(route_class=Route, tags=["changes"])

LOOK_EVERY_S = 0.5
SIGN_OF_LIFE_S = 5.0
MAX_QUEUED = 200


class Broadcast:
    """One lookout of this process for all that listen, at work while somebody does."""

    def __init__(self) -> None:
        self._listeners: set[asyncio.Queue[str]] = set()
        self._task: asyncio.Task[None] | None = None
        self._lookout = Lookout()
        self._closed = False

    def listen(self) -> asyncio.Queue[str]:
        """A queue that every change is put in, from those of the last seconds on."""
        queue: asyncio.Queue[str] = asyncio.Queue(MAX_QUEUED)
        self._listeners.add(queue)
        if self._task is None or self._task.done():
            self._lookout = Lookout()
            self._task = asyncio.get_running_loop().create_task(self._watch(self._lookout))
        recent = self._lookout.recent()
        if recent.jobs:
            queue.put_nowait(recent.model_dump_json())
        return queue

    def leave(self, queue: asyncio.Queue[str]) -> None:
        """It is listened to no more."""
        self._listeners.discard(queue)

    async def _watch(self, lookout: Lookout) -> None:
        while self._listeners:
            try:
                changed = await run_in_threadpool(lookout.look)
            except Refusal:
                await asyncio.sleep(LOOK_EVERY_S)
                continue
            if changed.jobs or changed.rooms:
                self._tell(changed.model_dump_json())
            await asyncio.sleep(LOOK_EVERY_S)

    def _tell(self, text: str) -> None:
        for queue in list(self._listeners):
            try:
                queue.put_nowait(text)
            except asyncio.QueueFull:
                self.leave(queue)  # who does not read is told nothing more, and asks anew


@router.get("/changes", response_class=EventSourceResponse)
async def follow_changes(actor: SignedIn, request: Request) -> EventSourceResponse:
    """Server-sent events: the ids of jobs that have changed, and whether a room was read."""
    broadcast: Broadcast = request.app.state.broadcast
    events = _events(request, broadcast)
    return EventSourceResponse(events, headers={"cache-control": "no-store"})


def _event(data: str, kind: str = "message") -> ServerSentEvent:
    """One event, with a number that no other has."""
    return ServerSentEvent(data, event=kind, id=str(time.time_ns()), sep="\n")


async def _events(request: Request, broadcast: Broadcast) -> AsyncIterator[ServerSentEvent]:
    queue = broadcast.listen()
    try:
        yield _event("{}", "listening")
        while True:
            try:
                text = await asyncio.wait_for(queue.get(), SIGN_OF_LIFE_S)
                yield _event(text)
            except TimeoutError:
                # A session that has ended hears nothing more.
                await run_in_threadpool(signed_in, request)
                yield _event("{}", "alive")
    except Refusal:
        return
    finally:
        broadcast.leave(queue)
