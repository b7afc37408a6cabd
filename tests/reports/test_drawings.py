"""What is drawn on paper: every value where it belongs, and words that cannot break the page."""

from __future__ import annotations

import re
from dataclasses import asdict
from xml.etree import ElementTree

from endurant.core.judging.criteria import Criterion
from endurant.core.judging.limit_rule import limit_rule
from endurant.core.methods.bursting import burst_mark
from endurant.core.methods.iso_13938_1 import BurstTrace
from endurant.core.tables import specimen_table
from endurant.reports.drawings import Drawing, draw_curves, draw_limit_rule
from endurant.work.facts.models import LimitRuleView

SVG = "{http://www.w3.org/2000/svg}"


ENTRY = {"trace": {"extension_mm": [0, 1, 2, 3, 4], "force_n": [0, 4, 5, 6, 1]}}


def rule(values: list[float], voids: list[float]) -> ElementTree.Element:
    laid_out = limit_rule(Criterion(limit="20"), "N", values, voids)
    return ElementTree.fromstring(draw_limit_rule(LimitRuleView.model_validate(laid_out)))


def test_a_rule_draws_ticks_voids_limit_and_mean() -> None:
    drawn = rule([22.0, 24.0, 26.0], [10.0])
    assert len(drawn.findall(f"{SVG}circle")) == 1
    assert len(drawn.findall(f"{SVG}polygon")) == 1
    limits = [
        specimen for specimen in drawn.findall(f"{SVG}line") if specimen.get("stroke") == "#a5322a"
    ]
    assert len(limits) == 1
    wording = [specimen.text for specimen in drawn.findall(f"{SVG}text")]
    assert "20" in wording


def test_a_guard_band_is_drawn_beside_its_limit() -> None:
    laid_out = limit_rule(Criterion(limit="20"), "N", [22.0, 24.0], [], expanded_u=1.0)
    drawn = ElementTree.fromstring(draw_limit_rule(LimitRuleView.model_validate(laid_out)))
    bands = [box for box in drawn.findall(f"{SVG}rect") if box.get("opacity") == "0.28"]
    assert len(bands) == 1
    assert len(rule([22.0, 24.0], []).findall(f"{SVG}rect[@opacity='0.28']")) == 0


def test_hatches_of_two_drawings_do_not_share_a_name() -> None:
    findall = re.findall(r"hatch-\w+", draw_limit_rule(_view([22.0])))
    other = re.findall(r"hatch-\w+", draw_limit_rule(_view([30.0])))
    assert len(set(findall)) == 1
    assert set(findall).isdisjoint(other)


def _view(values: list[float]) -> LimitRuleView:
    return LimitRuleView.model_validate(limit_rule(Criterion(limit="20"), "N", values, []))


def test_a_trace_draws_a_dot_for_every_counted_peak() -> None:
    marks = [
        {"kind": "bands", "points": [[0, 0], [1, 0], [2, 0], [3, 0], [4, 0]], "names": []},
        {"kind": "points", "points": [[2, 5], [3, 6]], "names": []},
        {"kind": "line", "points": [[2, 5.5], [3, 5.5]], "names": []},
    ]
    drawn = ElementTree.fromstring(draw_curves(ENTRY, marks))
    assert len(drawn.findall(f"{SVG}circle")) == 2
    assert len(drawn.findall(f"{SVG}polyline")) == 2


def test_a_burst_is_drawn_with_its_height() -> None:
    trace = {"time_s": [0, 1, 2], "pressure_kpa": [0.0, 300.0, 10.0], "height_mm": [0, 14.26, 2]}
    mark = burst_mark(BurstTrace.model_validate(trace))
    drawn = draw_curves({"trace": trace}, [asdict(mark)])
    wording = [each.text for each in ElementTree.fromstring(drawn).findall(f"{SVG}text")]
    assert "14.3 mm high" in wording


def test_words_are_escaped() -> None:
    drawing = Drawing(10, 10)
    drawing.text(1, 1, "<script>&")
    assert "&lt;script&gt;&amp;" in drawing.svg()


def test_the_table_keeps_every_digit_and_an_empty_cell_for_what_is_missing() -> None:
    result = {
        "specimens": [
            {
                "label": "W1",
                "direction": "warp",
                "state": "original",
                "valid": True,
                "values": {"tear_force": {"value": 1 / 3, "unit": "N"}},
                "flags": [],
            },
            {
                "label": "W2",
                "direction": None,
                "state": "original",
                "valid": False,
                "values": {"tear_force": {"value": None, "unit": "N"}},
                "flags": [{"code": "no-peaks"}],
            },
        ]
    }
    assert specimen_table(result).csv().splitlines() == [
        "label,direction,state,valid,tear_force (N),flags",
        "W1,warp,original,yes,0.3333333333333333,",
        "W2,,original,no,,no-peaks",
    ]
