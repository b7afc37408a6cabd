"""Where a plan is solved: whoever asks says how long work is kept out of the way of short."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, TypeVar

from endurant.core.planning.rows import PlanAnswer, PlanDocument

T = TypeVar("T")


class Solver(Protocol):
    """Does long work for a use case; the web layer gives it threads and processes."""

    async def read(self, work: Callable[[], T]) -> T:
        """Do what reads or writes the database, beside the event loop."""

    async def solve(
        self, work: Callable[[PlanDocument], PlanAnswer], document: PlanDocument
    ) -> PlanAnswer:
        """Answer a planning document; raises Unavailable when it takes too long."""
