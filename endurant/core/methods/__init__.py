"""The methods, one module each, found by their id.

A module that defines `METHOD`, or `METHODS` for a close pair, is picked up by itself.
"""

from __future__ import annotations

import importlib
import pkgutil
from functools import cache

from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid


@cache
def all_methods() -> dict[str, Method]:
    """Every method by its id, in the order of the ids."""
    found: dict[str, Method] = {}
    for info in pkgutil.iter_modules(__path__):
        module = importlib.import_module(f"{__name__}.{info.name}")
        for method in getattr(module, "METHODS", [getattr(module, "METHOD", None)]):
            if method is not None:
                found[method.id] = method
    return dict(sorted(found.items()))


def find_method(method_id: str) -> Method:
    """The method with this id; raises Invalid that names the known ones."""
    methods = all_methods()
    if method_id not in methods:
        known = ", ".join(methods)
        raise Invalid(
            f"method “{method_id}” is not known; expected one of: {known}", field="method"
        )
    return methods[method_id]
