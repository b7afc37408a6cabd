"""Values that answer an action at the bench."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.bench.answers import LONGEST_TEXT, answers_of
from endurant.core.methods.guide import Ask
from endurant.core.refusals import Invalid

WIDTH = Ask("width_mm", "width", "mm", low=1.0, high=100.0)
COUNT = Ask("count", "count", whole=True)
SIZES = Ask("sizes_mm", "sizes", "mm", kind="numbers")
HELD = Ask("held", "result", kind="choice", choices=("held", "failed"), means={"held": False})
NAMES = Ask("wording", "remark", kind="text", required=False)


def answered(ask: Ask, value: object) -> Any:
    return answers_of([ask], {ask.name: value})[ask.name]


@pytest.mark.parametrize(
    ("ask", "value", "read"),
    [
        (WIDTH, 15, 15.0),
        (WIDTH, 1.0, 1.0),
        (WIDTH, 100.0, 100.0),
        (COUNT, 12.0, 12),
        (SIZES, "14,9 15 15.1", [14.9, 15.0, 15.1]),
        (HELD, "failed", "failed"),
        (HELD, "held", False),
        (NAMES, "a bubble", "a bubble"),
    ],
)
def test_a_value_is_read_as_what_it_is(ask: Ask, value: object, read: object) -> None:
    assert answered(ask, value) == read
    assert type(answered(ask, value)) is type(read)


@pytest.mark.parametrize(
    ("ask", "value", "code"),
    [
        (WIDTH, "15", "bench.number-expected"),
        (WIDTH, True, "bench.number-expected"),
        (WIDTH, float("inf"), "bench.number-expected"),
        (WIDTH, float("nan"), "bench.number-expected"),
        (WIDTH, 0.99, "bench.value-out-of-range"),
        (WIDTH, 100.01, "bench.value-out-of-range"),
        (WIDTH, None, "bench.value-missing"),
        (WIDTH, "", "bench.value-missing"),
        (COUNT, 2.5, "bench.whole-number-expected"),
        (SIZES, "wide", "bench.numbers-expected"),
        (SIZES, "15 inf", "bench.numbers-expected"),
        (SIZES, " ".join(["1"] * 51), "bench.numbers-expected"),
        (HELD, "broke", "bench.choice-expected"),
    ],
)
def test_a_value_that_is_none_is_refused_with_its_field(ask: Ask, value: object, code: str) -> None:
    with pytest.raises(Invalid) as refusal:
        answered(ask, value)
    assert refusal.value.code == code
    assert refusal.value.field == ask.name


def test_a_bound_that_was_passed_is_named_with_its_unit() -> None:
    with pytest.raises(Invalid) as refusal:
        answered(WIDTH, 120.0)
    assert refusal.value.message.params["bound"] == "at most 100"
    assert "mm" in refusal.value.sentence


def test_what_need_not_be_answered_is_left_out_and_what_was_not_asked_is_not_kept() -> None:
    assert answers_of([NAMES, COUNT], {"wording": "", "count": 3, "else": 1}) == {"count": 3}
    assert answers_of([], {"count": 3}) == {}


def test_a_long_text_is_cut() -> None:
    assert len(answered(NAMES, "x" * 1000)) == LONGEST_TEXT
