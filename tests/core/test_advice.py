"""What the specimens so far say of the next: the order of burning, the interval of a melt."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.methods.burning_order import NOT_FOR_SALE, order_of_burning, strips_due
from endurant.core.methods.melting import advise

PLAIN = {"surface": "plain", "max_transfer_s": 45}


def burned(
    number: int, round_: str, way: str, seconds: float | None, **more: Any
) -> dict[str, Any]:
    code = {"code": "DNI"} if seconds is None else {"code": "BURN", "burn_time_s": seconds}
    return {"label": f"S{number}", "round": round_, "direction": way} | code | more


TRIED = [burned(1, "preliminary", "length", 6.2), burned(2, "preliminary", "width", 4.1)]


def ways(parameters: dict[str, Any], entries: list[dict[str, Any]]) -> list[tuple[str, str, int]]:
    """Direction, side and count of what the rule calls next."""
    return [
        (due.direction, due.presets["side"], due.count) for due in strips_due(parameters, entries)
    ]


def test_each_way_is_tried_before_the_first_five() -> None:
    assert ways(PLAIN, []) == [("length", "face", 1), ("width", "face", 1)]
    (due,) = strips_due(PLAIN, TRIED[:1])
    assert (due.direction, due.presets["round"]) == ("width", "preliminary")
    raised = PLAIN | {"surface": "raised"}
    assert ways(raised, TRIED) == [("length", "back", 1), ("width", "back", 1)]
    assert "length with the back up" in order_of_burning(raised, TRIED, {}).text[0]


def test_the_quickest_way_burns_five_times_and_a_void_one_is_burned_again() -> None:
    assert ways(PLAIN, TRIED) == [("width", "face", 5)]
    assert (
        "0 of 5 burned. The quickest way is the width" in order_of_burning(PLAIN, TRIED, {}).text[0]
    )
    late = burned(3, "first", "width", 4.0, transfer_s=50)
    assert ways(PLAIN, [*TRIED, late]) == [("width", "face", 5)]
    none = [burned(1, "preliminary", "length", None), burned(2, "preliminary", "width", None)]
    assert ways(PLAIN, none) == [("length", "face", 5)]


@pytest.mark.parametrize(
    ("seconds", "due"), [(4.0, ("preliminary", "refurbished")), (3.4, ("further", "original"))]
)
def test_the_first_five_decide_or_ask_for_more(seconds: float, due: tuple[str, str]) -> None:
    five = [burned(n, "first", "width", seconds) for n in range(3, 8)]
    first = strips_due(PLAIN, [*TRIED, *five])[0]
    assert (first.presets["round"], first.presets["state"]) == due
    assert first.treated is (due[1] == "refurbished")


def test_a_guess_is_called_one() -> None:
    two = [burned(n, "first", "width", 3.0) for n in (3, 4)]
    wording = order_of_burning(PLAIN, [*TRIED, *two], {}).text
    assert wording[1] == "If the rest burn like those so far: class 3, row P4 (a guess)"


def test_class_three_ends_it_and_class_one_is_refurbished() -> None:
    ten = [burned(n, "first" if n < 8 else "further", "width", 3.0) for n in range(3, 13)]
    wording = order_of_burning(PLAIN, [*TRIED, *ten], {}).text
    assert wording[:2] == ("Original: class 3, row P4", NOT_FOR_SALE)
    assert strips_due(PLAIN, [*TRIED, *ten]) == []
    five = [burned(n, "first", "width", 5.0) for n in range(3, 8)]
    done = [*TRIED, *five]
    assert order_of_burning(PLAIN, done, {}).text[0].startswith("Preliminary, refurbished")
    again = [entry | {"state": "refurbished"} for entry in done]
    assert strips_due(PLAIN, [*done, *again]) == []
    assert order_of_burning(PLAIN, [*done, *again], {}).text == (
        "Original: class 1, row P1",
        "Refurbished: class 1, row P1",
        "The class is decided: no further specimen is needed",
    )


def test_a_trial_cut_proposes_the_interval_and_the_charge() -> None:
    parameters = {"cut_interval_s": 40.0, "interval_table": "iso-newer"}
    trial = advise(parameters, [], {"trial_length_mm": 30.0, "trial_mass_g": 0.112})
    assert trial.text == (
        "Trial cut: 30 mm in 40 s. A cut of 15 mm takes 20 s",
        "Flow rate of the trial: 1.68 g/10 min. Charge 4 to 6 g and cut every 20 s",
    )
    assert trial.proposes == {"cut_interval_s": 20.0}
    at_once = {"trial_interval_s": 10.0, "trial_length_mm": 30.0}
    assert advise(parameters, [], at_once).proposes == {"cut_interval_s": 5.0}
    assert advise(parameters, [], {}).text == ()


def test_the_last_charge_speaks_for_the_next() -> None:
    cuts = [{"mass_g": 0.056}, {"mass_g": 0.058}, {"mass_g": 0.9, "bubbles": True}]
    kept = [{"label": "S1", "cuts": cuts}]
    kept_advice = advise({"cut_interval_s": 20.0}, kept, {})
    assert kept_advice.text == (
        "Flow rate of S1: 1.71 g/10 min. Charge 4 to 6 g and cut every 20 s",
    )
    assert kept_advice.proposes == {}
    slow = advise({"cut_interval_s": 240.0}, [{"label": "S1", "cuts": [{"mass_g": 0.01}]}], {}).text
    assert "no interval for so low a flow rate" in slow[0]
