"""Common sheets of labels, and which specimen stands on which label."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class LabelStock:
    """A sheet of labels in mm: page, grid, size of a label, and where the first one begins."""

    id: str
    title: str
    page_mm: tuple[float, float]
    columns: int
    rows: int
    label_mm: tuple[float, float]
    first_mm: tuple[float, float]
    pitch_mm: tuple[float, float]

    @property
    def per_page(self) -> int:
        """Labels on one page."""
        return self.columns * self.rows


A4, LETTER = (210.0, 297.0), (215.9, 279.4)
STOCKS = {
    stock.id: stock
    for stock in (
        LabelStock("a4-24", "A4, 24 of 70 x 37 mm", A4, 3, 8, (70, 37), (0, 0.5), (70, 37)),
        LabelStock(
            "a4-21", "A4, 21 of 63.5 x 38.1 mm", A4, 3, 7, (63.5, 38.1), (7.2, 15.1), (66, 38.1)
        ),
        LabelStock(
            "a4-14", "A4, 14 of 99.1 x 38.1 mm", A4, 2, 7, (99.1, 38.1), (4.7, 15.1), (101.6, 38.1)
        ),
        LabelStock(
            "letter-30",
            "Letter, 30 of 66.7 x 25.4 mm",
            LETTER,
            3,
            10,
            (66.7, 25.4),
            (4.8, 12.7),
            (69.85, 25.4),
        ),
        LabelStock(
            "letter-10",
            "Letter, 10 of 101.6 x 50.8 mm",
            LETTER,
            2,
            5,
            (101.6, 50.8),
            (4, 12.7),
            (106.35, 50.8),
        ),
        LabelStock("roll-62", "Roll, 62 x 29 mm", (62, 29), 1, 1, (62, 29), (0, 0), (62, 29)),
    )
}


def find_stock(stock_id: str) -> LabelStock:
    """The sheet of labels with this id; raises Invalid that names the known ones."""
    if stock_id not in STOCKS:
        raise Invalid("labels.stock-unknown", stock=stock_id, known=list(STOCKS), field="stock")
    return STOCKS[stock_id]


def label_pages(keys: Sequence[int], stock: LabelStock, skip: int) -> list[list[int | None]]:
    """The labels of each page, row by row; `skip` labels of the first page are used up already.

    Raises Invalid for more labels to skip than a page has.
    """
    if not 0 <= skip < stock.per_page:
        raise Invalid(
            "labels.skip-too-many",
            skip=skip,
            stock=stock.title,
            per_page=stock.per_page,
            field="skip",
        )
    places: list[int | None] = [*([None] * skip), *keys]
    count = stock.per_page
    return [places[start : start + count] for start in range(0, len(places), count)]
