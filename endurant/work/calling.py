"""Which specimens of a test are to be tested: the planned ones, and a spare for every void."""

from __future__ import annotations

from endurant.core.methods import find_method
from endurant.store.tables import Specimen, Test
from endurant.work.results import voided_by_analysis
from endurant.work.states import directions_of, last_run, standing_void


def called_specimens(test: Test) -> list[Specimen]:
    """Those that are to be tested, in order.

    A spare is called by a void, whether a person or the analysis says that one does not count.
    """
    by_analysis = voided_by_analysis(test)
    called: list[Specimen] = []
    for direction in directions_of(test):
        members = [one for one in test.specimens if one.direction == direction]
        planned = [one for one in members if not one.spare]
        standing = [one for one in planned if standing_void(one) is None]
        missing = len(planned) - sum(one.label not in by_analysis for one in standing)
        used: list[Specimen] = []
        for spare in (one for one in members if one.spare):
            if standing_void(spare) is None and (missing > 0 or last_run(spare) is not None):
                used.append(spare)
                missing -= spare.label not in by_analysis
        called += standing + used
    return called


def missing_replacements(test: Test) -> dict[str, int]:
    """For each direction, how many voids have no spare left to replace them.

    None where the document names its specimens.
    """
    if find_method(test.method).planned == "by-document":
        return {}
    by_analysis = voided_by_analysis(test)
    called = [one for one in called_specimens(test) if one.label not in by_analysis]
    missing = {}
    for direction in directions_of(test):
        planned = sum(one.direction == direction and not one.spare for one in test.specimens)
        standing = sum(one.direction == direction for one in called)
        if standing < planned:
            missing[direction] = planned - standing
    return missing
