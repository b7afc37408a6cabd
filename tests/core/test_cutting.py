"""The rules of the sheet, each broken on purpose, and the placer held against them."""

from __future__ import annotations

from dataclasses import replace

import pytest

from endurant.core.cutting.placing import place
from endurant.core.cutting.rules import broken_rules
from endurant.core.cutting.sheet import (
    AvoidedArea,
    LongSide,
    Piece,
    Placement,
    Sheet,
    long_side_for,
    works_on,
)
from endurant.core.methods.guide import Blank
from endurant.core.methods.iso_13937_2 import GUIDE

assert GUIDE.blank is not None
CUT = GUIDE.blank


def piece(key: int, long_side: LongSide = "warp") -> Piece:
    return Piece(key, f"P{key}", long_side, CUT, long_side)


def disc(key: int) -> Piece:
    blank = Blank(outline="disc", long_mm=130, short_mm=130, works_on="", selvedge_margin_mm=50)
    return Piece(key, f"P{key}", "burst", blank, "warp")


def trousers() -> list[Piece]:
    return [piece(n, "weft") for n in range(1, 7)] + [piece(n, "warp") for n in range(7, 13)]


def box(left: float, near: float, right: float, far: float, reason: str = "crease") -> AvoidedArea:
    return AvoidedArea(reason, ((left, near), (right, near), (right, far), (left, far)))


SHEET = Sheet(1000, 1000, avoided=(box(600, 600, 700, 700),))


@pytest.mark.parametrize(
    ("placements", "code", "wording"),
    [
        ([Placement(piece(1), 170, 300)], "selvedge", "145 mm from the left selvedge; 150 mm"),
        ([Placement(piece(1), 840, 300)], "selvedge", "135 mm from the right selvedge"),
        ([Placement(piece(1), 300, 120)], "cut-end", "20 mm from the cut end; 50 mm"),
        ([Placement(piece(1), 300, 880)], "cut-end", "20 mm from the far end"),
        ([Placement(piece(1), 300, 950)], "off-sheet", "50 mm over the edge"),
        ([Placement(piece(1), 650, 650)], "avoided-area", "lies on the crease"),
        ([Placement(piece(1), 572, 650)], "avoided-area", "too near the crease; 5 mm"),
        ([Placement(piece(1), 300, 300), Placement(piece(2), 340, 320)], "overlap", "P1 and P2"),
        ([Placement(piece(1), 300, 300), Placement(piece(2), 352, 300)], "kerf", "2.0 mm apart"),
        ([Placement(disc(1), 300, 300), Placement(disc(2), 394, 394)], "kerf", "2.9 mm apart"),
        ([Placement(disc(1), 300, 300), Placement(piece(2), 300, 300)], "overlap", "P1 and P2"),
        (
            [Placement(piece(1), 300, 200), Placement(piece(2), 330, 500)],
            "shared-yarns",
            "hold the same warp yarns over 20 mm",
        ),
        (
            [Placement(piece(1, "weft"), 300, 200), Placement(piece(2, "weft"), 700, 240)],
            "shared-yarns",
            "hold the same weft yarns over 10 mm",
        ),
    ],
)
def test_each_rule_is_named_where_it_breaks(
    placements: list[Placement], code: str, wording: str
) -> None:
    by_code = {rule.code: rule for rule in broken_rules(SHEET, placements)}
    assert wording in by_code[code].sentence  # type: ignore[index]
    left, near, right, far = by_code[code].where  # type: ignore[index]
    assert left <= right
    assert near <= far


def test_a_sheet_within_every_rule_is_quiet() -> None:
    kept = [Placement(piece(1), 300, 300), Placement(piece(2), 353, 300)]
    assert broken_rules(SHEET, kept) == []


def test_discs_may_nest_where_the_boxes_around_them_overlap() -> None:
    nested = [Placement(disc(1), 300, 300), Placement(disc(2), 395, 395)]
    assert broken_rules(SHEET, nested) == []


def test_dies_may_touch_and_shears_may_not() -> None:
    die = replace(CUT, die_cut=True, selvedge_margin_mm=10)
    touching = [
        Placement(Piece(key, f"P{key}", str(key), die, "warp"), 100 + 50 * key, 300)
        for key in (1, 2)
    ]
    assert broken_rules(SHEET, touching) == []
    beside_shears = [touching[0], replace(touching[1], piece=piece(2))]
    assert [rule.code for rule in broken_rules(SHEET, beside_shears)] == ["kerf"]


def test_specimens_of_different_directions_may_cross_yarns() -> None:
    crossing = [Placement(piece(1, "warp"), 300, 300), Placement(piece(2, "weft"), 300, 500)]
    assert broken_rules(SHEET, crossing) == []


def test_everything_is_placed_on_a_roomy_sheet() -> None:
    sheet = Sheet(1480, 1000, avoided=(box(0, 100, 1480, 130),))
    plan = place(sheet, trousers())
    assert len(plan.placements) == 12
    assert broken_rules(sheet, plan.placements) == []
    assert plan.fits


@pytest.mark.parametrize(
    ("sheet", "wording"),
    [
        (Sheet(1480, 320), "mm too short. It is 320 mm long"),
        (Sheet(480, 3000), "mm too narrow. It is 480 mm wide, 600 mm are needed"),
        (Sheet(1480, 900, avoided=(box(0, 0, 1480, 900, "stain"),)), "cannot be placed"),
    ],
)
def test_a_sample_too_small_says_how_much_is_missing(sheet: Sheet, wording: str) -> None:
    relaxation = place(sheet, trousers()).relaxation
    assert relaxation is not None
    assert wording in relaxation.text


def test_the_length_asked_for_is_enough() -> None:
    short = Sheet(1480, 320)
    needed = place(short, trousers()).length_needed_mm
    assert needed is not None
    assert place(Sheet(1480, needed), trousers()).unplaced == []


def test_labels_say_which_way_it_lies_and_which_yarns_tear() -> None:
    assert long_side_for("warp", CUT, "by-failing-yarn") == "weft"
    assert long_side_for("warp", CUT, "by-long-side") == "warp"
    assert long_side_for("md", None, "by-failing-yarn") == "warp"
    assert long_side_for("cd-top", None, "by-failing-yarn") == "weft"
    assert works_on("weft", CUT) == "tears warp yarns"
    assert works_on("warp", CUT) == "tears weft yarns"


def test_the_slit_lies_along_the_long_side() -> None:
    upright = dict(Placement(piece(1, "warp"), 500, 500).inner_marks())
    lying = dict(Placement(piece(1, "weft"), 500, 500).inner_marks())
    assert upright["slit"] == [(500, 400), (500, 500)]
    assert lying["slit"] == [(400, 500), (500, 500)]
