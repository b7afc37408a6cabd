"""The side of the worker process: light, since every process begins by importing it."""

from __future__ import annotations

import resource
import signal
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from endurant.core.messages import Message
from endurant.core.refusals import Refusal

MAX_MEMORY = 4_000_000_000


def answer(there: Connection, work: Callable[[Any], Any], given: Any, within_s: float) -> None:
    """Compute within bounds of memory and processor time, and send what comes of it."""
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (MAX_MEMORY, MAX_MEMORY))
    seconds = int(4 * within_s) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    try:
        outcome: tuple[str, Any] = ("answered", work(given))
    except Refusal as refusal:
        outcome = ("refused", (refusal.message, refusal.field, refusal.specimen))
    except MemoryError:
        outcome = ("refused", (Message("long.out-of-memory"), None, None))
    except Exception as error:
        outcome = ("failed", f"{type(error).__name__}: {error}")
    there.send(outcome)
    there.close()
