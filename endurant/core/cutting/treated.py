"""Cloth that is treated as one piece, such as dry cleaned and washed, before specimens are cut."""

from __future__ import annotations

from dataclasses import replace

from endurant.core.methods.guide import Blank

ROUND_MM = 25.0
"""Kept around the specimens on every side: edges fray, and cloth shrinks."""
BETWEEN_MM = 3.0


def cloth_for(blank: Blank, specimens: int) -> Blank:
    """Return the piece of cloth in mm that so many specimens are cut from, after its treatment."""
    return replace(
        blank,
        outline="rectangle",
        long_mm=blank.long_mm + 2 * ROUND_MM,
        short_mm=specimens * (blank.short_mm + BETWEEN_MM) - BETWEEN_MM + 2 * ROUND_MM,
        works_on="treated in one piece",
        inner_marks=(),
        points_mm=(),
        stagger="none",
        keeps_crossing_apart=False,
        die_cut=False,
    )
