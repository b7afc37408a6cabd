"""What a reviewer and a client must not overlook: a class that may not be sold, a failed check."""

from __future__ import annotations

from sqlalchemy.orm import object_session

from endurant.core.document import ResultDocument
from endurant.core.methods.burning_order import NOT_FOR_SALE
from endurant.store.tables import Test
from endurant.work.instruments.checks import bad_since
from endurant.work.judging.results import runs_of
from endurant.work.reporting.labelled import labels_in_words

WORST_CLASS = 3


def not_for_sale(result: ResultDocument | None) -> list[str]:
    """The sentence for a cloth of class 3."""
    if result is None:
        return []
    rows = result.as_json()["summary"]
    is_worst = any(row["property"] == "class" and row.get("class") == WORST_CLASS for row in rows)
    return [NOT_FOR_SALE] if is_worst else []


def touched_words(test: Test) -> list[str]:
    """Which specimens were tested with an instrument whose check has failed since."""
    session = object_session(test)
    if session is None:
        return []
    runs = [(specimen, run) for specimen, run in runs_of(test) if run.instrument is not None]
    says = []
    for serial in dict.fromkeys(run.instrument.serial for _, run in runs if run.instrument):
        since = bad_since(session, serial)
        labels = [
            specimen.label
            for specimen, run in runs
            if run.instrument is not None
            and run.instrument.serial == serial
            and since is not None
            and run.started_at >= since
        ]
        if labels and since is not None:
            says.append(
                f"{labels_in_words(labels)}: tested with {serial} after its last good check on "
                f"{since:%d %b %Y}; the next one failed"
            )
    return says
