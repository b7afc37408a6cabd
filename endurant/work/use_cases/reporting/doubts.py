"""What a reviewer and a client must not overlook: a class that may not be sold, a failed check."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy.orm import object_session

from endurant.core.document import ResultDocument
from endurant.core.labelled import labels_in_words
from endurant.core.methods import find_method
from endurant.core.methods.burning_order import NOT_FOR_SALE
from endurant.store.tables import Person, Run, Specimen, Test
from endurant.work.facts.results import runs_of
from endurant.work.facts.run_facts import RunSettings
from endurant.work.use_cases.instruments.failed_checks import bad_since

WORST_CLASS = 3


def not_for_sale(result: ResultDocument | None) -> list[str]:
    """The sentence for a cloth of class 3."""
    if result is None:
        return []
    rows = result.as_json()["summary"]
    is_worst = any(row["property"] == "class" and row.get("class") == WORST_CLASS for row in rows)
    return [NOT_FOR_SALE] if is_worst else []


def retest_text(test: Test) -> list[str]:
    """That a test repeats another, why, and who allowed it: both results are reported."""
    session = object_session(test)
    if session is None or test.retest_of_id is None or test.retest_by_id is None:
        return []
    allowed = session.get_one(Person, test.retest_by_id).name
    return [
        f"{find_method(test.method).title} is reported twice: the second result is a retest "
        f"on the remainder of the sample, allowed by {allowed}: {test.retest_reason}"
    ]


def affected_text(test: Test) -> list[str]:
    """Which specimens were tested or measured with an instrument whose check has failed since."""
    session = object_session(test)
    if session is None:
        return []
    used: dict[str, list[tuple[str, datetime]]] = {}
    for specimen, run in runs_of(test):
        for serial, at in _instruments_of(specimen, run):
            used.setdefault(serial, []).append((specimen.label, at))
    message = []
    for serial, uses in used.items():
        since = bad_since(session, serial)
        labels = [] if since is None else [label for label, at in uses if at >= since]
        if labels and since is not None:
            message.append(
                f"{labels_in_words(list(dict.fromkeys(labels)))}: tested with {serial} after its "
                f"last good check on {since:%d %b %Y}; the next one failed"
            )
    return message


def _instruments_of(specimen: Specimen, run: Run) -> list[tuple[str, datetime]]:
    """The serials of what a specimen was tested, read and measured with, each with its moment."""
    gauges = RunSettings.model_validate(run.settings).gauges
    serials = [gauge.serial for gauge in gauges]
    if run.instrument is not None:
        serials.append(run.instrument.serial)
    uses = [(serial, run.started_at) for serial in serials]
    if specimen.measured_at is not None:
        uses += [(str(serial), specimen.measured_at) for serial in specimen.measured_with or ()]
    return list(dict.fromkeys(uses))
