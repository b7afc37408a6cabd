"""Simulated specimens: believable, repeatable, and their faults are found by the analysis."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.document import analyse, read_document
from endurant.core.methods import all_methods
from endurant.core.simulate.shapes import SpecimenFault
from endurant.core.simulate.traces import (
    simulate,
    simulated_document,
    simulated_method,
    traced_methods,
)


def computed(method: str, fault: SpecimenFault = "none", seed: int = 1) -> dict[str, Any]:
    document = simulated_document(method, 3, fault=fault, seed=seed)
    return analyse(read_document(document)).as_json()


def test_every_method_that_reads_a_trace_can_be_simulated() -> None:
    reading = {
        name
        for name, method in all_methods().items()
        if {"trace", "trace_sewn"} & set(method.readings.model_fields)
    }
    assert set(traced_methods()) == reading


@pytest.mark.parametrize("method", traced_methods())
def test_a_sound_specimen_counts_and_has_its_figures(method: str) -> None:
    result = computed(method)
    assert all(specimen["valid"] for specimen in result["specimens"])
    assert result["summary"]
    assert not [
        flag
        for specimen in result["specimens"]
        for flag in specimen["flags"]
        if flag["severity"] != "note"
    ]
    assert simulate(method, 5) == simulate(method, 5)
    assert simulate(method, 5) != simulate(method, 6)


@pytest.mark.parametrize(
    ("fault", "method", "code"),
    [
        (fault, method, code)
        for method in traced_methods()
        if (known := simulated_method(method)) is not None
        for fault, code in known.found_as.items()
    ],
)
def test_the_analysis_finds_the_fault(fault: SpecimenFault, method: str, code: str) -> None:
    for specimen in computed(method, fault)["specimens"]:
        assert code in [flag["code"] for flag in specimen["flags"]], specimen["flags"]


@pytest.mark.parametrize("fault", ["noise", "spikes"])
@pytest.mark.parametrize("method", ["iso-13937-2", "iso-13934-1", "astm-f88", "iso-8611"])
def test_noise_and_spikes_move_no_figure_far(fault: SpecimenFault, method: str) -> None:
    clean, noisy = computed(method), computed(method, fault)
    for specimen, other in zip(clean["summary"], noisy["summary"], strict=True):
        assert other["mean"] == pytest.approx(specimen["mean"], rel=0.08)


@pytest.mark.parametrize("method", ["astm-d638", "astm-e8"])
def test_a_toe_is_taken_off(method: str) -> None:
    clean, bent = computed(method), computed(method, "toe")
    figure = {row["property"]: row["mean"] for row in clean["summary"]}
    other = {row["property"]: row["mean"] for row in bent["summary"]}
    assert other["modulus"] == pytest.approx(figure["modulus"], rel=0.03)


@pytest.mark.parametrize("method", traced_methods())
def test_what_was_read_is_marked_on_the_trace(method: str) -> None:
    for specimen in computed(method)["specimens"]:
        assert specimen["marks"]
