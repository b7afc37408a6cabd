"""What the document reader refuses, and how it says so."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from endurant.core.document import analyse, read_document
from endurant.core.reading import parse_json
from endurant.core.refusals import Invalid

TRACE = {"extension_mm": [0, 1, 2, 3], "force_n": [0, 5, 1, 4]}


def document(**changes: Any) -> dict[str, Any]:
    specimen = {"label": "W1", "direction": "warp", "trace": dict(TRACE)} | changes
    return {"method": "iso-13937-2", "specimens": [specimen]}


@pytest.mark.parametrize(
    ("bad", "wording"),
    [
        ({"method": "iso-0"}, ["iso-0", "iso-13937-2"]),
        ({"method": "iso-13937-2"}, ["specimens"]),
        ({"method": "iso-13937-2", "specimens": [], "more": 1}, ["more"]),
        (document(colour="blue"), ["W1", "colour"]),
        (
            document(direction="diagonal"),
            ["W1", "direction", "diagonal", "reading.direction-unknown"],
        ),
        (
            document(trace=TRACE | {"force_n": [0, 5, float("nan"), 4]}),
            ["W1", "force_n", "3"],
        ),
        (document(trace=TRACE | {"force_n": [0, 5, float("inf"), 4]}), ["W1", "force_n", "finite"]),
        (document(trace=TRACE | {"force_n": [0, "5", 1, 4]}), ["W1", "force_n", "number", "“5”"]),
        (
            document(trace=TRACE | {"force_n": [0, 5, 1]}),
            ["W1", "force_n", "trace.lengths-differ", "4"],
        ),
        (document(trace={"extension_mm": [1], "force_n": [1]}), ["W1", "trace.too-short"]),
        (document(trace={"extension_mm": [1, 2]}), ["W1", "force_n", "field.missing"]),
        (document(trace=TRACE | {"time_s": [0, 2, 1, 3]}), ["W1", "time_s", "3"]),
        (document(dimensions={"width_mm": [-50.0]}), ["W1", "width_mm", "field.too-low"]),
        (document(label=""), ["field.empty", "label"]),
        (document(tear_end_mm=-1.0), ["W1", "tear_end_mm", "field.below-min"]),
    ],
)
def test_refusals_name_the_field_the_specimen_and_what_was_expected(
    bad: dict[str, Any], wording: list[str]
) -> None:
    with pytest.raises(Invalid) as refusal:
        read_document(bad)
    known = refusal.value
    said = [known.specimen, known.field, known.code, *known.message.params.values()]
    for word in wording:
        assert any(word in str(each) for each in said), (word, said)


def test_a_label_stands_once() -> None:
    twice = document()
    twice["specimens"] = twice["specimens"] * 2
    with pytest.raises(Invalid, match="document.label-twice"):
        read_document(twice)


def test_ten_thousand_specimens_are_too_many() -> None:
    with pytest.raises(Invalid, match="document.too-many-specimens"):
        read_document({"method": "iso-13937-2", "specimens": [{}] * 10_000})


def test_all_zero_force_is_computed_without_a_figure() -> None:
    flat = {"extension_mm": [0, 1, 2], "force_n": [0, 0, 0]}
    result = analyse(read_document(document(trace=flat))).as_json()
    assert result["specimens"][0]["values"]["tear_force"]["value"] is None


def test_parameters_come_back_with_their_defaults() -> None:
    result = analyse(read_document(document())).as_json()
    assert result["parameters"] == {
        "reported_to": {},
        "rounding": "half-even",
        "specimens_wanted": 5,
        "evaluation": "all-peaks",
        "peak_prominence": 0.1,
        "peak_floor": 0.05,
        "speed_mm_min": 100,
        "gauge_length_mm": 100,
    }


json_values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
    lambda children: (
        st.lists(children, max_size=4)
        | st.dictionaries(
            st.sampled_from(
                ["method", "specimens", "label", "trace", "force_n", "extension_mm", "x"]
            ),
            children,
            max_size=4,
        )
    ),
    max_leaves=20,
)


@settings(max_examples=300, deadline=None)
@given(json_values)
def test_anything_is_answered_or_refused(data: object) -> None:
    text = json.dumps(
        {"method": "iso-13937-2", "specimens": data} if not isinstance(data, dict) else data
    )
    with suppress(Invalid):
        analyse(read_document(parse_json(text)))
