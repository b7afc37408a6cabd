"""Does the record still say what it said: the chain, the raw data, the figures."""

from __future__ import annotations

import hashlib
import json
import math
from typing import Any

from sqlalchemy import select

from endurant.core.document import analyse, read_document
from endurant.store.audit import broken_links
from endurant.store.engine import transaction
from endurant.store.samples import entry_sha256, sha256, unpack
from endurant.store.tables import Report, Run


def verify() -> list[str]:
    """One sentence for everything that does not hold; empty when the record is sound."""
    found: list[str] = []
    with transaction() as session:
        found += broken_links(session)
        for run in session.scalars(
            select(Run).where(Run.raw.is_not(None)).execution_options(yield_per=20)
        ):
            if run.raw is not None and sha256(unpack(run.raw)) != run.sha256:
                found.append(f"the samples of run {run.id} are not those that were stored")
        for run in session.scalars(
            select(Run).where(Run.entry.is_not(None)).execution_options(yield_per=20)
        ):
            if run.entry is not None and entry_sha256(run.entry) != run.sha256:
                found.append(f"the readings of run {run.id} are not those that were stored")
        for report in session.scalars(select(Report)):
            if hashlib.sha256(report.content.encode()).hexdigest() != report.sha256:
                found.append(f"report {report.number} revision {report.revision} was changed")
                continue
            for test in json.loads(report.content)["tests"]:
                found += _recomputed(report, test)
    return found


def _recomputed(report: Report, test: dict[str, Any]) -> list[str]:
    """The figures of a released report, computed again from its own raw data."""
    again = analyse(read_document(test["document"])).as_json()["specimens"]
    told = {one["label"]: one["values"] for one in test["result"]["specimens"]}
    return [
        f"report {report.number} revision {report.revision}: {one['label']} {name} "
        f"comes out as {value['value']}, the report says {told[one['label']][name]['value']}"
        for one in again
        for name, value in one["values"].items()
        if not _same(value["value"], told[one["label"]][name]["value"])
    ]


def _same(one: float | None, other: float | None) -> bool:
    if one is None or other is None:
        return one is other
    return math.isclose(one, other, rel_tol=1e-12)
