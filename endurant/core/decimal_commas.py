"""Figures that came as text with a decimal comma, read where a model takes a number."""

from __future__ import annotations

import re
from collections.abc import Mapping
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel

_FIGURE = re.compile(r"\s*[+-]?\d+,\d+\s*")
"""A figure with a comma before its decimals; anything else is left to the model."""


def with_figures(model: type[BaseModel], data: Any) -> Any:
    """Return data with every "24,5" as 24.5 where the model takes a number and no text."""
    if not isinstance(data, Mapping):
        return data
    fields = {field.alias or name: field.annotation for name, field in model.model_fields.items()}
    return {name: _read(fields.get(name, Any), value) for name, value in data.items()}


def figure_of(value: object) -> object:
    """Return the figure of a text such as "24,5"; anything else as it is."""
    is_figure = isinstance(value, str) and _FIGURE.fullmatch(value) is not None
    return float(str(value).replace(",", ".")) if is_figure else value


def _read(kind: Any, value: Any) -> Any:
    kinds = list(_kinds_of(kind))
    if isinstance(value, str):
        takes_number = float in kinds and str not in kinds and Any not in kinds
        return figure_of(value) if takes_number else value
    if isinstance(value, Mapping):
        for each in kinds:
            if isinstance(each, type) and issubclass(each, BaseModel):
                return with_figures(each, value)
            if get_origin(each) is dict:
                inner = get_args(each)[1]
                return {name: _read(inner, part) for name, part in value.items()}
    if isinstance(value, list):
        inner = next((get_args(each) for each in kinds if get_origin(each) in (list, tuple)), ())
        places = [part for part in inner if part is not Ellipsis]
        if places:
            return [_read(places[min(at, len(places) - 1)], part) for at, part in enumerate(value)]
    return value


def _kinds_of(kind: Any) -> Any:
    """What a field may hold, without its constraints and without None."""
    origin = get_origin(kind)
    if origin is Annotated:
        yield from _kinds_of(get_args(kind)[0])
    elif origin in (Union, UnionType):
        for part in get_args(kind):
            yield from _kinds_of(part)
    elif kind is not NoneType:
        yield kind
