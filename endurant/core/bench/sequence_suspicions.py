"""What a sequence of moves gives away: the same things to look at, where the way goes to and fro.

A pull has one way; a sequence has several, with stretches in which nothing moves. So force that
falls back is looked for on each way out, speed among the speeds that were set, and an early end
by the time or the ways that are missing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from endurant.core.bench.suspicions import (
    FEWEST,
    FEWEST_TRAVEL_SHARE,
    SPEED_SHARE,
    Suspicion,
    early_end,
    noise,
    percent,
    preload,
    spike,
)
from endurant.core.messages import Message
from endurant.core.moves import Move, each_of, path_of
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples

SLIP_SHARE = 0.03
WITHIN = 60
"""A slip falls back within this part of the samples of its way."""
IN_TIME_SHARE = 0.98
SPEED_OVER = 5
"""A speed is read over so many samples."""
MAX_MM_A_SAMPLE = 5.0
MIN_JUMP_MM, JUMP_TIMES = 0.5, 10
"""What goes farther from one sample to the next, or so many times as far as before and after it,
was zeroed or returned, not pulled."""


@dataclass(frozen=True)
class ExpectedSequence:
    """What a sequence should be like.

    The speeds that were set, in mm per minute; how long it lasts in s, where its moves say so;
    how many ways out and back it has; whether it ends at a break; `jagged` where force falls and
    rises by nature.
    """

    speeds_mm_min: tuple[float, ...]
    lasts_s: float | None
    ways: int
    breaks: bool
    jagged: bool


def expected_sequence(moves: Sequence[Move], gauge_mm: float, *, jagged: bool) -> ExpectedSequence:
    """Return what these moves should give, from jaws `gauge_mm` apart."""
    path = path_of(moves, gauge_mm)
    ramps = [move for move in each_of(moves) if move.kind in ("to", "by")]
    return ExpectedSequence(
        speeds_mm_min=tuple(sorted({move.speed_mm_min for move in ramps})),
        lasts_s=path[-1].time_s if all(point.known for point in path) else None,
        ways=_ways_of(moves),
        breaks=bool(ramps) and ramps[-1].unit == "break",
        jagged=jagged,
    )


def sequence_suspicions(
    x: Samples, force: Samples, time_s: Samples, expected: ExpectedSequence
) -> list[Suspicion]:
    """Return what looks odd on force (N) and travel (mm) over time (s), each of shape (n,)."""
    upper = float(force.max(initial=0.0))
    if x.size < FEWEST or upper <= 0:
        return []
    ways = _ways(x)
    rules = [
        preload(x, force, upper),
        noise(x, force, upper),
        spike(x, force, upper, corners=_corners(x)),
        None if expected.jagged else _slip(x, force, ways),
        early_end(x, force, upper) if expected.breaks else _short(x, force, time_s, expected, ways),
        _speed(x, force, time_s, expected.speeds_mm_min),
    ]
    return [suspicion for suspicion in rules if suspicion is not None]


def _ways_of(moves: Sequence[Move]) -> int:
    """How often the jaws set out or turn back; what is known of a force is its own order.

    After the halves of a pair are exchanged the jaws set out anew.
    """
    at = {"mm": 0.0, "%": 0.0, "N": 0.0}
    ways, last = 0, None
    for move in each_of(moves):
        if move.kind == "exchange":
            at, last = dict.fromkeys(at, 0.0), None
        if move.kind not in ("to", "by"):
            continue
        if move.unit == "break":
            up = True
        else:
            value = at[move.unit] + move.value if move.kind == "by" else move.value
            up, at[move.unit] = value >= at[move.unit], value
        ways += up is not last
        last = up
    return ways


def _ways(x: Samples) -> list[tuple[slice, bool]]:
    """The stretches in which travel goes one way, each with whether that is out.

    Where travel was zeroed between two samples another stretch begins, even the same way.
    """
    step = np.diff(x)
    jumps = _jumps(step)
    signs = np.sign(np.where(jumps, 0.0, step))
    moving = np.flatnonzero(signs)
    if not moving.size:
        return []
    begun = np.cumsum(jumps)[moving]
    turns = np.flatnonzero(np.diff(signs[moving]).astype(bool) | np.diff(begun).astype(bool)) + 1
    parts = np.split(moving, turns)
    return [(slice(int(part[0]), int(part[-1]) + 2), bool(signs[part[0]] > 0)) for part in parts]


def _jumps(step: Samples) -> NDArray[np.bool_]:
    """True at each step that nothing moved by: travel was zeroed, or the jaws returned."""
    far = np.abs(step)
    around = np.maximum(np.r_[0.0, far[:-1]], np.r_[far[1:], 0.0])
    alone = (far > MIN_JUMP_MM) & (far > JUMP_TIMES * around)
    return np.asarray((far > MAX_MM_A_SAMPLE) | alone)


def _corners(x: Samples) -> NDArray[np.bool_]:
    """True at each inner sample where the travel turns, stops or starts; shape (n - 2,)."""
    before, after = np.sign(np.diff(x)[:-1]), np.sign(np.diff(x)[1:])
    return np.asarray(before != after)


def _slip(x: Samples, force: Samples, ways: list[tuple[slice, bool]]) -> Suspicion | None:
    """On a way out, force that falls back and is carried again later on the same way."""
    for way, out in ways:
        pulled = force[way]
        shift = max(pulled.size // WITHIN, 3)
        if not out or pulled.size < FEWEST + shift:
            continue
        highest = float(pulled.max())
        before, after = pulled[:-shift], pulled[shift:]
        later = np.maximum.accumulate(pulled[::-1])[::-1][shift:]
        fallen = before - after > SLIP_SHARE * highest
        travelled = np.abs(x[way][:-shift] - x[way.start])
        moved = travelled > FEWEST_TRAVEL_SHARE * float(np.ptp(x))
        places = np.flatnonzero(fallen & moved & (later >= before))
        if places.size:
            place = way.start + int(places[0]) + shift
            lost = float(before[places[0]] - after[places[0]]) / highest
            return Suspicion(
                "slip",
                Message(
                    "suspicion.slip-outward",
                    {"x_mm": round(float(x[place]), 2), "share": percent(lost)},
                ),
                float(x[place]),
                float(force[place]),
            )
    return None


def _short(
    x: Samples,
    force: Samples,
    time_s: Samples,
    expected: ExpectedSequence,
    ways: list[tuple[slice, bool]],
) -> Suspicion | None:
    """It ended before its moves were through."""
    lasted_s = float(time_s[-1] - time_s[0])
    if expected.lasts_s is not None:
        if lasted_s >= IN_TIME_SHARE * expected.lasts_s:
            return None
        times = {"lasted_s": round(lasted_s, 1), "lasts_s": round(expected.lasts_s, 1)}
        message = Message("suspicion.sequence-short", times)
    elif len(ways) < expected.ways:
        message = Message("suspicion.ways-short", {"way": len(ways), "ways": expected.ways})
    else:
        return None
    return Suspicion(
        "early-end",
        message,
        float(x[-1]),
        float(force[-1]),
    )


def _speed(
    x: Samples, force: Samples, time_s: Samples, set_mm_min: tuple[float, ...]
) -> Suspicion | None:
    """While it moved, it went at none of the speeds that were set for more than half of it."""
    over_s = time_s[SPEED_OVER:] - time_s[:-SPEED_OVER]
    went = np.abs(x[SPEED_OVER:] - x[:-SPEED_OVER])
    moving = (went > 0) & (went < MAX_MM_A_SAMPLE * SPEED_OVER) & (over_s > 0)
    if not moving.any() or not set_mm_min:
        return None
    ran = went[moving] / over_s[moving] * 60
    off = np.min(np.abs(ran[:, None] - np.array(set_mm_min)) / np.array(set_mm_min), axis=1)
    if np.median(off) <= SPEED_SHARE:
        return None
    place = int(np.flatnonzero(moving)[0])
    speeds = " and ".join(in_numbers(speed) for speed in set_mm_min)
    return Suspicion(
        "speed",
        Message("suspicion.speeds", {"ran": round(float(np.median(ran)), 1), "speeds": speeds}),
        float(x[place]),
        float(force[place]),
    )
