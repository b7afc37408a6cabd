"""Names of fields as a person says them: "speed_mm_min" is a speed in mm/min."""

from __future__ import annotations

UNITS = {
    "_mm_min": "mm/min",
    "_ml_min": "mL/min",
    "_mm_s": "mm/s",
    "_g_cm3": "g/cm³",
    "_g_m2": "g/m²",
    "_cm2": "cm²",
    "_percent": "%",
    "_mm": "mm",
    "_kg": "kg",
    "_kpa": "kPa",
    "_mpa": "MPa",
    "_min": "min",
    "_n": "N",
    "_g": "g",
    "_s": "s",
    "_c": "°C",
    "_j": "J",
}
"""Endings of names and the units they stand for, those that end like another one first."""


SAID_OTHERWISE = {"specimens_wanted": "number of specimens"}


def title_and_unit(name: str) -> tuple[str, str]:
    """Return the words of a name and its unit; no unit where it has none."""
    if name in SAID_OTHERWISE:
        return SAID_OTHERWISE[name], ""
    for ending, unit in UNITS.items():
        text = name.removesuffix(ending)
        if text and text != name:
            return text.replace("_", " "), unit
    return name.replace("_", " "), ""


def spoken(name: str) -> str:
    """Return a name as it is said in a sentence: "size (mm)"."""
    title, unit = title_and_unit(name)
    return f"{title} ({unit})" if unit else title
