"""What the specimens so far say of the next: the order of burning, the interval of a melt."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.methods.burning_order import order_of_burning
from endurant.core.methods.melting import advise

PLAIN = {"surface": "plain", "max_transfer_s": 45}


def burned(
    number: int, round_: str, way: str, seconds: float | None, **more: Any
) -> dict[str, Any]:
    code = {"code": "DNI"} if seconds is None else {"code": "BURN", "burn_time_s": seconds}
    return {"label": f"S{number}", "round": round_, "direction": way} | code | more


TRIED = [burned(1, "preliminary", "length", 6.2), burned(2, "preliminary", "width", 4.1)]


def test_each_way_is_tried_before_the_first_five() -> None:
    first = order_of_burning(PLAIN, [], {})
    assert first.says == ("Preliminary, original: the length, face to the flame, is not tried yet",)
    assert first.presets == {"round": "preliminary", "side": "face"}
    assert "the width" in order_of_burning(PLAIN, TRIED[:1], {}).says[0]
    raised = PLAIN | {"surface": "raised"}
    assert "length, back" in order_of_burning(raised, TRIED, {}).says[0]


def test_the_quickest_way_burns_five_times_and_a_void_one_is_burned_again() -> None:
    next_ = order_of_burning(PLAIN, TRIED, {})
    assert next_.presets == {"round": "first", "side": "face"}
    assert "0 of 5; the quickest way is the width" in next_.says[0]
    late = burned(3, "first", "width", 4.0, transfer_s=50)
    assert "0 of 5" in order_of_burning(PLAIN, [*TRIED, late], {}).says[0]
    none = [burned(1, "preliminary", "length", None), burned(2, "preliminary", "width", None)]
    assert "the quickest way is the length" in order_of_burning(PLAIN, none, {}).says[0]


@pytest.mark.parametrize(
    ("seconds", "says"),
    [
        (4.0, "Row P1 decides: class 1 as it came"),
        (3.4, "Row P2 asks for five further: 0 of 5; the quickest way is the width"),
    ],
)
def test_the_first_five_decide_or_ask_for_more(seconds: float, says: str) -> None:
    five = [burned(n, "first", "width", seconds) for n in range(3, 8)]
    assert order_of_burning(PLAIN, [*TRIED, *five], {}).says[0].startswith(says)


def test_a_guess_is_called_one() -> None:
    two = [burned(n, "first", "width", 3.0) for n in (3, 4)]
    says = order_of_burning(PLAIN, [*TRIED, *two], {}).says
    assert says[1] == "If the rest burned like those so far: class 3, row P4 (a guess)"


def test_class_three_ends_it_and_class_one_is_refurbished() -> None:
    ten = [burned(n, "first" if n < 8 else "further", "width", 3.0) for n in range(3, 13)]
    (says,) = order_of_burning(PLAIN, [*TRIED, *ten], {}).says
    assert says.startswith("Row P4 decides: CLASS 3: this cloth may not be sold")
    five = [burned(n, "first", "width", 5.0) for n in range(3, 8)]
    done = [*TRIED, *five]
    assert "refurbish" in order_of_burning(PLAIN, done, {}).says[1]
    begun = order_of_burning(PLAIN, done, {"refurbishing": "one dry clean, one wash"})
    assert begun.says[0].startswith("Preliminary, refurbished: the length")
    again = [entry | {"state": "refurbished"} for entry in done]
    assert order_of_burning(PLAIN, [*done, *again], {}).says[0].startswith("Both states")


def test_a_trial_cut_proposes_the_interval_and_the_charge() -> None:
    parameters = {"cut_interval_s": 40.0, "interval_table": "iso-newer"}
    trial = advise(parameters, [], {"trial_length_mm": 30.0, "trial_mass_g": 0.112})
    assert trial.says == (
        "A trial cut of 30 mm in 40 s: 15 mm take 20 s",
        "The trial flows at 1.68 g/10 min: charge 4 to 6 g, cut every 20 s",
        "The set-up cuts every 40 s; change it before this charge counts",
    )
    assert advise(parameters, [], {}).says == ()


def test_the_last_charge_speaks_for_the_next() -> None:
    cuts = [{"mass_g": 0.056}, {"mass_g": 0.058}, {"mass_g": 0.9, "bubbles": True}]
    kept = [{"label": "S1", "cuts": cuts}]
    says = advise({"cut_interval_s": 20.0}, kept, {}).says
    assert says == ("S1 flowed at 1.71 g/10 min: charge 4 to 6 g, cut every 20 s",)
    slow = advise({"cut_interval_s": 240.0}, [{"label": "S1", "cuts": [{"mass_g": 0.01}]}], {}).says
    assert "no interval for so slow a flow" in slow[0]
