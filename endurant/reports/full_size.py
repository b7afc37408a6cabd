"""The sheet at full size: SVG, DXF, and PDF on one big page or on tiles to be joined."""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from html import escape
from math import ceil
from typing import Literal

from endurant.reports.drawings import BRICK, INK, SECOND_INK
from endurant.work.views.sheet_drawing import PlacedSpecimen, PointView, SheetView

Paper = Literal["A4", "Letter", "one"]
Box = tuple[float, float, float, float]

PAPERS: dict[str, tuple[float, float]] = {"A4": (210, 297), "Letter": (215.9, 279.4)}
MARGIN_MM = 10.0
OVERLAP_MM = 8.0
RULER_MM = 100.0
LINE_MM = 0.25
BEYOND_MM = 80.0


@dataclass(frozen=True)
class Shape:
    """A piece of SVG in mm with the box that it stands in; y runs down from the far end."""

    svg: str
    box: Box


def hatch_patterns(sheet: SheetView, prefix: str, scale: float = 1.0) -> str:
    """The SVG patterns of all tests on a sheet, and the one of areas to avoid."""
    facts = []
    for place, test in enumerate(sheet.tests):
        size = test.hatch.apart_mm * scale
        dashed = f' stroke-dasharray="{test.hatch.dashes}"' if test.hatch.dashes else ""
        facts.append(
            f'<pattern id="{prefix}{place}" width="{size:g}" height="{size:g}" '
            f'patternUnits="userSpaceOnUse" patternTransform="rotate({test.hatch.angle})">'
            f'<line x1="0" y1="0" x2="{size:g}" y2="0" stroke="{SECOND_INK}" '
            f'stroke-width="{0.3 * scale:g}" opacity="0.6"{dashed}/></pattern>'
        )
    size = 4 * scale
    facts.append(
        f'<pattern id="{prefix}avoid" width="{size:g}" height="{size:g}" '
        'patternUnits="userSpaceOnUse" patternTransform="rotate(45)">'
        f'<line x1="0" y1="0" x2="0" y2="{size:g}" stroke="{BRICK}" '
        f'stroke-width="{1.2 * scale:g}" opacity="0.6"/></pattern>'
    )
    return f"<defs>{''.join(facts)}</defs>"


def shapes_of(
    sheet: SheetView, prefix: str, long: float | None = None, per_mm: float = 1.0
) -> Iterator[Shape]:
    """Everything that is drawn of a sheet, in mm, from its upper left corner.

    `long` is how far along the roll it is drawn, all of it when None; `per_mm` is how many mm of
    the sheet are one on paper, so that lines and names keep their size there.
    """
    long = long or sheet.length_mm
    whole = (0.0, 0.0, sheet.width_mm, long)
    yield Shape(
        f'<rect width="{sheet.width_mm:g}" height="{long:g}" fill="none" stroke="{INK}" '
        f'stroke-width="{2 * LINE_MM * per_mm:g}"/>',
        whole,
    )
    reason_size = 7.0 if per_mm == 1 else 2.5 * per_mm
    for area in sheet.avoided:
        corners = _flipped(area.corners, long)
        middle_x = sum(x for x, _ in corners) / len(corners)
        middle_y = sum(y for _, y in corners) / len(corners)
        yield Shape(
            f'<polygon points="{_points(corners)}" fill="url(#{prefix}avoid)" stroke="{BRICK}" '
            f'stroke-width="{LINE_MM * per_mm:g}"/>'
            f"{_text(middle_x, middle_y, area.reason, reason_size, BRICK)}",
            _box_of(corners),
        )
    order = [test.id for test in sheet.tests]
    for specimen in placed(sheet):
        yield _specimen(specimen, long, f"{prefix}{order.index(specimen.test_id)}", per_mm)


def placed(sheet: SheetView) -> list[PlacedSpecimen]:
    """The specimens that have a place, in cutting order from the cut end."""
    specimens = [
        specimen
        for specimen in sheet.specimens
        if specimen.x_mm is not None and specimen.y_mm is not None
    ]
    return sorted(specimens, key=lambda specimen: (specimen.y_mm or 0, specimen.x_mm or 0))


def svg_sheet(sheet: SheetView) -> str:
    """The sheet as an SVG drawing at full size."""
    inner = "".join(shape.svg for shape in shapes_of(sheet, "h"))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{sheet.width_mm:g}mm" '
        f'height="{sheet.length_mm:g}mm" viewBox="0 0 {sheet.width_mm:g} {sheet.length_mm:g}" '
        f'font-family="sans-serif"><title>Sheet {escape(sheet.job_number)}</title>'
        f"{hatch_patterns(sheet, 'h')}{inner}</svg>"
    )


def scaled_svg(sheet: SheetView, width_mm: float, height_mm: float) -> str:
    """The sheet to scale with its dimensions from the left selvedge and from the cut end."""
    room = 16.0
    shown = drawn_length(sheet)
    scale = min((width_mm - room - 3) / sheet.width_mm, (height_mm - room - 3) / shown)
    per_mm = 1 / scale
    edge = room * per_mm
    inner = "".join(shape.svg for shape in shapes_of(sheet, "s", shown, per_mm))
    dimensions = _dimensions(sheet, shown, per_mm)
    if shown < sheet.length_mm:
        wording = f"the roll goes on to {sheet.length_mm:g} mm"
        dimensions += _text(
            sheet.width_mm / 2, 4 * per_mm, wording, 2.6 * per_mm, SECOND_INK, "middle"
        )
    over = 3 * per_mm
    wide, long = sheet.width_mm + edge + over, shown + edge + over
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide * scale:.2f}mm" '
        f'height="{long * scale:.2f}mm" viewBox="{-edge:g} {-over:g} {wide:g} {long:g}">'
        f"{hatch_patterns(sheet, 's', per_mm / 3)}{inner}{dimensions}</svg>"
    )


def drawn_length(sheet: SheetView) -> float:
    """How far along the roll there is something to draw."""
    ends = [point.y for specimen in placed(sheet) for point in specimen.outline]
    ends += [point.y for area in sheet.avoided for point in area.corners]
    return min(max(ends, default=sheet.length_mm) + BEYOND_MM, sheet.length_mm)


def _dimensions(sheet: SheetView, long: float, per_mm: float) -> str:
    """Where edges of specimens lie, beside the sheet; figures that would overlap are left out."""
    size, apart = 2.2 * per_mm, 3.0 * per_mm
    lefts = sorted(
        {round((specimen.x_mm or 0) - specimen.across_mm / 2, 1) for specimen in placed(sheet)}
    )
    nears = sorted(
        {round((specimen.y_mm or 0) - specimen.along_mm / 2, 1) for specimen in placed(sheet)}
    )
    wording, base = "", long
    for x in _apart([0.0, *lefts, sheet.width_mm], apart):
        figure = _text(0, size / 3, f"{x:g}", size, INK, "start")
        wording += (
            f'<path d="M{x:g} {base:g}v{1.5 * per_mm:g}" stroke="{INK}" '
            f'stroke-width="{0.15 * per_mm:g}"/><g transform="translate({x:g} '
            f'{base + 2.2 * per_mm:g}) rotate(90)">{figure}</g>'
        )
    for y in _apart([0.0, *nears, long], apart):
        wording += (
            f'<path d="M0 {base - y:g}h{-1.5 * per_mm:g}" stroke="{INK}" '
            f'stroke-width="{0.15 * per_mm:g}"/>'
            f"{_text(-2 * per_mm, base - y + size / 3, f'{y:g}', size, INK, 'end')}"
        )
    return wording


def _apart(places: Sequence[float], lower: float) -> list[float]:
    kept: list[float] = []
    for place in places:
        if not kept or place - kept[-1] >= lower:
            kept.append(place)
    return kept


def full_size_pages(sheet: SheetView, paper: Paper) -> str:
    """The sheet at full size as HTML pages: tiles with marks to join them, or one big page."""
    if paper == "one":
        margin = 2 * MARGIN_MM
        size = (sheet.width_mm + 2 * margin, sheet.length_mm + 2 * margin + 10)
        box = (-margin, -margin, size[0], size[1])
        footing = _footing(sheet, 0, sheet.length_mm + 14, "one page")
        return _page_of([_svg(sheet, box, "one", footing)], size)
    size = PAPERS[paper]
    pages = [_svg(sheet, *tile) for tile in _tiles(sheet, size)]
    return _page_of(pages, size)


def _page_of(pages: Sequence[str], size: tuple[float, float]) -> str:
    sheets = "".join(f'<div class="page">{page}</div>' for page in pages)
    return (
        f"<style>@page{{size:{size[0]:g}mm {size[1]:g}mm;margin:0}}body{{margin:0}}"
        ".page{break-after:page;line-height:0}.page:last-child{break-after:auto}"
        f"svg{{display:block}}</style>{sheets}"
    )


def tile_step(size: tuple[float, float]) -> tuple[float, float]:
    """How much of the sheet one page adds, across and along."""
    return (
        size[0] - 2 * MARGIN_MM - OVERLAP_MM,
        size[1] - 2 * MARGIN_MM - OVERLAP_MM - 10,
    )


def _tiles(sheet: SheetView, size: tuple[float, float]) -> Iterator[tuple[Box, str, str]]:
    """The part of the sheet on each page, its name, and what is drawn around it.

    Pages on which nothing is cut are left out; rows are counted from the far end.
    """
    step_x, step_y = tile_step(size)
    columns, rows = ceil(sheet.width_mm / step_x), ceil(sheet.length_mm / step_y)
    boxes = [_box_of(_flipped(specimen.outline, sheet.length_mm)) for specimen in placed(sheet)]
    for row in range(rows):
        for column in range(columns):
            x, y = column * step_x, row * step_y
            shown = (x, y, x + step_x + OVERLAP_MM, y + step_y + OVERLAP_MM)
            if not any(_meet(shown, box) for box in boxes):
                continue
            name = f"row {row + 1} of {rows}, column {column + 1} of {columns}"
            box = (x - MARGIN_MM, y - MARGIN_MM, size[0], size[1])
            marks = _register_marks(x, y, step_x, step_y)
            foot = _footing(sheet, x, y + step_y + OVERLAP_MM + 4, name)
            yield box, f"t{row}x{column}", marks + foot


def _register_marks(x: float, y: float, step_x: float, step_y: float) -> str:
    """Crosses at the corners where four pages meet, with a ring to prick through."""
    wording = ""
    for corner_x in (x, x + step_x):
        for corner_y in (y, y + step_y):
            wording += (
                f'<path d="M{corner_x - 6:g} {corner_y:g}h12M{corner_x:g} {corner_y - 6:g}v12" '
                f'stroke="{INK}" stroke-width="0.2"/><circle cx="{corner_x:g}" cy="{corner_y:g}" '
                f'r="2" fill="none" stroke="{INK}" stroke-width="0.2"/>'
            )
    return wording


def _footing(sheet: SheetView, x: float, y: float, name: str) -> str:
    """A ruler that shows whether the printer kept the size, and what the page is."""
    ticks = "".join(
        f"M{x + at:g} {y:g}v{-2.5 if at % 50 == 0 else -1.5:g}" for at in range(0, 101, 10)
    )
    wording = f"{sheet.job_number}, {name}: this line is 100 mm, print at 100 %"
    return (
        f'<path d="M{x:g} {y:g}h{RULER_MM:g}{ticks}" stroke="{INK}" stroke-width="0.2" '
        f'fill="none"/>{_text(x, y + 4.5, wording, 3.2, INK, "start")}'
    )


def _svg(sheet: SheetView, box: Box, name: str, around: str) -> str:
    left, top, width, height = box
    inside = (left + MARGIN_MM, top + MARGIN_MM, left + width - MARGIN_MM, top + height)
    shown = (
        left + MARGIN_MM,
        top + MARGIN_MM,
        width - 2 * MARGIN_MM,
        height - 2 * MARGIN_MM - 10,
    )
    if name == "one":
        inside, shown = (left, top, left + width, top + height), box
    inner = "".join(shape.svg for shape in shapes_of(sheet, name) if _meet(inside, shape.box))
    clip = (
        f'<clipPath id="c{name}"><rect x="{shown[0]:g}" y="{shown[1]:g}" '
        f'width="{shown[2]:g}" height="{shown[3]:g}"/></clipPath>'
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" '
        f'viewBox="{left:g} {top:g} {width:g} {height:g}">{clip}'
        f'{hatch_patterns(sheet, name)}<g clip-path="url(#c{name})">{inner}</g>{around}</svg>'
    )


def _specimen(placed_specimen: PlacedSpecimen, long: float, hatch: str, per_mm: float) -> Shape:
    corners = _flipped(placed_specimen.outline, long)
    width = LINE_MM * per_mm
    dashes = f' stroke-dasharray="{4 * per_mm:g} {2 * per_mm:g}"' if placed_specimen.spare else ""
    if per_mm > 1:
        dashes = f' stroke-dasharray="{per_mm:g} {0.6 * per_mm:g}"' if placed_specimen.spare else ""
    wording = (
        f'<polygon points="{_points(corners)}" fill="url(#{hatch})" stroke="{INK}" '
        f'stroke-width="{width:g}"{dashes}/>'
    )
    for mark in placed_specimen.inner_marks:
        line = _points(_flipped(mark.points, long))
        wording += (
            f'<polyline points="{line}" fill="none" stroke="{INK}" stroke-width="{width:g}"/>'
        )
    wording += _name(placed_specimen, long, per_mm)
    return Shape(wording, _box_of(corners))


def _name(placed_specimen: PlacedSpecimen, long: float, per_mm: float) -> str:
    """The name of a specimen along its long side; at full size also what the test works on."""
    narrow, wide = sorted((placed_specimen.across_mm, placed_specimen.along_mm))
    x, y = label_spot(placed_specimen)
    if per_mm > 1:
        size = min(2.7 * per_mm, 0.62 * narrow, 1.4 * wide / len(placed_specimen.name))
        upright = placed_specimen.along_mm > 3 * placed_specimen.across_mm
        turned = f' transform="rotate(-90 {x:.2f} {long - y:.2f})"' if upright else ""
        return f"<g{turned}>{_text(x, long - y + size / 3, placed_specimen.name, size, INK)}</g>"
    size = min(9.0, narrow / 3)
    text = _text(x, long - y, placed_specimen.name, size, INK)
    if narrow >= 40:
        wording = f"{placed_specimen.name}, {placed_specimen.works_on}"
        text += _text(x, long - y + size * 0.9, wording, size * 0.42, SECOND_INK)
    return text


def label_spot(placed_specimen: PlacedSpecimen) -> tuple[float, float]:
    """Where the name stands on the sheet: off the middle, clear of slits and marks."""
    x, y = placed_specimen.x_mm or 0, placed_specimen.y_mm or 0
    if placed_specimen.along_mm > placed_specimen.across_mm:
        return x, y + placed_specimen.along_mm * 0.18
    return x + (
        placed_specimen.across_mm * 0.18
        if placed_specimen.across_mm > placed_specimen.along_mm
        else 0
    ), y


def sheet_dxf(sheet: SheetView) -> bytes:
    """The sheet as DXF in mm: a layer for each test, its marks on another, the sheet's own edge.

    Discs are circles; y runs along the roll from the cut end.
    """
    from ezdxf import units
    from ezdxf.document import Drawing

    drawing = Drawing.new("R2010")
    drawing.units = units.MM
    space = drawing.modelspace()
    drawing.layers.add("SHEET", color=8)
    drawing.layers.add("AVOID", color=1)
    wide, long = sheet.width_mm, sheet.length_mm
    edge = [(0, 0), (wide, 0), (wide, long), (0, long)]
    space.add_lwpolyline(edge, close=True, dxfattribs={"layer": "SHEET"})
    for area in sheet.avoided:
        corners = [(point.x, point.y) for point in area.corners]
        space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "AVOID"})
    order = [test.id for test in sheet.tests]
    for place, _ in enumerate(order):
        drawing.layers.add(dxf_layer(place), color=2 + place)
        drawing.layers.add(f"{dxf_layer(place)}_MARKS", color=2 + place)
    for specimen in placed(sheet):
        layer = dxf_layer(order.index(specimen.test_id))
        if specimen.disc:
            middle = (specimen.x_mm or 0, specimen.y_mm or 0)
            space.add_circle(middle, specimen.across_mm / 2, dxfattribs={"layer": layer})
        else:
            corners = [(point.x, point.y) for point in specimen.outline]
            space.add_lwpolyline(corners, close=True, dxfattribs={"layer": layer})
        marks = {"layer": f"{layer}_MARKS"}
        for mark in specimen.inner_marks:
            space.add_lwpolyline([(point.x, point.y) for point in mark.points], dxfattribs=marks)
        space.add_text(specimen.name, height=6, dxfattribs=marks).set_placement(
            label_spot(specimen)
        )
    string_i_o = io.StringIO()
    drawing.write(string_i_o)
    return string_i_o.getvalue().encode()


def dxf_layer(place: int) -> str:
    """The layer of the test at this place on the sheet."""
    return f"TEST_{place + 1}"


def _flipped(points: Iterable[PointView], long: float) -> list[tuple[float, float]]:
    return [(point.x, long - point.y) for point in points]


def _points(corners: Iterable[tuple[float, float]]) -> str:
    return " ".join(f"{x:.3f},{y:.3f}" for x, y in corners)


def _box_of(corners: Sequence[tuple[float, float]]) -> Box:
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    return min(xs), min(ys), max(xs), max(ys)


def _meet(box: Box, other: Box) -> bool:
    return box[0] <= other[2] and other[0] <= box[2] and box[1] <= other[3] and other[1] <= box[3]


def _text(x: float, y: float, wording: str, size: float, fill: str, anchor: str = "middle") -> str:
    return (
        f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size:g}" text-anchor="{anchor}" '
        f'fill="{fill}" font-family="Endurant Figures, sans-serif">{escape(wording)}</text>'
    )
