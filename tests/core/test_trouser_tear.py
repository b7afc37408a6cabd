"""The trouser tear against worked examples, hand-made traces and laws it must keep."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from endurant.core.document import analyse, read_document
from endurant.core.refusals import Invalid
from endurant.core.simulate.tear import TearSpecimen, sample_tear
from tests.examples import assert_gives, example, names


def compute(specimens: list[dict[str, Any]], **parameters: Any) -> dict[str, Any]:
    document = {"method": "iso-13937-2", "parameters": parameters, "specimens": specimens}
    return analyse(read_document(document)).as_json()


def saw(tops: list[tuple[float, float]], valley: float = 5.0) -> dict[str, list[float]]:
    """A trace with a peak at each (extension, force), and a valley half way between them."""
    extension, force = [0.0], [0.0]
    for place, (x, f) in enumerate(tops):
        if place:
            extension.append((tops[place - 1][0] + x) / 2)
            force.append(valley)
        extension.append(x)
        force.append(f)
    return {"extension_mm": [*extension, tops[-1][0] + 1], "force_n": [*force, valley]}


def one(trace: dict[str, list[float]], **fields: Any) -> dict[str, Any]:
    return {"label": "W1", "direction": "warp", "trace": trace, **fields}


def codes(result: dict[str, Any]) -> list[str]:
    return [flag["code"] for flag in result["specimens"][0]["flags"]]


@pytest.mark.parametrize("name", names("iso-13937-2"))
def test_worked_examples(name: str) -> None:
    answer = example(name)
    if answer.get("refused"):
        with pytest.raises(Invalid) as refusal:
            read_document(answer["document"])
        for wording in answer["message_contains"]:
            assert wording in refusal.value.sentence
        assert refusal.value.specimen == "W2"
        assert refusal.value.field == "force_n"
        return
    assert_gives(analyse(read_document(answer["document"])).as_json(), answer["expect"])


def test_a_peak_on_an_edge_belongs_to_the_part_that_the_edge_closes() -> None:
    # Peaks at 10, 20 … 50: the parts end at 20, 30, 40, 50, so 20 is still settling.
    tops = [(10.0, 20.0), (20.0, 90.0), (30.0, 21.0), (40.0, 22.0), (50.0, 23.0)]
    result = compute([one(saw(tops))])
    assert result["specimens"][0]["values"]["tear_force"]["value"] == pytest.approx(22.0)
    assert codes(result) == ["few-peaks"]
    edges = next(m for m in result["specimens"][0]["marks"] if m["kind"] == "bands")["points"]
    assert [x for x, _ in edges] == pytest.approx([10, 20, 30, 40, 50])


def test_twelve_peaks_takes_the_two_highest_and_two_lowest_of_each_part() -> None:
    tops = [(1.0, 20.0)] + [(20.0 + place, 20.0 + place % 7) for place in range(1, 62)]
    trace = saw(tops)
    result = compute([one(trace)], evaluation="twelve-peaks")
    xs = np.array([x for x, _ in tops])
    fs = np.array([f for _, f in tops])
    edges = np.linspace(xs[0], xs[-1], 5)
    chosen: list[float] = []
    for part in range(1, 4):
        inside = np.sort(fs[(xs > edges[part]) & (xs <= edges[part + 1])])
        chosen += [*inside[:2], *inside[-2:]]
    assert len(chosen) == 12
    assert result["specimens"][0]["values"]["tear_force"]["value"] == pytest.approx(np.mean(chosen))


def test_the_end_mark_cuts_off_what_comes_after() -> None:
    tops = [(10.0 * place, 20.0) for place in range(1, 10)] + [(100.0, 80.0), (110.0, 80.0)]
    result = compute([one(saw(tops), tear_end_mm=90.0)])
    assert result["specimens"][0]["values"]["tear_force"]["value"] == pytest.approx(20.0)


def test_without_peaks_the_value_is_null_and_the_specimen_void() -> None:
    rising = {"extension_mm": [0.0, 1.0, 2.0, 3.0], "force_n": [0.0, 1.0, 2.0, 3.0]}
    result = compute([one(rising)])
    assert result["specimens"][0]["values"]["tear_force"]["value"] is None
    assert codes(result) == ["no-peaks"]
    assert result["specimens"][0]["valid"] is False
    assert result["summary"] == []


def test_a_flat_top_counts_once_at_its_first_sample_and_the_ends_are_no_peaks() -> None:
    trace = {
        "extension_mm": [float(x) for x in range(9)],
        "force_n": [50.0, 5.0, 20.0, 20.0, 5.0, 21.0, 5.0, 22.0, 60.0],
    }
    marks = compute([one(trace)])["specimens"][0]["marks"]
    bands = next(mark for mark in marks if mark["kind"] == "bands")
    assert bands["points"][0][0] == 2.0
    assert bands["points"][-1][0] == 5.0


def test_noise_in_a_slack_start_is_no_peak() -> None:
    tops = [(0.5, 0.4), *((10.0 * place, 20.0) for place in range(1, 14))]
    marks = compute([one(saw(tops, valley=0.1))])["specimens"][0]["marks"]
    assert next(m for m in marks if m["kind"] == "bands")["points"][0][0] == 10.0


@pytest.mark.parametrize(
    ("speed", "flagged", "wording"),
    [
        (100.0, False, ""),
        (110.0, False, ""),
        (111.0, True, "111.0 mm/min"),
        (6000.0, True, "per second"),
        (100 / 60, True, "per second"),
    ],
)
def test_speed_is_checked_over_the_whole_trace(speed: float, flagged: bool, wording: str) -> None:
    columns = sample_tear(TearSpecimen(3), 150)
    columns["time_s"] = [x / speed * 60 for x in columns["extension_mm"]]
    specimen = compute([one(columns)])["specimens"][0]["flags"]
    assert [flag["code"] for flag in specimen] == (["rate-out-of-tolerance"] if flagged else [])
    assert all(wording in flag["text"] for flag in specimen)


def test_observations_void_and_unknown_ones_are_refused() -> None:
    columns = sample_tear(TearSpecimen(3), 150)
    result = compute([one(columns, observations=["jaw-slip"])])
    assert codes(result) == ["jaw-slip"]
    assert result["specimens"][0]["values"]["tear_force"]["value"] > 20
    assert [flag["code"] for flag in result["flags"]] == ["too-few-valid"]
    with pytest.raises(Invalid, match="reading.observation-unknown"):
        compute([one(columns, observations=["slipped"])])


def test_three_void_of_the_first_five_make_the_method_unsuitable() -> None:
    columns = sample_tear(TearSpecimen(3), 60)
    specimens = [
        {"label": f"W{n}", "direction": "warp", "trace": columns, "observations": observed}
        for n, observed in enumerate([["tear-off-line"]] * 2 + [[]] * 3 + [["jaw-slip"]], start=1)
    ]
    assert "method-unsuitable" not in [flag["code"] for flag in compute(specimens)["flags"]]
    specimens[4]["observations"] = ["yarns-pulled-out"]
    assert "method-unsuitable" in [flag["code"] for flag in compute(specimens)["flags"]]


@settings(max_examples=25, deadline=None)
@given(shift=st.floats(-50, 50), seed=st.integers(0, 1000))
def test_shifting_extension_changes_no_tear_force(shift: float, seed: int) -> None:
    columns = sample_tear(TearSpecimen(seed), 60, rate_hz=20)
    shifted = columns | {"extension_mm": [x + shift for x in columns["extension_mm"]]}
    plain, moved = compute([one(columns)]), compute([one(shifted)])
    assert moved["specimens"][0]["values"]["tear_force"]["value"] == pytest.approx(
        plain["specimens"][0]["values"]["tear_force"]["value"], rel=1e-9
    )


@settings(max_examples=25, deadline=None)
@given(factor=st.floats(0.01, 1000), seed=st.integers(0, 1000))
def test_scaling_force_scales_tear_force(factor: float, seed: int) -> None:
    columns = sample_tear(TearSpecimen(seed), 60, rate_hz=20)
    scaled = columns | {"force_n": [f * factor for f in columns["force_n"]]}
    plain, larger = compute([one(columns)]), compute([one(scaled)])
    assert larger["specimens"][0]["values"]["tear_force"]["value"] == pytest.approx(
        factor * plain["specimens"][0]["values"]["tear_force"]["value"], rel=1e-9
    )
