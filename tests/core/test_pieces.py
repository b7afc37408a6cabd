"""A specimen on its sheet: how it lies, how large it is there, and which yarns it works on."""

from __future__ import annotations

from math import pi

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.cutting.sheet import (
    AvoidedArea,
    Piece,
    Placement,
    Sheet,
    kerf_between,
    lies_along,
    lies_in_words,
    long_side_for,
    way_in_words,
    worked_yarn,
    works_on,
)
from endurant.core.methods.guide import Blank

STRIP = Blank(outline="rectangle", long_mm=300, short_mm=50, works_on="pulls {yarns} yarns")
TEAR = Blank(
    outline="rectangle",
    long_mm=200,
    short_mm=50,
    fails_across=True,
    works_on="tears {yarns} yarns",
)
DISC = Blank(outline="disc", long_mm=113, short_mm=113, works_on="burst, {face} side")
BAR = Blank(
    outline="rectangle", long_mm=80, short_mm=10, cut_from="moulded-sheet", works_on="along {yarns}"
)
DIE = Blank(
    outline="die",
    long_mm=100,
    short_mm=40,
    points_mm=((-20, -50), (20, -50), (5, 0), (20, 50), (-20, 50), (-5, 0)),
    works_on="pulls {yarns} yarns",
)


def piece(blank: Blank = STRIP, side: str = "warp", **given: object) -> Piece:
    usual = {"key": 1, "label": "W1", "group": "T warp"}
    return Piece(blank=blank, long_side=side, **(usual | given))  # type: ignore[arg-type]


@pytest.mark.parametrize(("side", "size"), [("warp", (50, 300)), ("weft", (300, 50))])
def test_the_long_side_lies_along_its_yarn(side: str, size: tuple[float, float]) -> None:
    lying = piece(side=side)
    assert lying.size_mm() == size
    assert lying.turned().size_mm() == tuple(reversed(size))
    assert lying.turned().turned() == lying


@pytest.mark.parametrize("side", ["warp", "weft"])
@pytest.mark.parametrize(
    ("blank", "area"), [(STRIP, 15_000), (DISC, pi * 113**2 / 4), (DIE, 2500), (BAR, 800)]
)
def test_its_area_does_not_change_as_it_is_turned(blank: Blank, area: float, side: str) -> None:
    assert piece(blank, side).area_mm2() == pytest.approx(area)


def test_a_piece_is_turned_and_never_mirrored() -> None:
    """The face stays up: a corner on the right of the far end comes to the near end's right."""
    upright, turned = piece(DIE), piece(DIE, "weft")
    assert upright.lying((20, 50)) == (20, 50)
    assert turned.lying((20, 50)) == (50, -20)
    assert turned.lying((-20, 50)) == (50, 20)


@given(x=st.floats(-1e3, 1e3), y=st.floats(-1e3, 1e3))
def test_the_outline_moves_with_its_middle(x: float, y: float) -> None:
    for blank in (STRIP, DISC, DIE):
        here = Placement(piece(blank), x, y)
        left, near, right, far = here.bounds()
        assert (left + right) / 2 == pytest.approx(x, abs=1e-6)
        assert (near + far) / 2 == pytest.approx(y, abs=1e-6)
        assert right - left == pytest.approx(piece(blank).size_mm()[0])
        for along, across in here.outline():
            assert left - 1e-6 <= along <= right + 1e-6
            assert near - 1e-6 <= across <= far + 1e-6


def test_a_disc_is_drawn_as_a_ring_and_has_a_radius() -> None:
    ring = piece(DISC)
    assert ring.radius_mm == 56.5
    assert len(ring.outline()) == 72
    assert piece().radius_mm == 0


def test_a_margin_is_a_length_or_a_share_of_the_width_whichever_is_more() -> None:
    blank = Blank(
        outline="rectangle",
        long_mm=300,
        short_mm=50,
        selvedge_margin_mm=100,
        selvedge_share=0.1,
        works_on="",
    )
    assert piece(blank).margin_mm(800) == 100
    assert piece(blank).margin_mm(1500) == 150


@pytest.mark.parametrize(
    ("one", "other", "kerf_mm"), [(False, False, 3), (True, False, 3), (True, True, 0)]
)
def test_only_what_is_punched_on_both_sides_needs_no_cut_between(
    one: bool, other: bool, kerf_mm: float
) -> None:
    def cut(die: bool) -> Piece:
        return piece(Blank(outline="disc", long_mm=50, short_mm=50, die_cut=die, works_on=""))

    assert kerf_between(Sheet(1500, 1000), cut(one), cut(other)) == kerf_mm


@pytest.mark.parametrize(
    ("direction", "way"),
    [("warp", "warp"), ("md", "warp"), ("md-top", "warp"), ("weft", "weft"), ("cd", "weft")],
)
def test_a_direction_runs_along_or_across_the_roll(direction: str, way: str) -> None:
    assert lies_along(direction) == way


@pytest.mark.parametrize("direction", ["top", "face-out", "", "diagonal"])
def test_a_face_names_no_way(direction: str) -> None:
    assert lies_along(direction) is None
    assert long_side_for(direction, STRIP, "by-failing-yarn") == "warp"


@pytest.mark.parametrize(
    ("blank", "school", "warp_lies"),
    [
        (STRIP, "by-failing-yarn", "warp"),
        (STRIP, "by-long-side", "warp"),
        (TEAR, "by-failing-yarn", "weft"),
        (TEAR, "by-long-side", "warp"),
        (None, "by-failing-yarn", "warp"),
    ],
)
def test_a_tear_is_labelled_by_the_yarn_that_fails_or_by_its_long_side(
    blank: Blank | None, school: str, warp_lies: str
) -> None:
    assert long_side_for("warp", blank, school) == warp_lies  # type: ignore[arg-type]
    other = {"warp": "weft", "weft": "warp"}
    assert long_side_for("weft", blank, school) == other[warp_lies]  # type: ignore[arg-type]


def test_the_label_says_which_yarns_are_worked_on() -> None:
    assert worked_yarn("warp", STRIP) == "warp"
    assert worked_yarn("warp", TEAR) == "weft"
    assert works_on("warp", TEAR) == "tears weft yarns"
    assert works_on("warp", STRIP, ("md", "cd")) == "pulls machine direction yarns"
    assert works_on("weft", STRIP, ("md", "cd")) == "pulls cross direction yarns"
    assert works_on("warp", DISC, ("face-out", "face-in"), "face-in") == "burst, inner side"
    assert works_on("warp", BAR, ()) == "along its length"


def test_a_thing_without_warp_has_a_length_and_a_width() -> None:
    assert lies_in_words(piece(BAR), ()) == "length"
    assert lies_in_words(piece(BAR, "weft"), ()) == "width"
    assert lies_in_words(piece(), ("warp", "weft")) == "warp"
    assert way_in_words("weft", ("md", "cd")) == "cross direction"
    assert way_in_words("weft", ()) == "weft"


def test_a_roll_has_selvedges_and_a_moulded_sheet_has_edges() -> None:
    roll = Sheet.for_blanks([STRIP, TEAR], 1500, None)
    assert (roll.moulded, roll.end_margin_mm) == (False, 50)
    assert roll.edges[0] == "left selvedge"
    plate = Sheet.for_blanks([BAR], 200, 200)
    assert plate.moulded
    assert plate.edges == ("left edge", "right edge", "near edge", "far edge")
    assert plate.end_margin_mm < roll.end_margin_mm
    assert Sheet.for_blanks([BAR], 200, 200, end_margin_mm=7).end_margin_mm == 7
    assert not Sheet.for_blanks([BAR, STRIP], 200, 200).moulded
    assert not Sheet.for_blanks([], 200, 200).moulded


def test_pieces_of_one_group_share_yarns_unless_they_are_to_be_staggered() -> None:
    free = piece(group="A"), piece(group="A")
    assert not free[0].crosses_apart_from(free[1])
    layered = piece(group="A", layer=1), piece(group="A", layer=1), piece(group="A", layer=2)
    assert layered[0].crosses_apart_from(layered[1])
    assert not layered[0].crosses_apart_from(layered[2])
    both = Blank(outline="rectangle", long_mm=9, short_mm=5, stagger="both", works_on="")
    assert piece(both, group="A").crosses_apart_from(piece(both, group="A"))
    assert not piece(both, group="A").crosses_apart_from(piece(both, group="B"))


def test_an_avoided_area_is_the_polygon_of_its_corners() -> None:
    stain = AvoidedArea("stain", ((0, 0), (100, 0), (100, 50), (0, 50)))
    assert stain.polygon.area == 5000
