"""Receiving a sample: what is written down at the counter, and the specimens that it needs."""

from __future__ import annotations

import json
import secrets
from collections.abc import Sequence
from dataclasses import asdict
from typing import Annotated, Any, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.cutting.sheet import LabelSchool, long_side_for
from endurant.core.judging.verdicts import Comparison
from endurant.core.lab_tables import lab_defaults, with_factors
from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.products import Study
from endurant.store.tables import AuditEntry, Job, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.facts.called_specimens import is_treated_next, missing_replacements
from endurant.work.facts.conditioning_progress import usual_stages
from endurant.work.facts.laboratory import (
    kept_by_job,
    laboratory,
    school_for,
    tables_for,
)
from endurant.work.facts.models import JobView
from endurant.work.facts.products import refuse_not_in_force
from endurant.work.facts.status import blank_of
from endurant.work.facts.test_settings import parameters_of, requested_parameters
from endurant.work.use_cases.receiving.limits import LimitRequest, checked_limit
from endurant.work.use_cases.receiving.stages import SpecimenState, StageRequest
from endurant.work.views.job_page import job_view

PackSide = Annotated[float, Field(gt=0, le=20_000, allow_inf_nan=False)]


class TestRequest(RequestBody):
    """One test of a new job; without `stages` it is conditioned as its method asks for."""

    __test__ = False

    method: str
    parameters: dict[str, Any] = Field(default_factory=dict)
    limits: list[LimitRequest] = Field(default_factory=list, max_length=40)
    state: SpecimenState = "original"
    stages: list[StageRequest] | None = Field(None, max_length=6)


class VariantRequest(RequestBody):
    """One of several samples: what sets it apart, and its own lot and sizes where they differ.

    `tests` are the places, from 0, of the tests that are asked of it; all where they are left out.
    """

    name: str = Field(min_length=1, max_length=80)
    lot: str | None = Field(None, max_length=60)
    width_mm: float | None = Field(None, gt=0, le=10_000, allow_inf_nan=False)
    length_mm: float | None = Field(None, gt=0, le=100_000, allow_inf_nan=False)
    count: int | None = Field(None, ge=1, le=100_000)
    mass_g: float | None = Field(None, gt=0, le=1e7, allow_inf_nan=False)
    tests: list[int] | None = Field(None, max_length=20)


class SampleRequest(RequestBody):
    """What is written down at the counter; with `variants` it is several samples of a study."""

    client: str = Field(min_length=1, max_length=120)
    product: str = Field(min_length=1, max_length=120)
    lot: str = Field(min_length=1, max_length=60)
    material: str = Field(min_length=1, max_length=200)
    arrival_state: str = Field("in good condition", max_length=200)
    damp: bool = Field(False, description="It came damp or wet: pre-conditioning comes first.")
    form: SampleForm = "sheet"
    width_mm: float | None = Field(None, gt=0, le=10_000, allow_inf_nan=False)
    length_mm: float | None = Field(None, gt=0, le=100_000, allow_inf_nan=False)
    count: int | None = Field(None, ge=1, le=100_000)
    mass_g: float | None = Field(None, gt=0, le=1e7, allow_inf_nan=False)
    size_mm: tuple[PackSide, PackSide, PackSide] | None = Field(
        None, description="Length, width and height of a pack."
    )
    gross_mass_kg: float | None = Field(None, gt=0, le=100_000, allow_inf_nan=False)
    faces: str | None = Field(
        None, max_length=200, description="How the faces of a pack are told apart: 1 printed."
    )
    bag: str | None = Field(None, max_length=60, description="What the bag of granules is called.")
    regrind_percent: float | None = Field(None, ge=0, le=100, allow_inf_nan=False)
    piece_kind: PieceKind | None = Field(None, description="What the ready pieces are.")
    due_at: Moment
    tests: list[TestRequest] = Field(min_length=1, max_length=20)
    request_key: str | None = Field(None, max_length=64)
    product_revision: int | None = Field(None, ge=1)
    order_number: str | None = Field(
        None, max_length=60, description="The client's order, which may hold several jobs."
    )
    client_reference: str | None = Field(
        None, max_length=60, description="What the client calls the sample."
    )
    comparison: Comparison | None = Field(
        None, description="How figures are compared with limits, where not as the laboratory does."
    )
    label_school: LabelSchool | None = Field(
        None, description="How specimens are called, where not as the laboratory calls them."
    )
    variants: list[VariantRequest] = Field(default_factory=list, max_length=60)
    reports: Literal["one", "each"] = "each"

    def arrived(self) -> dict[str, Any] | None:
        """How many or how much of a sample that is no sheet; raises Invalid.

        Each form is asked for what it is, and for nothing else.
        """
        requested = SIZES_OF[self.form]
        for name in (*MEASURES, *FREE_OF_FORMS):
            given = getattr(self, name) is not None
            if name in requested and name not in FREE_OF_FORMS and not given:
                raise Invalid(
                    "sample.size-missing", dimension=name, form=FORMS[self.form], field=name
                )
            if given and name not in requested:
                raise Invalid(
                    "sample.size-not-allowed", dimension=name, form=FORMS[self.form], field=name
                )
        if self.form == "sheet":
            return None
        return {name: given for name in requested if (given := getattr(self, name)) is not None}


PieceKind = Literal["bars", "turned rods", "mouldings", "dumbbells", "discs", "prints"]
SampleForm = Literal["sheet", "pieces", "granules", "packs"]


MEASURES = ("width_mm", "length_mm", "count", "mass_g")
OF_PACKS = ("size_mm", "gross_mass_kg", "faces")
"""What may be written down of a pack; methods that need a size or a mass take it from there."""
OF_GRANULES = ("bag", "regrind_percent")
OF_PIECES = ("piece_kind",)
FREE_OF_FORMS = (*OF_PACKS, *OF_GRANULES, *OF_PIECES)
NOT_OF_A_JOB = {
    *("tests", "count", "mass_g", *FREE_OF_FORMS, "variants", "reports"),
    *("comparison", "label_school"),
}
"""What is asked at the counter and kept elsewhere than in a column of the job."""


FORMS: dict[SampleForm, str] = {
    "sheet": "a sheet or roll",
    "pieces": "a sample of ready pieces",
    "granules": "a sample of granules",
    "packs": "a sample of packs",
}


SIZES_OF: dict[SampleForm, tuple[str, ...]] = {
    "sheet": ("width_mm", "length_mm"),
    "pieces": ("count", *OF_PIECES),
    "granules": ("mass_g", *OF_GRANULES),
    "packs": ("count", *OF_PACKS),
}


def receive(actor: Actor, request: SampleRequest) -> JobView:
    """Write a new job down, with its tests, limits and the specimens they need.

    The same `request_key` twice gives the same job. Raises Invalid, and Conflict for a revision of
    a product that is not in force.
    """
    actor.must("receive")
    try:
        return _receive(actor, request)
    except Conflict:
        if request.request_key is None:
            raise
        return _receive(actor, request)  # the same request came twice at once: the first one won


def _receive(actor: Actor, request: SampleRequest) -> JobView:
    request.arrived()
    order = {name: getattr(request, name) or None for name in ("order_number", "client_reference")}
    request = request.model_copy(update=order)
    with transaction() as session:
        if request.request_key is not None:
            known = session.scalar(select(Job).where(Job.request_key == request.request_key))
            if known is not None:
                _refuse_other_body(session, known, request)
                return job_view(session, known)
        if request.product_revision is not None:
            refuse_not_in_force(session, request.client, request.product, request.product_revision)
        write = _write_study_down if request.variants else write_down
        return job_view(session, write(session, actor, request))


def _write_study_down(session: Session, actor: Actor, request: SampleRequest) -> Job:
    """A job for each sample of a study, in one transaction; the first of them.

    Raises Invalid for two samples of one name, or one that nothing is asked of.
    """
    names = [variant.name.strip() for variant in request.variants]
    if len(set(names)) < len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise Invalid("study.sample-twice", twice=twice, field="variants")
    study = Study(
        title=request.product,
        client=request.client,
        reports=request.reports,
        at=clock.now(),
        by_id=actor.id,
    )
    session.add(study)
    session.flush()
    jobs = [
        _write_one_down(session, actor, request, variant, study, is_first=place == 0)
        for place, variant in enumerate(request.variants)
    ]
    record(
        session,
        person_id=actor.id,
        action="begin-study",
        entity="study",
        entity_id=study.id,
        job_id=jobs[0].id,
        message=Message(
            "audit.begin-study",
            {
                "actor": actor.name,
                "count": len(jobs),
                "product": request.product,
                "names": ", ".join(names),
            },
        ),
        after={
            "jobs": [job.number for job in jobs],
            "asked": request.model_dump(mode="json"),
        },
    )
    return jobs[0]


def _write_one_down(
    session: Session,
    actor: Actor,
    request: SampleRequest,
    variant: VariantRequest,
    study: Study,
    *,
    is_first: bool,
) -> Job:
    places = range(len(request.tests)) if variant.tests is None else variant.tests
    if not places or max(places) >= len(request.tests):
        raise Invalid(
            "study.tests-of-sample",
            variant=variant.name,
            count=len(request.tests),
            field="variants",
        )
    own = request.model_copy(
        update={
            "variants": [],
            "tests": [request.tests[place] for place in places],
            "request_key": request.request_key if is_first else None,
            "lot": variant.lot or request.lot,
            **{
                size: given
                for size in ("width_mm", "length_mm", "count", "mass_g")
                if (given := getattr(variant, size)) is not None
            },
        }
    )
    return write_down(session, actor, own, study_id=study.id, variant=variant.name.strip())


def write_down(
    session: Session,
    actor: Actor,
    request: SampleRequest,
    study_id: int | None = None,
    variant: str | None = None,
) -> Job:
    """The new job, with its tests, limits and specimens, and its entry in the record."""
    arrived = request.arrived()
    lab = laboratory(session)
    job = Job(
        number=secrets.token_hex(8),
        avoided=[],
        arrived=arrived,
        lab_settings=kept_by_job(lab, request.comparison, request.label_school),
        received_at=clock.now(),
        received_by_id=actor.id,
        study_id=study_id,
        variant=variant,
        **request.model_dump(exclude=NOT_OF_A_JOB),
    )
    session.add(job)
    session.flush()
    job.number = f"J-{FIRST_NUMBER + job.id:04d}"
    school = school_for(lab, job)
    for place, requested in enumerate(split(request.tests), start=1):
        add_test(job, requested, school, lab.rounding, place)
    session.flush()
    record(
        session,
        person_id=actor.id,
        action="receive",
        entity="job",
        entity_id=job.id,
        job_id=job.id,
        message=Message(
            "audit.receive",
            {
                "actor": actor.name,
                "product": f"{request.product} {variant or ''}".strip(),
                "lot": request.lot,
                "client": request.client,
            },
        ),
        after=request.model_dump(mode="json"),
    )
    return job


def split(tests: Sequence[TestRequest]) -> list[TestRequest]:
    """The tests, those that are asked for in several states once for each state.

    Dry and wet rubbing are tests of their own, on specimens of their own.
    """
    parts = []
    for requested in tests:
        splits = find_method(requested.method).guide.splits
        name = next((each for each in splits if _is_both(requested, each)), None)
        values = splits[name] if name is not None else ()
        parts += [
            requested.model_copy(update={"parameters": {**requested.parameters, name: value}})
            for value in values
        ] or [requested]
    return parts


def _is_both(requested: TestRequest, name: str) -> bool:
    field = find_method(requested.method).parameters.model_fields[name]
    return bool(requested.parameters.get(name, field.default) == BOTH)


BOTH = "both"
"""The value of a parameter that asks for a test in each state."""


def add_test(
    job: Job, requested: TestRequest, school: LabelSchool, rounding: str, place: int
) -> Test:
    """One test of a job with its limits and the specimens that it needs. Raises Invalid."""
    method = find_method(requested.method)
    count_by_guide = {"specimens_wanted": method.guide.count_per_direction}
    tables = tables_for(job)
    said = lab_defaults(tables, method, job.arrived or {})
    given = {"rounding": rounding} | count_by_guide | said | requested.parameters
    parameters = requested_parameters(method, with_factors(tables, given))
    test = Test(
        method=method.id,
        parameters=parameters,
        label_school=school,
        limits=[],
        state=requested.state,
    )
    job.tests.append(test)
    if requested.stages is not None:
        stages = tuple(stage.stage() for stage in requested.stages)
        if stages != usual_stages(test):
            test.preparation = {"stages": [asdict(stage) for stage in stages]}
    checked = parameters_of(test)
    test.limits = [checked_limit(method, checked, limit) for limit in requested.limits]
    if method.planned == "by-document" and method.guide.blank is None:
        return test
    count, spares = method.planned_for(parameters), method.spares_for(parameters)
    treated = method.demand_for(parameters).treated
    for direction in method.directions or ("",):
        for number in range(1, count + spares + 1):
            specimen = add_specimen(test, direction, number, spare=number > count, test_place=place)
            specimen.treated = (number > count + spares - treated) or None
    return test


def add_specimen(
    test: Test, direction: str, number: int, *, spare: bool, test_place: int
) -> Specimen:
    """One more specimen of a test, with its label and the way its long side lies."""
    method = find_method(test.method)
    school: LabelSchool = (
        "by-long-side" if test.label_school == "by-long-side" else "by-failing-yarn"
    )
    label = f"{method.label_prefix(direction or None)}{number}"
    specimen = Specimen(
        code=f"{test.job.number}-{test_place}-{label}",
        label=label,
        direction=direction,
        long_side=long_side_for(direction, blank_of(test), school),
        position=(method.directions.index(direction) if direction else 0) * 1000 + number,
        spare=spare,
    )
    test.specimens.append(specimen)
    return specimen


def add_replacement(test: Test, direction: str) -> Specimen:
    """One more spare of a direction, for a void that has none; raises Conflict when none is due."""
    if missing_replacements(test).get(direction, 0) == 0:
        raise Conflict("replacement.not-needed")
    number = 1 + sum(specimen.direction == direction for specimen in test.specimens)
    specimen = add_specimen(test, direction, number, spare=True, test_place=place_of(test))
    specimen.treated = is_treated_next(test, direction) or None
    return specimen


def place_of(test: Test) -> int:
    """The number of a test in its job, as the codes of its specimens have it.

    It stays when another test of the job is dropped.
    """
    if test.specimens:
        return int(test.specimens[0].code.split("-")[-2])
    return test.job.tests.index(test) + 1


FIRST_NUMBER = 400
"""Numbers of jobs go on from here; each is made from the id that the database gave the job."""


def _refuse_other_body(session: Session, known: Job, request: SampleRequest) -> None:
    """The same request key stands for the same request; raises Invalid for another one."""
    entity, entity_id, action = "job", known.id, "receive"
    if known.study_id is not None:
        entity, entity_id, action = "study", known.study_id, "begin-study"
    facts = session.scalar(
        select(AuditEntry.facts).where(
            AuditEntry.entity == entity,
            AuditEntry.entity_id == entity_id,
            AuditEntry.action == action,
        )
    )
    before = json.loads(facts or "{}").get("after")
    if known.study_id is not None:
        before = (before or {}).get("asked")
    if before != json.loads(request.model_dump_json()):
        raise Invalid("receiving.request-key-used", job=known.number, field="request_key")
