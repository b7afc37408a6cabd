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
    "astm-d2261": "astm_d2261",
    "iso-6383-2": "pendulum_tear",
    "iso-1974": "pendulum_tear",
    "iso-13936-1": "seam_slippage",
    "iso-13936-2": "seam_slippage",
    "iso-13937-2": "iso_13937_2",
    "iso-13934-1": "fabric_tension",
    "iso-13934-2": "fabric_tension",
    "astm-d4595": "wide_width",
    "astm-d6637": "wide_width",
    "iso-527": "plastics_tension",
    "iso-527-3": "plastics_tension",
    "astm-d638": "plastics_tension",
    "astm-d882": "plastics_tension",
    "astm-e8": "astm_e8",
    "astm-d412": "rubber_tension",
    "iso-37": "rubber_tension",
    "astm-d624": "rubber_tear",
    "iso-34-1": "rubber_tear",
    "hysteresis": "hysteresis",
    "relaxation": "relaxation",
    "astm-f88": "astm_f88",
    "astm-f1306": "astm_f1306",
    "iso-3036": "iso_3036",
    "iso-13938-1": "iso_13938_1",
    "iso-2758": "bursting_paper",
    "iso-2759": "bursting_paper",
    "iso-12048": "iso_12048",
    "iso-3037": "iso_3037",
    "iso-8611": "iso_8611",
    "scuff": "scuff",
    "scratch": "scratch",
    "iso-105-x12": "iso_105_x12",
    "liquid-rub": "liquid_rub",
    "linear-abrasion": "linear_abrasion",
    "iso-12947-2": "iso_12947_2",
    "16-cfr-1610": "flammability",
    "iso-1133-1-a": "melt_mass_flow",
    "astm-d1238-a": "melt_mass_flow",
    "iso-1133-1-b": "melt_volume_flow",
    "astm-d1238-b": "melt_volume_flow",
    "melt-density": "melt_density",
    "barrel-check": "barrel_check",
    "iso-180": "pendulum_impact",
    "iso-179-1": "pendulum_impact",
    "astm-d256": "pendulum_impact",
    "iso-7765-1": "falling_dart",
    "astm-d1709": "falling_dart",
    "iso-535": "iso_535",
    "bubble-leak": "bubble_leak",
    "iso-2248": "iso_2248",
    "iso-13355": "vibration",
    "iso-2247": "vibration",
    "iso-8318": "vibration",
}
"""Module of each method, in the order of the work: tear and seam, tension, and so on."""


@cache
def find_method(method_id: str) -> Method:
    """Return the method with this id; raises Invalid that names the known ones."""
    if method_id not in MODULES:
        known = ", ".join(MODULES)
        raise Invalid("method.unknown", method=method_id, known=known, field="method")
    module = importlib.import_module(f"{__name__}.{MODULES[method_id]}")
    method: Method = module.METHODS[method_id]
    return method


def all_methods() -> dict[str, Method]:
    """Return every method by its id, in the order of `MODULES`."""
    return {method_id: find_method(method_id) for method_id in MODULES}
