"""Outlines of dies and machined bars, in mm from the middle, the long side along y."""

from __future__ import annotations

from math import acos, cos, pi, sin, sqrt

Points = tuple[tuple[float, float], ...]
STEPS_IN_ARC = 8


def dumbbell(
    long_mm: float, wide_mm: float, narrow_long_mm: float, narrow_mm: float, apart_mm: float
) -> Points:
    """Return a dumbbell whose shoulders are arcs from the narrow part to the full width.

    `apart_mm` is the distance between the wide parts, where the arcs end.
    """
    rise = (wide_mm - narrow_mm) / 2
    run = (apart_mm - narrow_long_mm) / 2
    radius = (rise * rise + run * run) / (2 * rise)
    sweep = acos(1 - rise / radius)
    shoulder = [
        (
            narrow_mm / 2 + radius * (1 - cos(sweep * step / STEPS_IN_ARC)),
            narrow_long_mm / 2 + radius * sin(sweep * step / STEPS_IN_ARC),
        )
        for step in range(STEPS_IN_ARC + 1)
    ]
    quarter = [*shoulder, (wide_mm / 2, long_mm / 2)]
    return _mirrored(quarter)


def right_angle(long_mm: float, deep_mm: float, end_mm: float) -> Points:
    """Return a strip bent to a right angle: its inner corner, of 90°, lies in the middle."""
    near, far, top = -deep_mm / 2, deep_mm / 2, long_mm / 2
    return (
        (near, top),
        (near + end_mm, top),
        (far, top / 4),
        (far, -top / 4),
        (near + end_mm, -top),
        (near, -top),
        (near, near),
        (0.0, 0.0),
        (near, -near),
    )


def crescent(long_mm: float, deep_mm: float, end_mm: float, waist_mm: float) -> Points:
    """A crescent between two arcs; its hollow side lies towards -x, `waist_mm` wide in the middle.

    `end_mm` is the width of the ends that are gripped.
    """
    near, half = -deep_mm / 2, long_mm / 2
    steps = range(-STEPS_IN_ARC, STEPS_IN_ARC + 1)
    outer = [
        (near + end_mm + _rise(half, deep_mm - end_mm, step), half * step / STEPS_IN_ARC)
        for step in steps
    ]
    inner = [
        (near + _rise(half, deep_mm - waist_mm, step), half * step / STEPS_IN_ARC)
        for step in reversed(steps)
    ]
    return (*outer, *inner)


def _rise(half_mm: float, sagitta_mm: float, step: int) -> float:
    """How far an arc of this sagitta stands above its chord, so many steps from its middle."""
    radius = (half_mm**2 + sagitta_mm**2) / (2 * sagitta_mm)
    along = half_mm * step / STEPS_IN_ARC
    return sqrt(radius**2 - along**2) - (radius - sagitta_mm)


def circle(diameter_mm: float) -> Points:
    """Return a circle, for drawing."""
    return tuple(
        (diameter_mm / 2 * cos(2 * pi * step / 48), diameter_mm / 2 * sin(2 * pi * step / 48))
        for step in range(48)
    )


def _mirrored(quarter: list[tuple[float, float]]) -> Points:
    """A quarter, from the middle outwards, mirrored to the whole outline."""
    right = [(x, -y) for x, y in reversed(quarter)] + quarter
    left = [(-x, y) for x, y in reversed(right)]
    return tuple(dict.fromkeys(right + left))
