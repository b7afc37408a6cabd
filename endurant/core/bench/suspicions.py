"""What a trace gives away: things to look at, with what gave them away; the technician decides.

Nothing here drops a specimen or changes a figure. Each rule is a plain one, so that it can be said
in a sentence beside the curve.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from endurant.core.messages import Message
from endurant.core.rounding import in_numbers
from endurant.core.trace import Samples

Code = Literal[
    "slip",
    "preload",
    "noise",
    "spike",
    "early-end",
    "speed",
    "low-break",
    "extensometer-slip",
    "toe",
    "burst-time",
]

PRELOAD_SHARE = 0.01
NOISE_SHARE = 0.0015
SPIKE_SHARE = 0.02
SPIKE_RETURNS = 0.3
SLIP_SHARE = 0.15
COMES_BACK_SHARE = 0.97
FEWEST_TRAVEL_SHARE = 0.01
"""Nothing slips before the jaws have moved by this part of the travel."""
WITHIN = 200
"""A slip falls back within this part of the samples."""
STILL_HELD_SHARE = 0.8
PEAKS_WITHIN, STARTED_SHARE, LET_GO_SHARE = 25, 0.3, 0.5
SPEED_SHARE = 0.05
FEWEST = 20
LOW_SHARE, FEWEST_OTHERS = 0.8, 3
STRAIN_BACK_SHARE = 0.04
TOE_FROM, TOE_TO, TOE_SHARE = 0.07, 0.2, 0.00007
NORMAL_MEDIAN = 0.6745
"""The median of the absolute value of a normal variate of standard deviation 1."""


@dataclass(frozen=True)
class Suspicion:
    """One thing that looks odd: what gave it away, and where on the curve."""

    code: Code
    message: Message
    at_x: float
    at_y: float

    @property
    def text(self) -> str:
        """The sentence in English."""
        return self.message.text


@dataclass(frozen=True)
class Expected:
    """What a trace of this method should be like.

    `jagged` where the force falls and rises by nature (a tear, a peel); `breaks` where a run goes
    on until the specimen breaks, else `travel_mm` is where it ends; speed in mm per minute. A
    straight start over `straight_over_mm` is looked at for a toe, where that is given.
    """

    jagged: bool
    breaks: bool
    speed_mm_min: float | None = None
    travel_mm: float | None = None
    straight_over_mm: float | None = None


def suspicions(
    x: Samples,
    force: Samples,
    time_s: Samples | None,
    expected: Expected,
    strain: Samples | None = None,
    others_n: Sequence[float] = (),
) -> list[Suspicion]:
    """Return what looks odd on a trace of force (N) over travel (mm), both shape (n,).

    `strain` is NaN once the extensometer is off; `others_n` are the highest forces of the
    specimens of the same test and direction that were kept before.
    """
    upper = float(force.max(initial=0.0))
    if x.size < FEWEST or upper <= 0:
        return []
    rules = [
        preload(x, force, upper),
        noise(x, force, upper),
        spike(x, force, upper),
        _let_go(x, force) if expected.jagged else _slip(x, force),
        early_end(x, force, upper) if expected.breaks else _short(x, force, expected.travel_mm),
        None if time_s is None else _speed(x, force, time_s, expected.speed_mm_min),
        _low_break(x, force, upper, others_n) if expected.breaks else None,
        None if strain is None else _extensometer_slip(x, force, strain),
        _toe(x, force, upper, expected.straight_over_mm),
    ]
    return [suspicion for suspicion in rules if suspicion is not None]


def preload(x: Samples, force: Samples, upper: float) -> Suspicion | None:
    """Return force before anything moved; `upper` is the highest force in N."""
    start_n = float(force[0])
    if start_n <= PRELOAD_SHARE * upper:
        return None
    return Suspicion(
        "preload",
        Message("suspicion.preload", {"start_n": start_n, "share": percent(start_n / upper)}),
        float(x[0]),
        start_n,
    )


def noise(x: Samples, force: Samples, upper: float) -> Suspicion | None:
    """From the second differences, whose median no single step or spike moves."""
    second = np.abs(np.diff(force, 2))
    noise_n = float(np.median(second)) / (NORMAL_MEDIAN * np.sqrt(6))
    if noise_n <= NOISE_SHARE * upper:
        return None
    place = int(np.argmax(second)) + 1
    return Suspicion(
        "noise",
        Message("suspicion.noise", {"noise_n": noise_n, "share": percent(noise_n / upper)}),
        float(x[place]),
        float(force[place]),
    )


def spike(
    x: Samples, force: Samples, upper: float, corners: NDArray[np.bool_] | None = None
) -> Suspicion | None:
    """Return a single sample that stands out and comes back; a step does not come back.

    `corners`, of shape (n - 2,), are true where the travel turns: force has a point there.
    """
    middle = (force[:-2] + force[2:]) / 2
    out = np.abs(force[1:-1] - middle)
    returns = np.abs(force[2:] - force[:-2]) < SPIKE_RETURNS * out
    stands_out = (out > SPIKE_SHARE * upper) & returns
    places = np.flatnonzero(stands_out if corners is None else stands_out & ~corners)
    if not places.size:
        return None
    place = int(places[0]) + 1
    code = "suspicion.spikes" if places.size > 1 else "suspicion.spike"
    return Suspicion(
        "spike",
        Message(code, {"count": int(places.size), "share": percent(SPIKE_SHARE)}),
        float(x[place]),
        float(force[place]),
    )


def _slip(x: Samples, force: Samples) -> Suspicion | None:
    """Force that falls back by more than a part, and is later carried again as before."""
    shift = max(force.size // WITHIN, 3)
    before, after = force[:-shift], force[shift:]
    later = np.maximum.accumulate(force[::-1])[::-1][shift:]
    carried = before >= SLIP_SHARE * force.max()
    fallen = after < (1 - SLIP_SHARE) * before
    moved = x[:-shift] - x[0] > FEWEST_TRAVEL_SHARE * float(np.ptp(x))
    places = np.flatnonzero(carried & fallen & moved & (later >= COMES_BACK_SHARE * before))
    if not places.size:
        return None
    place = int(places[0]) + shift
    lost = float(1 - force[place] / before[places[0]])
    return Suspicion(
        "slip",
        Message("suspicion.slip", {"x_mm": round(float(x[place]), 2), "share": percent(lost)}),
        float(x[place]),
        float(force[place]),
    )


def _let_go(x: Samples, force: Samples) -> Suspicion | None:
    """A stretch of a tear or a peel in which no peak comes near the others, and then they do again.

    Valleys between peaks are no slip: only the peaks are looked at.
    """
    stretch = max(force.size // PEAKS_WITHIN, 5)
    peaks = maximum_filter1d(force, stretch)
    usual = float(np.median(peaks[peaks > STARTED_SHARE * peaks.max()]))
    up = np.flatnonzero(peaks >= usual)
    if not up.size:
        return None
    between = slice(int(up[0]), int(up[-1]))
    places = np.flatnonzero(peaks[between] < LET_GO_SHARE * usual)
    if not places.size:
        return None
    place = int(places[0]) + int(up[0])
    return Suspicion(
        "slip",
        Message(
            "suspicion.leg-slip",
            {"x_mm": round(float(x[place]), 1), "usual_n": round(usual, 1)},
        ),
        float(x[place]),
        float(force[place]),
    )


def early_end(x: Samples, force: Samples, upper: float) -> Suspicion | None:
    """Return force still carried at the end of what should have broken."""
    end_n = float(np.median(force[-3:]))
    if end_n < STILL_HELD_SHARE * upper:
        return None
    return Suspicion(
        "early-end",
        Message("suspicion.not-broken", {"share": percent(end_n / upper)}),
        float(x[-1]),
        end_n,
    )


def _short(x: Samples, force: Samples, travel_mm: float | None) -> Suspicion | None:
    if travel_mm is None or x[-1] >= STILL_HELD_SHARE * travel_mm:
        return None
    return Suspicion(
        "early-end",
        Message(
            "suspicion.travel-short",
            {"x_mm": round(float(x[-1]), 1), "travel_mm": travel_mm},
        ),
        float(x[-1]),
        float(force[-1]),
    )


def _speed(
    x: Samples, force: Samples, time_s: Samples, speed_mm_min: float | None
) -> Suspicion | None:
    lasted_s = float(time_s[-1] - time_s[0])
    if speed_mm_min is None or lasted_s <= 0:
        return None
    ran = float(x[-1] - x[0]) / lasted_s * 60
    if abs(ran - speed_mm_min) <= SPEED_SHARE * speed_mm_min:
        return None
    return Suspicion(
        "speed",
        Message("suspicion.speed", {"ran": round(ran, 1), "speed_set": speed_mm_min}),
        float(x[-1]),
        float(force[-1]),
    )


def percent(share: float) -> str:
    """Return a share in percent, as it is said."""
    return f"{in_numbers(round(100 * share, 1))} %"


def _low_break(
    x: Samples, force: Samples, upper: float, others_n: Sequence[float]
) -> Suspicion | None:
    """A break far below the others of the test: often one that began at a grip."""
    if len(others_n) < FEWEST_OTHERS:
        return None
    usual = float(np.median(others_n))
    if upper >= LOW_SHARE * usual:
        return None
    place = int(np.argmax(force))
    return Suspicion(
        "low-break",
        Message(
            "suspicion.low-break",
            {"force_n": round(upper, 1), "share": percent(1 - upper / usual)},
        ),
        float(x[place]),
        upper,
    )


def _extensometer_slip(x: Samples, force: Samples, strain: Samples) -> Suspicion | None:
    """Strain that goes back while the jaws go on."""
    on = np.flatnonzero(np.isfinite(strain))
    if on.size < FEWEST:
        return None
    read = strain[on]
    back = np.maximum.accumulate(read) - read
    place = int(np.argmax(back))
    span = float(read.max() - read[0])
    if span <= 0 or back[place] <= STRAIN_BACK_SHARE * span:
        return None
    at = int(on[np.flatnonzero(back > STRAIN_BACK_SHARE * span)[0]])
    return Suspicion(
        "extensometer-slip",
        Message(
            "suspicion.extensometer-slip",
            {"x_mm": round(float(x[at]), 2), "share": percent(float(back[place]) / span)},
        ),
        float(x[at]),
        float(force[at]),
    )


def _reached(x: Samples, force: Samples, level_n: float) -> float:
    """Where the joined samples first reach a force."""
    place = max(int(np.argmax(force >= level_n)), 1)
    return float(np.interp(level_n, force[place - 1 : place + 1], x[place - 1 : place + 1]))


def _toe(x: Samples, force: Samples, upper: float, over_mm: float | None) -> Suspicion | None:
    """A straight start that, carried down, meets zero later than the trace begins."""
    if over_mm is None:
        return None
    near, far = (_reached(x, force, share * upper) for share in (TOE_FROM, TOE_TO))
    late_mm = near - (far - near) * TOE_FROM / (TOE_TO - TOE_FROM) - float(x[0])
    if late_mm <= TOE_SHARE * over_mm:
        return None
    return Suspicion(
        "toe",
        Message("suspicion.toe", {"late_mm": round(late_mm, 3)}),
        float(x[0]) + late_mm,
        0.0,
    )
