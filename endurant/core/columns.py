"""Columns of samples as arrays: a list of numbers read quickly, and refused in words."""

from __future__ import annotations

from array import array
from typing import Annotated, Any

import numpy as np
from pydantic import PlainValidator, WithJsonSchema

from endurant.core.complaints import complaint
from endurant.core.fields import LARGEST
from endurant.core.quoting import quoted
from endurant.core.trace import Samples


def _as_samples(column: object) -> Samples:
    """A list of finite numbers as an array; a loop over pydantic's numbers is 30 times slower."""
    if isinstance(column, np.ndarray):
        samples = column.astype(np.float64, copy=False)
    elif not isinstance(column, list):
        raise complaint("trace.list-expected")
    elif set(map(type, column)) <= {float, int}:
        try:
            samples = np.frombuffer(array("d", column), dtype=np.float64)
        except OverflowError:
            raise complaint("trace.number-too-large") from None
    else:
        place, odd = next((n, x) for n, x in enumerate(column) if type(x) not in (float, int))
        raise complaint(
            "trace.not-a-number", sample=place + 1, given="null" if odd is None else quoted(odd)
        )
    if samples.size and not (samples.min() >= -LARGEST and samples.max() <= LARGEST):
        within = np.abs(samples) <= LARGEST
        place = int(np.argmin(within))
        raise complaint("trace.not-finite", sample=place + 1, given=float(samples[place]))
    return samples


def _as_strain(column: object) -> Samples:
    """Strain with NaN where the extensometer is off, which is from one sample on to the end."""
    if isinstance(column, np.ndarray):
        off = np.isnan(column)
        on = int(np.argmax(off)) if off.any() else column.size
        column = [*column[:on].tolist(), *([None] * (column.size - on))]
        if not off[on:].all():
            raise complaint("trace.strain-goes-on")
    if not isinstance(column, list):
        raise complaint("trace.list-expected")
    on = column.index(None) if type(None) in set(map(type, column)) else len(column)
    if any(specimen is not None for specimen in column[on:]):
        raise complaint("trace.strain-after-null")
    if column and on == 0:
        raise complaint("trace.strain-begins-null")
    return np.concatenate([_as_samples(column[:on]), np.full(len(column) - on, np.nan)])


def _as_channels(column: object) -> list[Samples]:
    """One channel, or a list of channels."""
    if isinstance(column, list) and column and isinstance(column[0], list | np.ndarray):
        return [_as_samples(channel) for channel in column]
    return [_as_samples(column)]


def _list_schema(item: dict[str, Any]) -> WithJsonSchema:
    return WithJsonSchema({"type": "array", "items": item})


Column = Annotated[Any, PlainValidator(_as_samples), _list_schema({"type": "number"})]


StrainColumn = Annotated[
    Any,
    PlainValidator(_as_strain),
    _list_schema({"anyOf": [{"type": "number"}, {"type": "null"}]}),
]


Channels = Annotated[
    Any,
    PlainValidator(_as_channels),
    _list_schema({"anyOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}}]}),
]
