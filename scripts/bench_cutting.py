"""`make bench`: how quickly a full sheet is placed, how long it is, whether it keeps every rule."""

from __future__ import annotations

import time
from typing import Any

from endurant.core.cutting.document import cut_document
from tests.core.sheet_checker import wrong_with

END_MM = 50.0
TRIES_S = (0.0, 5.0, 9.0)
MARGIN_MM = 50.0
WIDTH_MM = 1500.0
KERF_MM = 3.0
AVOID = [
    {"reason": "crease", "polygon": [[0, 700], [1500, 720], [1500, 740], [0, 720]]},
    {"reason": "stain", "polygon": [[300, 250], [360, 240], [390, 290], [340, 330], [295, 300]]},
    {"reason": "hole", "polygon": [[1100, 400], [1140, 400], [1140, 440], [1100, 440]]},
]
TESTS: tuple[tuple[str, tuple[str | None, ...], int, dict[str, Any]], ...] = (
    ("tear", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 200, "short_mm": 50}),
    ("strip", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 350, "short_mm": 60}),
    ("grab", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 200, "short_mm": 100}),
    ("seam", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 400, "short_mm": 100}),
    ("peel", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 150, "short_mm": 25}),
    ("burst", (None,), 8, {"kind": "disc", "diameter_mm": 130}),
    ("rub", (None,), 8, {"kind": "disc", "diameter_mm": 140}),
    ("stiffness", ("warp", "weft"), 5, {"kind": "rectangle", "long_mm": 250, "short_mm": 25}),
)


def sheet(stagger: str, seconds: float) -> dict[str, Any]:
    """A cutting document: 90 specimens of 8 tests around three areas to avoid."""
    groups = [
        {
            "test": test,
            "direction": direction,
            "count": count,
            "spares": 1,
            "selvedge_margin_mm": MARGIN_MM,
            "stagger": "none" if shape["kind"] == "disc" else stagger,
            "shape": shape,
        }
        for test, directions, count, shape in TESTS
        for direction in directions
    ]
    return {
        "width_mm": WIDTH_MM,
        "avoid": AVOID,
        "groups": groups,
        "kerf_mm": KERF_MM,
        "time_limit_s": seconds,
    }


def plain_length(document: dict[str, Any]) -> float:
    """Total area of the specimens with their kerfs, over the usable width, in mm."""
    total = 0.0
    for group in document["groups"]:
        shape = group["shape"]
        count = group["count"] + group["spares"]
        if shape["kind"] == "disc":
            total += count * 3.141592653589793 * ((shape["diameter_mm"] + KERF_MM) / 2) ** 2
        else:
            total += count * (shape["long_mm"] + KERF_MM) * (shape["short_mm"] + KERF_MM)
    return total / (WIDTH_MM - 2 * MARGIN_MM)


def main() -> None:
    """Print the table."""
    print(f"{'stagger':<12}{'asked, s':>9}{'took, s':>9}{'length':>9}{'area/width':>12}{'over':>8}")
    for stagger in ("none", "lengthwise"):
        for seconds in TRIES_S:
            document = sheet(stagger, seconds)
            began = time.perf_counter()
            answer = cut_document(document)
            took = time.perf_counter() - began
            lower = plain_length(document)
            used = answer["length_needed_mm"] - 2 * END_MM
            count, wrong = len(answer["placements"]), wrong_with(document, answer)
            print(
                f"{stagger:<12}{seconds:>9.0f}{took:>9.2f}{answer['length_needed_mm']:>9.0f}"
                f"{lower:>12.0f}{100 * (used / lower - 1):>7.1f}%"
                f"  {count} specimens, {'every rule kept' if not wrong else wrong[0]}"
            )


if __name__ == "__main__":
    main()
