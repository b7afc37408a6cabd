"""The table of burning cloth: every row from the times and codes that lead to it."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.methods.burning_table import (
    ROUND_SIZE,
    Burned,
    Finding,
    finding_of,
    plain_row,
    raised_row,
)
from endurant.core.methods.flammability import overall_class, quickest_way
from endurant.core.methods.results import SpecimenResult, Value

NONE: Burned = (None, "DNI")


def burned(*tenths: int | None, code: str = "BURN") -> list[Burned]:
    return [(time, "DNI" if time is None else code) for time in tenths]


def flashes(*tenths: int | None, base: int = 0) -> list[Burned]:
    """A raised surface: so many of those with a time burned at the base, the others flashed."""
    rows, left = list[Burned](), base
    for time in tenths:
        is_base = time is not None and left > 0
        left -= is_base
        rows.append((time, "SFpw" if time is None else "SFBB" if is_base else "SFonly"))
    return rows


@pytest.mark.parametrize(
    ("rows", "row", "fire_class"),
    [
        ([NONE] * 5, "P1", 1),
        (burned(35, 35, 35, 35, 35), "P1", 1),
        (burned(36, 34, 35, 35, 35), "P1", 1),
        (burned(34, 35, 35, 35, 35), "P2", None),
        (burned(10, None, None, None, None), "P2", None),
        (burned(*[35] * 10), "P3", 1),
        ([NONE] * 10, "P3", 1),
        (burned(*[34] * 10), "P4", 3),
        (burned(20, 40, *[None] * 8), "P4", 3),
        (burned(20, *[None] * 9), "P5", None),
        (burned(40, *[None] * 9), "P3", 1),
    ],
)
def test_a_plain_surface_is_class_1_from_three_and_a_half_seconds(
    rows: list[Burned], row: str, fire_class: int | None
) -> None:
    assert plain_row(rows) == (row, fire_class)


@pytest.mark.parametrize(
    ("rows", "row", "fire_class"),
    [
        (flashes(None, None, None, None, None), "R1", 1),
        (flashes(30, None, None, None, None, base=0), "R1", 1),
        (flashes(39, None, None, None, None, base=1), "R4", None),
        (flashes(40, None, None, None, None, base=1), "R1", 1),
        (flashes(20, 20, 20, 20, 20, base=1), "R2", 1),
        (flashes(71, 71, 71, 71, 71, base=5), "R2", 1),
        (flashes(70, 70, 70, 70, 70, base=2), "R3", 2),
        (flashes(40, 40, 40, 40, 40, base=2), "R3", 2),
        (flashes(39, 40, 40, 40, 40, base=2), "R4", None),
        (flashes(*[20] * 10, base=2), "R5", 1),
        (flashes(*[71] * 10, base=10), "R5", 1),
        (flashes(*[55] * 10, base=3), "R6", 2),
        (flashes(*[39] * 10, base=3), "R7", 3),
        (flashes(39, *[None] * 9, base=1), "R8", None),
        (flashes(*[None] * 10), "R8", 1),
    ],
)
def test_a_raised_surface_is_judged_by_its_time_and_the_burns_of_its_base(
    rows: list[Burned], row: str, fire_class: int | None
) -> None:
    assert raised_row(rows) == (row, fire_class)


def labelled(rows: list[Burned], letter: str = "A") -> list[tuple[str, Burned]]:
    return [(f"{letter}{number}", each) for number, each in enumerate(rows, start=1)]


def test_fewer_than_five_say_nothing() -> None:
    assert finding_of(labelled(burned(*[50] * 4)), [], "plain") == Finding(
        None, None, ("A1", "A2", "A3", "A4")
    )


def test_five_decide_alone_where_they_can() -> None:
    first = labelled(burned(*[50] * ROUND_SIZE))
    found = finding_of(first, labelled(burned(*[10] * 5), "B"), "plain")
    assert (found.row, found.fire_class) == ("P1", 1)
    assert found.entered == ("A1", "A2", "A3", "A4", "A5")
    assert not found.asks_for_more


@pytest.mark.parametrize(("further", "row"), [(0, "P2"), (4, "P2"), (5, "P4")])
def test_where_five_do_not_decide_five_more_are_asked_for(further: int, row: str) -> None:
    first = labelled(burned(*[20] * 5))
    found = finding_of(first, labelled(burned(*[20] * further), "B"), "plain")
    assert found.row == row
    assert found.asks_for_more is (further < 5)
    assert len(found.entered) == (10 if further == 5 else 5)


@pytest.mark.parametrize(
    ("surface", "rows"),
    [("plain", burned(20, *[None] * 9)), ("raised", flashes(39, *[None] * 9, base=1))],
)
def test_ten_that_say_nothing_are_inconclusive(surface: str, rows: list[Burned]) -> None:
    found = finding_of(labelled(rows[:5]), labelled(rows[5:], "B"), surface)
    assert found.inconclusive
    assert found.fire_class is None


def state(fire_class: int | None) -> Finding:
    return Finding("P1", fire_class, ())


@pytest.mark.parametrize(
    ("original", "refurbished", "overall"),
    [
        (1, 1, 1),
        (1, 2, 2),
        (2, 1, 2),
        (3, None, 3),
        (None, 3, 3),
        (1, None, None),
        (None, None, None),
        (2, 3, 3),
    ],
)
def test_the_worse_of_the_two_states_counts(
    original: int | None, refurbished: int | None, overall: int | None
) -> None:
    by_state = {"original": state(original), "refurbished": state(refurbished)}
    assert overall_class(by_state) == overall


def test_one_state_alone_gives_a_class_only_where_it_is_the_worst() -> None:
    assert overall_class({"original": state(1)}) is None
    assert overall_class({"original": state(3)}) == 3
    assert overall_class({}) is None


def tried(
    label: str, seconds: float | None, direction: str = "length", side: str = "face", **given: Any
) -> SpecimenResult:
    result = SpecimenResult(label, direction, given.get("state", "original"))
    result.more.update(round=given.get("round", "preliminary"), side=side, code="BURN")
    result.values["burn_time"] = Value(seconds, "s")
    return result


def test_the_quickest_way_of_the_preliminary_is_burned() -> None:
    results = [
        tried("A", 6.0),
        tried("B", 5.2, "width", "back"),
        tried("C", 4.0, round="first"),
        tried("D", 1.0, state="refurbished"),
    ]
    assert quickest_way(results, "original") == ("width", "back")
    assert quickest_way(results, "refurbished") == ("length", "face")
    assert quickest_way(results[2:3], "original") is None


def test_of_two_alike_the_length_and_the_face_go_first_and_no_time_is_the_slowest() -> None:
    alike = [tried("A", 5.0, "width"), tried("B", 5.0, "length", "back"), tried("C", 5.0)]
    assert quickest_way(alike, "original") == ("length", "face")
    assert quickest_way([tried("A", None), tried("B", 9.9, "width")], "original") == (
        "width",
        "face",
    )
