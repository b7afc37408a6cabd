"""What was changed in a job, from its record: what it was, what it became, who, when and why.

A change after the first run is a deviation of the report. A report that corrects an earlier one
lists every change since that one was released.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.conditioning.atmospheres import find_atmosphere
from endurant.core.judging.criteria import Criterion
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.store.tables import AuditEntry, Job, Person, Report, Run, Specimen, Test
from endurant.work.base.view import View

IDENTITY = ("client", "product", "lot", "material")
OF_JOB = {"amend", "add-test", "drop-test"}
OF_TEST = {
    "amend-test",
    "set-up",
    "change-limits",
    "weigh-blanks",
    "choose-area-rule",
    "prepare",
}
OF_SPECIMEN = {"measure", "change-photo", "remove-photo"}
AFTER_A_RUN = {"void", "withdraw-void", "retest", "bring-in", "add-photo"}
"""What the report says elsewhere, and what only a report that corrects another one lists."""
OWN_SENTENCE = {"drop-test"}
"""What has a sentence of its own among the deviations."""
NOT_SAID = "–"


class ChangeLine(View):
    """One thing that was changed: its field, what it was and became, and why, by whom and when.

    `tested_before` names the specimens that were tested before, where the record names them.
    """

    field: str
    before: str
    after: str
    why: str
    who: str
    at: datetime
    tested_before: str = ""


class EarlierReport(View):
    """The revision that a report corrects, and its verdict."""

    revision: int
    verdict: str
    released_at: datetime


def changes_after_first_run(session: Session, job: Job) -> list[ChangeLine]:
    """What entered a figure, a verdict or an identity after testing had begun."""
    runs = _first_runs(session, job)
    first = min(runs.of_tests.values(), default=None)
    if first is None:
        return []
    lines: list[ChangeLine] = []
    for entry, who in _entries(session, job, OF_JOB | OF_TEST | OF_SPECIMEN):
        begun = _begun(entry, runs, first)
        if begun is not None and entry.at >= begun and entry.action not in OWN_SENTENCE:
            lines += _lines(session, entry, who)
    return lines


def changes_since(session: Session, job: Job, report: Report) -> list[ChangeLine]:
    """Everything that was changed since a report of this job was released, in its order."""
    released = session.scalar(
        select(AuditEntry.id).where(
            AuditEntry.entity == "report",
            AuditEntry.entity_id == report.id,
            AuditEntry.action == "release",
        )
    )
    kinds = OF_JOB | OF_TEST | OF_SPECIMEN | AFTER_A_RUN
    return [
        line
        for entry, who in _entries(session, job, kinds, after=released or 0)
        for line in _lines(session, entry, who)
    ]


def in_a_sentence(line: ChangeLine) -> str:
    """A change as the deviations say it."""
    why = worded("changed.reason", why=line.why) if line.why else ""
    before = (
        worded("changed.tested-before", tested_before=line.tested_before)
        if line.tested_before
        else ""
    )
    return (
        f"{line.field}: changed from {line.before} to {line.after} on {line.at:%d %b %Y}, after "
        f"testing had started ({line.who}{why}{before})"
    )


class _FirstRuns:
    """When testing began: of each test, and of each specimen."""

    def __init__(self) -> None:
        self.of_tests: dict[int, datetime] = {}
        self.of_specimens: dict[int, datetime] = {}


def _first_runs(session: Session, job: Job) -> _FirstRuns:
    runs = _FirstRuns()
    rows = session.execute(
        select(Specimen.id, Specimen.test_id, func.min(Run.started_at))
        .join(Run, Run.specimen_id == Specimen.id)
        .join(Test, Test.id == Specimen.test_id)
        .where(Test.job_id == job.id)
        .group_by(Specimen.id, Specimen.test_id)
    )
    for specimen_id, test_id, at in rows:
        runs.of_specimens[specimen_id] = at
        runs.of_tests[test_id] = min(at, runs.of_tests.get(test_id, at))
    return runs


def _begun(entry: AuditEntry, runs: _FirstRuns, first: datetime) -> datetime | None:
    """When that began to be tested which an entry is about; None where it was not."""
    if entry.action in OF_JOB:
        return first
    if entry.action in OF_SPECIMEN:
        own = entry.entity_id if entry.entity == "specimen" else _facts(entry).get("specimen")
        return runs.of_specimens.get(int(own)) if own is not None else None
    test_id = entry.entity_id if entry.entity == "test" else _facts(entry).get("test")
    return first if test_id is None else runs.of_tests.get(int(test_id))


def _entries(
    session: Session, job: Job, actions: set[str], after: int = 0
) -> list[tuple[AuditEntry, str]]:
    rows = session.execute(
        select(AuditEntry, Person.name)
        .outerjoin(Person, Person.id == AuditEntry.person_id)
        .where(AuditEntry.job_id == job.id, AuditEntry.action.in_(actions), AuditEntry.id > after)
        .order_by(AuditEntry.id)
    )
    return [(entry, name or "") for entry, name in rows]


def _facts(entry: AuditEntry) -> dict[str, Any]:
    """The `after` of an entry, which names what it is about where the entry does not."""
    after = json.loads(entry.facts).get("after")
    return after if isinstance(after, dict) else {}


def _lines(session: Session, entry: AuditEntry, who: str) -> Iterator[ChangeLine]:
    facts = json.loads(entry.facts)
    why, given = facts.get("why") or "", _facts(entry)
    for field, before, after in _fields(session, entry, facts.get("before") or {}, given):
        if before != after:
            yield ChangeLine(
                field=field,
                before=before,
                after=after,
                why=why,
                who=who,
                at=entry.at,
                tested_before=", ".join(given.get("tested_before") or []),
            )


def _fields(
    session: Session, entry: AuditEntry, before: Mapping[str, Any], after: Mapping[str, Any]
) -> Iterator[tuple[str, str, str]]:
    """Each field that an entry is about, with what it was and became."""
    if entry.action == "amend":
        for name in IDENTITY:
            if name in after:
                yield name.capitalize(), _plain(before.get(name)), _plain(after[name])
    elif entry.action == "change-limits":
        yield from _limits(session, entry.entity_id, before, after)
    elif entry.action in OF_TEST:
        given = after.get("set_up", after)
        title = _title(session, entry.entity_id if entry.entity == "test" else after.get("test"))
        for name, value in before.items():
            named = f"{title}, {name.replace('_', ' ')}" if title else name.replace("_", " ")
            yield named, _plain(value), _plain(given.get(name))
    elif entry.action == "measure":
        label = _label(session, entry.entity_id)
        was, became = before.get("dimensions") or {}, after.get("dimensions") or {}
        for name in dict.fromkeys((*was, *became)):
            wording = name.removesuffix("_mm").replace("_", " ")
            yield f"{label}, {wording}, mm", _plain(was.get(name)), _plain(became.get(name))
    else:
        yield _happened(session, entry, after)


def _happened(
    session: Session, entry: AuditEntry, after: Mapping[str, Any]
) -> tuple[str, str, str]:
    """What came or went as a whole: a test, a void, a photograph, readings."""
    wording = entry.text
    if entry.action in ("change-photo", "remove-photo") and "was" in after:
        return (
            worded("changed.photograph-of", label=_label(session, after["specimen"])),
            after["was"],
            after["is"],
        )
    if entry.action in ("void", "withdraw-void"):
        label = _label(session, entry.entity_id)
        counted, is_void = (
            "counted",
            worded(
                "changed.void", after=after.get("remark") or after.get("words") or after["code"]
            ),
        )
        if entry.action == "void":
            return label, counted, is_void
        return label, "void", counted
    before = {
        "drop-test": "requested",
        "add-test": worded("changed.not-requested"),
        "retest": worded("changed.tested-once"),
    }
    field = {"bring-in": "Readings"}.get(entry.action, "Photograph")
    if entry.action in before:
        field = "Tests"
    return field, before.get(entry.action, NOT_SAID), wording


def _limits(
    session: Session, test_id: int, before: Mapping[str, Any], after: Mapping[str, Any]
) -> Iterator[tuple[str, str, str]]:
    test = session.get(Test, test_id)
    units = {}
    if test is not None:
        method = find_method(test.method)
        request = method.parameters.model_validate(test.parameters)
        units = {known.name: known.unit for known in method.properties_for(request)}
    was, became = _by_place(before), _by_place(after)
    for place in dict.fromkeys((*was, *became)):
        name, direction = place
        wording = " ".join(part for part in (name.replace("_", " "), direction) if part)
        unit = units.get(name, "")
        yield (
            worded("changed.limit-of", property=wording),
            _limit(was.get(place), unit),
            _limit(became.get(place), unit),
        )


def _by_place(limits: Mapping[str, Any]) -> dict[tuple[str, str], Any]:
    rows = limits.get("limits") or []
    return {(row["property"], row.get("direction", "")): row["criterion"] for row in rows}


def _limit(criterion: Any, unit: str) -> str:
    return "none" if criterion is None else Criterion.model_validate(criterion).in_words(unit)


def _title(session: Session, test_id: Any) -> str:
    test = None if test_id is None else session.get(Test, int(test_id))
    return "" if test is None else find_method(test.method).title


def _label(session: Session, specimen_id: int) -> str:
    specimen = session.get(Specimen, specimen_id)
    return "" if specimen is None else specimen.label


def _plain(value: Any) -> str:
    """A value of the record in words."""
    if value is None or value in ({}, []):
        return NOT_SAID
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return f"{value:g}"
    if isinstance(value, list):
        return ", ".join(_plain(each) for each in value)
    if isinstance(value, dict):
        if "atmosphere" in value:
            period = find_atmosphere(str(value["atmosphere"])).title
            return f"{period} {_plain(value.get('least_minutes'))} min"
        return ", ".join(f"{name.replace('_', ' ')} {_plain(part)}" for name, part in value.items())
    return str(value)
