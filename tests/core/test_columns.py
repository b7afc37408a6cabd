"""Columns of samples: lists and arrays read alike, and written as lists again."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from endurant.core.bench.recorded import recorded_entry
from endurant.core.columns import as_lists
from endurant.core.complaints import message_of
from endurant.core.drawn import curves_of, first_channel
from endurant.core.methods import find_method
from endurant.core.recordings import ForceTrace, TraceColumns

GOOD = {"extension_mm": [0.0, 1.0], "force_n": [0.0, 5.0]}


def trace(**changes: Any) -> ForceTrace:
    return ForceTrace.model_validate(GOOD | changes)


def code_of(error: ValidationError) -> str:
    """The code of the first thing that is wrong."""
    return message_of(error.errors(include_url=False)[0], "trace").code


def test_lists_and_arrays_are_read_alike() -> None:
    as_arrays = {name: np.array(column) for name, column in GOOD.items()}
    for read in (trace(), ForceTrace.model_validate(as_arrays)):
        assert read.force_n.dtype == np.float64
        assert read.force_n.tolist() == [0.0, 5.0]


def test_an_array_is_taken_as_it_is_and_not_copied() -> None:
    force = np.array([0.0, 5.0])
    assert trace(force_n=force).force_n is force


@pytest.mark.parametrize(
    ("changes", "kind"),
    [
        ({"force_n": "5"}, "trace.list-expected"),
        ({"force_n": [0.0, None]}, "trace.not-a-number"),
        ({"force_n": [0.0, True]}, "trace.not-a-number"),
        ({"force_n": [0.0, math.inf]}, "trace.not-finite"),
        ({"force_n": np.array([0.0, math.nan])}, "trace.not-finite"),
        ({"force_n": [0.0, 10**400]}, "trace.number-too-large"),
        ({"force_n": [0.0]}, "trace.lengths-differ"),
        ({"extension_mm": [0.0], "force_n": [0.0]}, "trace.too-short"),
        ({"time_s": [1.0, 0.5]}, "trace.time-falls"),
        ({"strain": [None, 0.1]}, "trace.strain-after-null"),
        ({"strain": [None, None]}, "trace.strain-begins-null"),
        ({"strain": np.array([math.nan, 0.1])}, "trace.strain-goes-on"),
        ({"strain": np.array([math.nan, math.nan])}, "trace.strain-begins-null"),
    ],
)
def test_a_column_that_is_none_is_refused(changes: dict[str, Any], kind: str) -> None:
    with pytest.raises(ValidationError) as error:
        trace(**changes)
    assert code_of(error.value) == kind


def test_a_trace_needs_a_column() -> None:
    with pytest.raises(ValidationError) as error:
        TraceColumns.model_validate({})
    assert code_of(error.value) == "trace.no-column"


def test_a_strain_ends_once_its_extensometer_is_off_as_a_list_and_as_an_array() -> None:
    listed: Any = trace(strain=[0.1, None]).strain
    arrays: Any = trace(strain=np.array([0.1, math.nan])).strain
    assert np.array_equal(listed, arrays, equal_nan=True)
    assert as_lists({"strain": listed}) == {"strain": [0.1, None]}


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), max_size=20))
def test_a_document_is_written_as_it_was_read(values: list[float]) -> None:
    document = {"specimens": [{"label": "W1", "trace": {"force_n": np.array(values)}}], "n": 3}
    written = as_lists(document)
    assert written == {"specimens": [{"label": "W1", "trace": {"force_n": values}}], "n": 3}


def test_several_channels_are_drawn_by_their_first() -> None:
    channels = [np.array([1.0, 2.0]), np.array([3.0, 4.0])]
    assert first_channel(channels).tolist() == [1.0, 2.0]
    assert first_channel([1.0, None]).tolist()[0] == 1.0
    assert first_channel([]).size == 0


def test_a_trace_is_drawn_over_what_it_has() -> None:
    over_extension = {"trace": {name: np.array(column) for name, column in GOOD.items()}}
    (curve,) = curves_of(over_extension)
    assert (curve.x_title, curve.y_unit) == ("extension", "N")
    (alone,) = curves_of({"trace": {"pressure_kpa": [1.0, 2.0, 4.0]}})
    assert (alone.x.tolist(), alone.y.tolist()) == ([0.0, 1.0, 2.0], [1.0, 2.0, 4.0])
    assert curves_of({"trace": {"force_n": np.empty(0)}, "grade": 4}) == []


def test_a_pair_is_parted_by_the_half_that_each_sample_belongs_to() -> None:
    method = find_method("iso-13936-1")
    columns = {
        "extension_mm": np.array([0.0, 1.0, 0.0, 2.0]),
        "force_n": np.array([1.0, 2.0, 3.0, 4.0]),
        "half": np.array([0.0, 0.0, 1.0, 1.0]),
    }
    entry = recorded_entry(method, columns)
    assert entry["trace_unsewn"]["force_n"].tolist() == [1.0, 2.0]
    assert entry["trace_sewn"]["extension_mm"].tolist() == [0.0, 2.0]
    assert "half" not in entry["trace_sewn"]
    unsewn = {name: column[:2] for name, column in columns.items()}
    assert set(recorded_entry(method, unsewn)) == {"trace_unsewn"}


def pallet(levels: list[int], sags: list[float]) -> dict[str, Any]:
    method = find_method("iso-8611")
    live: Any = method.guide.live
    columns = {
        "time_s": np.arange(len(levels), dtype=float),
        "force_n": np.array(sags) * 10,
        "level": np.array(levels, dtype=float),
    } | {f"{sensor.name}_mm": np.array(sags) for sensor in live.sensors}
    return recorded_entry(method, columns)


def test_a_pallet_is_read_at_the_ends_of_its_loads() -> None:
    entry = pallet([0, 1, 1, 0, 2, 2, 2, 0, 3, 3], [0, 1, 1.5, 2, 5, 6, 7, 4, 3, 2])
    first = {when: row[0] for when, row in entry["readings"].items()}
    assert first == {"datum": 1.5, "full_at_once": 5.0, "full_end": 7.0, "relaxed": 2.0}


def test_a_pallet_whose_schedule_ended_early_has_no_readings() -> None:
    assert "readings" not in pallet([0, 1, 2, 2], [0, 1, 2, 3])
    assert "trace" in pallet([0, 0], [0, 1])
