"""Whatever is put into a document, it is computed or refused in one sentence."""

from __future__ import annotations

from itertools import chain
from random import Random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from endurant.core.judging.document import judge_document
from endurant.core.refusals import Invalid
from tests.examples import example
from tests.mutants import GONE, Path, answerers, changed, compute, fault, mutants, reshaped

EACH = 40
ANSWERERS = {name: (answer, document) for name, answer, document in answerers()}

FOUND: list[tuple[str, Path, Any]] = [
    ("judging--criterion-awning-specification", ("rows", 4, "criterion", "on"), {"value": 1e-300}),
    ("judging--criterion-awning-specification", ("rows", 0, "criterion", "on"), ["mean"]),
    ("judging--criterion-awning-specification", ("rows", 0, "n_required"), 10**400),
    ("judging--uncertainty-of-a-stress", ("budget", 0, "value"), 1e-310),
    ("judging--statistics-five-tears", ("values", 0), 1e200),
    ("iso-2248--jam-jar-case", ("parameters", "sequence", 0), "\ud800"),
    ("astm-f88--seal-window-pouch", ("specimens", 6, "jaw_temperature_c"), 10**400),
    ("iso-13937-2--twelve-peaks-tent-cloth", ("parameters", "gauge_length_mm"), 7e-217),
    ("iso-527--dishwasher-rack-dumbbells", ("parameters", "gauge_length_mm"), 7e-217),
    (
        "iso-527--dishwasher-rack-dumbbells",
        ("specimens", 0, "dimensions", "thickness_mm", 0),
        1e-160,
    ),
    ("conditioning--one-excursion", ("hung_at",), "0001-01-01T00:00:00+14:00"),
    ("conditioning--one-excursion", ("now",), "9999-12-31T23:59:59-14:00"),
    ("iso-7765-1--rubbish-sack-film", ("specimens", 0, "label"), GONE),
]
"""What exploring at random has found, or someone has handed in: a place and what stood there."""


@pytest.mark.parametrize(("name", "path", "odd"), FOUND, ids=[str(n) for n in range(len(FOUND))])
def test_what_was_found_once_is_computed_or_refused(name: str, path: Path, odd: Any) -> None:
    answer, document = ANSWERERS[name]
    assert fault(answer, changed(document, path, odd)) is None


def test_documents_with_one_thing_changed_are_computed_or_refused() -> None:
    faults = [
        f"{mutant.in_words()} -> {wrong}"
        for mutant in chain(mutants(Random(1610), EACH), reshaped())
        if (wrong := fault(mutant.answer, mutant.document)) is not None
    ]
    assert not faults


@pytest.mark.parametrize(
    ("name", "path", "odd", "wording"),
    [
        ("conditioning--one-excursion", ("log", 1, 2), 140.0, "field.above-max"),
        ("conditioning--one-excursion", ("log", 0, 1), "warm", "field.number-expected"),
        ("conditioning--flannel-by-weighing", ("weighings", 0, 1), -1, "field.below-min"),
        (
            "judging--criterion-awning-specification",
            ("rows", 0, "criterion", "limit"),
            25,
            "field.text-expected",
        ),
        (
            "iso-527--dishwasher-rack-dumbbells",
            ("parameters", "gauge_length_mm"),
            True,
            "field.number-expected",
        ),
        (
            "iso-527--dishwasher-rack-dumbbells",
            ("parameters", "gauge_length_mm"),
            1e-9,
            "bounds.too-near-zero",
        ),
    ],
)
def test_a_refusal_names_the_place_in_the_users_words(
    name: str, path: Path, odd: Any, wording: str
) -> None:
    answer, document = ANSWERERS[name]
    with pytest.raises(Invalid) as refusal:
        answer(changed(document, path, odd))
    assert refusal.value.code == wording


def test_an_unknown_field_is_named_before_the_missing_one_it_was_meant_for() -> None:
    document = example("astm-f1306--coffee-pouch-laminate")["document"]
    entry = dict(document["specimens"][0])
    entry["trcae"] = entry.pop("trace")
    with pytest.raises(Invalid, match="field.unknown"):
        compute({**document, "specimens": [entry]})


@given(
    value=st.floats(-1e29, 1e29) | st.sampled_from(["1e99", "12345678901234567890.5", "-0.0"]),
    rule=st.sampled_from(["half-even", "half-up"]),
    how=st.sampled_from(
        [{"decimals": 30}, {"decimals": -30}, {"significant": 30}, {"step": "0.000001"}]
    ),
)
def test_any_figure_can_be_rounded(value: float | str, rule: str, how: dict[str, Any]) -> None:
    facts = {"kind": "rounding", "value": value, "rule": rule, **how}
    assert judge_document(facts)["text"]
