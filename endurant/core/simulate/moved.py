"""A specimen that a frame takes through a sequence of moves, sample by sample; seeded by its code.

The force is that of the method's shape at the extension, and a part of it dies away while the
length stands: three arms of a spring and a dashpot, of one, ten and a hundred seconds. So a loop
has an area, and a hold relaxes by about the same share in each decade.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from math import exp, inf, nan

import numpy as np

from endurant.core.moves import Move, each_of, path_of
from endurant.core.simulate.shapes import SimulatedPull, rising, stretching
from endurant.core.simulate.traces import pull_for
from endurant.core.trace import Samples

ARMS_S = (1.0, 10.0, 100.0)
ARM_SHARE = 0.09
GRID = 4000
NOISE_N = 0.004
BROKEN_BELOW = 0.2
PAUSE = "pause"
SEAM_OPENS_MM = 8.0
SLIPS_AT_SHARE, SLIP_MM = 0.6, 2.0
AFTER_BREAK = 5
"""A frame records some samples more before it has stopped."""

Shape = Callable[[Samples, np.random.Generator], Samples]


def _seam_at(reach_mm: float) -> Shape:
    """Cloth that holds 300 N and more, with or without a seam that opens."""

    def shape(x: Samples, rng: np.random.Generator) -> Samples:
        upper = 320 * (1 + 0.05 * rng.standard_normal())
        return np.where(x <= 1.5 * reach_mm, upper * np.clip(x / (1.5 * reach_mm), 0, 1) ** 1.4, 10)

    return shape


SHAPES: dict[str, tuple[SimulatedPull, ...]] = {
    "hysteresis": (SimulatedPull(120, 100, stretching(0.2, 110)),),
    "relaxation": (SimulatedPull(60, 100, rising(95, 48, 0.9)),),
    "iso-13936-1": (
        SimulatedPull(80, 50, _seam_at(21.5)),
        SimulatedPull(110, 50, _seam_at(21.5 + SEAM_OPENS_MM)),
    ),
    "iso-13936-2": (SimulatedPull(110, 50, _seam_at(21.5 + SEAM_OPENS_MM)),),
}
"""The shapes of methods that are run as sequences only; of a pair the unsewn one first."""


class Material:
    """One specimen: force over extension, with what dies away."""

    def __init__(
        self, pull: SimulatedPull, rng: np.random.Generator, reach_mm: float | None
    ) -> None:
        self.x = np.linspace(0, 1.2 * pull.length_mm, GRID)
        self.force = pull.shape(self.x, rng)
        self.top = int(np.argmax(self.force))
        self.break_mm = float(self.x[self.top])
        self.max_n = float(self.force[self.top])
        self.is_broken = False
        reach = inf if reach_mm is None else min(reach_mm, self.break_mm)
        self._slips_at = SLIPS_AT_SHARE * reach
        self._slipped_mm = 0.0
        self._arms = [0.0 for _ in ARMS_S]
        self._elastic_n = 0.0

    def force_at(self, extension_mm: float, dt: float) -> float:
        """Return the force after `dt` seconds more, at this extension."""
        if extension_mm > self._slips_at:
            self._slipped_mm = SLIP_MM
        x = extension_mm - self._slipped_mm
        if x > self.break_mm and float(np.interp(x, self.x, self.force)) < 0.9 * self.max_n:
            self.is_broken = True
        if self.is_broken:
            return 0.0
        elastic = float(np.interp(max(x, 0.0), self.x, self.force)) if x > 0 else 0.0
        step = elastic - self._elastic_n
        self._elastic_n = elastic
        self._arms = [
            (arm + ARM_SHARE * step) * exp(-dt / tau)
            for arm, tau in zip(self._arms, ARMS_S, strict=True)
        ]
        steady = (1 - ARM_SHARE * len(ARMS_S)) * elastic
        return max(steady + sum(self._arms), 0.0) if x > 0 else 0.0


class Moved:
    """What a frame feels while it runs a sequence."""

    def __init__(
        self,
        moves: tuple[Move, ...],
        materials: list[Material],
        rng: np.random.Generator,
        *,
        gauge_mm: float,
        end_mm: float,
        rate_hz: float,
        force_limit_n: float,
        strain_over_mm: float = 0.0,
        off_strain: float = 0.0,
    ) -> None:
        self._over_mm, self._off_strain = strain_over_mm, off_strain
        self._has_strain = strain_over_mm > 0
        self._is_off = False
        self._moves = each_of(moves)
        self._materials = materials
        self._rng = rng
        self._gauge_mm, self._end_mm, self._rate_hz = gauge_mm, end_mm, rate_hz
        self._limit_n = force_limit_n
        self._is_pair = any(move.kind == "exchange" for move in self._moves)
        more = ("half",) if self._is_pair else ("strain",) if self._has_strain else ()
        self.channels: tuple[str, ...] = ("time_s", "extension_mm", "force_n", *more)
        seconds = sum(move.seconds or 20.0 for move in self._moves)
        self.about = int(seconds * rate_hz)
        self._place = 0
        self._half = 0
        self._x = self._zero_mm = 0.0
        self._began_mm: float | None = None
        self._held_s = 0.0
        self._force_n = 0.0
        self._why, self._left = "", 0

    def row(self, number: int) -> tuple[float, ...] | str | None:
        """Return the next sample; `pause` where it waits for somebody, None at the end."""
        if self._why:
            return self._after_break(number)
        if self._comes_off():
            return PAUSE
        dt = 1 / self._rate_hz if number else 0.0
        while self._place < len(self._moves):
            move = self._moves[self._place]
            if move.kind in ("pause", "exchange"):
                return PAUSE
            if move.kind == "zero":
                self._zero_mm = self._x
                self._place += 1
                continue
            self._step(move, dt)
            return self._sample(number)
        self._why = "end-of-path"
        return None

    def _comes_off(self) -> bool:
        """The extensometer has reached the strain at which somebody takes it off."""
        if not self._has_strain or self._is_off or self._off_strain <= 0:
            return False
        return self._x / self._over_mm >= self._off_strain

    def _step(self, move: Move, dt: float) -> None:
        material = self._materials[self._half]
        if move.kind == "hold":
            self._held_s += dt
            self._force_n = self._felt(material, dt)
            if self._held_s >= move.seconds - 1e-9:
                self._next()
            return
        self._began_mm = self._x if self._began_mm is None else self._began_mm
        end_mm = self._end_of(move)
        up = self._goes_up(move, end_mm)
        step = move.speed_mm_min / 60 * dt * (1 if up else -1)
        self._x += step
        if end_mm is not None and (self._x >= end_mm if up else self._x <= end_mm):
            self._x = end_mm
            self._next()
        self._force_n = self._felt(material, dt)
        reached = self._force_n >= move.value if up else self._force_n <= move.value
        if move.unit == "N" and reached and self._began_mm is not None:
            self._next()
        if material.is_broken:
            self._broke()
        elif self._force_n > self._limit_n:
            self._why = "force-limit"
        elif self._x - self._zero_mm > self._end_mm + 1e-9:
            self._why = "end-of-travel"

    def _felt(self, material: Material, dt: float) -> float:
        noise = NOISE_N * float(self._rng.standard_normal())
        return round(material.force_at(self._x, dt) + noise, 5)

    def _end_of(self, move: Move) -> float | None:
        if move.unit not in ("mm", "%"):
            return None
        far = move.value if move.unit == "mm" else move.value / 100 * self._gauge_mm
        begin = self._began_mm if move.kind == "by" and self._began_mm is not None else None
        return (self._zero_mm if begin is None else begin) + far

    def _goes_up(self, move: Move, end_mm: float | None) -> bool:
        if end_mm is not None:
            return end_mm >= self._x
        return move.unit == "break" or move.value > self._force_n

    def _next(self) -> None:
        self._place += 1
        self._began_mm, self._held_s = None, 0.0

    def _broke(self) -> None:
        """What broke is taken out at the next exchange; where there is none it is over."""
        later = [
            place
            for place in range(self._place, len(self._moves))
            if self._moves[place].kind == "exchange"
        ]
        if later:
            self._place, self._began_mm = later[0], None
        else:
            self._why, self._left = "broke", AFTER_BREAK

    def _after_break(self, number: int) -> tuple[float, ...] | None:
        if self._left == 0:
            return None
        self._left -= 1
        self._force_n = round(NOISE_N * float(self._rng.standard_normal()), 5)
        return self._sample(number)

    def _sample(self, number: int) -> tuple[float, ...]:
        time_s, x = number / self._rate_hz, self._x - self._zero_mm
        more: tuple[float, ...] = ()
        if self._is_pair:
            more = (float(self._half),)
        elif self._has_strain:
            more = (nan if self._is_off else x / self._over_mm,)
        return round(time_s, 4), round(x, 5), self._force_n, *more

    def go_on(self) -> None:
        """Continue; after an exchange another specimen is in the grips, from zero."""
        if self._comes_off():
            self._is_off = True
            return
        if self._place < len(self._moves) and self._moves[self._place].kind == "exchange":
            self._half += 1
            self._x = self._zero_mm = self._force_n = 0.0
        self._next()

    def ended(self) -> str:
        """Return why it ended."""
        return self._why


def moved(
    method: str,
    code: str,
    moves: tuple[Move, ...],
    *,
    gauge_mm: float,
    end_mm: float,
    rate_hz: float,
    slips: bool = False,
    force_limit_n: float = inf,
    strain_over_mm: float = 0.0,
    off_strain: float = 0.0,
) -> Moved:
    """Return the specimen of this code in this sequence; the same code always gives the same."""
    seed = int.from_bytes(hashlib.sha256(code.encode()).digest()[:8], "big")
    rng = np.random.default_rng([seed, *method.encode()])
    pulls = SHAPES.get(method) or (pull_for(method) or SHAPES["hysteresis"][0],)
    halves = 1 + sum(move.kind == "exchange" for move in moves)
    reach_mm = max(point.extension_mm for point in path_of(moves, gauge_mm)) if slips else None
    materials = [
        Material(pulls[min(place, len(pulls) - 1)], rng, reach_mm) for place in range(halves)
    ]
    return Moved(
        moves,
        materials,
        rng,
        gauge_mm=gauge_mm,
        end_mm=end_mm,
        rate_hz=rate_hz,
        force_limit_n=force_limit_n,
        strain_over_mm=strain_over_mm,
        off_strain=off_strain,
    )
