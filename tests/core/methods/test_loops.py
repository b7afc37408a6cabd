"""Loading and return: cycles found in a trace, and what each takes, gives back and keeps."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.curve import START
from endurant.core.methods.hysteresis import Cycle, cycles_of, figures_of
from endurant.core.methods.pulling import Pull

Samples = Any


def there_and_back(peaks: list[float], low: float = 0.0, steps: int = 20) -> Samples:
    """Extension that goes up to each peak and back to `low`, in even steps."""
    parts = [np.array([low])]
    for peak in peaks:
        up = np.linspace(low, peak, steps + 1)[1:]
        parts += [up, np.linspace(peak, low, steps + 1)[1:]]
    return np.concatenate(parts)


def pull(extension_mm: Samples, force_n: Samples) -> Pull:
    top = int(np.argmax(force_n))
    return Pull(force_n, extension_mm, None, START, 0.0, top, force_n.size - 1)


def test_each_cycle_begins_turns_and_ends_where_the_jaws_do() -> None:
    assert cycles_of(there_and_back([60, 60, 60])) == [
        Cycle(0, 20, 40),
        Cycle(40, 60, 80),
        Cycle(80, 100, 120),
    ]


@pytest.mark.parametrize("count", range(1, 6))
@pytest.mark.parametrize("low", [0.0, 5.0])
def test_every_peak_is_a_cycle(count: int, low: float) -> None:
    found = cycles_of(there_and_back([60 + 2 * n for n in range(count)], low))
    assert [cycle.turn for cycle in found] == [20 + 40 * n for n in range(count)]
    assert all(a.end == b.start for a, b in pairwise(found))


def test_a_pull_without_a_return_and_one_that_stands_still_have_no_cycle() -> None:
    assert cycles_of(np.zeros(10)) == []
    assert cycles_of(np.array([3.0])) == []


def test_a_tremble_of_the_jaws_is_no_turn() -> None:
    trembling = there_and_back([60, 60])
    trembling[10:15] += np.array([0.0, 0.4, 0.0, 0.4, 0.0])
    assert len(cycles_of(trembling)) == 2


def test_a_return_that_was_cut_off_ends_where_it_came_to() -> None:
    (cycle,) = cycles_of(there_and_back([60])[:-5])
    assert (cycle.turn, cycle.end) == (20, 35)


@given(
    stiffness=st.floats(0.1, 100),
    loss=st.floats(0.01, 0.99),
    target_mm=st.floats(1, 500),
)
def test_a_return_at_a_share_of_the_force_loses_the_rest(
    stiffness: float, loss: float, target_mm: float
) -> None:
    """Up a straight line, and back along a lower one: energies are areas of triangles."""
    extension = there_and_back([target_mm], steps=50)
    force = stiffness * extension
    force[51:] *= 1 - loss
    force[50] = stiffness * target_mm
    (cycle,) = cycles_of(extension)
    figures = figures_of(pull(extension, force), cycle, 0.0)
    whole = stiffness * target_mm**2 / 2
    step = target_mm / 50
    # Between the turn and the first sample of the return the force falls over one step.
    edge = step * loss * stiffness * target_mm / 2
    assert figures["energy_in"] == pytest.approx(whole)
    assert figures["energy_out"] == pytest.approx(whole * (1 - loss) + edge, rel=1e-6)
    assert figures["hysteresis_energy"] == pytest.approx(whole * loss - edge, rel=1e-6, abs=1e-9)
    assert figures["peak_force"] == pytest.approx(stiffness * target_mm)


def test_what_is_left_is_where_the_force_falls_to_the_slack_force() -> None:
    extension = there_and_back([60])
    force = 0.5 * extension
    force[21:] = np.clip(0.5 * (extension[21:] - 12), 0, None)
    (cycle,) = cycles_of(extension)
    assert figures_of(pull(extension, force), cycle, 0.0)["residual_extension"] == pytest.approx(12)
    at_slack = figures_of(pull(extension, force), cycle, 1.0)["residual_extension"]
    assert at_slack == pytest.approx(14)


def test_a_force_that_never_falls_so_far_leaves_nothing_to_say() -> None:
    extension = there_and_back([60])
    (cycle,) = cycles_of(extension)
    figures = figures_of(pull(extension, 0.5 * extension + 5), cycle, 1.0)
    assert figures["residual_extension"] is None


def test_without_any_work_there_is_no_share_of_it() -> None:
    extension = there_and_back([60])
    (cycle,) = cycles_of(extension)
    figures = figures_of(pull(extension, np.zeros_like(extension)), cycle, 0.1)
    assert (figures["energy_in"], figures["hysteresis_percent"]) == (0.0, None)
