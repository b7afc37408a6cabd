"""The tables a laboratory edits: what they say of a new test, and what they refuse."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.lab_tables import (
    LabTables,
    atmosphere_by,
    drop_height,
    lab_defaults,
    read_tables,
    with_factors,
)
from endurant.core.methods import find_method
from endurant.core.refusals import Invalid

PACK = {"gross_mass_kg": 12.0, "size_mm": [400.0, 300.0, 200.0]}


def tables(**changes: Any) -> LabTables:
    return read_tables(LabTables().model_dump(mode="json") | changes)


@pytest.mark.parametrize(
    ("mass_kg", "height_mm"), [(0.2, 760), (10.0, 760), (10.1, 610), (45.0, 310), (45.1, None)]
)
def test_a_drop_height_goes_by_the_mass_and_heavy_packs_have_none(
    mass_kg: float, height_mm: float | None
) -> None:
    assert drop_height(LabTables(), mass_kg) == height_mm


def test_what_the_house_says_enters_a_new_test() -> None:
    own = tables(
        area_rule="minimum",
        iso_intervals="iso-older",
        digits=[{"method": "iso-527", "property": "modulus", "decimals": 0}],
    )
    said = lab_defaults(own, find_method("iso-527"), {})
    assert said == {"area_rule": "minimum", "reported_to": {"modulus": {"decimals": 0}}}
    melt = lab_defaults(own, find_method("iso-1133-1-a"), {})
    assert melt == {"interval_table": "iso-older"}
    assert lab_defaults(own, find_method("astm-d1238-a"), {}) == {}
    box = lab_defaults(own, find_method("iso-12048"), PACK)
    assert box == {"gross_mass_kg": 12.0}
    assert lab_defaults(own, find_method("iso-3037"), PACK) == {"box_perimeter_mm": 1400.0}
    assert lab_defaults(own, find_method("iso-2248"), PACK)["drop_height_mm"] == 610


def test_a_stack_factor_without_a_figure_has_that_of_the_house() -> None:
    own = tables(stack_factors=[{"name": "humidity-85", "factor": 2.1}])
    request = {"stack_factors": {"humidity-85": None, "own": 1.5}}
    assert with_factors(own, request) == {"stack_factors": {"humidity-85": 2.1, "own": 1.5}}


def test_an_atmosphere_of_the_house_is_its_own() -> None:
    row = {
        "atmosphere": "textile-20-65",
        "temperature_c": 21.0,
        "temperature_tolerance_c": 1.0,
        "humidity_percent": 65.0,
        "humidity_tolerance_percent": 2.0,
        "least_minutes": 960.0,
    }
    own = atmosphere_by(tables(atmospheres=[row]), "textile-20-65")
    assert own.least_minutes == 960
    assert not own.holds(19.9, 65)
    assert atmosphere_by(LabTables(), "textile-20-65").holds(19.9, 65)


@pytest.mark.parametrize(
    ("changes", "wording"),
    [
        ({"drop_heights": [{"up_to_kg": 0, "height_mm": 760}]}, "field.too-low"),
        (
            {"materials": [{"material": "PP", "temperature_c": 230, "load_kg": 2}] * 2},
            "lab-tables.row-twice",
        ),
        (
            {"digits": [{"method": "iso-527", "property": "colour", "decimals": 1}]},
            "lab-tables.property-unknown",
        ),
        ({"digits": [{"method": "iso-527", "property": "modulus"}]}, "lab-tables.digits-both"),
        (
            {
                "atmospheres": [
                    {
                        "atmosphere": "moon",
                        "temperature_c": 1.0,
                        "temperature_tolerance_c": 1.0,
                        "least_minutes": 1.0,
                    }
                ]
            },
            "lab-tables.atmosphere-unknown",
        ),
        ({"area_rule": "largest"}, "field.not-a-choice"),
        ({"moods": []}, "field.unknown"),
    ],
)
def test_a_table_that_makes_no_sense_is_refused(changes: dict[str, Any], wording: str) -> None:
    with pytest.raises(Invalid, match=wording):
        tables(**changes)
