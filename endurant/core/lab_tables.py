"""The tables that a laboratory edits: materials, heights, factors, atmospheres, digits, presets.

A job keeps the tables that it began with; what they say enters the parameters of its tests.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from endurant.core.conditioning.atmospheres import ATMOSPHERES, Atmosphere
from endurant.core.fields import Name, NotNegative, Number, Positive, Strict
from endurant.core.methods import find_method
from endurant.core.methods.iso_12048 import STACK_FACTORS
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Digits
from endurant.core.quantities import at_least
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid
from endurant.core.working_hours import AwayRow, WorkingHours

MAX_ROWS = 80


class MaterialRow(Strict):
    """The barrel temperature and the load that a material is usually run at."""

    material: Name
    temperature_c: Number
    load_kg: Positive


class DropRow(Strict):
    """The height of a drop for packs up to this gross mass."""

    up_to_kg: Positive
    height_mm: Positive


class FactorRow(Strict):
    """A safety factor of a stack, by its name."""

    name: Name
    factor: Positive


class AtmosphereRow(Strict):
    """An atmosphere of the laboratory where it is not the usual one."""

    atmosphere: str = Field(max_length=40)
    temperature_c: Number
    temperature_tolerance_c: Positive
    humidity_percent: NotNegative | None = None
    humidity_tolerance_percent: Positive | None = None
    least_minutes: Positive


class DigitsRow(Strict):
    """To how many digits this laboratory reports a property of a method."""

    method: str = Field(max_length=80)
    property: Name
    decimals: Annotated[int, Field(strict=True, ge=0, le=9)] | None = None
    significant: Annotated[int, Field(strict=True, ge=1, le=12)] | None = None


Rows = Field(max_length=MAX_ROWS)


class LabTables(Strict):
    """Every table; what a laboratory has never changed is as it comes.

    `hours` are when the laboratory works, but for the days on which it is `shut`.
    `area_rule`, `iso_intervals` and `failures_counted` are schools of a method that a new test
    begins with.
    """

    materials: Annotated[list[MaterialRow], Rows] = [
        MaterialRow(material="PE", temperature_c=190, load_kg=2.16),
        MaterialRow(material="PP", temperature_c=230, load_kg=2.16),
        MaterialRow(material="PS", temperature_c=200, load_kg=5.0),
        MaterialRow(material="ABS", temperature_c=220, load_kg=10.0),
        MaterialRow(material="PC", temperature_c=300, load_kg=1.2),
        MaterialRow(material="PMMA", temperature_c=230, load_kg=3.8),
    ]
    drop_heights: Annotated[list[DropRow], Rows] = [
        DropRow(up_to_kg=10, height_mm=760),
        DropRow(up_to_kg=19, height_mm=610),
        DropRow(up_to_kg=28, height_mm=460),
        DropRow(up_to_kg=45, height_mm=310),
    ]
    stack_factors: Annotated[list[FactorRow], Rows] = [
        FactorRow(name=name, factor=factor) for name, factor in STACK_FACTORS.items()
    ]
    atmospheres: Annotated[list[AtmosphereRow], Rows] = []
    digits: Annotated[list[DigitsRow], Rows] = []
    hours: WorkingHours = WorkingHours()
    shut: Annotated[list[AwayRow], Rows] = []
    area_rule: Literal["mean", "minimum"] = "mean"
    iso_intervals: Literal["iso-older", "iso-newer"] = "iso-newer"
    failures_counted: Literal["first", "all"] = "first"


AS_THEY_COME = LabTables()


def read_tables(given: Mapping[str, Any] | None) -> LabTables:
    """The tables as they are kept, or as they come where nothing was changed; raises Invalid."""
    if given is None:
        return AS_THEY_COME
    tables: LabTables = read_model(LabTables, dict(given), "tables")
    _refuse_doubles(tables)
    for row in tables.atmospheres:
        if row.atmosphere not in ATMOSPHERES:
            raise Invalid(
                "lab-tables.atmosphere-unknown",
                atmosphere=row.atmosphere,
                known=list(ATMOSPHERES),
                field="atmospheres",
            )
        if (row.humidity_percent is None) != (row.humidity_tolerance_percent is None):
            raise Invalid(
                "lab-tables.humidity-alone", atmosphere=row.atmosphere, field="atmospheres"
            )
    for digits in tables.digits:
        _digits_of(digits)
    return tables


def _refuse_doubles(tables: LabTables) -> None:
    names = {
        "materials": [row.material.lower() for row in tables.materials],
        "drop_heights": [f"{row.up_to_kg:g} kg" for row in tables.drop_heights],
        "stack_factors": [row.name for row in tables.stack_factors],
        "atmospheres": [row.atmosphere for row in tables.atmospheres],
        "digits": [f"{row.property} of {row.method}" for row in tables.digits],
    }
    for table, keys in names.items():
        twice = next((key for key in keys if keys.count(key) > 1), None)
        if twice is not None:
            text = table.replace("_", " ")
            raise Invalid("lab-tables.row-twice", table=text, twice=twice, field=table)


def _digits_of(row: DigitsRow) -> Digits:
    method = find_method(row.method)
    known = [known.name for known in method.properties]
    if row.property not in known:
        raise Invalid(
            "lab-tables.property-unknown",
            method=method.title,
            property=row.property,
            known=list(known),
            field="digits",
        )
    try:
        return Digits(decimals=row.decimals, significant=row.significant)
    except ValidationError as error:
        raise Invalid(
            "lab-tables.digits-both", property=row.property, method=row.method, field="digits"
        ) from error


def lab_defaults(tables: LabTables, method: Method, sample: Mapping[str, Any]) -> dict[str, Any]:
    """Return what the lab says of the parameters of a new test, where nobody asked otherwise.

    `sample` is what was written down of packs: their `size_mm` and `gross_mass_kg`.
    """
    fields = method.parameters.model_fields
    said: dict[str, Any] = {}
    if "area_rule" in fields:
        said["area_rule"] = tables.area_rule
    if "failures_counted" in fields:
        said["failures_counted"] = tables.failures_counted
    if "interval_table" in fields and fields["interval_table"].default != "astm":
        said["interval_table"] = tables.iso_intervals
    digits = {
        row.property: _digits_of(row).model_dump(exclude_none=True)
        for row in tables.digits
        if row.method == method.id
    }
    if digits:
        said["reported_to"] = digits
    mass_kg, size_mm = sample.get("gross_mass_kg"), sample.get("size_mm")
    if mass_kg is not None and "gross_mass_kg" in fields:
        said["gross_mass_kg"] = mass_kg
    if mass_kg is not None and "drop_height_mm" in fields:
        said["drop_height_mm"] = drop_height(tables, mass_kg)
    if size_mm and "box_perimeter_mm" in fields:
        said["box_perimeter_mm"] = 2 * (size_mm[0] + size_mm[1])
    return said


def with_factors(tables: LabTables, parameters: dict[str, Any]) -> dict[str, Any]:
    """Parameters in which a stack factor without a figure has the one that the lab gives it."""
    named = parameters.get("stack_factors")
    if not isinstance(named, dict):
        return parameters
    own = {row.name: row.factor for row in tables.stack_factors}
    factors = {name: own.get(name) if factor is None else factor for name, factor in named.items()}
    return parameters | {"stack_factors": factors}


def drop_height(tables: LabTables, mass_kg: float) -> float | None:
    """Return the height that packs of this mass are dropped from; None where they are too heavy."""
    heights = sorted(tables.drop_heights, key=lambda row: row.up_to_kg)
    return next((row.height_mm for row in heights if at_least(row.up_to_kg, mass_kg)), None)


def usual_row(atmosphere: Atmosphere) -> AtmosphereRow:
    """Return a row of the table that says what is usual, to be changed."""
    facts = {
        name: getattr(atmosphere, name)
        for name in AtmosphereRow.model_fields
        if name != "atmosphere"
    }
    return AtmosphereRow(atmosphere=atmosphere.id, **facts)


def atmosphere_by(tables: LabTables, atmosphere_id: str) -> Atmosphere:
    """Return an atmosphere as this laboratory has it."""
    usual = ATMOSPHERES[atmosphere_id]
    own = next((row for row in tables.atmospheres if row.atmosphere == atmosphere_id), None)
    return usual if own is None else replace(usual, **own.model_dump(exclude={"atmosphere"}))
