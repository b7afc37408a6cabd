"""Worked examples with a few things changed, and what they give then."""

from __future__ import annotations

import copy
from collections.abc import Mapping
from typing import Any

from endurant.core.document import analyse, read_document
from endurant.core.refusals import Invalid
from tests.examples import example

GONE = object()
"""In the place of a value: the field is left out."""

Changes = Mapping[tuple[str | int, ...], Any]


def changed(name: str, changes: Changes) -> dict[str, Any]:
    """The document of an example with values at paths replaced; a callable is given the old one."""
    document: dict[str, Any] = copy.deepcopy(example(name)["document"])
    for path, value in changes.items():
        holder: Any = document
        for step in path[:-1]:
            holder = holder[step]
        last = path[-1]
        if value is GONE:
            del holder[last]
        else:
            old = holder.get(last) if isinstance(holder, dict) else holder[last]
            holder[last] = value(old) if callable(value) else value
    return document


def result_of(name: str, changes: Changes) -> dict[str, Any]:
    """What the changed example gives."""
    return analyse(read_document(changed(name, changes))).as_json()


def refusal_of(name: str, changes: Changes) -> Invalid | None:
    """What the changed example is refused with; None where it is computed."""
    try:
        result_of(name, changes)
    except Invalid as refusal:
        return refusal
    return None
