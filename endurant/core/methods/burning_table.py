"""The table of 16 CFR 1610: what five or ten specimens of a surface decide, row by row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

PLAIN_CODES = {
    "DNI": "did not ignite",
    "IBE": "ignited, and went out",
    "BURN": "burned to the thread",
}
RAISED_CODES = {
    "SFuc": "flash under the thread, which did not break",
    "SFpw": "flash part of the way",
    "SFpoi": "flash at the point of the flame only",
    "SFonly": "flash to the thread, base unharmed",
    "SFBB": "base burns, lit by the flash away from the point of the flame",
    "SFBBpoi": "base burns, lit at the point of the flame",
    "SFBBpoi*": "base burns, possibly lit at the point of the flame",
}
BASE_BURN = "SFBB"
ROUND_SIZE = 5
PLAIN_LIMIT = 35
RAISED_LOW, RAISED_HIGH = 40, 70
"""Limits of the burn time in tenths of a second."""


@dataclass(frozen=True)
class Finding:
    """What a table says of one state: the row, and the class when it gives one."""

    row: str | None
    fire_class: int | None
    entered: tuple[str, ...]

    @property
    def asks_for_more(self) -> bool:
        """The row asks for five further specimens."""
        return self.row in ("P2", "R4")

    @property
    def inconclusive(self) -> bool:
        """Nothing can be said from ten."""
        return self.row in ("P5", "R8") and self.fire_class is None


Burned = tuple[int | None, str]
"""Burn time in tenths of a second, or None, and the code of one specimen."""


def plain_row(burned: Sequence[Burned]) -> tuple[str, int | None]:
    """Return row and class of a plain surface after 5 or 10 specimens (16 CFR 1610)."""
    times = [tenths for tenths, _ in burned if tenths is not None]
    quick = bool(times) and sum(times) < PLAIN_LIMIT * len(times)
    if len(burned) <= ROUND_SIZE:
        return ("P2", None) if quick else ("P1", 1)
    if len(times) == 1 and quick:
        return "P5", None
    return ("P4", 3) if quick else ("P3", 1)


def raised_row(burned: Sequence[Burned]) -> tuple[str, int | None]:
    """Return row and class of a raised surface after 5 or 10 specimens (16 CFR 1610)."""
    times = [tenths for tenths, _ in burned if tenths is not None]
    base_burns = sum(code == BASE_BURN for _, code in burned)
    total, n = sum(times), len(times)
    ten = len(burned) > ROUND_SIZE
    if n <= 1:
        flagged = n == 1 and total < RAISED_LOW and base_burns > 0
        if ten:
            return "R8", None if flagged else 1
        return ("R4", None) if flagged else ("R1", 1)
    few = 2 if ten else 1
    if total > RAISED_HIGH * n or base_burns <= few:
        return ("R5" if ten else "R2"), 1
    if total >= RAISED_LOW * n:
        return ("R6" if ten else "R3"), 2
    return ("R7", 3) if ten else ("R4", None)


def finding_of(
    first: Sequence[tuple[str, Burned]], further: Sequence[tuple[str, Burned]], surface: str
) -> Finding:
    """Return what the table says of the first five, and of all ten where it asks for them."""
    decide = plain_row if surface == "plain" else raised_row
    labels = tuple(label for label, _ in first)
    if len(first) < ROUND_SIZE:
        return Finding(None, None, labels)
    row, fire_class = decide([burned for _, burned in first])
    finding = Finding(row, fire_class, labels)
    if not finding.asks_for_more or len(further) < ROUND_SIZE:
        return finding
    both = [*first, *further]
    row, fire_class = decide([burned for _, burned in both])
    return Finding(row, fire_class, tuple(label for label, _ in both))
