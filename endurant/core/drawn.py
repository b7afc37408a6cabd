"""What there is to draw of a specimen's readings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from endurant.core.trace import Samples

AXES = {
    "extension_mm": ("extension", "mm"),
    "displacement_mm": ("displacement", "mm"),
    "time_s": ("time", "s"),
    "force_n": ("force", "N"),
    "pressure_kpa": ("pressure", "kPa"),
}
PAIRS = (
    ("extension_mm", "force_n"),
    ("displacement_mm", "force_n"),
    ("time_s", "pressure_kpa"),
)
TRACES = {"trace": "", "trace_unsewn": "unsewn", "trace_sewn": "sewn"}


@dataclass(frozen=True)
class Hatch:
    """How the specimens of one test are hatched: angle in degrees, distance, dashes."""

    angle: float
    apart_mm: float
    dashes: str


HATCHES = (
    Hatch(45, 7.0, ""),
    Hatch(-45, 7.0, ""),
    Hatch(0, 6.0, ""),
    Hatch(90, 6.0, ""),
    Hatch(45, 4.0, "2 3"),
    Hatch(-45, 4.0, "2 3"),
    Hatch(0, 3.5, "1 3"),
    Hatch(20, 9.0, "6 2"),
)


def hatch_of(place: int) -> Hatch:
    """Return the hatch of the test at this place on a sheet."""
    return HATCHES[place % len(HATCHES)]


@dataclass(frozen=True)
class Curve:
    """One curve: y over x, with what stands on its axes; `name` is its field in the readings."""

    name: str
    title: str
    x: Samples
    y: Samples
    x_title: str
    y_title: str
    x_unit: str
    y_unit: str


def curves_of(entry: Mapping[str, Any]) -> list[Curve]:
    """Return the curves of the readings of one specimen, none where there is no trace."""
    curves = []
    for name, title in TRACES.items():
        trace = entry.get(name)
        if isinstance(trace, dict):
            pair = next((pair for pair in PAIRS if all(_is_read(trace, key) for key in pair)), None)
            if pair is not None:
                x, y = (first_channel(trace[key]) for key in pair)
                curves.append(_curve(name, title, pair, x, y))
            elif _is_read(trace, "pressure_kpa"):
                y = first_channel(trace["pressure_kpa"])
                x = np.arange(y.size, dtype=np.float64)
                curves.append(_curve(name, title, ("sample", "pressure_kpa"), x, y))
    return curves


def _curve(name: str, title: str, pair: tuple[str, str], x: Samples, y: Samples) -> Curve:
    (x_title, x_unit), (y_title, y_unit) = (AXES.get(key, (key, "")) for key in pair)
    return Curve(name, title, x, y, x_title, y_title, x_unit, y_unit)


def _is_read(trace: Mapping[str, Any], name: str) -> bool:
    return trace.get(name) is not None and len(trace[name]) > 0


def first_channel(column: Samples | list[Any]) -> Samples:
    """Return a column as samples of shape (n,); of several channels the first.

    A strain that ended goes on as NaN.
    """
    is_several = (
        isinstance(column, list) and bool(column) and isinstance(column[0], list | np.ndarray)
    )
    return np.asarray(column[0] if is_several else column, dtype=np.float64)
