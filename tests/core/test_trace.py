"""Peaks against the plain definition: walk from every top until greater ground."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.trace import find_peaks, thin


def prominence_by_walking(force: list[float], top: int) -> float:
    def lowest(steps: range) -> float:
        low = force[top]
        for sample in steps:
            if force[sample] > force[top]:
                break
            low = min(low, force[sample])
        return low

    left = lowest(range(top - 1, -1, -1))
    right = lowest(range(top + 1, len(force)))
    return force[top] - max(left, right)


def tops_by_walking(force: list[float]) -> list[int]:
    tops = []
    for sample in range(1, len(force) - 1):
        end = sample
        while end + 1 < len(force) and force[end + 1] == force[sample]:
            end += 1
        if (
            force[sample - 1] < force[sample]
            and end + 1 < len(force)
            and force[end + 1] < force[sample]
        ):
            tops.append(sample)
    return tops


@given(st.lists(st.integers(0, 7), min_size=2, max_size=60))
def test_peaks_are_those_of_the_definition(heights: list[int]) -> None:
    force = [float(height) for height in heights]
    share, floor = 0.3, 0.2
    expected = [
        top
        for top in tops_by_walking(force)
        if force[top] > 0
        and force[top] >= floor * max(force)
        and prominence_by_walking(force, top) >= share * force[top] - 1e-12
    ]
    peaks = find_peaks(np.arange(len(force), dtype=float), np.array(force), share, floor)
    assert peaks.index.tolist() == expected


@given(st.lists(st.floats(-100, 100), min_size=2, max_size=400), st.integers(10, 60))
def test_thinning_keeps_the_extremes_and_the_order(force: list[float], upper: int) -> None:
    x = np.arange(len(force), dtype=float)
    thin_x, thin_y = thin(x, np.array(force), upper)
    assert thin_y.max() == max(force)
    assert thin_y.min() == min(force)
    assert (np.diff(thin_x) > 0).all()
    assert len(thin_x) <= upper + 2
