"""The acts of a test in their order, and the state that events make of them.

Every picture lays out its acts; this module lets them happen in no other order. An act comes
before the device records, while it pauses, or after it has ended; where no device records, all
of them come before. What the device ticks by itself (jaws at their distance, force at zero)
need not be done while it stands, and is done again when it does not.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from math import isfinite
from typing import Any, Literal

from endurant.core.bench.events import Event, OutOfOrder, standing
from endurant.core.bench.status import Status, tick
from endurant.core.methods.guide import Ask, Turn
from endurant.core.quantities import in_numbers
from endurant.core.refusals import Invalid, quoted

Phase = Literal["before", "recording", "paused", "after", "complete"]
ClockKind = Literal["at-least", "at-most", "exactly"]
LONGEST_TEXT = 300
MOST_NUMBERS = 50


@dataclass(frozen=True)
class Timer:
    """A clock that an act starts, in seconds; `within_s` is how far off still counts as exact.

    What it served when it is ended enters the readings as `fact`, where that is named.
    """

    code: str
    title: str
    kind: ClockKind
    seconds: float
    within_s: float = 2.0
    fact: str = ""


@dataclass(frozen=True)
class Clock:
    """A running clock."""

    timer: Timer
    since: datetime

    def served_s(self, at: datetime) -> float:
        """Seconds since it was started."""
        return (at - self.since).total_seconds()


@dataclass(frozen=True)
class Act:
    """One act. `code` is the kind of event it leaves; words may name the specimen as {label}.

    `confirms` are the codes of ready checks that whoever acts vouches for, with their titles;
    `tells` what the device is told to do, `reads` what it ticks; from an act that `records` on
    the device records until it ends; one that `resumes` lets it go on after a pause. An
    `optional` one is done where there is cause to, and holds nothing up. What it `sets` enters
    the readings by its being done.

    One with `turns` is done again and again: each turn says what is next, from what was collected
    so far, and what it gives is one more item of the reading that it `collects` (its answers, or
    the `plain` one alone). It is through when there is no further turn, or when an act that
    `ends_series` is done. What it `logs` is written into the log of the instrument too.
    """

    code: str
    title: str
    why: str
    button: str
    phase: Literal["before", "paused", "after"] = "before"
    confirms: Mapping[str, str] = field(default_factory=dict)
    asks: tuple[Ask, ...] = ()
    tells: str = ""
    reads: tuple[str, ...] = ()
    records: bool = False
    resumes: bool = False
    optional: bool = False
    turns: Callable[[Sequence[Any]], Turn | None] | None = None
    collects: str = ""
    plain: str = ""
    ends_series: str = ""
    sets: Mapping[str, Any] = field(default_factory=dict)
    logs: str = ""
    hold: bool = False
    caution: str = ""
    starts: Timer | None = None
    also_starts: tuple[Timer, ...] = ()
    ends: str = ""
    hands_on_min: float = 0.5
    unattended_min: float = 0.0


@dataclass(frozen=True)
class Step:
    """The one thing to do next, and why.

    Its `kind` is `watch` while a device records, `look` at the end, `end` where it ends a series.
    """

    act: str
    title: str
    why: str
    button: str
    kind: Literal["do", "watch", "look", "end"] = "do"
    confirms: tuple[str, ...] = ()
    asks: tuple[Ask, ...] = ()
    hold: bool = False
    caution: str = ""
    hands_on_min: float = 0.5
    unattended_min: float = 0.0


@dataclass(frozen=True)
class State:
    """Where a specimen stands in its test. `facts` are what was typed or read off a gauge.

    `folded` where the items that concern the set-up are confirmed in one act.
    """

    label: str
    acts: tuple[Act, ...]
    watch: str = ""
    phase: Phase = "before"
    done: tuple[str, ...] = ()
    facts: Mapping[str, Any] = field(default_factory=dict)
    clocks: tuple[Clock, ...] = ()
    remarks: tuple[str, ...] = ()
    last: int = 0
    folded: bool = False

    def act(self, code: str) -> Act:
        """An act of this test by its code; raises OutOfOrder for one that it does not have."""
        for act in self.acts:
            if act.code == code:
                return act
        known = ", ".join(act.code for act in self.acts)
        raise OutOfOrder(f"{quoted(code)} is no act of this test; expected {known}")

    def in_phase(self) -> tuple[Act, ...]:
        """The acts that belong to where the test is now."""
        return tuple(act for act in self.acts if act.phase == self.phase)


def replay(begun: State, events: Sequence[Event]) -> State:
    """The state after these events; raises OutOfOrder for a list that cannot have happened."""
    state = begun
    for event in standing(events):
        state = apply(state, event)
    return replace(state, last=max((event.number for event in events), default=0))


def apply(state: State, event: Event) -> State:
    """The state after one more event; raises OutOfOrder, or Invalid for a value that is none."""
    state = replace(state, last=event.number)
    if event.kind in ("paused", "ended", "abandoned"):
        return _told_by_device(state, event)
    act = state.act(event.kind)
    _refuse_out_of_order(state, act)
    _refuse_unconfirmed(act, event)
    if act.turns is not None:
        return _with_one_more(state, act, act.turns, event)
    facts = {**state.facts, **act.sets, **_answers(act.asks, event.facts)}
    facts |= {
        clock.timer.fact: round(clock.served_s(event.at), 1)
        for clock in state.clocks
        if clock.timer.code == act.ends and clock.timer.fact
    }
    clocks, remarks = _clocks_after(state, act, event)
    state = replace(
        state,
        done=(
            *(code for code in state.done if code not in (act.code, act.ends_series)),
            *((act.ends_series,) if act.ends_series else ()),
            act.code,
        ),
        facts=facts,
        clocks=clocks,
        remarks=remarks,
    )
    if act.records or act.resumes:
        again = {each.code for each in state.acts if each.phase == "paused"}
        kept = tuple(code for code in state.done if code not in again)
        return replace(state, phase="recording", done=kept if act.resumes else state.done)
    return _completed(state)


def collected(state: State, act: Act) -> list[Any]:
    """What a series has given so far."""
    return list(state.facts.get(act.collects, ()))


def _with_one_more(
    state: State, act: Act, turns: Callable[[Sequence[Any]], Turn | None], event: Event
) -> State:
    """The state after one more turn. What the turn set is kept with the event that did it."""
    items = collected(state, act)
    turn = turns(items)
    if turn is None:
        raise OutOfOrder(f"{_said(act, state)}: nothing more is to be done")
    answers = _answers(turn.asks, event.facts)
    given = {**turn.sets, **event.facts.get("set", {}), **answers}
    items.append(answers[act.plain] if act.plain else given)
    is_through = turns(items) is None
    return _completed(
        replace(
            state,
            facts={**state.facts, act.collects: items},
            done=(*state.done, act.code) if is_through else state.done,
        )
    )


def turn_of(state: State, act: Act) -> Turn | None:
    """What the next turn of a series is; None for other acts, and when there is none."""
    return None if act.turns is None else act.turns(collected(state, act))


def _told_by_device(state: State, event: Event) -> State:
    if state.phase not in ("recording", "paused"):
        raise OutOfOrder(f"{state.label} is not being recorded; nothing can have {event.kind}")
    if event.kind == "abandoned":
        return State(state.label, state.acts, state.watch, last=event.number, folded=state.folded)
    if event.kind == "paused":
        return replace(state, phase="paused")
    return _completed(replace(state, phase="after"))


def _completed(state: State) -> State:
    """Complete once nothing is left of the acts where the test is now."""
    if state.phase in ("recording", "paused"):
        return state
    left = [act for act in state.in_phase() if _holds_up(act) and act.code not in state.done]
    records = any(act.records for act in state.acts)
    if left or (state.phase == "before" and records):
        return state
    return replace(state, phase="complete")


def _holds_up(act: Act) -> bool:
    """What comes after it has to wait until it is done."""
    return not act.reads and not act.optional


def _refuse_out_of_order(state: State, act: Act) -> None:
    if state.phase == "complete":
        raise OutOfOrder(f"the test of {state.label} is complete; keep it, or void it")
    if act.phase != state.phase:
        when = {
            "before": "before the device records",
            "paused": "while the device pauses",
            "after": "after the device has ended",
        }[act.phase]
        raise OutOfOrder(f"{_said(act, state)} comes {when}, not now")
    if act.code in state.done and not act.reads and not act.optional:
        raise OutOfOrder(f"{_said(act, state)} was done already")
    if act.optional and _is_past(act, state):
        raise OutOfOrder(f"it is too late for: {_said(act, state)}")
    if act.ends_series and not _has_begun(state, act):
        raise OutOfOrder(f"{_said(act, state)}: nothing was done yet that could be ended")
    for earlier in state.in_phase():
        if earlier is act:
            return
        if _holds_up(earlier) and earlier.code not in state.done:
            raise OutOfOrder(
                f"{_said(act, state)} comes after: {_said(earlier, state)} ({earlier.why})"
            )


def _said(act: Act, state: State) -> str:
    return act.title.format(label=state.label)


def _refuse_unconfirmed(act: Act, event: Event) -> None:
    confirmed = event.facts.get("confirmed", [])
    missing = [title for code, title in act.confirms.items() if code not in confirmed]
    if missing:
        raise Invalid(f"the ready check is not done: {'; '.join(missing)}", field="confirmed")


def _answers(asks: Sequence[Ask], given: Mapping[str, Any]) -> dict[str, Any]:
    """The values that are asked for, each of its kind; raises Invalid."""
    answers: dict[str, Any] = {}
    for ask in asks:
        value = given.get(ask.name)
        if value is None or value == "":
            if ask.required:
                raise Invalid(f"{ask.title} is missing", field=ask.name)
            continue
        answers[ask.name] = _answer(ask, value)
    return answers


def _answer(ask: Ask, value: object) -> object:
    if ask.kind == "numbers":
        return _numbers(ask, value)
    if ask.kind == "number":
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not isfinite(float(str(value))):
            unit = f" in {ask.unit}" if ask.unit else ""
            raise Invalid(
                f"{ask.title} is {quoted(value)}; expected a number{unit}", field=ask.name
            )
        read = float(str(value))
        if ask.whole and not read.is_integer():
            raise Invalid(
                f"{ask.title} is {quoted(value)}; expected a whole number", field=ask.name
            )
        return int(read) if ask.whole else read
    if ask.kind == "choice" and value not in ask.choices:
        raise Invalid(
            f"{ask.title} is {quoted(value)}; expected one of {', '.join(ask.choices)}",
            field=ask.name,
        )
    return ask.means.get(str(value), str(value)[:LONGEST_TEXT])


def _numbers(ask: Ask, value: object) -> list[float]:
    """Several numbers parted by spaces."""
    words = str(value).replace(",", ".").split()
    try:
        numbers = [float(word) for word in words]
    except ValueError:
        numbers = []
    if not numbers or len(numbers) > MOST_NUMBERS or not all(map(isfinite, numbers)):
        unit = f" in {ask.unit}" if ask.unit else ""
        raise Invalid(
            f"{ask.title} is {quoted(value)}; expected one number{unit} or several, parted by "
            "spaces",
            field=ask.name,
        )
    return numbers


def _clocks_after(
    state: State, act: Act, event: Event
) -> tuple[tuple[Clock, ...], tuple[str, ...]]:
    """The clocks that run after an act, and what is remarked of one that it ended."""
    clocks, remarks = list(state.clocks), list(state.remarks)
    for clock in state.clocks:
        if clock.timer.code != act.ends:
            continue
        clocks.remove(clock)
        remark = ended_off(clock, event.at)
        if remark:
            remarks.append(remark)
    timers = (act.starts, *act.also_starts)
    clocks += [Clock(timer, event.at) for timer in timers if timer is not None]
    return tuple(clocks), tuple(remarks)


def ended_off(clock: Clock, at: datetime) -> str:
    """What is to be said of a clock that is ended now; nothing where it was kept."""
    timer, served_s = clock.timer, clock.served_s(at)
    off_s = served_s - timer.seconds
    early = off_s < -timer.within_s and timer.kind in ("at-least", "exactly")
    late = off_s > timer.within_s and timer.kind in ("at-most", "exactly")
    if not early and not late:
        return ""
    return (
        f"{timer.title} took {in_numbers(round(served_s, 1))} s; "
        f"{timer.kind.replace('-', ' ')} {in_numbers(timer.seconds)} s is asked for"
    )


def next_step(state: State, status: Status | None, parameters: Mapping[str, Any]) -> Step:
    """The one thing to do next; a device that ticks an item has that act done."""
    if state.phase == "recording":
        return Step(
            "stop",
            state.watch or "Watch the run",
            "It ends by itself. Stop it when something goes wrong; what was recorded stays.",
            "Stop now",
            kind="watch",
        )
    for act in state.in_phase():
        ticked = act.reads and all(tick(name, status, parameters).ticked for name in act.reads)
        if not ticked and not act.optional and (act.reads or act.code not in state.done):
            return _step(act, state)
    return Step(
        "keep",
        f"Look at {state.label}",
        "Did it go as it should, from beginning to end? Then it counts; else say why not.",
        f"Keep {state.label}",
        kind="look",
    )


def optional_steps(state: State) -> list[Step]:
    """What may be done now beside the next step: optional acts whose turn has not passed."""
    steps = []
    for act in state.in_phase():
        if act.optional and act.code not in state.done and not _is_past(act, state):
            if not act.ends_series or _has_begun(state, act):
                steps.append(_step(act, state))
        elif _holds_up(act) and act.code not in state.done:
            break
    return steps


def beside(state: State) -> list[Step]:
    """All that may be done beside the next step; a device that pauses can be stopped there."""
    if state.phase != "paused":
        return optional_steps(state)
    return [
        *optional_steps(state),
        Step(
            "stop",
            "Stop it here",
            "What was recorded stays; the specimen is looked at as it is.",
            "Stop it here",
            kind="watch",
        ),
    ]


def _has_begun(state: State, ending: Act) -> bool:
    """The series that this act ends has an item."""
    return any(act.code == ending.ends_series and collected(state, act) for act in state.in_phase())


def _is_past(act: Act, state: State) -> bool:
    """Something that comes after it was done already."""
    acts = state.in_phase()
    return any(later.code in state.done for later in acts[acts.index(act) + 1 :])


def _step(act: Act, state: State) -> Step:
    turn = turn_of(state, act)
    said = turn or act
    return Step(
        act=act.code,
        title=said.title.format(label=state.label),
        why=said.why.format(label=state.label),
        button=said.button.format(label=state.label),
        kind="end" if act.ends_series else "do",
        confirms=tuple(act.confirms),
        asks=said.asks,
        hold=act.hold,
        caution=act.caution,
        hands_on_min=act.hands_on_min,
        unattended_min=act.unattended_min,
    )


def unticked(state: State, status: Status | None, parameters: Mapping[str, Any]) -> list[str]:
    """What the device has to tick before it may record, and does not: names of `reads`."""
    return [
        name
        for act in state.acts
        if act.phase == "before"
        for name in act.reads
        if not tick(name, status, parameters).ticked
    ]
