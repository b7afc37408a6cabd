"""Sizes of specimens: read with a caliper or gauge or typed, looked at, and kept with them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core import measuring
from endurant.core.measuring import GAUGES, NAMES, Looked, check_readings, look_at, places_mm
from endurant.core.messages import Message, worded
from endurant.core.methods import find_method
from endurant.core.methods.guide import Measure
from endurant.core.refusals import Conflict, Forbidden, Invalid, NeedsReason, NotFound
from endurant.devices.driver import GaugeDriver
from endurant.devices.gauge.driver import TcpGauge
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.tables import Gauge, Specimen, Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.instrument_status import refuse_out
from endurant.work.facts.status import (
    blank_of,
    is_to_cut,
    last_run,
    open_void,
    refuse_released,
    refuse_stale,
    specimen_or_refuse,
    test_or_refuse,
)
from endurant.work.views.gauges import GaugeView, gauge_view
from endurant.work.views.sheet_drawing import PointView, point_views

Millimetres = Annotated[float, Field(allow_inf_nan=False)]


class SizesRequest(RequestBody):
    """All readings of one specimen by size, and the specimen as it was seen.

    `with_gauges` names the gauges that were used, for the record.
    """

    dimensions: dict[str, list[Millimetres]]
    with_gauges: list[str] = Field(default_factory=list, max_length=10)
    revision: int
    reason: str = Field("", max_length=300)


class GrammageRequest(RequestBody):
    """Masses of pieces of the test's own blank."""

    masses_g: list[Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]] = Field(
        min_length=1, max_length=50
    )
    revision: int
    reason: str = Field("", max_length=300)


class AreaRuleRequest(RequestBody):
    """The school by which sections are computed, and the test as it was seen."""

    area_rule: Literal["mean", "minimum"]
    revision: int


class ReadRequest(RequestBody):
    """What a gauge is held to: a specimen and a size, or a mass; near it a stand-in reads."""

    specimen_id: int
    field: str = Field(max_length=40)


class GaugeReadingView(View):
    """A reading, in mm or g."""

    value: float
    unit: str
    gauge: str


class RemarkView(View):
    """See core.measuring.Remark."""

    place: int | None
    kind: str
    text: str


class SizeView(View):
    """The readings of one size with what they give; places in mm along the long side."""

    field: str
    title: str
    gauge: str
    places_mm: list[float]
    nominal_mm: float | None
    instead: bool
    readings: list[float]
    mean_mm: float | None
    min_mm: float | None
    spread_percent: float | None
    remarks: list[RemarkView]


class MeasuredSpecimen(View):
    """One specimen with its sizes; `done` when every place was read."""

    id: int
    label: str
    code: str
    direction: str
    called: bool
    done: bool
    open: bool
    why_closed: str
    sizes: list[SizeView]
    mean_mm2: float | None
    min_mm2: float | None
    revision: int


SIMULATED = {
    "dry_g": 1.25,
    "wet_g": 1.55,
    "mass_before_g": 4.2,
    "mass_after_g": 4.1,
    "charge_g": 5.0,
    "mass_g": 0.0567,
}
"""What a simulated balance shows, by the reading that is taken."""
READ_AS_IT_IS = {"balance": "g"}
"""Gauges that read no size of a specimen, with their unit."""


class MeasuringView(View):
    """The measuring page of a test.

    `area_rule` is the school its figures are computed by, None where it has no section; it may be
    changed until a specimen is tested.
    """

    test_id: int
    job_id: int
    job_number: str
    product: str
    title: str
    method: str
    long_mm: float | None
    short_mm: float | None
    disc: bool
    outline: list[PointView]
    area_rule: str | None
    may_change_area_rule: bool
    grammage_g_m2: float | None
    weighs: bool
    blank_text: str
    specimens: list[MeasuredSpecimen]
    gauges: list[GaugeView]
    released: bool
    revision: int


def measuring_view(test_id: int) -> MeasuringView:
    """The specimens of a test with their sizes; raises NotFound."""
    with transaction() as session:
        return _view(session, test_or_refuse(session, test_id))


def measure(actor: Actor, specimen_id: int, request: SizesRequest) -> MeasuringView:
    """Keep the sizes of a specimen in place of those before.

    Raises Invalid for a size that the method does not read or a reading that no gauge gives,
    NeedsReason for other sizes than it was tested with, Conflict once it was accepted or when
    someone else measured it meanwhile.
    """
    actor.must("test")
    with transaction() as session:
        specimen = specimen_or_refuse(session, specimen_id)
        job = refuse_released(session, specimen.test.job_id)
        session.refresh(specimen)
        refuse_stale(specimen.label, specimen.revision, request.revision)
        why = _why_closed(specimen)
        if why:
            raise Conflict("measuring.fixed", label=specimen.label, reason=why)
        known = {measure.field for measure in measures_of(specimen.test)}
        for field, readings in request.dimensions.items():
            if field not in known:
                raise Invalid(
                    "measuring.dimension-unknown",
                    label=specimen.label,
                    dimension=field,
                    known=", ".join(sorted(known)) or "none",
                    field="dimensions",
                    specimen=specimen.label,
                )
            check_readings(readings, specimen.label, field)
        before = specimen.dimensions
        if before and last_run(specimen) is not None:
            _refuse_without_reason(
                worded("measured.was-tested-with-other-sizes", label=specimen.label), request.reason
            )
        specimen.dimensions = {
            field: readings for field, readings in request.dimensions.items() if readings
        }
        specimen.measured_with, specimen.measured_at = list(request.with_gauges), clock.now()
        specimen.revision += 1
        session.flush()
        sizes = "; ".join(
            f"{NAMES[field]} {', '.join(f'{reading:g}' for reading in readings)} mm"
            for field, readings in specimen.dimensions.items()
        )
        record(
            session,
            person_id=actor.id,
            action="measure",
            entity="specimen",
            entity_id=specimen.id,
            job_id=job.id,
            message=Message(
                "audit.measure-with" if request.with_gauges else "audit.measure",
                {
                    "actor": actor.name,
                    "label": specimen.label,
                    "gauges": list(request.with_gauges),
                    "sizes": sizes or "nothing",
                },
            ),
            before={"dimensions": before},
            after={"dimensions": specimen.dimensions, "with": request.with_gauges},
            why=request.reason or None,
        )
        return _view(session, specimen.test)


def weigh_blanks(actor: Actor, test_id: int, request: GrammageRequest) -> MeasuringView:
    """Grammage from the mass of blanks, as a parameter of the test. Raises Invalid, Conflict."""
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale(worded("measured.this-test"), test.revision, request.revision)
        cut = blank_of(test)
        if cut is None or "grammage_g_m2" not in test.parameters:
            raise Invalid(
                "measuring.no-grammage", method=find_method(test.method).title, field="masses_g"
            )
        grammage = round(measuring.grammage_g_m2(request.masses_g, cut), 2)
        before = test.parameters["grammage_g_m2"]
        if any(last_run(specimen) is not None for specimen in test.specimens):
            _refuse_without_reason(
                worded("measured.specimens-of-this-test-were-tested-with"), request.reason
            )
        test.parameters = test.parameters | {"grammage_g_m2": grammage}
        test.revision += 1
        session.flush()
        masses = ", ".join(f"{mass_g:g}" for mass_g in request.masses_g)
        record(
            session,
            person_id=actor.id,
            action="weigh-blanks",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message(
                "audit.weigh-blanks",
                {
                    "actor": actor.name,
                    "size": cut.size_in_words(),
                    "masses": masses,
                    "grammage": grammage,
                },
            ),
            before={"grammage_g_m2": before},
            after={"grammage_g_m2": grammage, "masses_g": request.masses_g},
            why=request.reason or None,
        )
        return _view(session, test)


def choose_area_rule(actor: Actor, test_id: int, request: AreaRuleRequest) -> MeasuringView:
    """Compute sections by their mean or by the smallest. Raises Conflict once one was tested."""
    actor.must("set-limits")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        job = refuse_released(session, test.job_id)
        session.refresh(test)
        refuse_stale(worded("measured.this-test"), test.revision, request.revision)
        title = find_method(test.method).title
        if "area_rule" not in test.parameters:
            raise Invalid("measuring.no-section", method=title, field="area_rule")
        if _is_begun(test):
            raise Conflict("measuring.rule-fixed", method=title)
        before = test.parameters["area_rule"]
        test.parameters = test.parameters | {"area_rule": request.area_rule}
        test.revision += 1
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="choose-area-rule",
            entity="test",
            entity_id=test.id,
            job_id=job.id,
            message=Message(
                "audit.choose-area-rule",
                {"actor": actor.name, "rule": request.area_rule, "title": title},
            ),
            before={"area_rule": before},
            after={"area_rule": request.area_rule},
        )
        return _view(session, test)


def read_gauge(actor: Actor, gauge_id: int, request: ReadRequest) -> GaugeReadingView:
    """Ask a gauge for its reading now. Raises Unavailable when it sends rubbish or nothing."""
    actor.must("test")
    with transaction() as session:
        gauge = _gauge_or_refuse(session, gauge_id)
        refuse_out(session, gauge)
        specimen = specimen_or_refuse(session, request.specimen_id)
        near = (
            SIMULATED.get(request.field, 1.0)
            if gauge.kind in READ_AS_IT_IS
            else _usual_mm(specimen.test, request.field, specimen)
        )
    value = driver_of(gauge).read((near or 1.0) if gauge.simulated else None)
    unit = READ_AS_IT_IS.get(gauge.kind, "mm")
    return GaugeReadingView(value=value, unit=unit, gauge=gauge.serial)


def simulate_gauge(actor: Actor, gauge_id: int, fault: str) -> None:
    """Tell a simulated gauge how to behave; raises Forbidden for a real one."""
    actor.must("test")
    with transaction() as session:
        gauge = _gauge_or_refuse(session, gauge_id)
    if not gauge.simulated:
        raise Forbidden("gauge.real", gauge=gauge.name)
    driver_of(gauge).simulate(fault)


def driver_of(gauge: Gauge) -> GaugeDriver:
    """The driver of a gauge."""
    return TcpGauge(gauge.name, (gauge.host, gauge.port), gauge.serial)


def _gauge_or_refuse(session: Session, gauge_id: int) -> Gauge:
    gauge = session.get(Gauge, gauge_id)
    if gauge is None:
        raise NotFound("gauge.unknown", gauge_id=gauge_id)
    return gauge


def measures_of(test: Test) -> tuple[Measure, ...]:
    """What is read off each specimen of a test."""
    return find_method(test.method).guide.measures


def _refuse_without_reason(message: str, reason: str) -> None:
    """Raises NeedsReason for what enters a figure after the test, without a reason."""
    if not reason:
        raise NeedsReason("measuring.reason-needed", situation=message)


def _is_begun(test: Test) -> bool:
    return any(last_run(specimen) is not None for specimen in test.specimens)


def _why_closed(specimen: Specimen) -> str:
    """Why a specimen is not measured any more, or not yet; empty when it may be."""
    run = last_run(specimen)
    if run is not None and run.state in ("running", "settled"):
        return (
            worded("measured.is-running")
            if run.state == "running"
            else worded("measured.was-tested-and-accepted")
        )
    if open_void(specimen) is not None:
        return worded("measured.is-void")
    if is_to_cut(specimen):
        return worded("measured.is-not-cut-yet")
    return ""


def _usual_mm(test: Test, field: str, but: Specimen) -> float | None:
    """What the other specimens give for a size, else the die or mould."""
    others: list[float] = [
        reading
        for specimen in test.specimens
        if specimen.id != but.id
        for reading in (specimen.dimensions or {}).get(field, [])
    ]
    if others:
        return sum(others) / len(others)
    return next(
        (measure.nominal_mm for measure in measures_of(test) if measure.field == field), None
    )


def _view(session: Session, test: Test) -> MeasuringView:
    method, cut = find_method(test.method), blank_of(test)
    called = {called_specimen.id for called_specimen in called_specimens(test)}
    now = clock.now()
    return MeasuringView(
        test_id=test.id,
        job_id=test.job_id,
        job_number=test.job.number,
        product=test.job.product,
        title=method.title,
        method=method.id,
        long_mm=cut.long_mm if cut else None,
        short_mm=cut.short_mm if cut else None,
        disc=bool(cut and cut.outline == "disc"),
        outline=point_views(cut.points_mm) if cut else [],
        area_rule=test.parameters.get("area_rule"),
        may_change_area_rule=(
            "area_rule" in test.parameters and not _is_begun(test) and test.job.released_at is None
        ),
        grammage_g_m2=test.parameters.get("grammage_g_m2"),
        weighs="grammage_g_m2" in test.parameters and cut is not None,
        blank_text=cut.size_in_words() if cut else "",
        specimens=[
            _specimen_view(test, specimen, called=specimen.id in called)
            for specimen in test.specimens
        ],
        gauges=[
            gauge_view(gauge, now) for gauge in session.scalars(select(Gauge).order_by(Gauge.id))
        ],
        released=test.job.released_at is not None,
        revision=test.revision,
    )


def _specimen_view(test: Test, specimen: Specimen, *, called: bool) -> MeasuredSpecimen:
    dimensions: dict[str, list[float]] = specimen.dimensions or {}
    measures = measures_of(test)
    section = measuring.section_of(
        *(dimensions.get(name, []) for name in ("width_mm", "thickness_mm", "diameter_mm"))
    )
    why = _why_closed(specimen)
    return MeasuredSpecimen(
        id=specimen.id,
        label=specimen.label,
        code=specimen.code,
        direction=specimen.direction,
        called=called,
        done=_is_done(measures, dimensions),
        open=not why,
        why_closed=why,
        sizes=[
            _size_view(test, specimen, measure, dimensions.get(measure.field, []))
            for measure in measures
        ],
        mean_mm2=section.mean_mm2 if section else None,
        min_mm2=section.min_mm2 if section else None,
        revision=specimen.revision,
    )


def _is_done(measures: Sequence[Measure], dimensions: dict[str, list[float]]) -> bool:
    """Every place was read; a round specimen has its diameter instead of the others."""

    def read(measure: Measure) -> bool:
        return len(dimensions.get(measure.field, [])) >= measure.count

    instead = [measure for measure in measures if measure.instead]
    usual = [measure for measure in measures if not measure.instead]
    return all(map(read, usual)) or bool(instead and all(map(read, instead)))


def _size_view(
    test: Test, specimen: Specimen, measure: Measure, readings: Sequence[float]
) -> SizeView:
    looked: Looked | None = None
    if readings:
        looked = look_at(readings, _usual_mm(test, measure.field, specimen))
    return SizeView(
        field=measure.field,
        title=NAMES[measure.field],
        gauge=GAUGES.get(measure.field, "caliper"),
        places_mm=places_mm(measure),
        nominal_mm=measure.nominal_mm,
        instead=measure.instead,
        readings=list(readings),
        mean_mm=looked.mean_mm if looked else None,
        min_mm=looked.min_mm if looked else None,
        spread_percent=looked.spread_percent if looked else None,
        remarks=[RemarkView.model_validate(remark) for remark in looked.remarks] if looked else [],
    )
