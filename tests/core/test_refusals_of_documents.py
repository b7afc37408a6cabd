"""Bad input in every kind of document is refused by code and field, and nothing is computed."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from endurant.core.conditioning.document import condition_document
from endurant.core.cutting.document import cut_document
from endurant.core.document import read_document
from endurant.core.judging.document import judge_document
from endurant.core.planning.document import read_plan
from endurant.core.refusals import Invalid
from tests.changed_example import GONE, Changes, changed, refusal_of
from tests.examples import example

FOLDER = Path(__file__).parent.parent / "plans"
FIRST = ("specimens", 0)
PALLET = "iso-8611--stiffness-wooden-pallet"
STRENGTH = "iso-8611--strength-to-the-limit"
FLAME = "16-cfr-1610--blouse-georgette-plain"
SHAKEN = "iso-8318--jar-tray-sweep"
TABLE = "iso-13355--tea-caddy-tray"
DROPPED = "iso-2248--jam-jar-case"
BOARD = "iso-3036--produce-crate-board"
IZOD = "iso-180--cold-chamber-and-late"
PAPER = "iso-2758--sack-paper"
WEAR = "linear-abrasion--bench-top-laminate"

READINGS: list[tuple[str, str, str, Changes]] = [
    (
        "reading.better-than-before",
        "inspections",
        "iso-12947-2--school-skirt-cloth-stopped",
        {(*FIRST, "inspections", 0, "acceptable"): False},
    ),
    (
        "reading.diaphragm-incomplete",
        "height_at_burst_mm",
        "iso-13938-1--swimwear-knit-traces",
        {(*FIRST, "trace"): GONE, (*FIRST, "peak_pressure_kpa"): 600.0},
    ),
    (
        "reading.burst-height-missing",
        "height_at_burst_mm",
        PAPER,
        {("parameters", "diaphragm"): [[5, 3.1], [10, 7.4]]},
    ),
    (
        "reading.channel-count",
        "datum",
        PALLET,
        {(*FIRST, "readings", "datum"): lambda old: old[:-1]},
    ),
    (
        "reading.channels-unnamed",
        "channels",
        PALLET,
        {(*FIRST, "channels", 0, "name"): "right"},
    ),
    ("reading.direction-missing", "direction", BOARD, {(*FIRST, "direction"): GONE}),
    ("reading.energy-above-capacity", "reading_j", BOARD, {(*FIRST, "reading_j"): 12.5}),
    ("reading.energy-below-friction", "reading_j", BOARD, {(*FIRST, "reading_j"): 0.15}),
    ("reading.energy-above-pendulum", "energy_j", IZOD, {(*FIRST, "energy_j"): 2.8}),
    ("reading.energy-within-friction", "energy_j", IZOD, {(*FIRST, "energy_j"): 0.0119}),
    ("reading.flame-code", "code", FLAME, {(*FIRST, "code"): "SFuc"}),
    ("reading.flame-time-missing", "burn_time_s", FLAME, {(*FIRST, "burn_time_s"): GONE}),
    (
        "reading.force-missing",
        "max_force_n",
        "iso-3037--fruit-box-board",
        {(*FIRST, "max_force_n"): GONE, (*FIRST, "trace"): None},
    ),
    (
        "reading.inspection-not-later",
        "inspections",
        SHAKEN,
        {(*FIRST, "inspections", 1, "minutes"): 30},
    ),
    (
        "reading.leak-place-given",
        "place",
        "bubble-leak--nut-pouch-none-of-20",
        {(*FIRST, "place"): "corner"},
    ),
    ("reading.pressure-missing", "peak_pressure_kpa", PAPER, {(*FIRST, "peak_pressure_kpa"): GONE}),
    (
        "reading.rub-state",
        "state",
        "iso-105-x12--flannel-pyjama-cloth",
        {(*FIRST, "state"): "damp"},
    ),
    (
        "reading.scratch-force-too-high",
        "force_n",
        "scratch--lacquered-tray",
        {(*FIRST, "traces", 0, "force_n"): 1000},
    ),
    (
        "reading.shorter-than-gauge-length",
        "length_at_break_mm",
        "astm-d412--door-gasket",
        {(*FIRST, "length_at_break_mm"): 1.0},
    ),
    ("reading.span-missing", "span_mm", STRENGTH, {("parameters", "span_mm"): GONE}),
    ("reading.strength-trace-missing", "trace", STRENGTH, {(*FIRST, "trace"): GONE}),
    (
        "reading.wear-missing",
        "mass_before_g",
        WEAR,
        {(*FIRST, "mass_before_g"): GONE, (*FIRST, "mass_after_g"): GONE},
    ),
    ("reading.wear-pair-missing", "mass_after_g", WEAR, {(*FIRST, "mass_after_g"): GONE}),
]

PARAMETERS: list[tuple[str, str, Changes]] = [
    (
        "vibration.frequency-form",
        TABLE,
        {
            ("parameters", "motion"): "sinus-vertical",
            ("parameters", "level_g_rms"): GONE,
            ("parameters", "acceleration_g"): 0.5,
        },
    ),
    ("vibration.level-form", SHAKEN, {("parameters", "amplitude_mm"): 2}),
    (
        "vibration.level-not-random",
        TABLE,
        {("parameters", "motion"): "sinus-vertical"},
    ),
    ("vibration.sweep-order", SHAKEN, {("parameters", "sweep_hz"): [100, 3]}),
    (
        "vibration.random-part",
        TABLE,
        {("parameters", "motion"): "random", ("parameters", "frequency_hz"): 4},
    ),
    ("drop.position", DROPPED, {(*FIRST, "drops", 0, "position"): "2-2"}),
    ("drop.faces-apart", DROPPED, {("parameters", "sequence", 0): "2-4"}),
    ("film.speed", "iso-527-3--bin-film-both-ways", {("parameters", "speed_mm_min"): 123}),
    (
        "pulling.toe-not-allowed",
        "iso-13934-1--deck-chair-canvas",
        {("parameters", "toe_compensation"): True},
    ),
    ("seam.ceiling-too-low", "iso-13936-1--chair-fabric", {("parameters", "ceiling_n"): 1}),
    (
        "seam.load-too-low",
        "iso-13936-2--measured-at-the-slack-force",
        {("parameters", "load_n"): 1},
    ),
    (
        "grade.unknown",
        "liquid-rub--label-varnish-and-water",
        {(*FIRST, "stain_grades", 0): "4-6"},
    ),
    (
        "digits.form",
        PAPER,
        {("parameters", "reported_to"): {"bursting_strength": {"decimals": 1, "step": "5"}}},
    ),
]


@pytest.mark.parametrize(("code", "field", "name", "changes"), READINGS)
def test_a_reading_that_cannot_be_is_refused_with_its_specimen(
    code: str, field: str, name: str, changes: Changes
) -> None:
    assert refusal_of(name, {}) is None
    refusal = refusal_of(name, changes)
    assert refusal is not None
    assert (refusal.code, refusal.field) == (code, field)
    assert changed(name, {})["specimens"][0]["label"] in refusal.sentence
    assert "{" not in refusal.sentence


@pytest.mark.parametrize(("code", "name", "changes"), PARAMETERS)
def test_a_set_up_that_cannot_be_is_refused(code: str, name: str, changes: Changes) -> None:
    assert refusal_of(name, {}) is None
    refusal = refusal_of(name, changes)
    assert refusal is not None
    assert refusal.code == code
    assert "{" not in refusal.sentence


def code_of(read: Any, document: Any) -> str:
    with pytest.raises(Invalid) as refusal:
        read(document)
    return refusal.value.code


def row(**changes: Any) -> dict[str, Any]:
    """A criterion document of one row, with changes in its criterion and its result."""
    criterion = {"on": "mean", "op": ">=", "limit": "25"} | changes.pop("criterion", {})
    result = changes.pop("result", {"values": [26, 27], "n": 2})
    one = {"property": "tear_force", "criterion": criterion, "result": result} | changes
    return {"kind": "criterion", "rows": [one]}


def limit(**parts: Any) -> dict[str, Any]:
    document = row()
    document["rows"][0]["criterion"] = parts
    return document


NO_FAILURES = {"on": "no-failures", "op": None, "limit": None, "of": 20}
CONTRIBUTION = {"name": "cell", "value": 100.0, "standard": 0.1}


@pytest.mark.parametrize(
    ("code", "document"),
    [
        ("review.document-shape", ["criterion"]),
        (
            "review.contribution-form",
            {
                "kind": "statistics",
                "values": [1, 2],
                "budget": [CONTRIBUTION | {"half_interval": 1.0}],
            },
        ),
        (
            "review.contribution-value-zero",
            {"kind": "statistics", "values": [1, 2], "budget": [CONTRIBUTION | {"value": 0}]},
        ),
        (
            "review.most-decimals-alone",
            {"kind": "rounding", "value": 1.23, "decimals": 1, "most_decimals": 2},
        ),
        (
            "sample-size.too-many",
            {"kind": "sample-size", "sd": 1000.0, "half_width": 0.001},
        ),
        (
            "review.failures-missing",
            row(criterion=NO_FAILURES),
        ),
        (
            "review.too-many-failures",
            row(
                criterion=NO_FAILURES,
                result={"failures": 3, "n": 2},
            ),
        ),
        (
            "review.grade-as-limit",
            row(
                criterion={"on": "grade", "limit": "4"},
                result={"values": [{"value": 4, "qualifier": ">"}]},
            ),
        ),
        (
            "review.grade-unknown",
            row(criterion={"on": "grade", "limit": "4"}, result={"values": ["6"]}),
        ),
        ("review.not-a-number", row(result={"values": ["4-5"]})),
        ("limit.low-above-high", limit(on="mean", op="between", low="30", high="25")),
        ("limit.part-missing", limit(on="mean", op="between", low="30")),
        ("limit.part-not-allowed", limit(on="mean", op=">=", limit="25", low="20")),
        ("limit.operator-not-allowed", limit(on="report-only", op=">=")),
        (
            "limit.none-below-not-allowed",
            limit(on="mean", op="<=", limit="25", none_below_percent=80),
        ),
        ("limit.plain-number-expected", limit(on="mean", op=">=", limit="4-5")),
    ],
)
def test_a_review_document_is_refused_by_code(code: str, document: Any) -> None:
    assert code_of(judge_document, document) == code


MOMENT = "2026-03-02T08:00:00Z"
LATER = "2026-03-02T12:00:00Z"


def log_document(**changes: Any) -> dict[str, Any]:
    case: dict[str, Any] = dict(example("conditioning--one-excursion")["input"])
    return {"kind": "conditioning", **case, **changes}


@pytest.mark.parametrize(
    ("code", "document"),
    [
        ("conditioning.document-shape", None),
        (
            "conditioning.log-humidity-missing",
            log_document(log=[[MOMENT, 20.0, 65.0], [LATER, 20.0, None]]),
        ),
        (
            "conditioning.log-time-not-rising",
            log_document(log=[[LATER, 20.0, 65.0], [MOMENT, 20.0, 65.0]]),
        ),
        (
            "conditioning.weighing-time-not-rising",
            {"kind": "conditioning", "weighings": [[LATER, 5.0], [MOMENT, 5.0]]},
        ),
    ],
)
def test_a_conditioning_document_is_refused_by_code(code: str, document: Any) -> None:
    assert code_of(condition_document, document) == code


@pytest.mark.parametrize(
    ("code", "document"),
    [
        ("document.shape", "iso-2758"),
        ("document.field-unknown", changed(PAPER, {("operator",): "Ines"})),
        ("document.method-missing", changed(PAPER, {("method",): GONE})),
        ("document.method-missing", changed(PAPER, {("method",): 2758})),
        ("document.specimens-missing", changed(PAPER, {("specimens",): []})),
        ("document.specimens-missing", changed(PAPER, {("specimens",): GONE})),
        ("document.object-expected", changed(PAPER, {("parameters",): [1]})),
    ],
)
def test_a_test_document_is_refused_by_code(code: str, document: Any) -> None:
    assert code_of(read_document, document) == code


def test_a_cutting_document_has_to_be_an_object() -> None:
    assert code_of(cut_document, []) == "cutting.document-shape"


PLAN: dict[str, Any] = json.loads((FOLDER / "ten-tests.json").read_text())


def plan(**changes: Any) -> dict[str, Any]:
    return copy.deepcopy(PLAN) | changes


def pin(**changes: Any) -> dict[str, Any]:
    """A pin of the first step of the first test."""
    test = PLAN["tests"][0]
    return {"test": test["id"], "step": test["steps"][0]["id"], "start": PLAN["now"]} | changes


def with_step(**changes: Any) -> dict[str, Any]:
    document = plan()
    document["tests"][0]["steps"] = [{"id": "only", "hands_on_minutes": 5} | changes]
    return document


@pytest.mark.parametrize(
    ("code", "document"),
    [
        ("planning.document-shape", "a plan"),
        ("planning.pin-unknown-step", plan(pinned=[pin(step="polish")])),
        ("planning.pin-twice", plan(pinned=[pin(), pin()])),
        ("planning.pin-unknown-person", plan(pinned=[pin(person="Nobody")])),
        ("planning.pin-unknown-station", plan(pinned=[pin(station="Frame 99")])),
        (
            "planning.pin-not-whole-seconds",
            plan(pinned=[pin(start=PLAN["now"].replace("Z", ".5Z"))]),
        ),
        ("planning.set-up-without-station", with_step(set_up="jaws")),
        ("planning.heat-without-set-up", with_step(station="frame", heat_c=190)),
        (
            "planning.set-up-without-hands",
            with_step(station="frame", set_up="jaws", hands_on_minutes=0),
        ),
        ("planning.until-before-now", plan(until="2000-01-01T00:00:00Z")),
    ],
)
def test_a_planning_document_is_refused_by_code(code: str, document: Any) -> None:
    read_plan(plan())
    assert code_of(read_plan, document) == code


PIECE = {"test": "T", "direction": "warp", "number": 1, "x_mm": 200, "y_mm": 200}


def sheet(**changes: Any) -> dict[str, Any]:
    """A sheet with two strips of one test."""
    group = {
        "test": "T",
        "direction": "warp",
        "count": 2,
        "shape": {"kind": "rectangle", "long_mm": 200, "short_mm": 50},
    }
    return {"width_mm": 1500, "length_mm": 1000, "groups": [group], "locked": [PIECE]} | changes


@pytest.mark.parametrize(
    ("code", "document"),
    [
        ("cutting.locked-twice", sheet(locked=[PIECE, PIECE | {"x_mm": 600}])),
        ("cutting.locked-unknown", sheet(locked=[PIECE | {"number": 9}])),
        ("cutting.locked-turned", sheet(locked=[PIECE | {"long_side": "weft"}])),
    ],
)
def test_a_locked_piece_that_cannot_be_is_refused(code: str, document: Any) -> None:
    cut_document(sheet())
    assert code_of(cut_document, document) == code
