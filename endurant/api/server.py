"""One web process: the application, served until it is stopped."""

from __future__ import annotations

import gc
from collections.abc import Sequence

import uvicorn

from endurant.api.app import build_app

ENDS_WITHIN_S = 3
"""How long requests and live views may go on once the process is told to end."""
GARBAGE_AFTER = (100_000, 20, 100)
"""A page builds some ten thousand objects; looking for garbage in the midst of it costs a third."""


def serve(host: str, port: int, proxies: Sequence[str] = ()) -> None:
    """Serve; blocks until the process is told to end.

    Only `proxies` are believed when they say for whom they ask; without any, nobody is.
    """
    app = build_app()
    gc.collect()
    gc.freeze()
    gc.set_threshold(*GARBAGE_AFTER)
    uvicorn.run(
        app,
        host=host,
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=ENDS_WITHIN_S,
        proxy_headers=bool(proxies),
        forwarded_allow_ips=list(proxies),
    )
