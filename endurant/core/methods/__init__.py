"""The methods, found by their id.

A module is imported when its first method is asked for; reading one document does not wait
for fifty methods. A test checks that the table says what the modules hold.
"""

from __future__ import annotations

import importlib
from functools import cache

from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid

MODULES = {
    "iso-13937-2": "iso_13937_2",
}
"""Module of each method, in the order of the ids."""


@cache
def find_method(method_id: str) -> Method:
    """The method with this id; raises Invalid that names the known ones."""
    if method_id not in MODULES:
        known = ", ".join(MODULES)
        raise Invalid(
            f"method “{method_id[:40]}” is not known; expected one of: {known}", field="method"
        )
    module = importlib.import_module(f"{__name__}.{MODULES[method_id]}")
    found: Method = module.METHODS[method_id]
    return found


def all_methods() -> dict[str, Method]:
    """Every method by its id, in the order of the ids."""
    return {method_id: find_method(method_id) for method_id in MODULES}
