"""Columns of samples as arrays: a list of numbers read quickly, and refused in words."""

from __future__ import annotations

from array import array
from typing import Annotated, Any

import numpy as np
from pydantic import PlainValidator, WithJsonSchema
from pydantic_core import PydanticCustomError

from endurant.core.fields import LARGEST
from endurant.core.refusals import quoted
from endurant.core.trace import Samples


def refuse_column(column: str, sentence: str) -> PydanticCustomError:
    """What a validator raises when one column of a trace is not valid."""
    return PydanticCustomError("column", "{sentence}", {"field": column, "sentence": sentence})


def _as_samples(column: object) -> Samples:
    """A list of finite numbers as an array; a loop over pydantic's numbers is 30 times slower."""
    if isinstance(column, np.ndarray):
        samples = column.astype(np.float64, copy=False)
    elif not isinstance(column, list):
        raise PydanticCustomError("list_type", "must be a list")
    elif set(map(type, column)) <= {float, int}:
        try:
            samples = np.frombuffer(array("d", column), dtype=np.float64)
        except OverflowError:
            raise PydanticCustomError("column", "holds a number that is too large") from None
    else:
        place, odd = next((n, x) for n, x in enumerate(column) if type(x) not in (float, int))
        raise PydanticCustomError(
            "column",
            "must hold numbers; sample {place} is {given}",
            {"place": place + 1, "given": "null" if odd is None else f"{quoted(odd)}"},
        )
    if samples.size and not (samples.min() >= -LARGEST and samples.max() <= LARGEST):
        within = np.abs(samples) <= LARGEST
        place = int(np.argmin(within))
        raise PydanticCustomError(
            "column",
            "must hold finite numbers; sample {place} is {given}",
            {"place": place + 1, "given": f"{samples[place]:g}"},
        )
    return samples


def _as_strain(column: object) -> Samples:
    """Strain with NaN where the extensometer is off, which is from one sample on to the end."""
    if isinstance(column, np.ndarray):
        off = np.isnan(column)
        on = int(np.argmax(off)) if off.any() else column.size
        column = [*column[:on].tolist(), *([None] * (column.size - on))]
        if not off[on:].all():
            raise PydanticCustomError("column", "goes on after the extensometer came off")
    if not isinstance(column, list):
        raise PydanticCustomError("list_type", "must be a list")
    on = column.index(None) if type(None) in set(map(type, column)) else len(column)
    if any(specimen is not None for specimen in column[on:]):
        raise PydanticCustomError(
            "column", "holds a number after a null; once off, the extensometer stays off"
        )
    if column and on == 0:
        raise PydanticCustomError("column", "begins with null; expected the strain at the start")
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
