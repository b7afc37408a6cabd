"""What every procedure of the bench can say of a test."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal, Protocol, get_args, get_origin

from pydantic import BaseModel, TypeAdapter, ValidationError

from endurant.core.bench.actions import Action
from endurant.core.bench.state import State
from endurant.core.complaints import message_of
from endurant.core.devices import RecorderKind
from endurant.core.field_names import spoken, title_and_unit
from endurant.core.messages import worded
from endurant.core.methods.guide import Ask, AskKind, ReadyCheck
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid

Columns = Mapping[str, Sequence[float] | Sequence[float | None]]
FEWEST_TO_FOLD = 2
SETS_ONLY = ("", "prepare", "zero")
"""What a device is told that does nothing to a specimen."""


@dataclass(frozen=True)
class Axis:
    """A column of a recording as it is drawn."""

    column: str
    title: str
    unit: str


@dataclass(frozen=True)
class Drawing:
    """What is drawn over what, and to where the first axis reaches before anything is known."""

    x: Axis
    y: Axis
    reach: float


class Procedure(Protocol):
    """How one kind of test goes on. `device` records it; None where nothing is recorded."""

    device: RecorderKind | None

    def actions(self, method: Method, parameters: Mapping[str, Any]) -> tuple[Action, ...]:
        """Return the actions of this method in their order."""

    def readings(self, method: Method, state: State) -> dict[str, Any]:
        """Return the entry of the test document: what was asked for, with what was recorded."""

    def drawing(self, method: Method, parameters: Mapping[str, Any]) -> Drawing | None:
        """Return what is drawn while it records."""

    def setup(self, method: Method, parameters: Mapping[str, Any]) -> dict[str, float | str]:
        """Return what the device is set to: each with its unit in its name."""


def begin(
    procedure: Procedure,
    method: Method,
    parameters: Mapping[str, Any],
    label: str,
    folded: bool = False,
) -> State:
    """Return a specimen to which nothing has happened yet.

    `parameters` may hold the direction and the state of the specimen too. `folded` has the items
    that concern the set-up confirmed in one action, where specimens before it went well on the same
    set-up. Holds are never folded.
    """
    actions = procedure.actions(method, parameters)
    return State(
        label,
        as_before(actions) if folded else actions,
        watch=method.guide.watch,
        folded=folded,
    )


def own_parameters(method: Method, parameters: Mapping[str, Any]) -> dict[str, Any]:
    """Return the parameters of a method among what is known of a specimen."""
    return {
        name: value for name, value in parameters.items() if name in method.parameters.model_fields
    }


def checks_of(
    procedure: Procedure, method: Method, parameters: Mapping[str, Any]
) -> tuple[ReadyCheck, ...]:
    """Return the ready checks of a test under its set-up, their titles filled in."""
    aims = {**parameters, **procedure.setup(method, parameters)}
    resolved = (check.under(aims) for check in method.guide.ready_checks)
    return tuple(check for check in resolved if check is not None)


def as_before(actions: Sequence[Action]) -> tuple[Action, ...]:
    """Return the actions of a specimen that goes as the ones before it, in as few as may be.

    Where a device records, all that is confirmed by hand is confirmed together with the holds, as
    it starts; unless the device does more before than being set and zeroed (it clamps, it comes
    down, it lets go), for then the order counts. Elsewhere, and there, what concerns the set-up
    alone is confirmed in one action.
    """
    hands = [act for act in actions if act.phase == "before" and _only_confirms(act)]
    start = next((act for act in actions if act.records), None)
    is_ordered = any(act.tells not in SETS_ONLY for act in actions if act.phase == "before")
    if start is not None and not is_ordered:
        items = {code: title for act in hands for code, title in act.confirms.items()}
        whole = replace(
            start,
            title="; ".join([*items.values(), *start.confirms.values()]) + "?",
            confirms=items | dict(start.confirms),
        )
        return tuple(whole if act is start else act for act in actions if act not in hands)
    steady = [act for act in hands if act.set_up]
    if len(steady) < FEWEST_TO_FOLD:
        return tuple(actions)
    together = Action(
        code="as-before",
        title=worded("step.is-the-set-up-unchanged"),
        why="; ".join(act.title for act in steady) + ".",
        button=worded("step.confirm-set-up"),
        confirms={code: title for act in steady for code, title in act.confirms.items()},
    )
    return tuple(
        together if act is steady[0] else act
        for act in actions
        if act is steady[0] or act not in steady
    )


def _only_confirms(act: Action) -> bool:
    """An item of the ready check that a person confirms, and that does nothing else."""
    does_more = act.tells or act.asks or act.turns or act.starts or act.ends or act.records
    return bool(act.confirms) and not act.hold and not act.optional and not does_more


def by_hand(checks: Sequence[ReadyCheck], *, early: bool = False) -> list[Action]:
    """An action for each item that a person confirms or answers before the run, in their order."""
    return [act_of(check) for check in checks if is_by_hand(check) and check.early == early]


def is_by_hand(check: ReadyCheck) -> bool:
    """An item that no sensor proves, and that is not a hold."""
    return not check.reads and not check.hold


def act_of(check: ReadyCheck) -> Action:
    """Return the action in which a person confirms or answers an item."""
    button = {
        "release": worded("step.release-force"),
        "grip": worded("step.confirm-grip-closed"),
    }.get(check.tells, "Confirm")
    return Action(
        code=check.code,
        title=check.title,
        why=f"{check.reason[0].upper()}{check.reason[1:]}.",
        button="Record" if check.asks else button,
        confirms={check.code: check.title},
        asks=check.asks,
        tells=check.tells,
        early=check.early,
        set_up=check.set_up,
    )


def holds_of(checks: Sequence[ReadyCheck]) -> dict[str, str]:
    """Return the items that are confirmed before every run, with their titles."""
    return {check.code: check.title for check in checks if check.hold}


def reads_of(checks: Sequence[ReadyCheck], *names: str) -> tuple[str, ...]:
    """Return which of these the ready check has the device tick."""
    read = {check.reads for check in checks}
    return tuple(name for name in names if name in read)


def asks_for(method: Method, names: Sequence[str], gauge: str = "") -> tuple[Ask, ...]:
    """Return what an action asks for, made from the fields of the method's readings."""
    return tuple(ask_of(method.readings, name, gauge) for name in names)


def ask_of(model: type[BaseModel], name: str, gauge: str = "") -> Ask:
    """Return the question for one field of a model: its words, unit, kind and choices."""
    field = model.model_fields[name]
    choices = choices_of(field.annotation)
    title, unit = title_and_unit(name)
    kind: AskKind = "number"
    if choices:
        kind = "choice"
    elif holds_numbers(field.annotation):
        kind = "numbers"
    elif is_text(field.annotation) or holds_many(field.annotation):
        kind = "text"
    return Ask(
        name=name,
        title=title,
        unit=unit,
        kind=kind,
        choices=choices,
        gauge=gauge,
        required=field.is_required(),
        whole=is_whole(field.annotation),
    )


def holds_numbers(annotation: object) -> bool:
    """True for a list of numbers."""
    if get_origin(annotation) is list:
        return any(is_number(part) for part in get_args(annotation))
    return any(map(holds_numbers, get_args(annotation)))


def is_number(annotation: object) -> bool:
    """True for a field that is a number."""
    return annotation in (int, float) or any(map(is_number, get_args(annotation)))


def is_text(annotation: object) -> bool:
    """True for a field that holds words."""
    return annotation is str or any(map(is_text, get_args(annotation)))


def reading_facts(method: Method, facts: Mapping[str, Any]) -> dict[str, Any]:
    """Return the facts of a specimen that are readings of its method."""
    return {name: fact for name, fact in facts.items() if name in method.readings.model_fields}


def is_whole(annotation: object) -> bool:
    """True for a field that counts."""
    return annotation is int or any(map(is_whole, get_args(annotation)))


def refuse_values(method: Method, facts: Mapping[str, Any]) -> None:
    """Raises Invalid for a value that the method's readings do not take."""
    fields = method.readings.model_fields
    for name, value in facts.items():
        if name not in fields or name == "dimensions":
            continue
        try:
            kind: Any = Annotated[fields[name].annotation, fields[name]]
            TypeAdapter(kind).validate_python(value)
        except ValidationError as error:
            raise Invalid(message_of(error.errors()[0], spoken(name)), field=name) from error


def choices_of(annotation: object) -> tuple[str, ...]:
    """The words that a field may hold, where it holds one of several; none for other fields."""
    if get_origin(annotation) is Literal:
        return tuple(str(choice) for choice in get_args(annotation))
    return tuple(choice for part in get_args(annotation) for choice in choices_of(part))


def holds_many(annotation: object) -> bool:
    """True for a field that holds a list."""
    return get_origin(annotation) is list or any(map(holds_many, get_args(annotation)))
