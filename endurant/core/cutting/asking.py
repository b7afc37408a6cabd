"""Which pieces a test asks for: its specimens and spares, by direction, with their labels."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from endurant.core.cutting.sheet import LabelSchool, LongSide, Piece, lies_along, long_side_for
from endurant.core.cutting.treated import cloth_for
from endurant.core.methods.guide import Blank, piece_letter
from endurant.core.methods.method import Method
from endurant.core.refusals import Invalid


@dataclass(frozen=True)
class PieceGroup:
    """Pieces of one test in one direction, all alike; a specimen may be of several."""

    test: str
    direction: str
    blank: Blank
    long_side: LongSide
    count: int
    spares: int
    turnable: bool
    pieces_each: int = 1
    treated: tuple[int, int] | None = None
    """Numbers of the first and last specimen that are cut from this one piece once treated."""

    def pieces(self, first_key: int, prefix: str = "", test: str = "") -> list[Piece]:
        """Return the pieces with keys from `first_key` on, the spares last.

        `test` is what they are told apart by where one method is asked for twice.
        """
        test = test or self.test
        named = " ".join(part for part in (self.test, self.direction) if part)
        return [
            Piece(
                key=first_key + place * self.pieces_each + part,
                label=f"{prefix or named + ' '}{self._number(place)}{self._letter(part)}",
                group=f"{test}/{self.direction}" + ("/treated" if self.treated else ""),
                blank=self.blank,
                long_side=self.long_side,
                test=test,
                spare=place >= self.count,
                turnable=self.turnable,
            )
            for place in range(self.count + self.spares)
            for part in range(self.pieces_each)
        ]

    def _number(self, place: int) -> str:
        return f"{self.treated[0]}\N{EN DASH}{self.treated[1]}" if self.treated else f"{place + 1}"

    def _letter(self, part: int) -> str:
        return piece_letter(part) if self.pieces_each > 1 else ""


def is_turnable(blank: Blank, direction: str) -> bool:
    """Return True where a specimen may lie either way on the sheet.

    A moulded sheet has a grain: all its specimens lie one way.
    """
    if blank.cut_from == "moulded-sheet":
        return False
    return blank.outline != "disc" and lies_along(direction) is None


def groups_of_method(
    method: Method, requested: int | None, school: LabelSchool, parameters: dict[str, Any]
) -> list[PieceGroup]:
    """Return the pieces that one test of a method needs, `requested` in each direction.

    Without `requested` it is as many as its parameters or its guide ask for. Raises Invalid for a
    method whose specimens are not cut from a sheet.
    """
    blank = method.blank_for(parameters)
    if blank is None:
        raise Invalid("cutting.method-not-cut", method=method.title, field="tests")
    demand = method.demand_for(parameters)
    planned = method.planned_for(
        parameters | ({"specimens_wanted": requested} if requested else {})
    )
    spares = method.spares_for(parameters) - demand.treated
    groups = []
    for direction in method.directions or ("",):
        whole = PieceGroup(
            test=method.id,
            direction=direction,
            blank=blank,
            long_side=long_side_for(direction, blank, school),
            count=planned,
            spares=spares,
            turnable=is_turnable(blank, direction),
            pieces_each=demand.pieces,
        )
        groups.append(whole)
        if demand.treated:
            first = planned + spares + 1
            groups.append(
                replace(
                    whole,
                    blank=cloth_for(blank, demand.treated),
                    count=1,
                    spares=0,
                    treated=(first, first + demand.treated - 1),
                )
            )
    return groups
