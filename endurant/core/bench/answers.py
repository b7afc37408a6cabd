"""Values that answer an action: read, and refused in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import isfinite
from typing import Any

from endurant.core.decimal_commas import figure_of
from endurant.core.messages import Message, worded
from endurant.core.methods.guide import Ask
from endurant.core.refusals import Invalid

LONGEST_TEXT = 300


MAX_NUMBERS = 50


def answers_of(asks: Sequence[Ask], given: Mapping[str, Any]) -> dict[str, Any]:
    """Return the values that are asked for, each of its kind; raises Invalid."""
    answers: dict[str, Any] = {}
    for ask in asks:
        value = given.get(ask.name)
        if value is None or value == "":
            if ask.required:
                raise Invalid("bench.value-missing", value_name=ask.title, field=ask.name)
            continue
        answers[ask.name] = _answer(ask, value)
    return answers


def _answer(ask: Ask, value: object) -> object:
    if ask.kind == "numbers":
        return _numbers(ask, value)
    if ask.kind == "number":
        value = figure_of(value)
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not isfinite(float(str(value))):
            raise _refuse_answer("bench.number-expected", ask, value)
        read = float(str(value))
        _refuse_out_of_bounds(ask, read)
        if ask.whole and not read.is_integer():
            raise _refuse_answer("bench.whole-number-expected", ask, value)
        return int(read) if ask.whole else read
    if ask.kind == "choice" and value not in ask.choices:
        raise _refuse_answer("bench.choice-expected", ask, value, known=list(ask.choices))
    return ask.means.get(str(value), str(value)[:LONGEST_TEXT])


def _refuse_answer(code: str, ask: Ask, value: object, **params: object) -> Invalid:
    unit = worded("step.in", unit=ask.unit) if ask.unit else ""
    about = {"value_name": ask.title, "given": value, "unit": unit}
    return Invalid(Message(code, {**about, **params}), field=ask.name)


def _refuse_out_of_bounds(ask: Ask, read: float) -> None:
    is_low = ask.low is not None and read < ask.low
    if not is_low and not (ask.high is not None and read > ask.high):
        return
    unit = f" {ask.unit}" if ask.unit else ""
    bound = (
        worded("step.at-least", low=ask.low) if is_low else worded("step.at-most", high=ask.high)
    )
    raise Invalid(
        "bench.value-out-of-range",
        value_name=ask.title,
        read=read,
        unit=unit,
        bound=bound,
        field=ask.name,
    )


def _numbers(ask: Ask, value: object) -> list[float]:
    """Several numbers parted by spaces."""
    text = str(value).replace(",", ".").split()
    try:
        numbers = [float(word) for word in text]
    except ValueError:
        numbers = []
    if not numbers or len(numbers) > MAX_NUMBERS or not all(map(isfinite, numbers)):
        raise _refuse_answer("bench.numbers-expected", ask, value)
    return numbers
