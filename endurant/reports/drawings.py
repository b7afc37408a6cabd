"""Drawings for paper, as SVG text: the limit rule, a trace with its marks, the sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape
from typing import Any
from zlib import crc32

import numpy as np

from endurant.core.drawn import Curve, curves_of
from endurant.core.trace import thin
from endurant.core.writing import Writing
from endurant.work.facts.models import LimitRuleView

INK = "#17242e"
SECOND_INK = "#4d5b64"
HAIRLINE = "#cfc9b8"
BLUE = "#1d4f91"
BRICK = "#a5322a"

HATCHED = "url(#hatch)"
_HATCH = (
    '<pattern id="hatch" width="5" height="5" patternUnits="userSpaceOnUse" '
    'patternTransform="rotate(45)"><line x1="0" y1="0" x2="0" y2="5" '
    f'stroke="{BRICK}" stroke-width="0.9" opacity="0.7"/></pattern>'
)


FIGURES = "Endurant Figures, Endurant Signs"
Style = str | float
Facts = Mapping[str, Style]


class Drawing:
    """Shapes gathered into one SVG picture."""

    def __init__(self, width: float, height: float, writing: Writing | None = None) -> None:
        self.width = width
        self.height = height
        self._writing = writing or Writing()
        self._shapes: list[str] = []

    def line(self, x1: float, y1: float, x2: float, y2: float, **style: Style) -> None:
        """A straight line."""
        self._add("line", {"x1": x1, "y1": y1, "x2": x2, "y2": y2}, {"stroke": INK} | style)

    def box(self, x: float, y: float, width: float, height: float, **style: Style) -> None:
        """A rectangle."""
        self._add("rect", {"x": x, "y": y, "width": width, "height": height}, style)

    def dot(self, x: float, y: float, radius: float, **style: Style) -> None:
        """A circle."""
        self._add("circle", {"cx": x, "cy": y, "r": radius}, style)

    def path(self, points: Sequence[tuple[float, float]], **style: Style) -> None:
        """A line through points."""
        join = " ".join(f"{x:.2f},{y:.2f}" for x, y in points)
        self._add("polyline", {"points": join}, {"fill": "none", "stroke": INK} | style)

    def area(self, points: Sequence[tuple[float, float]], **style: Style) -> None:
        """A closed shape."""
        self._add("polygon", {"points": " ".join(f"{x:.2f},{y:.2f}" for x, y in points)}, style)

    def text(self, x: float, y: float, wording: str, **style: Style) -> None:
        """Words, set from `x` on the line at `y`."""
        facts: dict[str, Style] = {
            "x": x,
            "y": y,
            "fill": INK,
            "font_size": 8,
            "font_family": FIGURES,
        }
        facts.update(style)
        self._shapes.append(f"<text {_attributes(facts)}>{escape(wording)}</text>")

    def figure(self, x: float, y: float, value: float, **style: Style) -> None:
        """A figure, set from `x` on the line at `y` as the laboratory writes figures."""
        self.text(x, y, self._writing.figures(f"{value:g}"), **style)

    def svg(self) -> str:
        """The picture."""
        shapes = "".join(self._shapes)
        hatch = ""
        if HATCHED in shapes:
            # Several drawings stand on one page; each hatch needs a name of its own there.
            name = f"hatch-{crc32(shapes.encode()):08x}"
            hatch = f"<defs>{_HATCH.replace('hatch', name, 1)}</defs>"
            shapes = shapes.replace(HATCHED, f"url(#{name})")
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{self.width}" '
            f'height="{self.height}" viewBox="0 0 {self.width} {self.height}">{hatch}{shapes}</svg>'
        )

    def _add(self, shape: str, geometry: Facts, style: Facts) -> None:
        self._shapes.append(f"<{shape} {_attributes(geometry)} {_attributes(style)}/>")


def _attributes(facts: Facts) -> str:
    return " ".join(
        f'{name.rstrip("_").replace("_", "-")}="{escape(_figure(value))}"'
        for name, value in facts.items()
    )


def _figure(value: str | float) -> str:
    return value if isinstance(value, str) else f"{value:.3f}".rstrip("0").rstrip(".")


def draw_limit_rule(rule: LimitRuleView, writing: Writing | None = None, width: float = 672) -> str:
    """The graduated rule: limit and guard band, a tick per specimen, voids below, the mean."""
    drawing = Drawing(width, 64, writing)
    left, right, base = 8.0, width - 8.0, 36.0

    def at(value: float) -> float:
        share = (value - rule.low) / (rule.high - rule.low)
        return left + min(max(share, 0.0), 1.0) * (right - left)

    for beyond in (rule.forbidden, rule.second_forbidden):
        if beyond is not None:
            start, end = at(beyond.start), at(beyond.end)
            drawing.box(start, base - 10, end - start, 10, fill=HATCHED)
    for band in rule.guarded:
        start, end = at(band.start), at(band.end)
        drawing.box(start, base - 5, end - start, 5, fill=BRICK, opacity=0.28)
    drawing.line(left, base, right, base, stroke_width=1.1)
    for graduation in np.arange(rule.low, rule.high + rule.step / 2, rule.step):
        x = at(float(graduation))
        drawing.line(x, base, x, base + 5, stroke_width=0.8)
        drawing.figure(
            x,
            base + 14,
            float(graduation),
            text_anchor="start" if x == left else "end" if x == right else "middle",
            class_="figure",
        )
    for value in rule.values:
        drawing.line(at(value), base - 11, at(value), base - 1, stroke_width=1.2)
    for value in rule.voids:
        drawing.dot(at(value), base + 21, 2.6, fill="none", stroke=SECOND_INK)
        drawing.line(at(value) - 3, base + 24, at(value) + 3, base + 18, stroke=SECOND_INK)
    for limit in (rule.limit, rule.second_limit):
        if limit is not None:
            x = at(limit)
            drawing.line(x, base - 15, x, base + 7, stroke=BRICK, stroke_width=1.8)
    if rule.mean is not None:
        x = at(rule.mean)
        if rule.half_width is not None:
            start, end = at(rule.mean - rule.half_width), at(rule.mean + rule.half_width)
            drawing.box(start, base - 16, end - start, 3, fill=BLUE, opacity=0.45)
        drawing.area([(x - 4.5, base - 24), (x + 4.5, base - 24), (x, base - 15)], fill=BLUE)
    return drawing.svg()


def draw_curves(
    entry: dict[str, Any],
    marks: Sequence[dict[str, Any]],
    writing: Writing | None = None,
    width: float = 232,
    height: float = 130,
) -> str:
    """The curves of one specimen in one frame, with what was read off them drawn on it.

    Empty when the specimen has no trace.
    """
    curves = curves_of(entry)
    if not curves:
        return ""
    drawing = Drawing(width, height, writing)
    thinned = [thin(curve.x, curve.y, 500) for curve in curves]
    frame = Frame(
        26.0,
        width - 6.0,
        6.0,
        height - 20.0,
        nice_end(max(float(x.max()) for x, _ in thinned)),
        nice_end(max(float(y.max()) for _, y in thinned)),
    )
    _draw_behind(drawing, frame, marks)
    _draw_axes(drawing, frame, curves[0])
    for number, (x, y) in enumerate(thinned, start=1):
        line = [frame.at(float(a), float(b)) for a, b in zip(x, y, strict=True)]
        stroke = INK if number == len(thinned) else SECOND_INK
        drawing.path(line, stroke_width=0.6, stroke=stroke)
    for mark in marks:
        points = [frame.at(a, b) for a, b in mark["points"]]
        if mark["kind"] == "points":
            for a, b in points:
                drawing.dot(a, b, 1.5, fill="#ffffff", stroke=BLUE, stroke_width=0.6)
            for (a, b), name in zip(points, mark["names"], strict=False):
                drawing.text(a - 4, b + 2.5, name, text_anchor="end", font_size=6.5)
        if mark["kind"] == "end":
            at = points[0][0]
            drawing.line(at, frame.top, at, frame.base, stroke=BRICK, stroke_width=0.8)
        if mark["kind"] == "line":
            drawing.path(points, stroke=BLUE, stroke_width=0.8, stroke_dasharray="4 2")
    return drawing.svg()


def draw_curves_together(
    entries: Sequence[dict[str, Any]],
    voids: Sequence[str],
    writing: Writing | None = None,
    width: float = 500,
    height: float = 150,
) -> str:
    """The curves of all specimens in one frame, those of `voids` dashed; empty without a trace."""
    drawn = [(str(entry["label"]), curve) for entry in entries for curve in curves_of(entry)]
    if not drawn:
        return ""
    drawing = Drawing(width, height, writing)
    thinned = [(label, *thin(curve.x, curve.y, 500)) for label, curve in drawn]
    frame = Frame(
        30.0,
        width - 6.0,
        6.0,
        height - 20.0,
        nice_end(max(float(x.max()) for _, x, _ in thinned)),
        nice_end(max(float(y.max()) for _, _, y in thinned)),
    )
    _draw_axes(drawing, frame, drawn[0][1])
    for label, x, y in thinned:
        line = [frame.at(float(a), float(b)) for a, b in zip(x, y, strict=True)]
        is_void = label in voids
        style: dict[str, Style] = {"stroke_dasharray": "3 2", "stroke": SECOND_INK}
        drawing.path(line, stroke_width=0.6, **(style if is_void else {}))
    return drawing.svg()


@dataclass(frozen=True)
class Frame:
    """Where curves are drawn: its edges on the page, and the figures at its far ends."""

    left: float
    right: float
    top: float
    base: float
    far: float
    high: float

    def across(self, value: float) -> float:
        """Place of an x, held inside the frame."""
        return self.left + min(max(value / self.far, 0.0), 1.0) * (self.right - self.left)

    def up(self, value: float) -> float:
        """Place of a y, held inside the frame."""
        return self.base - min(max(value / self.high, -0.05), 1.0) * (self.base - self.top)

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Place of a point."""
        return self.across(x), self.up(y)


def _draw_behind(drawing: Drawing, frame: Frame, marks: Sequence[dict[str, Any]]) -> None:
    """Bands and areas, which lie behind the curve."""
    for mark in marks:
        edges = [frame.across(point[0]) for point in mark["points"]]
        first = {"bands": 1, "area": 0}.get(mark["kind"])
        if first is None:
            continue
        height = frame.base - frame.top
        drawing.box(edges[first], frame.top, edges[-1] - edges[first], height, fill="#efece2")
        for edge in edges:
            drawing.line(edge, frame.top, edge, frame.base, stroke=HAIRLINE, stroke_width=0.6)


def _draw_axes(drawing: Drawing, frame: Frame, curve: Curve) -> None:
    """Both axes with five figures each and what stands on them."""
    small: dict[str, Any] = {"font_size": 6.5}
    for place in range(5):
        value = frame.high * place / 4
        y = frame.up(value)
        drawing.figure(frame.left - 3, y + 2.5, value, text_anchor="end", **small)
        drawing.line(frame.left - 2, y, frame.left, y, stroke_width=0.6)
        value = frame.far * place / 4
        x = frame.across(value)
        drawing.figure(x, frame.base + 9, value, text_anchor="middle", **small)
        drawing.line(x, frame.base, x, frame.base + 2, stroke_width=0.6)
    drawing.line(frame.left, frame.base, frame.right, frame.base, stroke_width=0.7)
    drawing.line(frame.left, frame.top, frame.left, frame.base, stroke_width=0.7)
    drawing.text(frame.left + 3, frame.top + 6, curve.y_unit, fill=SECOND_INK, **small)
    message = f"{curve.x_title}, {curve.x_unit}" if curve.x_unit else curve.x_title
    drawing.text(frame.right, frame.base + 17, message, text_anchor="end", fill=SECOND_INK, **small)


def nice_end(upper: float) -> float:
    """A round figure at or above `upper` that quarters well."""
    if upper <= 0:
        return 1.0
    power = 10.0 ** np.floor(np.log10(upper))
    return next(
        float(size * power)
        for size in (1, 1.2, 1.6, 2, 2.4, 3.2, 4, 6, 8, 10)
        if size * power >= upper
    )
