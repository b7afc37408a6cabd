"""The register of melt densities: by formulation and revision, from tests that were kept."""

from __future__ import annotations

from datetime import datetime

import numpy as np
from pydantic import Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.quantities import above
from endurant.core.refusals import Conflict, Forbidden, Invalid, NotFound
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.equipment import MeltDensity
from endurant.store.tables import Test
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.models import TestView
from endurant.work.facts.results import settled_results, test_figures
from endurant.work.facts.status import refuse_released, test_or_refuse
from endurant.work.facts.test_status import test_view
from endurant.work.use_cases.amending.setting_up import change_set_up

DENSITY, METHOD = "melt_density", "melt-density"
MAX_APART_C = 0.5
MAX_SHOWN = 500


class DensityView(View):
    """A density of the register; the one in force of its formulation and revision stands first."""

    id: int
    formulation: str
    revision: str
    temperature_c: float
    density_g_cm3: float
    sd_g_cm3: float | None
    runs: int
    job_number: str
    at: datetime
    by: str
    in_force: bool


class FormulationRequest(RequestBody):
    """Which formulation, in which revision: base, colourant, filler, regrind share."""

    formulation: str = Field(min_length=1, max_length=80)
    revision: str = Field(min_length=1, max_length=24)


def densities() -> list[DensityView]:
    """The register, by formulation; the newest of each first."""
    with transaction() as session:
        return _views(session)


def enter_density(actor: Actor, test_id: int, request: FormulationRequest) -> list[DensityView]:
    """Enter what a test found; it takes the place of the one before.

    Whoever ran the test does not approve it. Raises Forbidden for those; Conflict for another
    method, too few runs, or densities that lie too far apart.
    """
    actor.must("approve-densities")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        if test.method != METHOD:
            raise Conflict("melt-density.not-of-method", method=find_method(test.method).title)
        kept = [
            result
            for result in settled_results(test, test_figures(test)[0])
            if result.enters and result.figure(DENSITY) is not None
        ]
        lower = int(test.parameters.get("min_runs") or 3)
        if len(kept) < lower:
            raise Conflict("melt-density.too-few-runs", count=len(kept), min=lower)
        wide = [result.label for result in kept if result.has_flag("density-spread")]
        if wide:
            raise Conflict("melt-density.cuts-differ", runs=list(wide))
        _refuse_disagreeing(test)
        _refuse_tester(test, actor)
        values = [float(result.figure(DENSITY) or 0) for result in kept]
        now = clock.now()
        for row in _in_force(session, request):
            row.withdrawn_at = now
        row = MeltDensity(
            formulation=request.formulation,
            revision=request.revision,
            temperature_c=float(test.parameters["temperature_c"]),
            density_g_cm3=round(float(np.mean(values)), 4),
            sd_g_cm3=float(np.std(values, ddof=1)) if len(values) > 1 else None,
            runs=len(values),
            test_id=test.id,
            at=now,
            by_id=actor.id,
        )
        session.add(row)
        session.flush()
        record(
            session,
            person_id=actor.id,
            action="enter-density",
            entity="melt_density",
            entity_id=row.id,
            job_id=test.job_id,
            message=Message(
                "audit.enter-density",
                {
                    "actor": actor.name,
                    "density": row.density_g_cm3,
                    "formulation": request.formulation,
                    "revision": request.revision,
                },
            ),
        )
        return _views(session)


def use_density(actor: Actor, test_id: int, request: FormulationRequest) -> TestView:
    """Set a test up with the density that is in force for this very formulation and revision.

    Raises NotFound where there is none, Conflict where it was found at another temperature.
    """
    actor.must("test")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        refuse_released(session, test.job_id)
        if "melt_density_g_cm3" not in find_method(test.method).parameters.model_fields:
            raise Conflict("melt-density.not-needed", method=find_method(test.method).title)
        row = next(iter(_in_force(session, request)), None)
        if row is None:
            raise NotFound(
                "melt-density.not-registered",
                formulation=request.formulation,
                revision=request.revision,
            )
        at_c = test.parameters.get("temperature_c")
        if at_c is None or above(abs(float(at_c) - row.temperature_c), MAX_APART_C):
            raise Conflict(
                "melt-density.other-temperature",
                temperature_c=row.temperature_c,
                test_c=float(at_c or 0),
            )
        why = f"register, {request.formulation} {request.revision}"
        change_set_up(session, actor, test, {"melt_density_g_cm3": row.density_g_cm3}, why)
        return test_view(session, test)


def withdraw_density(actor: Actor, density_id: int) -> list[DensityView]:
    """A density holds no longer. Raises NotFound."""
    actor.must("approve-densities")
    with transaction() as session:
        row = session.get(MeltDensity, density_id, with_for_update=True)
        if row is None:
            raise NotFound("melt-density.unknown", density_id=density_id)
        if row.withdrawn_at is not None:
            raise Invalid("melt-density.withdrawn")
        row.withdrawn_at = clock.now()
        record(
            session,
            person_id=actor.id,
            action="withdraw-density",
            entity="melt_density",
            entity_id=row.id,
            message=Message(
                "audit.withdraw-density",
                {"actor": actor.name, "formulation": row.formulation, "revision": row.revision},
            ),
        )
        return _views(session)


def _refuse_disagreeing(test: Test) -> None:
    figures = test_figures(test)[0]
    for flag in () if figures is None else figures.flags:
        if flag.code == "runs-disagree":
            raise Conflict("melt-density.runs-disagree", reason=flag.text)


def _refuse_tester(test: Test, actor: Actor) -> None:
    runs = (run for specimen in test.specimens for run in specimen.runs)
    if any(run.by_id == actor.id and run.state != "abandoned" for run in runs):
        raise Forbidden("melt-density.own-test")


def _in_force(session: Session, request: FormulationRequest) -> list[MeltDensity]:
    return list(
        session.scalars(
            select(MeltDensity)
            .where(
                MeltDensity.formulation == request.formulation,
                MeltDensity.revision == request.revision,
                MeltDensity.withdrawn_at.is_(None),
            )
            .order_by(MeltDensity.id.desc())
            .with_for_update()
        )
    )


def _views(session: Session) -> list[DensityView]:
    session.flush()
    rows = session.scalars(
        select(MeltDensity)
        .order_by(MeltDensity.formulation, MeltDensity.revision, MeltDensity.id.desc())
        .limit(MAX_SHOWN)
    )
    return [
        DensityView(
            id=row.id,
            formulation=row.formulation,
            revision=row.revision,
            temperature_c=row.temperature_c,
            density_g_cm3=row.density_g_cm3,
            sd_g_cm3=row.sd_g_cm3,
            runs=row.runs,
            job_number=session.get_one(Test, row.test_id).job.number,
            at=row.at,
            by=row.by.name,
            in_force=row.withdrawn_at is None,
        )
        for row in rows
    ]
