"""Weighed before, treated for a time, weighed after: no device records, the clock counts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from endurant.core.bench.picture import Columns, DeviceKind, Drawing, asks_for, by_hand
from endurant.core.bench.procedure import Act, State, Timer
from endurant.core.methods.guide import WeighGuide
from endurant.core.methods.method import Method
from endurant.core.quantities import in_numbers

CLOCK = "wet"


class WeighPicture:
    """One specimen on a balance, twice."""

    device: DeviceKind | None = None

    def acts(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Act, ...]:
        """Weigh, begin, pour off in time, end in time, weigh again at once."""
        live = method.guide.live
        if not isinstance(live, WeighGuide):
            raise TypeError(f"{method.id} is not weighed at the bench")
        acts = [*by_hand(method.guide.ready_checks), _weighed(method, live.before, "before")]
        seconds = float(parameters.get(live.clock) or 0) if live.clock else 0.0
        if seconds:
            acts += _wetted(seconds, live.pour_off_s)
        elif live.between:
            acts.append(Act("treated", live.between, "Between the two weighings.", "It is done"))
        return (*acts, _weighed(method, live.after, "after"))

    def readings(self, state: State, columns: Columns | None) -> dict[str, Any]:
        """Both masses."""
        return dict(state.facts)

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Nothing is recorded; the clock and the masses are the picture."""
        return None

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Nothing is set."""
        return {}


def _weighed(method: Method, name: str, when: str) -> Act:
    return Act(
        code=f"weighed-{when}",
        title=f"Weigh {{label}} {when}",
        why="At once, before it takes up or gives off more." if when == "after" else "Dry, tared.",
        button="Take the mass",
        asks=asks_for(method, (name,), gauge="balance"),
    )


def _wetted(seconds: float, pour_off_s: float) -> list[Act]:
    timer = Timer(CLOCK, "Time under water", "exactly", seconds)
    acts = [
        Act(
            code="poured",
            title="Clamp {label} under the ring, and pour",
            why=f"The clock runs from the first water: {in_numbers(seconds)} s.",
            button="It is poured",
            starts=timer,
        )
    ]
    if pour_off_s:
        acts.append(
            Act(
                code="poured-off",
                title="Pour off",
                why=f"{in_numbers(pour_off_s)} s before the end, so that the blotter is laid on "
                "in time.",
                button="It is poured off",
            )
        )
    acts.append(
        Act(
            code="blotted",
            title="Lay it on the blotter, and roll",
            why="At the end of the clock; water left on goes on being taken up.",
            button="It is blotted",
            ends=CLOCK,
        )
    )
    return acts
