"""What is looked after again and again, in a thread of this process."""

from __future__ import annotations

import logging
from collections.abc import Callable
from threading import Event, Thread

from endurant.core.refusals import Conflict, Unavailable

_log = logging.getLogger(__name__)


class WatchThread(Thread):
    """The thread of a watch, to be told from those that answer requests."""


class Watch:
    """Does one thing every so many seconds; whatever happens is logged and tried again."""

    def __init__(self, name: str, every_s: float, act: Callable[[], object]) -> None:
        self._every_s = every_s
        self._act = act
        self._stop = Event()
        self._thread = WatchThread(target=self._watch, name=name, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """Stop, once what is being done is done."""
        self._stop.set()
        self._thread.join()

    def once(self) -> None:
        """Do it now, and only now."""
        try:
            self._act()
        except (Unavailable, Conflict) as refusal:
            _log.info("%s: %s", self._thread.name, refusal.sentence)
        except Exception:
            _log.exception("%s failed, and tries again", self._thread.name)

    def _watch(self) -> None:
        while not self._stop.wait(self._every_s):
            self.once()
