"""How a request is answered: who asks, then what was sent, and once more where requests crossed."""

from __future__ import annotations

import logging
from collections.abc import Callable, Coroutine, Iterator
from typing import Any

from fastapi import Request, Response
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute
from starlette.concurrency import run_in_threadpool
from starlette.routing import compile_path

from endurant.api.session import BodyLimit, Limit, Right, who_asks
from endurant.core.refusals import Crossed

TELLS_DEVICES = "/actions"
"""In the path of what tells a device to do something: what it did once it is not told again."""
_log = logging.getLogger(__name__)


class Route(APIRoute):
    """A route that reads nothing before it knows that the sender has the right to send it.

    Where two transactions crossed it tries once more; the first try left nothing behind.
    """

    @property
    def rights(self) -> list[str]:
        """The rights that its declaration names."""
        dependencies = (each.dependency for each in self.dependencies)
        return [each.act for each in dependencies if isinstance(each, Right)]

    def limits(self, prefix: str) -> Iterator[Limit]:
        """What it reads beyond a form, below a prefix."""
        address, _, _ = compile_path(prefix + self.path)
        for each in self.dependencies:
            if isinstance(each.dependency, BodyLimit):
                for method in self.methods or ():
                    yield Limit(method, address, each.dependency.max_bytes)

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The handler, behind the check of who asks; asked again where two transactions crossed."""
        handler = super().get_route_handler()
        needs_person = who_asks in _calls(self.dependant)

        async def answered(request: Request) -> Response:
            if needs_person:
                await run_in_threadpool(self._check, request)
            try:
                return await handler(request)
            except Crossed:
                kind = request.headers.get("content-type", "")
                if kind.startswith("multipart/") or TELLS_DEVICES in self.path:
                    raise
                _log.info("%s %s crossed another request", request.method, self.path)
                return await handler(request)

        return answered

    def _check(self, request: Request) -> None:
        actor = who_asks(request)
        for act in self.rights:
            actor.must(act)


def _calls(dependant: Dependant) -> Iterator[Any]:
    """Everything that is called before the route itself."""
    for each in dependant.dependencies:
        yield each.call
        yield from _calls(each)
