"""The actions of a test, their clocks and the steps that they become: data, without order."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Literal

from endurant.core.departures import Departure
from endurant.core.methods.guide import Ask, Turn

Phase = Literal["before", "recording", "paused", "after", "complete"]


ClockKind = Literal["at-least", "at-most", "exactly"]


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
    def text(self) -> str:
        """The sentence for the report."""
        return self.departure.text


@dataclass(frozen=True)
class Clock:
    """A running clock."""

    timer: Timer
    since: datetime

    def elapsed_s(self, at: datetime) -> float:
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


NOTED = "noted"


REASON = "reason"


BESIDE = (NOTED, REASON)
"""Events that may come at any time: a missing value, a reason for a deviation."""


BY_DEVICE = ("paused", "ended", "abandoned")


OTHER_KINDS = (*BESIDE, *BY_DEVICE)


GO = "start-"
"""The event of starting a rig before a turn of a series is this and the code of the series."""
