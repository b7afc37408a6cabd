"""Figures and days as a laboratory writes them."""

from __future__ import annotations

from datetime import date

import pytest

from endurant.core.writing import DateStyle, Writing


@pytest.mark.parametrize(
    ("style", "wording"),
    [("named", "07 Nov 2026"), ("dotted", "07.11.2026"), ("iso", "2026-11-07")],
)
def test_a_day_is_written_as_the_house_does(style: DateStyle, wording: str) -> None:
    assert Writing(date_style=style).day(date(2026, 11, 7)) == wording


@pytest.mark.parametrize(
    ("text", "after"),
    [
        ("24.96 meets 25.0", "24,96 meets 25,0"),
        ("-0.25 %", "-0,25 %"),
        ("on 07.11.2026 at 12.30.15", "on 07.11.2026 at 12.30.15"),
        ("report v1.2b and 10.0.0.1", "report v1.2b and 10.0.0.1"),
        ("it was 3.5. Then 4.", "it was 3,5. Then 4."),
    ],
)
def test_a_comma_goes_into_figures_and_nowhere_else(text: str, after: str) -> None:
    assert Writing(decimal_sign="comma").figures(text) == after
    assert Writing().figures(text) == text


@pytest.mark.parametrize(
    ("figure", "unit", "reported", "wording"),
    [
        (24.0123, "N", "24.0", "5.40 lbf"),
        (1490.0, "MPa", "1490", "216100 psi"),
        (12.34, "%", "12.3", ""),
        (None, "N", None, ""),
    ],
)
def test_a_result_stands_in_inch_pound_units_too(
    figure: float | None, unit: str, reported: str | None, wording: str
) -> None:
    assert Writing(units="both").beside(figure, unit, reported) == wording
    assert Writing().beside(figure, unit, reported) == ""
