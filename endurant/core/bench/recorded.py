"""What a recording is of a specimen: the readings that its columns become."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from endurant.core.methods.guide import FrameGuide, PressGuide
from endurant.core.methods.method import Method
from endurant.core.trace import Samples

HALF = "half"
"""The channel that says which of a pair a sample belongs to, counted from 0."""

LEVEL = "level"
"""The channel that says which load of a schedule is held: 1 datum, 2 full, 3 relaxed, else 0."""

Columns = Mapping[str, Samples]
"""The samples of each channel, each of shape (n,); NaN where a strain was no longer read."""


def recorded_entry(method: Method, columns: Columns) -> dict[str, Any]:
    """Return the readings that these columns are: one trace, or one for each half of a pair."""
    live = method.guide.live
    if isinstance(live, PressGuide):
        return _of_pallet(live, columns)
    parts = live.parts if isinstance(live, FrameGuide) else ("trace",)
    if HALF not in columns:
        return {parts[0]: dict(columns)}
    entry: dict[str, Any] = {}
    for number, part in enumerate(parts):
        inside = columns[HALF] == number
        if inside.any():
            entry[part] = {name: column[inside] for name, column in columns.items() if name != HALF}
    return entry


def _of_pallet(live: PressGuide, columns: Columns) -> dict[str, Any]:
    """What a pallet's recording says: the rows read on time, or force over the middle's sag.

    A schedule that was ended early gives no rows: there is nothing to compute. One that was
    stopped before its first sample has not even the columns.
    """
    channels = [{"name": row.name, "x_mm": row.x_mm, "y_mm": row.y_mm} for row in live.sensors]
    if LEVEL not in columns:
        return {"channels": channels}
    levels = columns[LEVEL]
    names = [f"{sensor.name}_mm" for sensor in live.sensors]
    if not levels.any():
        trace = {"force_n": columns["force_n"], "displacement_mm": columns["middle_mm"]}
        return {"trace": trace | {"time_s": columns["time_s"]}}
    datum, full, relaxed = (np.flatnonzero(levels == level) for level in (1, 2, 3))
    if not (datum.size and full.size and relaxed.size):
        return {"channels": channels}
    read_at = {
        "datum": datum[-1],
        "full_at_once": full[0],
        "full_end": full[-1],
        "relaxed": relaxed[-1],
    }
    rows = {
        when: [float(columns[name][place]) for name in names] for when, place in read_at.items()
    }
    return {"channels": channels, "readings": rows}
