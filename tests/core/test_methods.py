"""What holds for every method: the table, the guide, workings, and how bad input is refused."""

from __future__ import annotations

import json
import time
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from endurant.core.conditioning.atmospheres import ATMOSPHERES
from endurant.core.document import analyse, in_units, read_document
from endurant.core.methods import MODULES, all_methods, find_method
from endurant.core.methods.method import Method
from endurant.core.reading import MAX_BYTES, parse_json
from endurant.core.refusals import Invalid
from endurant.core.simulate.traces import simulated_document
from endurant.work.views.guides import method_example, method_page
from tests.examples import example, worked

METHODS = list(all_methods().values())
DOCUMENTS = {method: example(worked(method))["document"] for method in MODULES}


def test_the_table_says_what_the_modules_hold() -> None:
    assert {method.id for method in METHODS} == set(MODULES)
    assert all(find_method(name).id == name for name in MODULES)


@pytest.mark.parametrize("method", METHODS, ids=lambda method: method.id)
def test_the_guide_of_a_method_is_filled(method: Method) -> None:
    guide = method.guide
    texts = (guide.cautions, guide.steps, guide.computes, guide.mistakes, guide.ready_checks)
    assert all(texts)
    assert guide.purpose.endswith(".")
    assert guide.specimen
    assert guide.atmosphere is None or guide.atmosphere in ATMOSPHERES
    assert all(check.reason for check in guide.ready_checks)
    if guide.blank is not None:
        assert guide.blank.long_mm >= guide.blank.short_mm > 0
        for x, y in guide.blank.points_mm:
            assert abs(x) <= guide.blank.short_mm * 0.75 + 1e-6
            assert abs(y) <= guide.blank.long_mm * 0.55 + 1e-6


@pytest.mark.parametrize("name", MODULES)
def test_every_value_carries_its_working(name: str) -> None:
    for specimen in analyse(read_document(DOCUMENTS[name])).as_json()["specimens"]:
        explained = {line["value"] for line in specimen["working"]}
        for value, lines in specimen["values"].items():
            assert value in explained or lines["value"] is None
        assert all(
            line["says"] and line["formula"] and line["gives"] for line in specimen["working"]
        )


@pytest.mark.parametrize("name", MODULES)
def test_results_are_plain_json_and_can_be_had_in_inches(name: str) -> None:
    result = analyse(read_document(DOCUMENTS[name])).as_json()
    assert json.loads(json.dumps(result, allow_nan=False))
    other = in_units(result, "inch-pound")
    assert [row["property"] for row in other["summary"]] == [
        row["property"] for row in result["summary"]
    ]


def broken(name: str, **changes: Any) -> dict[str, Any]:
    """A document of this method with its first specimen changed."""
    document: dict[str, Any] = json.loads(json.dumps(DOCUMENTS[name]))
    document["specimens"][0] |= changes
    return document


def trace(**changes: Any) -> dict[str, Any]:
    return {"extension_mm": [0.0, 1.0, 2.0], "force_n": [0.0, 5.0, 1.0]} | changes


@pytest.mark.parametrize(
    ("name", "changes", "wording"),
    [
        (
            "iso-13934-1",
            {"trace": trace(force_n=[0, float("nan"), 1])},
            ["W1", "force_n", "finite"],
        ),
        (
            "iso-13934-1",
            {"trace": trace(force_n=[0, float("inf"), 1])},
            ["W1", "force_n", "finite"],
        ),
        ("iso-13934-1", {"trace": trace(force_n=[0, 1])}, ["W1", "trace.lengths-differ"]),
        ("iso-13934-1", {"trace": trace(force_n=[0, 1e300, 1])}, ["W1", "force_n"]),
        (
            "iso-13934-1",
            {"trace": {"extension_mm": [1.0], "force_n": [1.0]}},
            ["W1", "trace.too-short"],
        ),
        ("iso-13934-1", {"trace": trace(time_s=[0, 2, 1])}, ["W1", "trace.time-falls"]),
        ("iso-13934-1", {"observations": ["bored"]}, ["W1", "observations", "bored"]),
        ("iso-527", {"dimensions": {"width_mm": [-10.0]}}, ["width_mm", "field.too-low"]),
        ("astm-e8", {"final_gauge_mm": 40.0}, ["final_gauge_mm", "reading.shorter-than-gauge"]),
        ("astm-e8", {"neck_width_mm": 40.0}, ["reading.neck-too-large"]),
        ("16-cfr-1610", {"code": "DNI"}, ["burn_time_s", "reading.flame-time-given"]),
        ("16-cfr-1610", {"code": "SFBB"}, ["code", "plain"]),
        ("16-cfr-1610", {"burn_time_s": 3.25}, ["burn_time_s", "reading.flame-time-tenths"]),
        ("iso-1133-1-a", {"cuts": [{"mass_g": 0.0}]}, ["C1", "mass_g", "field.too-low"]),
        ("iso-7765-1", {"drops": [{"mass_g": 130.0, "failed": True}]}, ["mass_g", "120"]),
        ("iso-180", {"energy_j": 0.001}, ["energy_j", "friction"]),
        ("iso-2248", {"drops": [{"position": "1-3", "height_mm": 800.0}]}, ["drop.faces-apart"]),
        (
            "scuff",
            {
                "inspections": [
                    {"count": 100, "acceptable": True},
                    {"count": 50, "acceptable": True},
                ]
            },
            ["inspections", "reading.count-not-rising"],
        ),
        ("bubble-leak", {"bubbles": "stream"}, ["place", "reading.leak-place-missing"]),
        ("iso-105-x12", {"grades": ["6"]}, ["grades", "3-4"]),
        ("iso-535", {"wet_g": 1.0}, ["wet_g", "reading.wet-lighter-than-dry"]),
        ("linear-abrasion", {"mass_after_g": None}, ["mass_after_g", "pair"]),
    ],
)
def test_bad_readings_are_refused_by_field_and_specimen(
    name: str, changes: dict[str, Any], wording: list[str]
) -> None:
    with pytest.raises(Invalid) as refusal:
        analyse(read_document(broken(name, **changes)))
    known = refusal.value
    said = [known.specimen, known.field, known.code, *known.message.params.values()]
    for word in wording:
        assert any(word in str(each) for each in said), (word, said)
    assert refusal.value.specimen


@pytest.mark.parametrize(
    ("document", "wording"),
    [
        ({"method": "iso-0"}, "method.unknown"),
        ({"method": "scuff", "parameters": {"weight_n": 5, "wieght": 4}}, "field.unknown"),
        (
            {"method": "scuff", "specimens": [{}] * 10_000, "parameters": {"weight_n": 5}},
            "document.too-many-specimens",
        ),
        (
            {"method": "iso-13355", "parameters": {"minutes": 5}, "specimens": [{}]},
            "vibration.random-level-missing",
        ),
    ],
)
def test_bad_documents_are_refused_in_words(document: dict[str, Any], wording: str) -> None:
    with pytest.raises(Invalid) as refusal:
        read_document(document)
    assert refusal.value.code == wording


def test_no_force_leaves_no_figure_and_says_so() -> None:
    flat = trace(force_n=[0.0, 0.0, 0.0])
    for name in ("iso-13934-1", "iso-13937-2", "astm-d2261", "astm-f1306", "iso-12048"):
        entry = DOCUMENTS[name]["specimens"][0] | {"trace": flat}
        document = {**DOCUMENTS[name], "specimens": [entry]}
        specimen = analyse(read_document(document)).as_json()["specimens"][0]
        assert not specimen["valid"]
        assert all(value["value"] is None for value in specimen["values"].values())


def test_a_document_too_large_is_refused_before_it_is_read() -> None:
    began = time.monotonic()
    with pytest.raises(Invalid, match="document.too-large"):
        parse_json(b" " * (MAX_BYTES + 1))
    assert time.monotonic() - began < 1


def test_staircase_counts_the_first_ten_or_all_as_asked() -> None:
    masses, failed, mass = [], [], 100.0
    for hit in [True] * 6 + [False] * 5 + [True] * 6 + [False] * 8:
        masses.append(mass)
        failed.append(hit)
        mass += -10 if hit else 10
    drops = [{"mass_g": m, "failed": f} for m, f in zip(masses, failed, strict=True)]
    document = {
        "method": "astm-d1709",
        "parameters": {"start_g": 100.0, "step_g": 10.0},
        "specimens": [{"label": "A", "drops": drops}],
    }
    first = analyse(read_document(document)).specimens[0]
    document["parameters"] = {"start_g": 100.0, "step_g": 10.0, "failures_counted": "all"}
    every = analyse(read_document(document)).specimens[0]
    assert "N = 10" in first.working[0].with_
    assert "N = 12" in every.working[0].with_


anything = st.recursive(
    st.none()
    | st.booleans()
    | st.integers()
    | st.floats()
    | st.text(max_size=12)
    | st.sampled_from(["3-4", "C", "stream", "warp", "1-2", 0.5, -1.0, 1e300]),
    lambda inner: (
        st.lists(inner, max_size=5) | st.dictionaries(st.text(max_size=8), inner, max_size=4)
    ),
    max_leaves=8,
)


@settings(max_examples=300, deadline=1000, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_the_reader_answers_or_refuses_and_never_crashes(data: st.DataObject) -> None:
    name = data.draw(st.sampled_from(list(MODULES)))
    document: dict[str, Any] = json.loads(json.dumps(DOCUMENTS[name]))
    for _ in range(data.draw(st.integers(1, 3))):
        spot: Any = document
        while isinstance(spot, dict | list) and spot and data.draw(st.booleans()):
            keys = list(spot) if isinstance(spot, dict) else list(range(len(spot)))
            key = data.draw(st.sampled_from(keys))
            if not isinstance(spot[key], dict | list) or data.draw(st.integers(0, 2)) == 0:
                spot[key] = data.draw(anything)
                break
            spot = spot[key]
    try:
        json.dumps(analyse(read_document(document)).as_json(), allow_nan=False)
    except Invalid as refusal:
        sentence = refusal.code
    else:
        sentence = "answered"
    assert sentence


@settings(max_examples=25, deadline=None)
@given(shift=st.floats(-40, 40), scale=st.floats(0.05, 20))
def test_laws_of_shift_and_scale(shift: float, scale: float) -> None:
    def figures(document: dict[str, Any]) -> list[dict[str, Any]]:
        return [
            specimen["values"]
            for specimen in analyse(read_document(document)).as_json()["specimens"]
        ]

    tear = simulated_document("iso-13937-2", 1, 400)
    moved = json.loads(json.dumps(tear))
    column = moved["specimens"][0]["trace"]["extension_mm"]
    moved["specimens"][0]["trace"]["extension_mm"] = [x + shift for x in column]
    row, other = figures(tear)[0], figures(moved)[0]
    assert other["tear_force"]["value"] == pytest.approx(row["tear_force"]["value"], rel=1e-9)

    bar = simulated_document("iso-527", 1, 400)
    scaled = json.loads(json.dumps(bar))
    force = scaled["specimens"][0]["trace"]["force_n"]
    scaled["specimens"][0]["trace"]["force_n"] = [scale * f for f in force]
    row, other = figures(bar)[0], figures(scaled)[0]
    for name in ("modulus", "tensile_strength", "stress_at_break"):
        requested = scale * row[name]["value"]
        assert other[name]["value"] == pytest.approx(requested, rel=1e-6)


@settings(max_examples=20, deadline=None)
@given(seed=st.integers(1, 10_000))
def test_energy_in_is_never_less_than_energy_out(seed: int) -> None:
    document = simulated_document("hysteresis", 1, 600, seed=seed)
    values = analyse(read_document(document)).specimens[0].values
    assert (values["energy_in"].value or 0) >= (values["energy_out"].value or 0) > 0


tenths = st.integers(5, 120)


@settings(max_examples=150, deadline=None)
@given(
    surface=st.sampled_from(["plain", "raised"]),
    burned=st.lists(
        st.tuples(tenths, st.sampled_from(["SFBB", "SFonly"])), min_size=10, max_size=10
    ),
    which=st.integers(0, 9),
    sooner=st.integers(1, 60),
)
def test_the_class_never_gets_better_by_a_shorter_burn_time(
    surface: str, burned: list[tuple[int, str]], which: int, sooner: int
) -> None:
    def fire_class(times: list[tuple[int, str]]) -> int:
        specimens = [
            {
                "label": f"S{place}",
                "round": "first" if place < 5 else "further",
                "direction": "length",
                "code": "BURN" if surface == "plain" else code,
                "burn_time_s": time_tenths / 10,
            }
            for place, (time_tenths, code) in enumerate(times)
        ]
        document = {
            "method": "16-cfr-1610",
            "parameters": {"surface": surface},
            "specimens": specimens,
        }
        rows = analyse(read_document(document)).as_json()["summary"]
        overall = next(row["class"] for row in rows if row["property"] == "class")
        assert overall is not None
        return int(overall)

    quicker = list(burned)
    quicker[which] = (max(burned[which][0] - sooner, 1), burned[which][1])
    assert fire_class(quicker) >= fire_class(burned)


@pytest.mark.parametrize("name", MODULES)
def test_every_method_has_a_page_and_a_worked_example(name: str) -> None:
    page, shown = method_page(name), method_example(name)
    assert page.steps
    assert page.reported or name == "barrel-check"
    assert shown.specimens
    assert shown.about
