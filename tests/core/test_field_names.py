"""Names of fields in words, each unit taken from its whole ending."""

from __future__ import annotations

import pytest

from endurant.core.field_names import spoken, title_and_unit


@pytest.mark.parametrize(
    ("name", "title", "unit"),
    [
        ("speed_mm_min", "speed", "mm/min"),
        ("gauge_length_mm", "gauge length", "mm"),
        ("soak_min", "soak", "min"),
        ("mass_per_area_g_m2", "mass per area", "g/m²"),
        ("break_type", "break type", ""),
        ("plies", "plies", ""),
        ("_mm", " mm", ""),
    ],
)
def test_a_name_is_its_words_and_its_unit(name: str, title: str, unit: str) -> None:
    assert title_and_unit(name) == (title, unit)


def test_a_name_is_said_with_its_unit_behind_it() -> None:
    assert spoken("size_mm") == "size (mm)"
    assert spoken("due_at") == "due at"
