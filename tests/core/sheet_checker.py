"""A checker of sheets that shares no code with the placer: plain polygons, plain arithmetic."""

from __future__ import annotations

from itertools import combinations
from typing import Any

from shapely.geometry import Point, Polygon

NEAR = 1e-3


def wrong_with(document: dict[str, Any], answer: dict[str, Any]) -> list[str]:
    """Everything about an answer to a cutting document that breaks its rules."""
    groups = {(one["test"], one.get("direction")): one for one in document["groups"]}
    long = document.get("length_mm") or answer["length_needed_mm"]
    found: list[str] = []
    lying = []
    for one in answer["placements"]:
        group = groups[one["test"], one["direction"]]
        shape = shape_of(one, group)
        found += wrong_alone(document, long, one, group, shape)
        lying.append((one, group, shape))
    for (one, group, shape), (other, _, neighbour) in combinations(lying, 2):
        named = f"{one['test']} {one['number']} and {other['test']} {other['number']}"
        kerf = document.get("kerf_mm", 3)
        if shape.distance(neighbour) < kerf - NEAR or shape.intersection(neighbour).area > NEAR:
            found.append(f"{named}: too close")
        if (one["test"], one["direction"]) == (other["test"], other["direction"]):
            stagger = group.get("stagger", "none")
            found += wrong_yarns(named, stagger, one["direction"] == "warp", shape, neighbour)
    return found


def wrong_alone(
    document: dict[str, Any], long: float, one: Any, group: Any, shape: Polygon
) -> list[str]:
    """Margins, areas to avoid, and the way it lies."""
    found = []
    named = f"{one['test']} {one['direction']} {one['number']}"
    left, near, right, far = shape.bounds
    margin, end = group["selvedge_margin_mm"], document.get("end_margin_mm", 50)
    if left < margin - NEAR or right > document["width_mm"] - margin + NEAR:
        found.append(f"{named}: selvedge")
    if near < end - NEAR or far > long - end + NEAR:
        found.append(f"{named}: cut end")
    for area in document.get("avoid", []):
        if shape.distance(Polygon(area["polygon"])) < document.get("clearance_mm", 5) - NEAR:
            found.append(f"{named}: {area['reason']}")
    long_mm, short_mm = group["shape"].get("long_mm"), group["shape"].get("short_mm")
    sides = {"warp": (short_mm, long_mm), "weft": (long_mm, short_mm)}.get(one["direction"])
    if (
        long_mm
        and sides
        and (abs(right - left - sides[0]) > NEAR or abs(far - near - sides[1]) > NEAR)
    ):
        found.append(f"{named}: lies the wrong way")
    return found


def wrong_yarns(
    named: str, stagger: str, upright: bool, shape: Polygon, neighbour: Polygon
) -> list[str]:
    """Two of a group that share yarns against their stagger."""
    a, b = shape.bounds, neighbour.bounds
    apart_x = max(a[0], b[0]) >= min(a[2], b[2]) - NEAR
    apart_y = max(a[1], b[1]) >= min(a[3], b[3]) - NEAR
    found = []
    if stagger != "none" and not (apart_x if upright else apart_y):
        found.append(f"{named}: share yarns lengthwise")
    if stagger == "both" and not (apart_y if upright else apart_x):
        found.append(f"{named}: share crossing yarns")
    return found


def shape_of(one: dict[str, Any], group: dict[str, Any]) -> Polygon:
    """The outline; a disc from its diameter, drawn finely."""
    diameter = group["shape"].get("diameter_mm")
    if diameter:
        return Point(one["x_mm"], one["y_mm"]).buffer(diameter / 2, quad_segs=200)
    return Polygon(one["outline"])
