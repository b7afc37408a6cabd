"""Figures as text with a comma: numbers where a model takes a number, text everywhere else."""

from __future__ import annotations

from typing import Annotated, Any

import pytest
from pydantic import BaseModel, Field

from endurant.core.decimal_commas import figure_of, with_figures
from endurant.core.fields import Positive


class Part(BaseModel):
    """A part of a record."""

    width_mm: Positive


class Record(BaseModel):
    """Every way in which a figure may be asked for."""

    mass_g: Positive
    change: float | None = None
    lot: str = ""
    either: float | str = ""
    widths: Annotated[list[Positive], Field(max_length=9)] = []
    size: tuple[float, str] = (0.0, "")
    by_name: dict[str, float] = {}
    parts: list[Part] = []
    part: Part | None = None
    anything: Any = None


@pytest.mark.parametrize(
    ("given", "read"),
    [
        ({"mass_g": "24,5"}, {"mass_g": 24.5}),
        ({"mass_g": " -0,25 "}, {"mass_g": -0.25}),
        ({"change": "1,0"}, {"change": 1.0}),
        ({"lot": "24,5", "either": "24,5", "anything": "24,5"}, None),
        ({"mass_g": "1,234,5"}, None),
        ({"mass_g": "24.5"}, None),
        ({"mass_g": "heavy", "unknown": "24,5"}, None),
        ({"widths": ["1,5", 2, "x"]}, {"widths": [1.5, 2, "x"]}),
        ({"size": ["1,5", "1,5"]}, {"size": [1.5, "1,5"]}),
        ({"by_name": {"a": "1,5"}}, {"by_name": {"a": 1.5}}),
        ({"parts": [{"width_mm": "1,5"}]}, {"parts": [{"width_mm": 1.5}]}),
        ({"part": {"width_mm": "1,5"}}, {"part": {"width_mm": 1.5}}),
    ],
)
def test_a_comma_is_read_where_a_number_is_taken(
    given: dict[str, Any], read: dict[str, Any] | None
) -> None:
    assert with_figures(Record, given) == (given if read is None else read)


def test_what_is_no_record_is_left_as_it_is() -> None:
    others: tuple[object, ...] = (None, [], "24,5", 3)
    for given in others:
        assert with_figures(Record, given) == given
    assert figure_of("24,5") == 24.5
    assert figure_of("24,5 N") == "24,5 N"
    assert figure_of(24) == 24
