"""What leaves the cutting table: drawings at full size that a ruler agrees with, and labels."""

from __future__ import annotations

from io import BytesIO, StringIO
from typing import Any
from xml.etree import ElementTree

import ezdxf.filemanagement
import numpy as np
import pytest
from ezdxf import units
from pypdf import PdfReader
from pypdf.generic import ContentStream

from tests.laboratory import Bench, sample
from tests.pdf_text import pages_of, text_of

SVG = "{http://www.w3.org/2000/svg}"
MM = 72 / 25.4
TESTS = [
    {"method": "iso-13937-2"},
    {"method": "iso-13938-1"},
    {"method": "iso-37"},
]


@pytest.fixture
def laid_out(bench: Bench) -> tuple[Bench, dict[str, Any]]:
    """A sheet with rectangles, discs and dumbbells on it."""
    job = bench.post("/jobs", sample(tests=TESTS, length_mm=2000))
    body = {"revision": job["revision"], "seconds": 0}
    return bench, bench.post(f"/jobs/{job['id']}/sheet/place", body)


def file_of(bench: Bench, sheet: dict[str, Any], name: str) -> bytes:
    answer = bench.call("GET", f"/jobs/{sheet['job_id']}/{name}")
    assert answer.status_code == 200, answer.text
    return answer.content


def test_the_sheet_prints_its_dimensions_and_the_cutting_list(laid_out: Any) -> None:
    bench, sheet = laid_out
    wording = text_of(file_of(bench, sheet, "sheet.pdf"))
    for specimen in sheet["specimens"]:
        assert specimen["code"] in wording
    assert "tears warp yarns" in wording


def test_the_svg_is_as_large_as_the_sheet_and_holds_every_outline(laid_out: Any) -> None:
    bench, sheet = laid_out
    drawn = ElementTree.fromstring(file_of(bench, sheet, "sheet.svg"))
    assert (drawn.get("width"), drawn.get("height")) == ("1480mm", "2000mm")
    assert drawn.get("viewBox") == "0 0 1480 2000"
    outlines = [
        [tuple(map(float, pair.split(","))) for pair in (specimen.get("points") or "").split()]
        for specimen in drawn.iter(f"{SVG}polygon")
    ]
    tear = next(specimen for specimen in sheet["specimens"] if specimen["label"] == "W1")
    requested = {(point["x"], 2000 - point["y"]) for point in tear["outline"]}
    assert requested in [set(outline) for outline in outlines]


def test_the_dxf_reads_back_in_true_size_with_a_layer_for_each_test(laid_out: Any) -> None:
    bench, sheet = laid_out
    drawing: Any = ezdxf.filemanagement.read(StringIO(file_of(bench, sheet, "sheet.dxf").decode()))
    assert drawing.units == units.MM
    space = drawing.modelspace()
    rectangles = space.query('LWPOLYLINE[layer=="TEST_1"]')
    circles = space.query('CIRCLE[layer=="TEST_2"]')
    dumbbells = space.query('LWPOLYLINE[layer=="TEST_3"]')
    tests = {
        test: [specimen for specimen in sheet["specimens"] if specimen["test_id"] == test]
        for test in dict.fromkeys(specimen["test_id"] for specimen in sheet["specimens"])
    }
    counts = [len(members) for members in tests.values()]
    assert [len(rectangles), len(circles), len(dumbbells)] == counts
    for outline in rectangles:
        xs, ys = zip(*((x, y) for x, y, *_ in outline.get_points()), strict=True)
        assert sorted((max(xs) - min(xs), max(ys) - min(ys))) == pytest.approx([50, 200])
    discs = list(tests.values())[1]
    assert {circle.dxf.radius for circle in circles} == {discs[0]["across_mm"] / 2}
    assert len(space.query('LWPOLYLINE[layer=="TEST_1_MARKS"]')) == 2 * counts[0]
    ends = {
        tuple(sorted(specimen.get_points("xy")))
        for specimen in space.query('LWPOLYLINE[layer=="SHEET"]')
    }
    assert ends == {((0, 0), (0, 2000), (1480, 0), (1480, 2000))}


def test_one_big_page_is_true_to_size_in_a_pdf_tool(laid_out: Any) -> None:
    bench, sheet = laid_out
    pdf = file_of(bench, sheet, "sheet-full-size.pdf?paper=one")
    page = PdfReader(BytesIO(pdf)).pages[0]
    assert float(page.mediabox.width) == pytest.approx((1480 + 40) * MM, abs=0.1)
    sizes = sizes_drawn(pdf)
    for requested in ((200, 50), (50, 200), (1480, 2000)):
        assert any(size == pytest.approx(requested, abs=0.01) for size in sizes)


@pytest.mark.parametrize(("paper", "size"), [("A4", (210, 297)), ("Letter", (215.9, 279.4))])
def test_tiles_are_whole_pages_with_a_line_of_100_mm(
    laid_out: Any, paper: str, size: tuple[float, float]
) -> None:
    bench, sheet = laid_out
    pdf = file_of(bench, sheet, f"sheet-full-size.pdf?paper={paper}")
    pages = PdfReader(BytesIO(pdf)).pages
    assert len(pages) > 10
    for page in pages:
        box = page.mediabox
        assert (float(box.width) / MM, float(box.height) / MM) == pytest.approx(size, abs=0.2)
    assert "this line is 100 mm" in pages_of(pdf)[0]
    assert any(wide == pytest.approx(100, abs=0.05) for wide, _ in sizes_drawn(pdf))


def test_labels_carry_code_long_side_work_test_and_number(laid_out: Any) -> None:
    bench, sheet = laid_out
    pdf = file_of(bench, sheet, "labels.pdf?stock=a4-21&skip=3")
    wording = text_of(pdf)
    assert len(PdfReader(BytesIO(pdf)).pages) == -(-(len(sheet["specimens"]) + 3) // 21)
    for specimen in sheet["specimens"]:
        assert specimen["code"] in wording
    assert "long side along the weft tears warp yarns" in wording


@pytest.mark.parametrize(
    ("given", "wording"),
    [
        ("labels.pdf?stock=b5-9", "labels.stock-unknown"),
        ("labels.pdf?skip=99", "labels.skip-too-many"),
        ("sheet-full-size.pdf?paper=A3", "field.not-a-choice"),
    ],
)
def test_what_cannot_be_printed_is_refused(laid_out: Any, given: str, wording: str) -> None:
    bench, sheet = laid_out
    assert bench.refused("GET", f"/jobs/{sheet['job_id']}/{given}", 422) == wording


def sizes_drawn(pdf: bytes) -> list[tuple[float, float]]:
    """Width and height in mm of every path on the first page, by its own operators."""
    reader = PdfReader(BytesIO(pdf))
    matrix, kept = np.eye(3), []
    corners: list[tuple[float, float]] = []
    sizes = []
    before = b""
    for values, operator in ContentStream(reader.pages[0].get_contents(), reader).operations:
        figures = [float(value) for value in values if isinstance(value, int | float)]
        match operator:
            case b"q":
                kept.append(matrix)
            case b"Q":
                matrix = kept.pop()
            case b"cm":
                a, b, c, d, e, f = figures
                matrix = np.array([[a, b, 0], [c, d, 0], [e, f, 1]]) @ matrix
            case b"re":
                x, y, wide, high = figures
                corners += [(x, y), (x + wide, y + high)]
            case b"m" | b"l":
                if operator == before == b"m":
                    corners.pop()  # a move that nothing was drawn from
                corners.append((figures[0], figures[1]))
            case b"S" | b"B" | b"f" | b"n" | b"s" | b"b":
                if corners:
                    spots = np.array([(*corner, 1.0) for corner in corners]) @ matrix
                    wide, high = np.ptp(spots[:, :2], axis=0) / MM
                    sizes.append((float(wide), float(high)))
                corners = []
        before = operator
    return sizes
