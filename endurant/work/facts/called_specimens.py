"""Which specimens of a test are to be tested: the planned ones, and a spare for every void."""

from __future__ import annotations

from sqlalchemy.orm import object_session

from endurant.core.methods import find_method
from endurant.core.methods.guide import Due
from endurant.store.tables import Specimen, Test
from endurant.work.base.read_scope import once
from endurant.work.facts.results import document_of, voided_by_analysis
from endurant.work.facts.status import directions_of, last_run, open_void


def called_specimens(test: Test) -> list[Specimen]:
    """Those that are to be tested, in order.

    A spare is called by a void, whether a person or the analysis says that one does not count.
    Of a test that is held, or of a cancelled job, none is.
    """
    return once(object_session(test), ("called", test.id), lambda: _called(test))


def _called(test: Test) -> list[Specimen]:
    if test.held_at is not None or test.job.cancelled_at is not None:
        return []
    if find_method(test.method).guide.calls is not None:
        return _called_by_rule(test)
    by_analysis = voided_by_analysis(test)
    called: list[Specimen] = []
    for direction in directions_of(test):
        members = [specimen for specimen in test.specimens if specimen.direction == direction]
        planned = [member for member in members if not member.spare]
        valid = [specimen for specimen in planned if open_void(specimen) is None]
        missing = len(planned) - sum(specimen.label not in by_analysis for specimen in valid)
        used: list[Specimen] = []
        for spare in (member for member in members if member.spare):
            if open_void(spare) is None and (missing > 0 or last_run(spare) is not None):
                used.append(spare)
                missing -= spare.label not in by_analysis
        called += valid + used
    return called


def due_in_round(test: Test) -> list[tuple[Due, list[Specimen]]]:
    """What the rule of the method calls next, each with the waiting specimens that serve it."""
    return once(object_session(test), ("due", test.id), lambda: _due_in_round(test))


def due_of(specimen: Specimen) -> Due | None:
    """What this specimen is called for; None where no rule of its method calls it."""
    if find_method(specimen.test.method).guide.calls is None:
        return None
    rounds = due_in_round(specimen.test)
    for due, members in rounds:
        if specimen.id in {member.id for member in members}:
            return due
    return next((due for due, _ in rounds if due.direction == specimen.direction), None)


def _due_in_round(test: Test) -> list[tuple[Due, list[Specimen]]]:
    calls = find_method(test.method).guide.calls
    if calls is None:
        return []
    waiting = [
        specimen
        for specimen in test.specimens
        if last_run(specimen) is None and open_void(specimen) is None
    ]
    rounds, taken = [], set[int]()
    has_treated = any(specimen.treated for specimen in test.specimens)
    for due in calls(test.parameters, document_of(test)["specimens"]):
        fits = [
            specimen
            for specimen in waiting
            if specimen.direction == due.direction
            and specimen.id not in taken
            and (bool(specimen.treated) == due.treated or not has_treated)
        ][: due.count]
        taken.update(specimen.id for specimen in fits)
        rounds.append((due, fits))
    return rounds


def is_treated_next(test: Test, direction: str) -> bool:
    """What is due in a direction is cut from treated cloth, where the sheet has a piece of it."""
    if not any(specimen.treated for specimen in test.specimens):
        return False
    return any(due.treated and due.direction == direction for due, _ in due_in_round(test))


def _called_by_rule(test: Test) -> list[Specimen]:
    """Those that were tested, and the waiting ones that the next round asks for."""
    tested = [
        specimen
        for specimen in test.specimens
        if last_run(specimen) is not None and open_void(specimen) is None
    ]
    return [*tested, *(specimen for _, fits in due_in_round(test) for specimen in fits)]


def missing_replacements(test: Test) -> dict[str, int]:
    """For each direction, how many voids have no spare left to replace them.

    None where the document names its specimens.
    """
    return once(object_session(test), ("missing", test.id), lambda: _missing(test))


def _missing(test: Test) -> dict[str, int]:
    is_waiting = test.held_at is not None or test.job.cancelled_at is not None
    if find_method(test.method).guide.calls is not None and not is_waiting:
        return {
            due.direction: due.count - len(fits)
            for due, fits in due_in_round(test)
            if len(fits) < due.count
        }
    if find_method(test.method).planned == "by-document" or is_waiting:
        return {}
    by_analysis = voided_by_analysis(test)
    called = [
        called_specimen
        for called_specimen in called_specimens(test)
        if called_specimen.label not in by_analysis
    ]
    missing = {}
    for direction in directions_of(test):
        planned = sum(
            specimen.direction == direction and not specimen.spare for specimen in test.specimens
        )
        valid = sum(specimen.direction == direction for specimen in called)
        if valid < planned:
            missing[direction] = planned - valid
    return missing
