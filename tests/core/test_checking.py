"""Reference checks: limits, the rules of a run of readings, and units that were mistaken."""

from __future__ import annotations

import pytest

from endurant.core.checking import Aim, judge, refuse_aim, refuse_unit
from endurant.core.refusals import Invalid, NeedsReason

FOIL = Aim(target=412.0, warn=8.0, limit=14.0, unit="kPa")


@pytest.mark.parametrize(
    ("before", "value", "verdict"),
    [
        ([], 412, "good"),
        ([], 426, "good"),
        ([], 426.01, "out"),
        ([], 397.99, "out"),
        ([421], 421, "watch"),
        ([421], 403, "good"),
        ([421, 412], 421, "watch"),
        ([421, 412, 412], 421, "good"),
        ([413] * 6, 413, "watch"),
        ([413] * 5, 413, "good"),
        ([413, 413, 413, 412, 413, 413], 413, "good"),
    ],
)
def test_a_reading_is_judged_with_those_before_it(
    before: list[float], value: float, verdict: str
) -> None:
    assert judge(before, value, FOIL).verdict == verdict


def test_the_words_say_by_how_much_and_what_is_allowed() -> None:
    wording = judge([], 430.5, FOIL).text
    assert wording == "18.5 kPa above the target of 412 kPa; 14 kPa at most"
    assert judge([], 412, FOIL).text == "on the target of 412 kPa"


@pytest.mark.parametrize(
    ("value", "unit", "names"),
    [
        (59.8, "", "check.unit-confused"),
        (412, "psi", "check.unit-differs"),
        (0.412, "", "check.unit-confused"),
    ],
)
def test_a_value_in_another_unit_is_refused_and_named(value: float, unit: str, names: str) -> None:
    with pytest.raises((Invalid, NeedsReason), match=names):
        refuse_unit(value, unit, FOIL)


def test_a_doubtful_value_is_taken_from_who_is_sure_of_it_but_in_no_other_unit() -> None:
    refuse_unit(59.8, "", FOIL, is_sure=True)
    assert judge([], 59.8, FOIL).verdict == "out"
    with pytest.raises(Invalid, match="check.unit-differs"):
        refuse_unit(412, "psi", FOIL, is_sure=True)


def test_a_value_that_is_merely_bad_is_no_slip_of_units() -> None:
    refuse_unit(450, "kPa", FOIL)
    refuse_unit(5, "", Aim(target=0.0, warn=1.0, limit=2.0, unit="J"))


@pytest.mark.parametrize(("warn", "limit"), [(9, 8), (0, 8), (1, 0)])
def test_limits_that_cannot_be_are_refused(warn: float, limit: float) -> None:
    with pytest.raises(Invalid):
        refuse_aim(Aim(10, warn, limit, "g"))
