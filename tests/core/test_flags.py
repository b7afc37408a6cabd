"""What a result is flagged with: one thing of a worked example is changed, and the flag appears."""

from __future__ import annotations

from typing import Any

import pytest

from tests.changed_example import GONE, Changes, result_of
from tests.examples import codes

MASSES = "iso-1133-1-a--bottle-cap-regrind"
VOLUMES = "iso-1133-1-b--garden-pipe-resin"
DENSITY = "melt-density--watering-can-compound"
DART = "astm-d1709--mattress-wrap"
LOOPS = "hysteresis--elastic-waistband"
HOLD = "relaxation--window-seal-strip"
PAPER = "iso-2758--sack-paper"
CLOTH = "iso-13938-1--numbers-and-one-pressure"
BOX = "iso-12048--single-wall-box"
HOSE = "iso-37--hose-cover"
GRID = "astm-d4595--drainage-nonwoven"
RUB = "iso-105-x12--flannel-pyjama-cloth"
METAL = "astm-e8--flat-steel-strips"
POUCH = "astm-f1306--coffee-pouch-laminate"
IZOD = "iso-180--cold-chamber-and-late"
TEAR = "iso-6383-2--bread-bag-film"

FIRST = ("specimens", 0)


def all_of(changes: Any) -> Any:
    """A change of every element of a list."""
    return lambda old: [changes(each) for each in old]


def flags_of(result: dict[str, Any]) -> list[str]:
    """The codes of the first specimen and of the whole."""
    return codes(result["specimens"][0]["flags"]) + codes(result["flags"])


BY_SPECIMEN: list[tuple[str, str, Changes]] = [
    (
        "density-spread",
        DENSITY,
        {(*FIRST, "cuts", 0, "mass_g"): lambda old: old * 1.06},
    ),
    (
        "implausible-density",
        DENSITY,
        {(*FIRST, "cuts"): all_of(lambda cut: cut | {"length_mm": cut["length_mm"] * 4})},
    ),
    (
        "flow-below-table",
        MASSES,
        {(*FIRST, "cuts"): all_of(lambda cut: {"mass_g": cut["mass_g"] / 1000})},
    ),
    (
        "travel-not-for-this-flow",
        "astm-d1238-b--bucket-resin",
        {(*FIRST, "travels"): all_of(lambda one: {name: 2 * one[name] for name in one})},
    ),
    (
        "drops-after-end",
        DART,
        {
            (*FIRST, "drops"): lambda old: [
                *old,
                {"mass_g": old[-1]["mass_g"] + (-15 if old[-1]["failed"] else 15), "failed": True},
            ]
        },
    ),
    ("series-incomplete", DART, {(*FIRST, "drops"): lambda old: old[:4]}),
    ("fewer-cycles", LOOPS, {("parameters", "cycles"): 9}),
    (
        "no-slack-on-return",
        LOOPS,
        {(*FIRST, "trace", "force_n"): all_of(lambda force_n: force_n + 5)},
    ),
    (
        "no-contact",
        POUCH,
        {(*FIRST, "trace", "force_n"): all_of(lambda _: 0.0)},
    ),
    (
        "no-pressure",
        "iso-13938-1--swimwear-knit-traces",
        {(*FIRST, "trace", "pressure_kpa"): all_of(lambda _: 0.0)},
    ),
    (
        "preload-not-reached",
        BOX,
        {("parameters", "preload_n"): 1e6},
    ),
    (
        "take-up-not-weighed",
        RUB,
        {
            (*FIRST, "state"): "wet",
        },
    ),
    (
        "no-offset-yield",
        METAL,
        {("parameters", "offset"): 2},
    ),
    (
        "outside-range.reading-percent",
        TEAR,
        {(*FIRST, "reading_percent"): 5},
    ),
    (
        "results-to-review",
        "barrel-check--both-sensors",
        {(*FIRST, "reference_c"): 199.0},
    ),
]

BY_WHOLE: list[tuple[str, str, Changes]] = [
    (
        "step-size",
        DART,
        {
            ("parameters", "start_g"): 1180,
            (*FIRST, "drops"): all_of(lambda drop: drop | {"mass_g": drop["mass_g"] + 1000}),
        },
    ),
    ("too-few-runs", DENSITY, {("parameters", "min_runs"): 9}),
    (
        "runs-disagree",
        DENSITY,
        {(*FIRST, "cuts"): all_of(lambda cut: cut | {"mass_g": cut["mass_g"] * 1.2})},
    ),
    ("no-melt-density", VOLUMES, {("parameters", "melt_density_g_cm3"): GONE}),
    ("no-diaphragm-correction", CLOTH, {("parameters", "diaphragm_pressure_kpa"): GONE}),
    ("too-few-valid", PAPER, {("specimens",): lambda old: [old[0], old[10]]}),
]


@pytest.mark.parametrize(("code", "name", "changes"), BY_SPECIMEN + BY_WHOLE)
def test_one_change_of_an_example_is_flagged(code: str, name: str, changes: Changes) -> None:
    plain = code.split(".", maxsplit=1)[0]
    assert plain not in flags_of(result_of(name, {}))
    assert plain in flags_of(result_of(name, changes))


@pytest.mark.parametrize(("code", "name", "changes"), BY_SPECIMEN)
def test_a_flag_has_a_severity_that_counts(code: str, name: str, changes: Changes) -> None:
    """A specimen with a void flag enters no result; a warning and a note leave it in."""
    result = result_of(name, changes)["specimens"][0]
    (flag,) = [each for each in result["flags"] if each["code"] == code.split(".", maxsplit=1)[0]][
        :1
    ]
    assert flag["severity"] in ("note", "warn", "void")
    assert flag["text"][-1] in ".?"
    assert "{" not in flag["text"]
    assert result["valid"] is not ("void" in [each["severity"] for each in result["flags"]])


STILL: Changes = {(*FIRST, "trace", "force_n"): all_of(lambda _: 0.0)}

WITHOUT_FORCE = [
    "hysteresis--elastic-waistband",
    "relaxation--window-seal-strip",
    "astm-f88--lidded-tray-peel",
    "iso-34-1--trouser-cable-sheath",
    "iso-13937-2--awning-canvas",
    "astm-d2261--single-peak-coated",
    "iso-13934-1--deck-chair-canvas",
    "astm-d882--bread-bag-film",
    "iso-527--brittle-printed-bars",
    "iso-37--hose-cover",
    "astm-d412--door-gasket",
    "astm-d4595--drainage-nonwoven",
    "astm-d6637--single-rib-grid",
    "iso-12048--single-wall-box",
]


@pytest.mark.parametrize("name", WITHOUT_FORCE)
def test_a_trace_without_force_is_void_and_hides_no_other(name: str) -> None:
    before, after = result_of(name, {}), result_of(name, STILL)
    assert after["specimens"][0]["flags"]
    assert not any(
        figure["value"]
        for figure in after["specimens"][0]["values"].values()
        if isinstance(figure, dict)
    )
    assert after["specimens"][1:] == before["specimens"][1:]


@pytest.mark.parametrize("name", [PAPER, HOSE, GRID, METAL, IZOD, TEAR, CLOTH])
def test_a_void_by_hand_leaves_its_results_and_enters_no_mean(name: str) -> None:
    before = result_of(name, {})
    after = result_of(name, {(*FIRST, "observations"): ["set-aside"]})
    voided = after["specimens"][0]
    assert not voided["valid"]
    assert voided["values"] == before["specimens"][0]["values"]
    counts = [row["n"] for row in before["summary"] if row.get("n")]
    assert sum(row["n"] for row in after["summary"] if row.get("n")) < sum(counts)
