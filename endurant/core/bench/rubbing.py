"""A rig that runs for a set count or time before something is weighed or graded."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.actions import Action, Timer
from endurant.core.departures import Departure
from endurant.core.messages import worded
from endurant.core.methods.guide import Ask, Go
from endurant.core.quantities import above
from endurant.core.rounding import in_numbers

RUNNING = "rubbing"
OFF_BY = 0.5
"""Counts by which a rig may be off the set count."""


def rubbing(go: Go) -> list[Action]:
    """Set the count, start, and record the count at which the rig stopped."""
    count = go.counts

    def departs(facts: Mapping[str, Any]) -> list[Departure]:
        done = facts.get("counted")
        if count is None or done is None or not above(abs(float(done) - count), OFF_BY):
            return []
        return [Departure.of("count-not-kept", count=float(done), required=count)]

    actions = []
    if count is not None:
        actions.append(
            Action(
                code="count-set",
                title=worded("step.set-the-counter-to", count=in_numbers(count)),
                why=worded("step.the-rig-then-stops-by-itself"),
                button=worded("step.set-counter"),
                tells="set-count",
            )
        )
    actions.append(
        Action(
            code="rub-started",
            title=go.title,
            why=go.why,
            button=go.button,
            tells="start",
            caution=go.caution,
            starts=Timer(RUNNING, go.title, "at-least", go.seconds, within_s=1.0, holds=True),
            unattended_min=go.seconds / 60,
        )
    )
    asks: tuple[Ask, ...] = ()
    if count is not None:
        asks = (Ask("counted", worded("step.count-shown"), whole=True, low=0, preset=count),)
    actions.append(
        Action(
            code="rub-stopped",
            title=worded("step.record-the-count") if asks else worded("step.stop-the-rig"),
            why=worded("step.the-rig-stands-still-before-anything-is"),
            button=worded("step.record-count") if asks else worded("step.confirm-stopped"),
            tells="stop",
            asks=asks,
            departs=departs,
            ends=RUNNING,
        )
    )
    return actions
