"""The simulated specimen: repeatable, believable, and its slip can be seen."""

from __future__ import annotations

import numpy as np

from endurant.core.simulate.tear import TearSpecimen, sample_tear, specimen_from_label
from endurant.core.trace import find_peaks


def test_the_same_label_gives_the_same_specimen() -> None:
    specimen, again = (sample_tear(specimen_from_label("J-1-1-W1"), 40) for _ in range(2))
    assert specimen == again
    assert specimen != sample_tear(specimen_from_label("J-1-1-W2"), 40)


def test_peaks_stand_at_the_yarn_spacing() -> None:
    columns = sample_tear(TearSpecimen(5, yarn_spacing_mm=4), 150)
    peaks = find_peaks(np.array(columns["extension_mm"]), np.array(columns["force_n"]), 0.1, 0.05)
    assert np.median(np.diff(peaks.extension_mm)) == np.float64(4).round(0)


def test_a_slip_lets_the_force_fall_and_come_back() -> None:
    columns = sample_tear(TearSpecimen(5, fault="jaw-slip", slip_at_mm=85, slip_mm=14), 150)
    x, f = np.array(columns["extension_mm"]), np.array(columns["force_n"])
    level = f[(x > 40) & (x < 80)].mean()
    assert f[(x > 86) & (x < 98)].mean() < 0.4 * level
    assert f[(x > 105) & (x < 140)].mean() > 0.8 * level
