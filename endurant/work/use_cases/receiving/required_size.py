"""How much to send: the least length off the roll, before anything has arrived."""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil
from typing import Annotated, Any

from pydantic import Field

from endurant.core.cutting.asking import PieceGroup, groups_of_method
from endurant.core.cutting.document import tests_that_fit
from endurant.core.cutting.placing import Plan, place
from endurant.core.cutting.sheet import Piece, Placement, Sheet, lies_in_words, works_on
from endurant.core.drawn import hatch_of
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.safety import HOT_KNIFE
from endurant.core.refusals import Invalid
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.laboratory import label_school
from endurant.work.views.sheet_drawing import (
    AreaView,
    HatchView,
    PlacedSpecimen,
    SheetTest,
    mark_views,
    point_views,
)

ASKED_IN_STEPS_OF_MM = 50
MAX_SECONDS = 10.0


class TestThought(RequestBody):
    """A test that may be asked for; `parameters` matter where they decide on the die."""

    __test__ = False

    method: str = Field(max_length=80)
    specimens_wanted: int | None = Field(None, ge=1, le=200)
    parameters: dict[str, Any] = Field(default_factory=dict)


class RequiredSizeRequest(RequestBody):
    """The tests, and the roll; its length where a sample lies there already."""

    width_mm: Annotated[float, Field(gt=0, le=10_000, allow_inf_nan=False)]
    length_mm: Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)] | None = None
    tests: list[TestThought] = Field(min_length=1, max_length=20)
    seconds: float = Field(1.0, ge=0, le=MAX_SECONDS, allow_inf_nan=False)


class ThoughtSheet(View):
    """The sheet as it would be cut, to be drawn like any other."""

    width_mm: float
    length_mm: float
    end_margin_mm: float
    moulded: bool
    avoided: list[AreaView] = []
    tests: list[SheetTest]
    specimens: list[PlacedSpecimen]


class RequiredSizeView(View):
    """The least length, the length to ask for, and what stands in the way where nothing helps.

    `pieces` are the tests whose specimens are not cut from a sheet, with how many to send;
    `usage` what a test uses where one result takes more than a specimen.
    """

    length_needed_mm: float | None
    length_bound_mm: float
    ask_for_mm: float | None
    used_percent: float
    fits: bool
    relaxation: str
    fitting: list[str]
    pieces: list[str]
    usage: list[str]
    sheet: ThoughtSheet | None


def required_size(request: RequiredSizeRequest) -> RequiredSizeView:
    """The least length that all tests need at this width; raises Invalid."""
    with transaction() as session:
        school = label_school(session)
    methods = [find_method(test.method) for test in request.tests]
    groups: list[tuple[int, PieceGroup]] = []
    for place_, (test, method) in enumerate(zip(request.tests, methods, strict=True), start=1):
        if method.blank_for(test.parameters) is not None:
            piece_groups = groups_of_method(method, test.specimens_wanted, school, test.parameters)
            groups += [(place_, group) for group in piece_groups]
    pieces: list[Piece] = []
    of: dict[int, tuple[int, PieceGroup]] = {}
    for place_, group in groups:
        prefix = methods[place_ - 1].label_prefix(group.direction or None)
        for piece in group.pieces(len(of) + 1, prefix, f"{place_}"):
            pieces.append(piece)
            of[piece.key] = (place_, group)
    others = [
        f"{method.title}: {_to_send(method, test)} pieces, not cut from a sheet"
        for test, method in zip(request.tests, methods, strict=True)
        if method.blank_for(test.parameters) is None
    ]
    if not pieces:
        raise Invalid("sample.no-sheet-tests", tests="; ".join(others), field="tests")
    blanks = [piece.blank for piece in pieces]
    on_sheet = Sheet.for_blanks(blanks, request.width_mm, request.length_mm)
    plan = place(on_sheet, pieces, seconds=request.seconds)
    fitting = tests_that_fit(on_sheet, pieces, [], plan)
    needed = plan.length_needed_mm
    return RequiredSizeView(
        length_needed_mm=needed,
        length_bound_mm=plan.length_bound_mm,
        ask_for_mm=None
        if needed is None
        else ASKED_IN_STEPS_OF_MM * ceil(needed / ASKED_IN_STEPS_OF_MM - 1e-9),
        used_percent=plan.used_percent,
        fits=plan.fits,
        relaxation="" if plan.relaxation is None else plan.relaxation.text,
        fitting=[methods[int(specimen) - 1].title for specimen in fitting],
        pieces=others,
        usage=[
            f"{method.title}: {message}"
            for test, method in zip(request.tests, methods, strict=True)
            if (message := method.demand_for(test.parameters).text)
        ],
        sheet=None if not plan.placements else _sheet(request, on_sheet, methods, plan, of),
    )


def _to_send(method: Method, test: TestThought) -> int:
    """How many pieces a test uses that are not cut from a sheet, in all its directions."""
    given = test.parameters | (
        {"specimens_wanted": test.specimens_wanted} if test.specimens_wanted else {}
    )
    each = method.planned_for(given) * method.demand_for(given).pieces
    return each * max(len(method.directions), 1)


def _sheet(
    request: RequiredSizeRequest,
    on_sheet: Sheet,
    methods: Sequence[Method],
    plan: Plan,
    of: dict[int, tuple[int, PieceGroup]],
) -> ThoughtSheet:
    tests: list[SheetTest] = []
    for number in dict.fromkeys(place_ for place_, _ in of.values()):
        method = methods[number - 1]
        cut = method.blank_for(request.tests[number - 1].parameters)
        tests.append(
            SheetTest(
                id=number,
                number=number,
                title=method.title,
                method=method.id,
                hatch=HatchView.model_validate(hatch_of(len(tests))),
                size_text=cut.size_in_words() if cut else "",
                placed=sum(of[placement.piece.key][0] == number for placement in plan.placements),
                required=sum(place_ == number for place_, _ in of.values()),
                cautions=[HOT_KNIFE] if cut and cut.hot_knife else [],
            )
        )
    return ThoughtSheet(
        width_mm=request.width_mm,
        length_mm=request.length_mm or plan.length_needed_mm or plan.length_bound_mm,
        end_margin_mm=on_sheet.end_margin_mm,
        moulded=on_sheet.moulded,
        tests=tests,
        specimens=[
            _specimen(placement, *of[placement.piece.key], methods, len(tests), request.width_mm)
            for placement in plan.placements
        ],
    )


def _specimen(
    placement: Placement,
    number: int,
    group: PieceGroup,
    methods: Sequence[Method],
    tests: int,
    width_mm: float,
) -> PlacedSpecimen:
    piece, method = placement.piece, methods[number - 1]
    across, along = piece.size_mm()
    return PlacedSpecimen(
        id=piece.key,
        test_id=number,
        test=method.title,
        label=piece.label,
        name=piece.label if tests < 2 else f"{number}-{piece.label}",
        part="",
        halves=[],
        code="",
        direction=group.direction,
        long_side=piece.long_side,
        works_on=works_on(piece.long_side, piece.blank, method.directions, group.direction),
        spare=piece.spare,
        across_mm=across,
        along_mm=along,
        x_mm=placement.x_mm,
        y_mm=placement.y_mm,
        outline=point_views(placement.outline()),
        inner_marks=mark_views(placement),
        locked=False,
        turnable=piece.turnable,
        disc=piece.blank.outline == "disc",
        lies=lies_in_words(piece, method.directions),
        hot_knife=piece.blank.hot_knife,
        selvedge_margin_mm=piece.margin_mm(width_mm),
        cut=False,
    )
