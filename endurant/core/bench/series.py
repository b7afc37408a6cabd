"""A test that goes turn by turn: drops of a dart or a pack, looks at counts, grades, scratches."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from endurant.core.bench.actions import Action
from endurant.core.bench.procedure import (
    Drawing,
    by_hand,
    checks_of,
    holds_of,
    own_parameters,
    reading_facts,
)
from endurant.core.bench.rubbing import rubbing
from endurant.core.bench.state import State
from endurant.core.devices import RecorderKind
from endurant.core.messages import worded
from endurant.core.methods.guide import SeriesGuide
from endurant.core.methods.method import Method


class SeriesProcedure:
    """One specimen, as many turns as it takes."""

    device: RecorderKind | None = None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Return what is confirmed, then turn after turn."""
        checks = checks_of(self, method, parameters)
        cautions = method.guide.cautions
        actions = by_hand(checks)
        series: SeriesGuide | None = series_of(method)
        own = own_parameters(method, parameters)
        if series is not None and series.first is not None:
            actions += rubbing(series.first(own))
        while series is not None:
            actions += turns_of(series, own, holds_of(checks), cautions[0] if cautions else "")
            series = series.then
        return tuple(actions)

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return the items, one after the other."""
        return reading_facts(method, state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded; the items are drawn."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Nothing is set on a device."""
        return {}


def series_of(method: Method) -> SeriesGuide:
    """Return how this method goes turn by turn; raises TypeError for one that does not."""
    if not isinstance(method.guide.live, SeriesGuide):
        raise TypeError(f"{method.id} does not go turn by turn")
    return method.guide.live


def turns_of(
    series: SeriesGuide, parameters: Mapping[str, Any], holds: Mapping[str, str], caution: str
) -> list[Action]:
    """The action that is done again and again, and the one that ends it earlier where it may."""
    actions = []
    if series.may_end:
        actions.append(
            Action(
                code=f"enough-{series.code}",
                title=series.may_end,
                why=worded("step.the-recorded-values-stay-and-are-computed"),
                button=series.may_end,
                optional=True,
                ends_series=series.code,
            )
        )
    return [
        *actions,
        Action(
            code=series.code,
            title=worded("step.continue-with", reading=series.reading),
            why="",
            button="Record",
            turns=partial(series.turn, parameters),
            collects=series.reading,
            plain=series.plain,
            blind=series.blind,
            confirms=dict(holds),
            hold=bool(holds),
            caution=caution if holds else "",
        ),
    ]
