"""The actions of a test in their order, and the state that events make of them.

Every procedure lays out its actions; this module lets them happen in no other order. An action
comes before the device records, while it pauses, or after it has ended; where no device records,
all of them come before. An action that a sensor proves (jaws at their distance, force at zero) is
not asked for while the sensor says so, and is asked for again when it does not.

Three kinds of event stand beside the actions and may come at any time before the specimen is
settled: a value that was missing is `noted`, a `reason` is given for a deviation, and a specimen
is `corrected`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from math import inf
from typing import Any

from endurant.core.bench.actions import (
    BESIDE,
    BY_DEVICE,
    GO,
    NOTED,
    OTHER_KINDS,
    UNDONE_BY,
    Action,
    Clock,
    ClockKind,
    Departed,
    Timer,
)
from endurant.core.bench.answers import (
    answers_of,
)
from endurant.core.bench.events import Event, OutOfOrder, in_force
from endurant.core.bench.state import State, collected, has_begun, holds_up, is_past, turn_of
from endurant.core.bench.status import Status
from endurant.core.departures import Departure
from endurant.core.messages import Message, worded
from endurant.core.methods.guide import Turn
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers


def replay(begun: State, events: Sequence[Event], *, strict: bool = True) -> State:
    """Return the state after these events; raises OutOfOrder for a list that cannot have happened.

    Stored events are read without being `strict`: set-up that was changed since may have other
    actions, and what was done stays done.
    """
    state = begun
    known = {act.code for act in begun.actions}
    for event in in_force(events):
        if strict or event.kind.removeprefix(GO) in known or event.kind in OTHER_KINDS:
            state = apply(state, event, strict=strict)
    return replace(state, last=max((event.number for event in events), default=0))


def apply(state: State, event: Event, *, strict: bool = True) -> State:
    """The state after one more event; raises OutOfOrder, or Invalid for a value that is none."""
    state = replace(state, last=event.number)
    if event.kind in BY_DEVICE:
        return _read_by_device(state, event)
    if event.kind in BESIDE:
        return _beside_the_acts(state, event)
    act = state.act(event.kind.removeprefix(GO))
    if strict:
        _refuse_out_of_order(state, act)
        if state.going != act.code:
            _refuse_unconfirmed(act, event)
    if event.kind.startswith(GO):
        return _going(state, act, event)
    if act.turns is not None:
        return _with_one_more(state, act, act.turns, event)
    asks = act.asks if strict else [replace(ask, required=False) for ask in act.asks]
    facts = {**state.facts, **act.sets, **answers_of(asks, event.facts)}
    facts |= {
        clock.timer.fact: round(clock.elapsed_s(event.at), 1)
        for clock in state.clocks
        if clock.timer.code == act.ends and clock.timer.fact
    }
    clocks, departed = _clocks_after(state, act, event)
    why = str(event.facts.get("why", ""))
    departed += tuple(Departed(each, why) for each in departures_of(act, facts))
    state = replace(
        state,
        done=(
            *(code for code in state.done if code not in (act.code, act.ends_series)),
            *((act.ends_series,) if act.ends_series else ()),
            act.code,
        ),
        facts=facts,
        clocks=clocks,
        departed=departed,
    )
    if act.records or act.resumes:
        again = {each.code for each in state.actions if each.phase == "paused"}
        kept = tuple(code for code in state.done if code not in again)
        return replace(state, phase="recording", done=kept if act.resumes else state.done)
    return _completed(state)


def _beside_the_acts(state: State, event: Event) -> State:
    """The state after a value was noted or a reason was given."""
    if event.kind == NOTED:
        values = event.facts.get("values", {})
        return replace(state, facts={**state.facts, **values}, noted=tuple({*state.noted, *values}))
    why = str(event.facts.get("why", ""))
    codes = dict.fromkeys(map(str, event.facts.get("codes", ())), why)
    return replace(state, reasons={**state.reasons, **codes})


def departures_of(act: Action, facts: Mapping[str, Any]) -> list[Departure]:
    """Return the rules that the answers of an action do not keep."""
    return [] if act.departs is None else list(act.departs(facts))


def _going(state: State, act: Action, event: Event) -> State:
    """The state once the rig runs towards the next turn."""
    turn = turn_of(state, act)
    if turn is None or turn.goes is None:
        raise OutOfOrder("bench.nothing-to-start", action=_said(act, state))
    if state.going:
        raise OutOfOrder("bench.already-running", action=turn.goes.title)
    timer = Timer(act.code, turn.goes.title, "at-least", turn.goes.seconds, 0.5, holds=True)
    return replace(
        state, going=act.code, clocks=(*_others(state, act.code), Clock(timer, event.at))
    )


def _others(state: State, code: str) -> tuple[Clock, ...]:
    return tuple(clock for clock in state.clocks if clock.timer.code != code)


def _with_one_more(
    state: State, act: Action, turns: Callable[[Sequence[Any]], Turn | None], event: Event
) -> State:
    """The state after one more turn. What the turn set is kept with the event that did it."""
    items = collected(state, act)
    turn = turns(items)
    if turn is None:
        raise OutOfOrder("bench.series-complete", action=_said(act, state))
    if turn.goes is not None and state.going != act.code:
        raise OutOfOrder("bench.turn-comes-after", turn=turn.title, earlier=turn.goes.title)
    answers = answers_of(turn.asks, event.facts)
    if turn.refuses is not None:
        turn.refuses(answers)
    given = {**turn.sets, **event.facts.get("set", {}), **answers}
    items.append(answers[act.plain] if act.plain else given)
    following = turns(items)
    is_through = following is None
    clocks, departed = _clocks_after(state, replace(act, ends=act.code), event)
    if following is not None and following.every_s:
        clocks += (Clock(_due_timer(act, following), event.at),)
    return _completed(
        replace(
            state,
            going="",
            clocks=clocks,
            departed=departed,
            facts={**state.facts, act.collects: items},
            people={**state.people, act.code: (*state.people.get(act.code, ()), event.by)},
            done=(*state.done, act.code) if is_through else state.done,
        )
    )


def _due_timer(act: Action, turn: Turn) -> Timer:
    """The clock of the next turn; nothing is said of one that is not kept."""
    return Timer(act.code, turn.title, "exactly", turn.every_s, within_s=inf)


def _read_by_device(state: State, event: Event) -> State:
    if state.phase not in ("recording", "paused"):
        raise OutOfOrder("bench.not-recording", label=state.label, kind=event.kind)
    if event.kind == "abandoned":
        return State(
            state.label,
            state.actions,
            state.watch,
            facts={name: state.facts[name] for name in state.facts if name in state.noted},
            reasons=state.reasons,
            noted=state.noted,
            last=event.number,
            folded=state.folded,
        )
    if event.kind == "paused":
        return replace(state, phase="paused")
    return _completed(replace(state, phase="after"))


def _completed(state: State) -> State:
    """Complete once nothing is left of the actions where the test is now."""
    if state.phase in ("recording", "paused"):
        return state
    left = [act for act in state.in_phase() if holds_up(act) and act.code not in state.done]
    records = any(act.records for act in state.actions)
    if left or (state.phase == "before" and records):
        return state
    return replace(state, phase="complete")


def _refuse_out_of_order(state: State, act: Action) -> None:
    if state.phase == "complete":
        raise OutOfOrder("bench.test-complete", label=state.label)
    if not state.asks_for(act):
        raise OutOfOrder("bench.not-of-this-test", action=_said(act, state))
    if act.phase != state.phase:
        raise OutOfOrder(f"bench.not-now-{act.phase}", action=_said(act, state))
    if act.code in state.done and not act.reads and not act.optional:
        raise OutOfOrder("bench.already-done", action=_said(act, state))
    if act.only_before and act.only_before in state.done:
        later = _said(state.act(act.only_before), state)
        raise OutOfOrder("bench.excluded-by-later", action=_said(act, state), later=later)
    if act.optional and is_past(act, state):
        raise OutOfOrder("bench.too-late", action=_said(act, state))
    if act.ends_series and not has_begun(state, act):
        raise OutOfOrder("bench.nothing-to-end", action=_said(act, state))
    for earlier in state.in_phase():
        if earlier is act:
            return
        if holds_up(earlier) and earlier.code not in state.done:
            raise OutOfOrder(
                "bench.comes-after",
                action=_said(act, state),
                earlier=_said(earlier, state),
                why=earlier.why,
            )


def _said(act: Action, state: State) -> str:
    return act.title.format(label=state.label)


def _refuse_unconfirmed(act: Action, event: Event) -> None:
    confirmed = event.facts.get("confirmed", [])
    missing = [title for code, title in act.confirms.items() if code not in confirmed]
    if missing:
        raise Invalid("bench.checks-unconfirmed", missing="; ".join(missing), field="confirmed")


def _clocks_after(
    state: State, act: Action, event: Event
) -> tuple[tuple[Clock, ...], tuple[Departed, ...]]:
    """The clocks that run after an action, and those that were not kept."""
    clocks, departed = list(state.clocks), list(state.departed)
    for clock in state.clocks:
        if clock.timer.code != act.ends:
            continue
        clocks.remove(clock)
        off = ended_off(clock, event.at)
        if off is not None and not event.facts.get(RAN_THROUGH):
            why = str(event.facts.get("why", ""))
            departed.append(Departed(off, why))
    timers = (act.starts, *act.also_starts)
    clocks += [Clock(timer, event.at) for timer in timers if timer is not None]
    return tuple(clocks), tuple(departed)


CLOCK_SENTENCES: dict[ClockKind, str] = {
    "at-least": "departure.clock.at-least",
    "at-most": "departure.clock.at-most",
    "exactly": "departure.clock.exactly",
}


def ended_off(clock: Clock, at: datetime) -> Departure | None:
    """Return the departure of a clock that is ended now; None where it was kept."""
    timer, elapsed_s = clock.timer, clock.elapsed_s(at)
    off_s = elapsed_s - timer.seconds
    early = off_s < -timer.within_s and timer.kind in ("at-least", "exactly")
    late = off_s > timer.within_s and timer.kind in ("at-most", "exactly")
    if not early and not late:
        return None
    given = {"clock": timer.title, "seconds": round(elapsed_s, 1), "required": timer.seconds}
    message = Message(CLOCK_SENTENCES[timer.kind], given)
    return Departure(f"clock-{timer.code}", message)


RAN_THROUGH = "ran_through"
"""What a rig says of itself once it has run to its end, and what an event says of that."""


def held_by_clock(state: State, act: Action, at: datetime) -> str:
    """Return why this action would end a clock too early; empty where it may be done now."""
    ended = (act.ends, act.code) if act.turns is not None else (act.ends,)
    for clock in state.clocks:
        until = clock.held_until()
        if clock.timer.code in ended and until is not None and at < until and not act.safety:
            left_s = (clock.since - at).total_seconds() + clock.timer.seconds
            return worded(
                "step.s-of-s-have-passed-s-are-left",
                title=clock.timer.title,
                at=in_numbers(round(clock.elapsed_s(at), 1)),
                seconds=in_numbers(clock.timer.seconds),
                left_s=in_numbers(round(left_s, 1)),
            )
    return ""


def ran_through(state: State, act: Action, status: Status | None) -> bool:
    """A rig that was started for this action, has run to its end and says so: it needs no clock."""
    if status is None or not status.holds(RAN_THROUGH):
        return False
    turn = turn_of(state, act)
    if turn is not None:
        return turn.goes is not None
    started = (each.starts for each in state.actions if each.tells == "start")
    return any(timer is not None and timer.code == act.ends for timer in started)


def can_be_taken_back(act: Action) -> bool:
    """A person did it, or the device can be told to undo it."""
    by_device = bool(act.tells) and act.tells not in UNDONE_BY
    return not (by_device or act.records or act.resumes)
