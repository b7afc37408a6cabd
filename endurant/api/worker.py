"""The side of the worker process: light, since every process begins by importing it."""

from __future__ import annotations

import resource
import signal
from collections.abc import Callable
from typing import Any

from endurant.core.messages import Message
from endurant.core.refusals import Refusal

MAX_MEMORY = 4_000_000_000


Outcome = tuple[str, Any]


def answer(work: Callable[[Any], Any], given: Any, within_s: float) -> Outcome:
    """Compute within bounds of memory and processor time; say how it ended, and what came of it."""
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (MAX_MEMORY, MAX_MEMORY))
    seconds = int(4 * within_s) + 1
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    try:
        return "answered", work(given)
    except Refusal as refusal:
        return "refused", (refusal.message, refusal.field, refusal.specimen)
    except MemoryError:
        return "refused", (Message("long.out-of-memory"), None, None)
    except Exception as error:
        return "failed", f"{type(error).__name__}: {error}"
