"""A checker of sheets that shares no code with the placer: plain polygons, plain arithmetic."""

from __future__ import annotations

from itertools import combinations
from typing import Any

from shapely.geometry import Point, Polygon

NEAR = 1e-3


def wrong_with(document: dict[str, Any], answer: dict[str, Any]) -> list[str]:
    """Everything about an answer to a cutting document that breaks its rules."""
    groups = {(group["test"], group.get("direction")): group for group in document["groups"]}
    long = document.get("length_mm") or answer["length_needed_mm"]
    wrong: list[str] = []
    lying = []
    for placement in answer["placements"]:
        group = groups[placement["test"], placement["direction"]]
        shape = shape_of(placement, group)
        wrong += wrong_alone(document, long, placement, group, shape)
        lying.append((placement, group, shape))
    for (placement, group, shape), (other, _, neighbour) in combinations(lying, 2):
        named = f"{placement['test']} {placement['number']} and {other['test']} {other['number']}"
        kerf = document.get("kerf_mm", 3)
        if shape.distance(neighbour) < kerf - NEAR or shape.intersection(neighbour).area > NEAR:
            wrong.append(f"{named}: too close")
        if (placement["test"], placement["direction"]) == (other["test"], other["direction"]):
            stagger = group.get("stagger", "none")
            wrong += wrong_yarns(named, stagger, placement["direction"] == "warp", shape, neighbour)
    return wrong


def wrong_alone(
    document: dict[str, Any], long: float, placement: Any, group: Any, shape: Polygon
) -> list[str]:
    """Margins, areas to avoid, and the way it lies."""
    wrong = []
    named = f"{placement['test']} {placement['direction']} {placement['number']}"
    left, near, right, far = shape.bounds
    margin, end = group["selvedge_margin_mm"], document.get("end_margin_mm", 50)
    if left < margin - NEAR or right > document["width_mm"] - margin + NEAR:
        wrong.append(f"{named}: selvedge")
    if near < end - NEAR or far > long - end + NEAR:
        wrong.append(f"{named}: cut end")
    for area in document.get("avoid", []):
        if shape.distance(Polygon(area["polygon"])) < document.get("clearance_mm", 5) - NEAR:
            wrong.append(f"{named}: {area['reason']}")
    long_mm, short_mm = group["shape"].get("long_mm"), group["shape"].get("short_mm")
    sides = {"warp": (short_mm, long_mm), "weft": (long_mm, short_mm)}.get(placement["direction"])
    if (
        long_mm
        and sides
        and (abs(right - left - sides[0]) > NEAR or abs(far - near - sides[1]) > NEAR)
    ):
        wrong.append(f"{named}: lies the wrong way")
    return wrong


def wrong_yarns(
    named: str, stagger: str, upright: bool, shape: Polygon, neighbour: Polygon
) -> list[str]:
    """Two of a group that share yarns against their stagger."""
    a, b = shape.bounds, neighbour.bounds
    apart_x = max(a[0], b[0]) >= min(a[2], b[2]) - NEAR
    apart_y = max(a[1], b[1]) >= min(a[3], b[3]) - NEAR
    wrong = []
    if stagger != "none" and not (apart_x if upright else apart_y):
        wrong.append(f"{named}: share yarns lengthwise")
    if stagger == "both" and not (apart_y if upright else apart_x):
        wrong.append(f"{named}: share crossing yarns")
    return wrong


def shape_of(placement: dict[str, Any], group: dict[str, Any]) -> Polygon:
    """The outline; a disc from its diameter, drawn finely."""
    diameter = group["shape"].get("diameter_mm")
    if diameter:
        return Point(placement["x_mm"], placement["y_mm"]).buffer(diameter / 2, quad_segs=200)
    return Polygon(placement["outline"])
