"""A request that crossed another one in the database is answered once more before it is refused."""

from __future__ import annotations

import logging
from collections.abc import Callable, Coroutine
from typing import Any

from fastapi import Request, Response
from fastapi.routing import APIRoute

from endurant.core.refusals import Crossed

TELLS_DEVICES = "/acts"
"""In the path of what tells a device to do something: what it did once it is not told again."""
_log = logging.getLogger(__name__)


class OnceMore(APIRoute):
    """A route that tries again, once, what left nothing behind."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        """The handler, asked a second time where two transactions crossed."""
        handler = super().get_route_handler()

        async def twice(request: Request) -> Response:
            try:
                return await handler(request)
            except Crossed:
                kind = request.headers.get("content-type", "")
                if kind.startswith("multipart/") or TELLS_DEVICES in self.path:
                    raise
                _log.info("%s %s crossed another request", request.method, self.path)
                return await handler(request)

        return twice
