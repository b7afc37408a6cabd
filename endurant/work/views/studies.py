"""Several samples of one study: received together, each a job of its own, and held beside others.

Each sample keeps its own sheet, specimens, conditioning and report; what is asked of it and by
which limits is the same, so that its results can stand beside those of the others.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.judging.limit_rule import limit_rule
from endurant.core.judging.side_by_side import Sample, side_by_side
from endurant.core.refusals import Invalid, NotFound
from endurant.core.writing import Writing
from endurant.store.products import Study
from endurant.store.tables import Job
from endurant.work.base.read_scope import looking
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.job_status import job_line
from endurant.work.facts.laboratory import laboratory, writing_for
from endurant.work.facts.models import (
    JobLine,
    JudgedRow,
    LimitRuleView,
    TestView,
)
from endurant.work.facts.test_status import test_view


class ComparedView(View):
    """One sample in a comparison: its place, its rule on the common scale, its difference."""

    job_id: int
    name: str
    rank: int | None
    n: int
    mean_text: str
    rule: LimitRuleView
    verdict: str
    difference: float | None
    difference_half_width: float | None
    text: str


class ComparisonView(View):
    """One property of one test in one direction, all samples ranked."""

    test: str
    property: str
    title: str
    unit: str
    group: str
    limit_text: str
    samples: list[ComparedView]


class SampleLine(View):
    """One sample of a study and where it stands; `cancelled` is why it is not done any more."""

    variant: str
    job: JobLine
    cancelled: str | None = None


class StudyView(View):
    """A study with its samples, and their results side by side."""

    id: int
    title: str
    client: str
    reports: str
    at: datetime
    against: int
    samples: list[SampleLine]
    comparisons: list[ComparisonView]
    to_release: list[str]
    written: Writing = Writing()


def study(study_id: int, against: int | None = None) -> StudyView:
    """A study with its results side by side, held against the first sample or the one named.

    Raises NotFound for no such study, Invalid for a job that is none of its samples.
    """
    with transaction() as session:
        row = session.get(Study, study_id)
        if row is None:
            raise NotFound("study.unknown", study_id=study_id)
        jobs = list(
            session.scalars(select(Job).where(Job.study_id == study_id).order_by(Job.id)).all()
        )
        ids = [job.id for job in jobs]
        open_ids = [job.id for job in jobs if job.cancelled_at is None]
        base = against if against is not None else (open_ids or ids)[0]
        if base not in ids:
            raise Invalid("study.baseline-unknown", field="against")
        with looking(session):
            return StudyView(
                id=row.id,
                title=row.title,
                client=row.client,
                reports=row.reports,
                at=row.at,
                against=base,
                samples=[
                    SampleLine(
                        variant=job.variant or "",
                        job=job_line(session, job),
                        cancelled=job.cancelled_reason if job.cancelled_at is not None else None,
                    )
                    for job in jobs
                ],
                comparisons=_comparisons(session, jobs, base),
                to_release=[
                    f"{job.number} {job.variant or ''}"
                    for job in jobs
                    if job.released_at is None and job.cancelled_at is None
                ],
                written=writing_for(laboratory(session), jobs[0]),
            )


def _comparisons(session: Session, jobs: list[Job], base: int) -> list[ComparisonView]:
    """Rows of the same test, property and group, of all samples that are tested so."""
    alike: dict[str, list[tuple[Job, TestView]]] = defaultdict(list)
    for job in jobs:
        if job.cancelled_at is None:
            for test in job.tests:
                view = test_view(session, test)
                alike[f"{view.method} {sorted(view.parameters.items())}"].append((job, view))
    return [
        _comparison([(job, _row_of(view, key)) for job, view in views], views[0][1], key, base)
        for views in alike.values()
        if len(views) > 1
        for key in dict.fromkeys(
            _key(row) for _, view in views for row in view.rows if _has_figures(row)
        )
    ]


def _keys_of(views: Iterable[TestView]) -> list[tuple[str, str]]:
    rows = (row for view in views for row in view.rows)
    return list(dict.fromkeys(_key(row) for row in rows if _has_figures(row)))


def _has_figures(row: JudgedRow) -> bool:
    return row.rule is not None and bool(row.rule.values)


def _key(row: JudgedRow) -> tuple[str, str]:
    return row.property, row.group


def _row_of(view: TestView, key: tuple[str, str]) -> JudgedRow | None:
    return next((row for row in view.rows if _key(row) == key), None)


def _figures(samples: list[Sample]) -> list[float]:
    return [value for sample in samples for value in sample.values]


def _comparison(
    judged: list[tuple[Job, JudgedRow | None]], test: TestView, key: tuple[str, str], base: int
) -> ComparisonView:
    first = next(row for _, row in judged if row is not None)
    by_name = {job.variant or job.number: (job, row) for job, row in judged}
    against = next((name for name, (job, _) in by_name.items() if job.id == base), "")
    samples = [
        Sample(name, tuple(row.rule.values) if row and row.rule else ())
        for name, (_, row) in by_name.items()
    ]
    scale = limit_rule(first.criterion, first.unit, _figures(samples), [])
    ends = (scale.low, scale.high, scale.step)
    values = {sample.name: sample.values for sample in samples}
    compared = []
    for each in side_by_side(samples, against, first.unit):
        job, row = by_name[each.name]
        rule = limit_rule(first.criterion, first.unit, values[each.name], [], ends=ends)
        summary = row.summary if row else None
        compared.append(
            ComparedView(
                job_id=job.id,
                name=each.name,
                rank=each.rank,
                n=each.n,
                mean_text=(summary.reported or "") if summary else "",
                rule=LimitRuleView.model_validate(rule),
                verdict=row.verdict if row else "not judged",
                difference=each.difference,
                difference_half_width=each.difference_half_width,
                text=each.text,
            )
        )
    return ComparisonView(
        test=test.title,
        property=first.property,
        title=first.title,
        unit=first.unit,
        group=first.group,
        limit_text=first.limit_text,
        samples=compared,
    )
