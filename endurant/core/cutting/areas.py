"""Areas to avoid as they come from outside: polygons that make sense, within the sheet."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot

from shapely import is_valid_reason
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from endurant.core.cutting.sheet import AvoidedArea
from endurant.core.quoting import quoted
from endurant.core.refusals import Invalid

MIN_MM2 = 1.0
FARTHEST_MM = 1e6


def marked_areas(
    reason: str, corners: Sequence[Sequence[float]], width_mm: float, length_mm: float | None
) -> list[AvoidedArea]:
    """Return an area to avoid, cut off at the edges of the sheet; corners in mm from the cut end.

    An area that the edges part becomes several. Raises Invalid, field `avoid`, for fewer than three
    corners, sides that cross one another, less than 1 mm², or an area off the sheet.
    """
    named = f"The area {quoted(reason)}"
    if len(corners) < 3:
        raise Invalid("area.too-few-corners", area_name=named, count=len(corners), field="avoid")
    marked = Polygon(corners)
    if not marked.is_valid:
        raise Invalid("area.crosses-itself", area_name=named, place=_where(marked), field="avoid")
    if marked.area < MIN_MM2:
        raise Invalid("area.too-small", area_name=named, area=marked.area, field="avoid")
    far = FARTHEST_MM if length_mm is None else length_mm
    parts = _polygons(marked.intersection(box(0, 0, width_mm, far)))
    if sum(part.area for part in parts) < MIN_MM2:
        raise Invalid("area.off-the-sheet", area_name=named, width_mm=width_mm, field="avoid")
    return [AvoidedArea(reason, _corners(part)) for part in parts]


def _where(marked: Polygon) -> str:
    """Near which corner a polygon goes wrong, when the library tells."""
    reason = is_valid_reason(marked)
    _, bracket, place = reason.partition("[")
    numbers = place.rstrip("]").split()
    if not bracket or len(numbers) < 2:
        return ""
    x, y = float(numbers[0]), float(numbers[1])
    return f" near x {x:.0f}, y {y:.0f} mm" if hypot(x, y) < FARTHEST_MM else ""


def _polygons(shape: BaseGeometry) -> list[Polygon]:
    parts = shape.geoms if isinstance(shape, MultiPolygon) else getattr(shape, "geoms", [shape])
    return [part for part in parts if isinstance(part, Polygon) and part.area > 0]


def _corners(polygon: Polygon) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in polygon.exterior.coords[:-1])
