"""The acts of a test in their order, and the state that events make of them.

Every picture lays out its acts; this module lets them happen in no other order. An act comes
before the device records, while it pauses, or after it has ended; where no device records, all
of them come before. An act that a sensor proves (jaws at their distance, force at zero) is not
asked for while the sensor says so, and is asked for again when it does not.

Three kinds of event stand beside the acts and may come at any time before the specimen is
settled: a value that was missing is `noted`, a `reason` is given for a deviation, and a specimen
is `corrected`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from math import inf, isfinite
from typing import Any, Literal

from endurant.core.bench.events import Event, OutOfOrder, standing
from endurant.core.bench.status import Status, tick
from endurant.core.departures import Departure
from endurant.core.messages import Message
from endurant.core.methods.guide import Ask, Turn
from endurant.core.refusals import Invalid
from endurant.core.rounding import in_numbers

Phase = Literal["before", "recording", "paused", "after", "complete"]
ClockKind = Literal["at-least", "at-most", "exactly"]
LONGEST_TEXT = 300
MAX_NUMBERS = 50


@dataclass(frozen=True)
class Timer:
    """A clock that an act starts, in seconds; `within_s` is how far off still counts as exact.

    The time it ran when it is ended enters the readings as `fact`, where that is named. A timer
    that `holds` may end early only with a reason.
    """

    code: str
    title: str
    kind: ClockKind
    seconds: float
    within_s: float = 2.0
    fact: str = ""
    holds: bool = False


@dataclass(frozen=True)
class Departed:
    """A rule that was not kept, and the reason where one was given."""

    departure: Departure
    why: str = ""

    @property
    def code(self) -> str:
        """The code of the departure."""
        return self.departure.code

    @property
    def says(self) -> str:
        """The sentence for the report."""
        return self.departure.says


@dataclass(frozen=True)
class Clock:
    """A running clock."""

    timer: Timer
    since: datetime

    def served_s(self, at: datetime) -> float:
        """Seconds since it was started."""
        return (at - self.since).total_seconds()

    def held_until(self) -> datetime | None:
        """The moment from which it may be ended without a reason; None where it holds nothing."""
        timer = self.timer
        if not timer.holds or timer.kind == "at-most":
            return None
        return self.since + timedelta(seconds=max(timer.seconds - timer.within_s, 0.0))


@dataclass(frozen=True)
class Action:
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

    An act `departs` from a rule when its answers say so: each code and sentence needs a reason.
    It is done only `when` the facts so far ask for it. `blind` turns are given by different
    people.

    A `set_up` act concerns what does not change from one specimen to the next. A `safety` act is
    never held up by a reason or a value that is missing. An `early` act comes before
    conditioning. One that `unloads` leaves the device empty, and one that `moves` it waits until
    it is. One that comes `only_before` another is refused once that other was done.
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
    blind: bool = False
    departs: Callable[[Mapping[str, Any]], Sequence[Departure]] | None = None
    when: Callable[[Mapping[str, Any]], bool] | None = None
    sets: Mapping[str, Any] = field(default_factory=dict)
    logs: str = ""
    safety: bool = False
    early: bool = False
    set_up: bool = False
    unloads: bool = False
    moves: bool = False
    only_before: str = ""
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

    Its `kind` is `watch` while a device records, `look` at the end (`suspect` where the trace
    looks odd), `end` where it ends a series.
    Until `held_until` it asks for a reason.
    """

    act: str
    title: str
    why: str
    button: str
    kind: Literal["do", "watch", "look", "suspect", "end"] = "do"
    confirms: tuple[str, ...] = ()
    asks: tuple[Ask, ...] = ()
    hold: bool = False
    caution: str = ""
    held_until: datetime | None = None
    hands_on_min: float = 0.5
    unattended_min: float = 0.0


UNDONE_BY = {"grip": "ungrip"}
"""What a device is told when an act that told it this is taken back; nothing else is undone."""

NOTED, REASON = "noted", "reason"
BESIDE = (NOTED, REASON)
"""Events that may come at any time: a missing value, a reason for a deviation."""
BY_DEVICE = ("paused", "ended", "abandoned")
OTHER_KINDS = (*BESIDE, *BY_DEVICE)


@dataclass(frozen=True)
class State:
    """Where a specimen stands in its test. `facts` are the values typed or read off a gauge.

    `folded` where the items that concern the set-up are confirmed in one act; `reasons` are those
    given for deviations, by their code; `departed` are the clocks that were not kept.
    """

    label: str
    acts: tuple[Action, ...]
    watch: str = ""
    phase: Phase = "before"
    done: tuple[str, ...] = ()
    facts: Mapping[str, Any] = field(default_factory=dict)
    clocks: tuple[Clock, ...] = ()
    departed: tuple[Departed, ...] = ()
    reasons: Mapping[str, str] = field(default_factory=dict)
    noted: tuple[str, ...] = ()
    people: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    going: str = ""
    last: int = 0
    folded: bool = False

    @property
    def remarks(self) -> tuple[str, ...]:
        """The clocks that were not kept, in sentences."""
        return tuple(each.says for each in self.departed)

    def act(self, code: str) -> Action:
        """An act of this test by its code; raises OutOfOrder for one that it does not have."""
        for act in self.acts:
            if act.code == code:
                return act
        known = ", ".join(act.code for act in self.acts)
        raise OutOfOrder("bench.action-unknown", code=code, known=known)

    def in_phase(self) -> tuple[Action, ...]:
        """The acts that belong to where the test is now."""
        return tuple(act for act in self.acts if act.phase == self.phase and self.asks_for(act))

    def asks_for(self, act: Action) -> bool:
        """True for an act that the facts so far ask for."""
        return act.when is None or act.when(self.facts)


def replay(begun: State, events: Sequence[Event], *, strict: bool = True) -> State:
    """The state after these events; raises OutOfOrder for a list that cannot have happened.

    Stored events are read without being `strict`: set-up that was changed since may have other
    acts, and what was done stays done.
    """
    state = begun
    known = {act.code for act in begun.acts}
    for event in standing(events):
        if strict or event.kind.removeprefix(GO) in known or event.kind in OTHER_KINDS:
            state = apply(state, event, strict=strict)
    return replace(state, last=max((event.number for event in events), default=0))


def apply(state: State, event: Event, *, strict: bool = True) -> State:
    """The state after one more event; raises OutOfOrder, or Invalid for a value that is none."""
    state = replace(state, last=event.number)
    if event.kind in BY_DEVICE:
        return _told_by_device(state, event)
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
        clock.timer.fact: round(clock.served_s(event.at), 1)
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
        again = {each.code for each in state.acts if each.phase == "paused"}
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


def collected(state: State, act: Action) -> list[Any]:
    """What a series has given so far."""
    return list(state.facts.get(act.collects, ()))


def departures_of(act: Action, facts: Mapping[str, Any]) -> list[Departure]:
    """Return the rules that the answers of an action do not keep."""
    return [] if act.departs is None else list(act.departs(facts))


GO = "start-"
"""The event of starting a rig before a turn of a series is this and the code of the series."""


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


def turn_of(state: State, act: Action) -> Turn | None:
    """What the next turn of a series is; None for other acts, and when there is none."""
    return None if act.turns is None else act.turns(collected(state, act))


def _told_by_device(state: State, event: Event) -> State:
    if state.phase not in ("recording", "paused"):
        raise OutOfOrder("bench.not-recording", label=state.label, kind=event.kind)
    if event.kind == "abandoned":
        return State(
            state.label,
            state.acts,
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
    """Complete once nothing is left of the acts where the test is now."""
    if state.phase in ("recording", "paused"):
        return state
    left = [act for act in state.in_phase() if _holds_up(act) and act.code not in state.done]
    records = any(act.records for act in state.acts)
    if left or (state.phase == "before" and records):
        return state
    return replace(state, phase="complete")


def _holds_up(act: Action) -> bool:
    """What comes after it has to wait until it is done."""
    return not act.reads and not act.optional


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
    if act.optional and _is_past(act, state):
        raise OutOfOrder("bench.too-late", action=_said(act, state))
    if act.ends_series and not _has_begun(state, act):
        raise OutOfOrder("bench.nothing-to-end", action=_said(act, state))
    for earlier in state.in_phase():
        if earlier is act:
            return
        if _holds_up(earlier) and earlier.code not in state.done:
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


def answers_of(asks: Sequence[Ask], given: Mapping[str, Any]) -> dict[str, Any]:
    """The values that are asked for, each of its kind; raises Invalid."""
    answers: dict[str, Any] = {}
    for ask in asks:
        value = given.get(ask.name)
        if value is None or value == "":
            if ask.required:
                raise Invalid("bench.value-missing", value_name=ask.title, field=ask.name)
            continue
        answers[ask.name] = _answer(ask, value)
    return answers


def _answer(ask: Ask, value: object) -> object:
    if ask.kind == "numbers":
        return _numbers(ask, value)
    if ask.kind == "number":
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not isfinite(float(str(value))):
            raise _refuse_answer("bench.number-expected", ask, value)
        read = float(str(value))
        _refuse_out_of_bounds(ask, read)
        if ask.whole and not read.is_integer():
            raise _refuse_answer("bench.whole-number-expected", ask, value)
        return int(read) if ask.whole else read
    if ask.kind == "choice" and value not in ask.choices:
        raise _refuse_answer("bench.choice-expected", ask, value, known=list(ask.choices))
    return ask.means.get(str(value), str(value)[:LONGEST_TEXT])


def _refuse_answer(code: str, ask: Ask, value: object, **params: object) -> Invalid:
    unit = f" in {ask.unit}" if ask.unit else ""
    about = {"value_name": ask.title, "given": value, "unit": unit}
    return Invalid(Message(code, {**about, **params}), field=ask.name)


def _refuse_out_of_bounds(ask: Ask, read: float) -> None:
    is_low = ask.low is not None and read < ask.low
    if not is_low and not (ask.high is not None and read > ask.high):
        return
    unit = f" {ask.unit}" if ask.unit else ""
    bound = f"at least {ask.low:g}" if is_low else f"at most {ask.high:g}"
    raise Invalid(
        "bench.value-out-of-range",
        value_name=ask.title,
        read=read,
        unit=unit,
        bound=bound,
        field=ask.name,
    )


def _numbers(ask: Ask, value: object) -> list[float]:
    """Several numbers parted by spaces."""
    words = str(value).replace(",", ".").split()
    try:
        numbers = [float(word) for word in words]
    except ValueError:
        numbers = []
    if not numbers or len(numbers) > MAX_NUMBERS or not all(map(isfinite, numbers)):
        raise _refuse_answer("bench.numbers-expected", ask, value)
    return numbers


def _clocks_after(
    state: State, act: Action, event: Event
) -> tuple[tuple[Clock, ...], tuple[Departed, ...]]:
    """The clocks that run after an act, and those that were not kept."""
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
    timer, served_s = clock.timer, clock.served_s(at)
    off_s = served_s - timer.seconds
    early = off_s < -timer.within_s and timer.kind in ("at-least", "exactly")
    late = off_s > timer.within_s and timer.kind in ("at-most", "exactly")
    if not early and not late:
        return None
    given = {"clock": timer.title, "seconds": round(served_s, 1), "required": timer.seconds}
    message = Message(CLOCK_SENTENCES[timer.kind], given)
    return Departure(f"clock-{timer.code}", message)


RAN_THROUGH = "ran_through"
"""What a rig says of itself once it has run to its end, and what an event says of that."""


def held_by_clock(state: State, act: Action, at: datetime) -> str:
    """Why this act would end a clock too early; empty where it may be done now."""
    ended = (act.ends, act.code) if act.turns is not None else (act.ends,)
    for clock in state.clocks:
        until = clock.held_until()
        if clock.timer.code in ended and until is not None and at < until and not act.safety:
            left_s = (clock.since - at).total_seconds() + clock.timer.seconds
            return (
                f"{clock.timer.title}: {in_numbers(round(clock.served_s(at), 1))} s of "
                f"{in_numbers(clock.timer.seconds)} s have passed; "
                f"{in_numbers(round(left_s, 1))} s are left"
            )
    return ""


def ran_through(state: State, act: Action, status: Status | None) -> bool:
    """A rig that was started for this act, has run to its end and says so: it needs no clock."""
    if status is None or not status.holds(RAN_THROUGH):
        return False
    turn = turn_of(state, act)
    if turn is not None:
        return turn.goes is not None
    started = (each.starts for each in state.acts if each.tells == "start")
    return any(timer is not None and timer.code == act.ends for timer in started)


def can_be_taken_back(act: Action) -> bool:
    """A person did it, or the device can be told to undo it."""
    by_device = bool(act.tells) and act.tells not in UNDONE_BY
    return not (by_device or act.records or act.resumes)


def next_step(state: State, status: Status | None, parameters: Mapping[str, Any]) -> Step:
    """The one thing to do next; a device that ticks an item has that act done."""
    if state.phase == "recording":
        return Step(
            "stop",
            state.watch or "Watch the run",
            "The run ends by itself. Stop it if something goes wrong; the recorded data stays.",
            "Stop run",
            kind="watch",
        )
    for act in state.in_phase():
        ticked = act.reads and all(tick(name, status, parameters).ticked for name in act.reads)
        if not ticked and not act.optional and (act.reads or act.code not in state.done):
            return _step(act, state, status)
    return Step(
        "keep",
        f"Check {state.label}",
        "Accept the specimen if the test ran correctly from beginning to end. Otherwise void it "
        "and give the reason.",
        f"Accept {state.label}",
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
            "Stop the run here",
            "The recorded data stays, and the specimen is checked as it is.",
            "Stop run",
            kind="watch",
        ),
    ]


def _has_begun(state: State, ending: Action) -> bool:
    """The series that this act ends has an item."""
    return any(act.code == ending.ends_series and collected(state, act) for act in state.in_phase())


def _is_past(act: Action, state: State) -> bool:
    """Something that comes after it was done already."""
    acts = state.in_phase()
    return any(later.code in state.done for later in acts[acts.index(act) + 1 :])


def _step(act: Action, state: State, status: Status | None = None) -> Step:
    turn = turn_of(state, act)
    if turn is not None and turn.goes is not None and state.going != act.code:
        go = turn.goes
        return Step(
            act=f"{GO}{act.code}",
            title=go.title.format(label=state.label),
            why=go.why,
            button=go.button,
            confirms=tuple(act.confirms),
            hold=bool(act.confirms),
            caution=_said_caution(go.caution or act.caution, act),
            unattended_min=go.seconds / 60,
        )
    said = turn or act
    ended = (act.ends, act.code) if act.turns is not None else (act.ends,)
    return Step(
        act=act.code,
        title=said.title.format(label=state.label),
        why=said.why.format(label=state.label),
        button=said.button.format(label=state.label),
        kind="end" if act.ends_series else "do",
        confirms=() if turn is not None and turn.goes else tuple(act.confirms),
        asks=said.asks,
        hold=act.hold,
        caution=act.caution if turn is None or turn.goes else _said_caution(act.caution, act),
        held_until=_held_until(state, ended) if not ran_through(state, act, status) else None,
        hands_on_min=act.hands_on_min,
        unattended_min=act.unattended_min,
    )


def _held_until(state: State, ended: Sequence[str]) -> datetime | None:
    clocks = (clock for clock in state.clocks if clock.timer.code in ended)
    return next((clock.held_until() for clock in clocks), None)


def _said_caution(caution: str, act: Action) -> str:
    """The caution of a turn, with what its button confirms: nothing is ticked unseen."""
    if not act.confirms:
        return caution
    return f"{caution} You confirm: {'; '.join(act.confirms.values())}.".strip()


def unticked(state: State, status: Status | None, parameters: Mapping[str, Any]) -> list[str]:
    """What the device has to tick before it may record, and does not: names of `reads`."""
    return [
        name
        for act in state.acts
        if act.phase == "before" and state.asks_for(act)
        for name in act.reads
        if not tick(name, status, parameters).ticked
    ]
