"""What a recording is of a specimen: the readings that its columns become."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from endurant.core.methods.guide import FrameGuide, PressGuide
from endurant.core.methods.method import Method

HALF = "half"
"""The channel that says which of a pair a sample belongs to, counted from 0."""

LEVEL = "level"
"""The channel that says which load of a schedule is held: 1 datum, 2 full, 3 relaxed, else 0."""

Columns = Mapping[str, Sequence[float] | Sequence[float | None]]


def recorded_entry(method: Method, columns: Columns) -> dict[str, Any]:
    """The readings that these columns are: one trace, or one for each half of a pair."""
    live = method.guide.live
    if isinstance(live, PressGuide):
        return _of_pallet(live, columns)
    parts = live.parts if isinstance(live, FrameGuide) else ("trace",)
    if HALF not in columns:
        return {parts[0]: dict(columns)}
    halves = columns[HALF]
    entry: dict[str, Any] = {}
    for number, part in enumerate(parts):
        places = [place for place, half in enumerate(halves) if half == number]
        if places:
            entry[part] = {
                name: [column[place] for place in places]
                for name, column in columns.items()
                if name != HALF
            }
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
    held = [
        [place for place, level in enumerate(levels) if level == wanted] for wanted in (1, 2, 3)
    ]
    if not any(levels):
        trace = {"force_n": columns["force_n"], "displacement_mm": columns["middle_mm"]}
        return {"trace": trace | {"time_s": columns["time_s"]}}
    if not all(held):
        return {"channels": channels}
    datum, full, relaxed = held
    read_at = {
        "datum": datum[-1],
        "full_at_once": full[0],
        "full_end": full[-1],
        "relaxed": relaxed[-1],
    }
    rows = {when: [columns[name][place] for name in names] for when, place in read_at.items()}
    return {"channels": channels, "readings": rows}
