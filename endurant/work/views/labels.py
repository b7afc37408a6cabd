"""The labels of a job: one for each piece, and for each half of what is parted once it is cut."""

from __future__ import annotations

from endurant.core.methods import find_method
from endurant.core.methods.guide import piece_letter
from endurant.store.tables import Job, Specimen
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.evaluated_rows import label_text
from endurant.work.facts.status import job_or_refuse
from endurant.work.views.sheet_drawing import PlacedSpecimen, sheet_view


class LabelView(View):
    """What stands on one label; `lies` is empty where no side runs along the roll."""

    name: str
    code: str
    test: str
    part: str
    half: str
    works_on: str
    lies: str
    spare: bool
    hot_knife: bool


class JobLabels(View):
    """The labels of a job, in the order of its sheet or of its specimens."""

    job_number: str
    labels: list[LabelView]


def labels_of(job_id: int) -> JobLabels:
    """A label for each piece that lies on the sheet, or that came ready; raises NotFound."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        labels = _of_sheet(job) if job.form == "sheet" else _of_pieces(job)
        return JobLabels(job_number=job.number, labels=labels)


def _of_sheet(job: Job) -> list[LabelView]:
    placed = [piece for piece in sheet_view(job).specimens if piece.x_mm is not None]
    return [_of_placed(piece, half) for piece in placed for half in piece.halves or [""]]


def _of_placed(piece: PlacedSpecimen, half: str) -> LabelView:
    return LabelView(
        name=piece.name,
        code=piece.code,
        test=piece.test,
        part=piece.part,
        half=half,
        works_on=piece.works_on,
        lies="" if piece.disc else piece.lies,
        spare=piece.spare,
        hot_knife=piece.hot_knife,
    )


def _of_pieces(job: Job) -> list[LabelView]:
    return [
        label
        for number, test in enumerate(job.tests, start=1)
        for specimen in test.specimens
        for label in _of_specimen(specimen, f"{number}-" if len(job.tests) > 1 else "")
    ]


def _of_specimen(specimen: Specimen, before: str) -> list[LabelView]:
    """The labels of a specimen that came ready: of each of its pieces and halves."""
    method = find_method(specimen.test.method)
    demand = method.demand_for(specimen.test.parameters)
    several = demand.pieces > 1
    return [
        LabelView(
            name=f"{before}{specimen.label}{piece_letter(place) if several else ''}",
            code=specimen.code,
            test=method.title,
            part=f"{demand.piece} {place + 1} of {demand.pieces}" if several else "",
            half=half,
            works_on=label_text(specimen),
            lies="",
            spare=specimen.spare,
            hot_knife=False,
        )
        for place in range(demand.pieces)
        for half in demand.halves or ("",)
    ]
