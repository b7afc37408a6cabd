"""What a device that records nothing shows for the step that is due: a reading, a count."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy.orm import Session

from endurant.core.bench.actions import Action
from endurant.core.bench.procedures import procedure_of
from endurant.core.bench.state import State, collected, turn_of
from endurant.core.methods import find_method
from endurant.core.methods.guide import Ask
from endurant.core.refusals import Unavailable
from endurant.devices.indicator import LineIndicator
from endurant.store.tables import Specimen, Station
from endurant.work.facts.bench_events import state_at_bench
from endurant.work.use_cases.bench.stations import device_of
from endurant.work.views.bench.models import ShownView, StepView
from endurant.work.views.stations import has_line

OWN_PARAMETERS = ("surface", "temperature_c", "minutes", "cut_interval_s")


@dataclass(frozen=True)
class Question:
    """What a device is asked to read: for whom, what is due, and which values are wanted."""

    device: LineIndicator
    specimen: str
    method: str
    due: Mapping[str, float | str]
    asks: Sequence[Ask]


def question_of(
    session: Session, specimen: Specimen, station: Station | None, step: StepView | None
) -> Question | None:
    """What the device at this station can be asked for a step; None where there is nothing."""
    if station is None or step is None or not step.asks or not has_line(station):
        return None
    device = device_of(station)
    if not isinstance(device, LineIndicator):
        return None
    state = state_at_bench(session, specimen)
    act = next((each for each in state.actions if each.code == step.act), None)
    if act is None:
        return None
    turn = turn_of(state, act)
    asks = act.asks if turn is None else turn.asks
    return Question(
        device, specimen.code, specimen.test.method, _due(specimen, state, act, asks), asks
    )


def shown_by(question: Question) -> list[ShownView]:
    """What the device shows of each value that is wanted; nothing where it is silent."""
    try:
        shown = question.device.read(question.specimen, question.method, question.due)
    except Unavailable:
        return []
    return [
        ShownView(name=ask.name, title=ask.title, value=_in_choices(ask, shown[ask.name]))
        for ask in question.asks
        if ask.name in shown
    ]


def _due(
    specimen: Specimen, state: State, act: Action, asks: Sequence[Ask]
) -> dict[str, float | str]:
    """The set-up, what the turn sets, and what is preset."""
    test = specimen.test
    method = find_method(test.method)
    due: dict[str, float | str] = dict(procedure_of(method).setup(method, test.parameters))
    due |= {name: test.parameters[name] for name in OWN_PARAMETERS if test.parameters.get(name)}
    turn = turn_of(state, act)
    if turn is not None:
        due |= {"turn": float(len(collected(state, act)) + 1), **turn.sets}
    due |= {ask.name: ask.preset for ask in asks if ask.preset is not None}
    return {name: value for name, value in due.items() if " " not in str(value)}


def _in_choices(ask: Ask, value: float | bool | str) -> float | str:
    """The choice that a device's yes, no or number means."""
    for choice, meaning in ask.means.items():
        if meaning == value and isinstance(meaning, bool) == isinstance(value, bool):
            return choice
    if ask.kind == "choice":
        return str(value)
    return value if isinstance(value, str) else float(value)
