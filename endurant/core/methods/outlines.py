"""Outlines of dies and machined bars, in mm from the middle, the long side along y."""

from __future__ import annotations

from math import acos, cos, pi, sin, sqrt

Points = tuple[tuple[float, float], ...]
STEPS_IN_ARC = 8


def dumbbell(
    long_mm: float, wide_mm: float, narrow_long_mm: float, narrow_mm: float, apart_mm: float
) -> Points:
    """A dumbbell whose shoulders are arcs from the narrow part to the full width.

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


def crescent(long_mm: float, deep_mm: float, hollow_mm: float) -> Points:
    """A crescent: a bowed strip, its hollow edge to the right."""
    half = long_mm / 2
    points = []
    for depth, turns in ((0.0, range(17)), (hollow_mm, range(16, -1, -1))):
        for step in turns:
            y = -half + long_mm * step / 16
            bow = deep_mm * sqrt(max(1 - (y / half) ** 2, 0.0))
            points.append((bow - depth * (1 - (y / half) ** 2) - deep_mm / 2, y))
    return tuple(points)


def right_angle(arm_mm: float, wide_mm: float) -> Points:
    """A 90° angle whose inner corner lies in the middle of the specimen."""
    lean = 1 / sqrt(2)
    half = wide_mm / 2
    outer = [(half, 0.0), (half + arm_mm * lean - half, arm_mm * lean + half)]
    tip = (arm_mm * lean - wide_mm * lean, arm_mm * lean + wide_mm * lean)
    upper = [(-half, 0.0), tip, (arm_mm * lean, arm_mm * lean)]
    lower = [(x, -y) for x, y in reversed(upper[1:])]
    return (upper[0], upper[1], upper[2], (outer[0][0], 0.0), *lower)


def circle(diameter_mm: float) -> Points:
    """A circle, for drawing."""
    return tuple(
        (diameter_mm / 2 * cos(2 * pi * step / 48), diameter_mm / 2 * sin(2 * pi * step / 48))
        for step in range(48)
    )


def _mirrored(quarter: list[tuple[float, float]]) -> Points:
    """A quarter, from the middle outwards, mirrored to the whole outline."""
    right = [(x, -y) for x, y in reversed(quarter)] + quarter
    left = [(-x, y) for x, y in reversed(right)]
    return tuple(dict.fromkeys(right + left))
