"""Addresses of the release before: each answers as its new one does, for one release more."""

from __future__ import annotations

import re
from collections.abc import Sequence
from re import Pattern

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

_RENAMED: Sequence[tuple[Pattern[str], str]] = tuple(
    (re.compile(f"^/api{old}$"), f"/api{new}")
    for old, new in (
        (r"/stations/(\d+)/pretend", r"/stations/\1/simulation"),
        (r"/enclosures/(\d+)/pretend", r"/enclosures/\1/simulation"),
        (r"/gauges/(\d+)/pretend", r"/gauges/\1/simulation"),
        (r"/instruments/([^/]+)/touched", r"/instruments/\1/affected"),
        (r"/how-much", "/required-sample-size"),
        (r"/specimens/(\d+)/bench/ghosts", r"/specimens/\1/bench/previous-curves"),
        (r"/specimens/(\d+)/acts", r"/specimens/\1/actions"),
        (r"/specimens/(\d+)/acts/(\d+)/take-back", r"/specimens/\1/actions/\2/undo"),
        (r"/tests/(\d+)/one-more", r"/tests/\1/additional-specimens"),
        (r"/(tests|runs)/(\d+)/keep", r"/\1/\2/accept"),
        (r"/supplies(/\d+/finish)?", r"/consumables\1"),
        (r"/enclosures/(\d+)/hang", r"/enclosures/\1/placements"),
        (r"/enclosures/take-out", "/enclosures/removals"),
        (r"/house((?:/confirm|/decline)?)", r"/lab-settings\1"),
        (r"/today/order", "/schedule/order-of-work"),
        (r"/today((?:/.*)?)", r"/schedule\1"),
        (r"/specimens/(\d+)/photos", r"/specimens/\1/photographs"),
        (r"/specimens/(\d+)/photo-subjects", r"/specimens/\1/photograph-subjects"),
        (r"/photos/(\d+)", r"/photographs/\1"),
        (r"/instruments/([^/]+)/out", r"/instruments/\1/take-out-of-service"),
        (r"/instruments/([^/]+)/back", r"/instruments/\1/return-to-service"),
        (r"/judge", "/evaluate"),
        (r"/sequences/understand", "/sequences/interpret"),
        (r"/tests/(\d+)/drop", r"/tests/\1/cancel"),
    )
)


def new_address(path: str) -> str | None:
    """The address that a path of the release before has now; None for any other."""
    for old, new in _RENAMED:
        found = old.match(path)
        if found is not None:
            return found.expand(new)
    return None


class OldAddresses:
    """Sends a request to an old address on to the new one, and says in its answer where that is."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer at the new address."""
        new = new_address(scope["path"]) if scope["type"] == "http" else None
        if new is None:
            await self.app(scope, receive, send)
            return

        async def with_successor(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["deprecation"] = "true"
                headers["link"] = f'<{new}>; rel="successor-version"'
            await send(message)

        await self.app({**scope, "path": new, "raw_path": new.encode()}, receive, with_successor)
