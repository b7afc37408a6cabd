"""Cutting documents: answered within every rule, or refused in words."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from endurant.cli import main
from endurant.core.cutting.document import cut_document
from endurant.core.methods import all_methods, find_method
from endurant.core.refusals import Invalid
from tests.core.sheet_checker import wrong_with

RECTANGLE = {"kind": "rectangle", "long_mm": 200, "short_mm": 50}
DISC = {"kind": "disc", "diameter_mm": 130}
CREASE = {"reason": "crease", "polygon": [[0, 400], [1500, 430], [1500, 470], [0, 440]]}
ANGLE = {
    "kind": "outline",
    "points": [[0, 0], [100, 0], [100, 30], [30, 30], [30, 100], [0, 100]],
}


def group(test: str, direction: str | None, shape: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {
        "test": test,
        "direction": direction,
        "count": 5,
        "spares": 1,
        "selvedge_margin_mm": 50,
        "shape": shape,
    } | more


def document(**changes: Any) -> dict[str, Any]:
    return {
        "width_mm": 1500,
        "length_mm": 1200,
        "avoid": [CREASE],
        "groups": [
            group("tear", "warp", RECTANGLE, selvedge_margin_mm=150, stagger="lengthwise"),
            group("tear", "weft", RECTANGLE, selvedge_margin_mm=150, stagger="lengthwise"),
            group("burst", None, DISC, stagger="none"),
            group("angle", "md", ANGLE, stagger="none"),
        ],
        "time_limit_s": 0,
    } | changes


def test_a_whole_sheet_keeps_every_rule() -> None:
    request = document()
    answer = cut_document(request)
    assert answer["fits"]
    assert answer["relaxation"] is None
    assert len(answer["placements"]) == 24
    assert wrong_with(request, answer) == []
    assert answer["length_bound_mm"] <= answer["length_needed_mm"] <= 1200
    assert answer["tests_that_fit"] == ["tear", "burst", "angle"]


def test_the_solver_keeps_every_rule_and_is_no_longer() -> None:
    first = cut_document(document())
    request = document(time_limit_s=2)
    solved = cut_document(request)
    assert wrong_with(request, solved) == []
    assert solved["length_needed_mm"] <= first["length_needed_mm"]


def test_what_is_locked_stays_and_the_rest_goes_around_it() -> None:
    locked = [{"test": "tear", "direction": "warp", "number": 1, "x_mm": 700.5, "y_mm": 200}]
    request = document(locked=locked)
    answer = cut_document(request)
    first = answer["placements"][0]
    assert (first["number"], first["x_mm"], first["y_mm"], first["locked"]) == (1, 700.5, 200, True)
    assert wrong_with(request, answer) == []


def test_a_locked_specimen_that_breaks_a_rule_is_said() -> None:
    locked = [{"test": "tear", "direction": "warp", "number": 1, "x_mm": 60, "y_mm": 200}]
    answer = cut_document(document(locked=locked))
    assert not answer["fits"]
    assert answer["relaxation"]["rule"] == "locked"
    assert "35 mm from the left selvedge" in answer["relaxation"]["words"]


def test_without_a_length_the_least_is_looked_for() -> None:
    request = document(length_mm=None)
    answer = cut_document(request)
    assert answer["fits"]
    assert wrong_with(request, answer) == []
    again = cut_document(document(length_mm=answer["length_needed_mm"]))
    assert again["fits"]


def test_too_short_a_sample_names_the_length_and_the_tests_that_fit() -> None:
    request = document(length_mm=320, avoid=[])
    answer = cut_document(request)
    assert not answer["fits"]
    assert answer["relaxation"]["rule"] == "length"
    assert answer["relaxation"]["needs_mm"] > 320
    assert "mm too short" in answer["relaxation"]["words"]
    assert answer["unplaced"]
    assert wrong_with(request, answer) == []
    assert 0 < len(answer["tests_that_fit"]) < 3
    enough = cut_document(request | {"length_mm": answer["relaxation"]["needs_mm"]})
    assert enough["fits"]


def test_one_spare_fewer_is_offered_where_it_is_enough() -> None:
    six = group("tear", "warp", RECTANGLE, selvedge_margin_mm=150, stagger="lengthwise")
    answer = cut_document({"width_mm": 570, "length_mm": 2000, "groups": [six], "time_limit_s": 0})
    assert not answer["fits"]
    assert answer["relaxation"]["spares_fewer"] == {"tear/warp": 1}
    assert "30 mm too narrow" in answer["relaxation"]["words"]
    assert "or 1 spare fewer would do" in answer["relaxation"]["words"]


def test_an_area_over_the_whole_sheet_says_what_length_would_do() -> None:
    whole = {"reason": "stain", "polygon": [[0, 0], [1500, 0], [1500, 1200], [0, 1200]]}
    answer = cut_document(document(avoid=[whole]))
    assert not answer["fits"]
    assert answer["placements"] == []
    assert answer["relaxation"]["needs_mm"] > 1200


def test_a_concave_area_is_gone_around() -> None:
    hook = {
        "reason": "splice",
        "polygon": [[300, 100], [900, 100], [900, 160], [360, 160], [360, 500], [300, 500]],
    }
    request = document(avoid=[hook])
    answer = cut_document(request)
    assert answer["fits"]
    assert wrong_with(request, answer) == []


@settings(max_examples=20, deadline=None)
@given(
    width=st.floats(560, 1800),
    corners=st.lists(
        st.tuples(st.floats(0, 1500), st.floats(0, 900)), min_size=3, max_size=3, unique=True
    ),
    long=st.floats(30, 250),
    short=st.floats(10, 90),
    stagger=st.sampled_from(["none", "lengthwise", "both"]),
)
def test_whatever_is_placed_keeps_every_rule(
    width: float, corners: list[Any], long: float, short: float, stagger: str
) -> None:
    shape = {"kind": "rectangle", "long_mm": max(long, short), "short_mm": min(long, short)}
    request = document(
        width_mm=width,
        length_mm=1000,
        avoid=[{"reason": "hole", "polygon": [list(corner) for corner in corners]}],
        groups=[
            group("strip", "warp", shape, stagger=stagger),
            group("strip", "weft", shape, stagger=stagger),
            group("burst", None, DISC, stagger="none"),
        ],
    )
    try:
        answer = cut_document(request)
    except Invalid as refusal:
        assert refusal.field == "avoid"  # noqa: PT017 - hardly any area, or none on the sheet
        return
    assert wrong_with(request, answer) == []
    assert answer["fits"] == (answer["relaxation"] is None)


def test_a_piece_without_a_direction_is_turned_where_that_helps() -> None:
    long = {"kind": "rectangle", "long_mm": 400, "short_mm": 30}
    request = {
        "width_mm": 200,
        "groups": [group("bar", None, long, selvedge_margin_mm=10, stagger="none")],
        "time_limit_s": 0,
    }
    answer = cut_document(request)
    assert answer["fits"]
    assert {placement["long_side"] for placement in answer["placements"]} == {"warp"}


def test_every_method_that_is_cut_can_be_asked_for_by_its_name() -> None:
    cut = [name for name, method in all_methods().items() if method.guide.blank is not None]
    for method in cut:
        answer = cut_document({"width_mm": 2400, "tests": [{"method": method}], "time_limit_s": 0})
        assert answer["fits"], method
        assert answer["length_needed_mm"] < 8000


@pytest.mark.parametrize(
    ("changes", "field", "wording"),
    [
        ({"width_mm": 0}, "width_mm", "field.too-low"),
        ({"length_mm": 0}, "length_mm", "field.too-low"),
        ({"width_mm": -3}, "width_mm", "field.too-low"),
        ({"width_mm": "wide"}, "width_mm", "field.number-expected"),
        ({"width_mm": float("nan")}, "width_mm", "field.number-expected"),
        ({"groups": []}, "groups", "cutting.no-groups"),
        (
            {"groups": [group("tear", "warp", RECTANGLE, count=500)]},
            "groups",
            "cutting.too-many-pieces",
        ),
        ({"groups": [group("tear", "warp", RECTANGLE, count=-1)]}, "count", "field.below-min"),
        (
            {"groups": [group("tear", "warp", {"kind": "disc"})]},
            "shape",
            "cutting.shape-size-missing",
        ),
        (
            {"groups": [group("a", None, RECTANGLE), group("a", None, DISC)]},
            "groups",
            "cutting.group-twice",
        ),
        (
            {"avoid": [{"reason": "hole", "polygon": [[0, 0], [9, 9], [9, 0], [0, 9]]}]},
            "avoid",
            "area.crosses-itself",
        ),
        (
            {"avoid": [{"reason": "hole", "polygon": [[0, 0], [9, 9]]}]},
            "avoid",
            "area.too-few-corners",
        ),
        (
            {"avoid": [{"reason": "hole", "polygon": [[2000, 0], [2100, 0], [2100, 9]]}]},
            "avoid",
            "area.off-the-sheet",
        ),
        (
            {"locked": [{"test": "tear", "direction": "warp", "number": 9, "x_mm": 1, "y_mm": 1}]},
            "locked",
            "cutting.locked-unknown",
        ),
        ({"tests": [{"method": "bubble-leak"}]}, "tests", "cutting.method-not-cut"),
        ({"colour": "red"}, "colour", "field.unknown"),
    ],
)
def test_what_makes_no_sense_is_refused(changes: dict[str, Any], field: str, wording: str) -> None:
    with pytest.raises(Invalid, match=wording) as refused:
        cut_document(document(**changes))
    assert refused.value.field == field


def test_the_command_answers_and_refuses(tmp_path: Any, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "sheet.json"
    file.write_text(json.dumps(document(length_mm=100, avoid=[])))
    assert main(["cutting", str(file)]) == 0
    assert json.loads(capsys.readouterr().out)["fits"] is False
    file.write_text(json.dumps(document(width_mm=0)))
    assert main(["cutting", str(file)]) == 2
    assert "width_mm" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("method", "parameters", "size"),
    [
        ("iso-13938-1", {}, (130, 130)),
        ("iso-13938-1", {"test_area_cm2": 100}, (165, 165)),
        ("iso-13938-1", {"test_area_cm2": 7.3}, (85, 85)),
        ("astm-d4595", {"grips": "Roller grips"}, (1300, 200)),
        ("astm-d4595", {"grips": "wedge"}, (300, 200)),
        ("iso-13934-1", {"gauge_length_mm": 100}, (300, 60)),
        ("iso-13934-1", {"gauge_length_mm": 250}, (350, 60)),
        ("astm-f88", {"strip_width_mm": 15.0}, (150, 15)),
    ],
)
def test_a_blank_is_as_large_as_its_set_up_asks(
    method: str, parameters: dict[str, Any], size: tuple[float, float]
) -> None:
    blank = find_method(method).blank_for(parameters)
    assert blank is not None
    assert (blank.long_mm, blank.short_mm) == size
