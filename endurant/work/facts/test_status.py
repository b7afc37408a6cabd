"""A test as its screens show it."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import Session

from endurant.core.conditioning.chains import stage_in_words
from endurant.core.measuring import NAMES
from endurant.core.methods import find_method
from endurant.core.methods.voids import observations_of
from endurant.store import clock
from endurant.store.tables import Specimen, Test
from endurant.work.facts.called_specimens import (
    called_specimens,
    due_in_round,
    missing_replacements,
)
from endurant.work.facts.conditioning_progress import chain_state, stages_for, usual_stages
from endurant.work.facts.evaluated_rows import judged_rows, label_text
from endurant.work.facts.laboratory import laboratory
from endurant.work.facts.models import SpecimenView, TestView, VoidView
from endurant.work.facts.results import settled_results, test_figures
from endurant.work.facts.status import (
    directions_of,
    is_cut,
    last_run,
    open_period,
    open_void,
    required_count,
    state_of,
    to_go,
)
from endurant.work.facts.test_settings import missing_set_up, parameters_of, set_up_names, title_of


def test_view(session: Session, test: Test) -> TestView:
    """A test with its specimens, rows and flags."""
    method = find_method(test.method)
    result, problem = test_figures(test)
    by_label = {specimen.label: specimen for specimen in result.specimens} if result else {}
    called = {called_specimen.id for called_specimen in called_specimens(test)}
    rounding = test.parameters["rounding"]
    main = method.properties_for(parameters_of(test))[0]
    valid = {
        settled_result.label
        for settled_result in settled_results(test, result)
        if settled_result.enters
    }
    missing = sum(to_go(test, direction, valid) for direction in directions_of(test))
    requested = required_count(test)
    if method.guide.calls is not None:
        missing = sum(due.count for due, _ in due_in_round(test))
        requested += missing
    elif method.planned == "by-document":
        missing = 0 if valid else 1
    now = clock.now()
    specimens = []
    for specimen in test.specimens:
        result_of_it = by_label.get(specimen.label)
        figure = result_of_it.figure(main.name) if result_of_it else None
        run = last_run(specimen)
        period = open_period(specimen) or (specimen.periods[-1] if specimen.periods else None)
        specimens.append(
            SpecimenView(
                id=specimen.id,
                code=specimen.code,
                label=specimen.label,
                direction=specimen.direction,
                long_side=specimen.long_side,
                works_on=label_text(specimen),
                spare=specimen.spare,
                called=specimen.id in called,
                state=state_of(specimen, now),
                run_id=run.id if run else None,
                placed_at=period.placed_at if period else None,
                ready_at=conditioned_at(specimen, now),
                void=_void_view(specimen),
                value=figure,
                value_text=None if figure is None else main.reported(figure, rounding),
                flags=[flag.as_json() for flag in result_of_it.flags] if result_of_it else [],
                revision=specimen.revision,
            )
        )
    return TestView(
        id=test.id,
        job_id=test.job_id,
        job_number=test.job.number,
        job_product=test.job.product,
        method=test.method,
        title=title_of(test),
        bench=method.guide.bench,
        shape=method.guide.blank.slip_shape if method.guide.blank else "block",
        label_school=test.label_school,
        parameters=test.parameters,
        state=test.state,
        prepared=[stage_in_words(stage) for stage in stages_for(test)],
        prepared_otherwise=stages_for(test) != usual_stages(test),
        measures=[NAMES[measure.field] for measure in method.guide.measures if not measure.instead],
        measured=sum(
            bool(specimen.dimensions) for specimen in test.specimens if specimen.id in called
        ),
        at_frame=method.runs_live,
        by_rounds=method.guide.calls is not None,
        required=requested,
        to_go=missing,
        specimens=specimens,
        rows=judged_rows(laboratory(session), test, result),
        flags=[flag.as_json() for flag in result.flags] if result else [],
        problem=problem,
        one_more={} if is_cut(test) else missing_replacements(test),
        held=test.held_reason if test.held_at is not None else None,
        set_up=set_up_names(method),
        set_up_missing=missing_set_up(test),
        released=test.job.released_at is not None,
        revision=test.revision,
    )


def conditioned_at(specimen: Specimen, now: datetime) -> datetime | None:
    """When the conditioning of a specimen was or will be complete, as far as that is known."""
    elapsed = chain_state(specimen, now).elapsed
    return None if elapsed is None else elapsed.runs_out_at


def _void_view(specimen: Specimen) -> VoidView | None:
    void = open_void(specimen)
    if void is None:
        return None
    observations = observations_of(find_method(specimen.test.method))
    title = next(
        (observation.title for observation in observations if observation.code == void.code),
        void.code,
    )
    return VoidView(code=void.code, title=title, remark=void.remark, by=void.by.name, at=void.at)
