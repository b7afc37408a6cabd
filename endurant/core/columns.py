"""Columns of samples as arrays: a list of numbers read quickly, and refused in words."""

from __future__ import annotations

from array import array
from typing import Annotated, Any, TypeVar

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
        if not off[on:].all():
            raise complaint("trace.strain-goes-on")
    elif isinstance(column, list):
        on = column.index(None) if type(None) in set(map(type, column)) else len(column)
        if any(cell is not None for cell in column[on:]):
            raise complaint("trace.strain-after-null")
    else:
        raise complaint("trace.list-expected")
    if len(column) and on == 0:
        raise complaint("trace.strain-begins-null")
    return np.concatenate([_as_samples(column[:on]), np.full(len(column) - on, np.nan)])


def _as_channels(column: object) -> list[Samples]:
    """One channel, or a list of channels."""
    if isinstance(column, list) and column and isinstance(column[0], list | np.ndarray):
        return [_as_samples(channel) for channel in column]
    return [_as_samples(column)]


Document = TypeVar("Document")


def as_lists(document: Document) -> Document:
    """Return the document as JSON carries it: arrays as lists, null where a sensor read nothing."""
    plain: Document = _as_lists(document)
    return plain


def _as_lists(document: Any) -> Any:
    if isinstance(document, dict):
        return {name: _as_lists(value) for name, value in document.items()}
    if isinstance(document, list | tuple):
        return [_as_lists(value) for value in document]
    if isinstance(document, np.ndarray):
        read = np.isfinite(document)
        cells = document.tolist()
        return cells if read.all() else list(map(_or_null, cells, read.tolist()))
    return document


def _or_null(cell: float, was_read: bool) -> float | None:
    return cell if was_read else None


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
