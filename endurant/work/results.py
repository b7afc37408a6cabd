"""From stored samples to figures, rules and verdicts. Nothing here changes the record."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from endurant.core.cutting.sheet import LabelSchool, LongSide, works_on
from endurant.core.document import ResultDocument, analyse, read_document, summary_of
from endurant.core.judging import (
    NOT_JUDGED,
    Criterion,
    RowVerdict,
    Rules,
    judge_class,
    judge_failures,
    judge_row,
)
from endurant.core.limit_rule import limit_rule
from endurant.core.methods import find_method
from endurant.core.methods.method import Method, Property, SpecimenResult
from endurant.core.methods.summary import SummaryRow, fact_in_words, measured
from endurant.core.quantities import in_numbers
from endurant.core.refusals import Invalid, Refusal
from endurant.core.statistics import Measured, student_t, summarise
from endurant.store.samples import COLUMNS, Table, unpack, unpack_entry
from endurant.store.tables import Laboratory, Run, Specimen, Test
from endurant.work.remembered import Remembered
from endurant.work.settings import parameters_of
from endurant.work.states import (
    directions_of,
    last_run,
    standing_void,
    to_go,
    wanted_per_direction,
)
from endurant.work.views import JudgedRow, LimitRuleView, SummaryView

_log = logging.getLogger(__name__)
_MOST_REMEMBERED = 64


_remembered: Remembered[ResultDocument] = Remembered(_MOST_REMEMBERED)


def laboratory(session: Session) -> Laboratory:
    """The house rules; raises Invalid when the database was never set up."""
    found = session.get(Laboratory, 1)
    if found is None:
        raise Invalid("this database holds no laboratory; load the demo or run `endurant found`")
    return found


def label_school(session: Session) -> LabelSchool:
    """How specimens are labelled here: by the yarn that fails, or by the long side."""
    by_long_side = laboratory(session).label_school == "by-long-side"
    return "by-long-side" if by_long_side else "by-failing-yarn"


def trace_columns(table: Table) -> dict[str, list[float]]:
    """The columns of a stored run as a test document carries them; time may be absent."""
    columns = {name: table[:, place] for place, name in enumerate(COLUMNS)}
    return {name: column.tolist() for name, column in columns.items() if np.isfinite(column).all()}


def finished_run(specimen: Specimen) -> Run | None:
    """The run whose samples are complete, kept or still to be looked at."""
    run = last_run(specimen)
    return run if run is not None and run.state != "running" else None


def document_of(test: Test) -> dict[str, Any]:
    """The test document of all specimens with readings, in the order they are placed."""
    entries = []
    for specimen in test.specimens:
        run = finished_run(specimen)
        if run is None:
            continue
        void = standing_void(specimen)
        entry: dict[str, Any] = {"label": specimen.label} | own_facts(specimen)
        if run.entry is not None:
            entry |= unpack_entry(run.entry)
        elif run.raw is not None:
            entry["trace"] = trace_columns(unpack(run.raw))
        else:
            continue
        seen = entry.get("observations", [])
        entry["observations"] = list(dict.fromkeys([*seen, *([void.code] if void else [])]))
        entries.append(entry)
    return {"method": test.method, "parameters": test.parameters, "specimens": entries}


def own_facts(specimen: Specimen) -> dict[str, Any]:
    """What a document of this specimen says unless its readings say otherwise."""
    told: dict[str, Any] = {}
    if specimen.direction:
        told["direction"] = specimen.direction
    if specimen.test.state != "original":
        told["state"] = specimen.test.state
    if specimen.dimensions:
        told["dimensions"] = dict(specimen.dimensions)
    return told


def test_result(test: Test) -> ResultDocument | None:
    """Everything computed from what has been tested so far; None when nothing has."""
    runs = [(one, run) for one in test.specimens if (run := finished_run(one)) is not None]
    if not runs:
        return None
    key = (
        test.id,
        test.method,
        repr(sorted(test.parameters.items())),
        *((one.label, run.sha256, _void_code(one), repr(own_facts(one))) for one, run in runs),
    )
    found = _remembered.get(key)
    if found is None:
        found = analyse(read_document(document_of(test)))
        _remembered.put(key, found)
    return found


def result_or_trouble(test: Test) -> tuple[ResultDocument | None, str | None]:
    """What a test gives so far, or why that cannot be computed, in words.

    A record that makes no sense must not hide the others: whatever goes wrong is logged with
    the test that it belongs to, and said where the test is shown.
    """
    try:
        return test_result(test), None
    except Refusal as refusal:
        return None, refusal.sentence
    except Exception:
        _log.exception("the figures of test %s cannot be computed", test.id)
        return None, "its figures cannot be computed; whoever keeps the server finds why in its log"


def voided_by_analysis(test: Test) -> set[str]:
    """Labels of specimens that were kept and that the analysis says do not count."""
    result, _ = result_or_trouble(test)
    settled = settled_results(test, result)
    return {one.label for one in settled if not one.valid and one.label not in _voided(test)}


def _voided(test: Test) -> set[str]:
    return {one.label for one in test.specimens if standing_void(one) is not None}


def criteria(test: Test) -> dict[tuple[str, str], Criterion]:
    """The limits of a test by property and direction; an empty direction is any."""
    return {
        (limit["property"], limit["direction"]): Criterion.model_validate(limit["criterion"])
        for limit in test.limits
    }


def settled_results(test: Test, result: ResultDocument | None) -> list[SpecimenResult]:
    """The results of specimens that were kept or voided.

    A specimen that was pulled but not yet kept is drawn and counted in no figure.
    """
    settled = {
        specimen.label
        for specimen in test.specimens
        if (run := last_run(specimen)) is not None and run.state == "settled"
    }
    return [one for one in (result.specimens if result else []) if one.label in settled]


def judged_rows(house: Laboratory, test: Test, result: ResultDocument | None) -> list[JudgedRow]:
    """One row for each property and group; those of planned directions from the beginning."""
    method = find_method(test.method)
    parameters = parameters_of(test)
    counted = settled_results(test, result)
    summary = summary_of(method, parameters, counted) if counted else []
    judging = Judging(house, test, method, parameters, counted)
    planned = [
        (wanted, direction)
        for wanted in method.properties_for(parameters)
        if wanted.summed
        for direction in (directions_of(test) if method.planned == "by-direction" else [])
    ]
    rows, used = [], set()
    for wanted, direction in planned:
        own = [
            place
            for place, row in enumerate(summary)
            if row.property == wanted.name and (row.direction or "") == direction
        ]
        used.update(own)
        rows += [judging.row(wanted, summary[place]) for place in own]
        if not own:
            rows.append(judging.open_row(wanted, direction))
    names = {one.name: one for one in method.properties_for(parameters)}
    rows += [
        judging.row(names[row.property], row)
        for place, row in enumerate(summary)
        if place not in used
    ]
    return rows


@dataclass(frozen=True)
class Judging:
    """What the rows of one test are judged with."""

    house: Laboratory
    test: Test
    method: Method
    parameters: Any
    counted: list[SpecimenResult]

    def open_row(self, wanted: Property, direction: str) -> JudgedRow:
        """The row of a planned direction that has no figure yet."""
        members = [one for one in self.counted if (one.direction or "") == direction]
        return self._row(wanted, direction, direction, members, None)

    def row(self, wanted: Property, summary: SummaryRow) -> JudgedRow:
        """The row of one group of the summary."""
        members = [one for one in self.counted if _is_in(one, summary)]
        facts = [fact_in_words(name, value) for name, value in summary.facts.items()]
        if wanted.statistic in ("count", "class"):
            facts = []
        parts = [summary.direction or "", "" if summary.state == "original" else summary.state]
        words = ", ".join(part for part in [*parts, *facts] if part)
        return self._row(wanted, summary.direction or "", words, members, summary)

    def _row(
        self,
        wanted: Property,
        direction: str,
        group: str,
        members: list[SpecimenResult],
        summary: SummaryRow | None,
    ) -> JudgedRow:
        limits = criteria(self.test)
        criterion = limits.get((wanted.name, direction), limits.get((wanted.name, "")))
        values = measured(wanted.name, members)
        voids = [
            figure
            for one in members
            if not one.valid and (figure := one.figure(wanted.name)) is not None
        ]
        verdict = self._verdict(criterion, values, summary)
        view, working = (None, []) if summary is None else self._told(wanted, summary, values)
        if criterion is not None and view is not None:
            working.append(
                {
                    "says": f"against the limit, compared {self.house.comparison}".replace(
                        "-", " "
                    ),
                    "formula": criterion.in_words(wanted.unit),
                    "with": verdict.compared or view.reported or "",
                    "gives": verdict.verdict,
                }
            )
        valid = {one.label for one in self.counted if one.enters}
        figures = [one.value for one in values]
        drawn = wanted.statistic in ("mean", "median")
        rule = limit_rule(criterion, wanted.unit, figures, voids) if drawn else None
        planned = direction in directions_of(self.test)
        return JudgedRow(
            property=wanted.name,
            title=wanted.title,
            unit=wanted.unit,
            direction=direction,
            group=group,
            labels=[one.label for one in members if one.enters or not one.valid],
            limit_words="report only" if criterion is None else criterion.in_words(wanted.unit),
            criterion=criterion,
            wanted=wanted_per_direction(self.test),
            to_go=to_go(self.test, direction, valid) if planned else 0,
            rule=None if rule is None else LimitRuleView.model_validate(rule),
            summary=view,
            working=working,
            verdict=verdict.verdict,
            compared=verdict.compared,
            other_school_differs=verdict.other_school_differs,
        )

    def _verdict(
        self,
        criterion: Criterion | None,
        values: list[Measured],
        summary: SummaryRow | None,
    ) -> RowVerdict:
        if criterion is None or summary is None:
            return NOT_JUDGED
        if criterion.on == "class":
            return judge_class(criterion, summary.facts.get("class"))
        if criterion.on == "no-failures":
            return judge_failures(criterion, summary.facts.get("count", 0), summary.n or 0)
        comparison = "unrounded" if self.house.comparison == "unrounded" else "as-rounded"
        rules = Rules(comparison=comparison, rounding=self.parameters.rounding)
        by_document = self.method.planned == "by-document"
        required = 1 if by_document else wanted_per_direction(self.test)
        return judge_row(criterion, values, required, rules)

    def _told(
        self, wanted: Property, summary: SummaryRow, values: list[Measured]
    ) -> tuple[SummaryView, list[dict[str, str]]]:
        """The figures of a row, and the slip that opens from them."""
        fields = {name: getattr(summary, name) for name in SummaryView.model_fields}
        view = SummaryView(**fields)
        if wanted.statistic in ("count", "class") or not values:
            decided = summary.facts.get("decided_by")
            says = f"decided by row {decided} of the table" if decided else "from the specimens"
            gives = summary.reported or "none yet"
            return view, [{"says": says, "formula": wanted.title, "with": "", "gives": gives}]
        return view, row_working(wanted, values, summary, self.parameters.rounding)


def _is_in(one: SpecimenResult, summary: SummaryRow) -> bool:
    """A result belongs to the group of a summary row; `all` holds every one."""
    if summary.direction == "all" or summary.state == "all":
        return True
    told = {name: value for name, value in summary.facts.items() if name in one.facts}
    return (
        (one.direction == summary.direction or summary.statistic == "class")
        and one.state == summary.state
        and all(one.facts[name] == value for name, value in told.items())
    )


def row_working(
    wanted: Property, values: list[Measured], row: SummaryRow, rounding: Any
) -> list[dict[str, str]]:
    """How the figures of a row came about, line by line."""
    found = summarise([one.value for one in values])
    unit = wanted.unit
    figure = found.median if wanted.statistic == "median" else found.mean
    shown = " + ".join(f"{one.qualifier or ''}{in_numbers(one.value)}" for one in values)
    listed = ", ".join(sorted(in_numbers(one.value) for one in values))
    working = [
        {
            "says": f"mean of {found.n} valid specimens",
            "formula": "sum of x / n",
            "with": f"({shown}) / {found.n}",
            "gives": f"{in_numbers(found.mean)} {unit}",
        }
        if wanted.statistic == "mean"
        else {
            "says": f"median of {found.n} valid specimens",
            "formula": "the middle one",
            "with": listed,
            "gives": f"{in_numbers(found.median)} {unit}",
        }
    ]
    if found.sd is not None and found.ci95_half_width is not None:
        t = student_t(0.95, found.n - 1)
        sd, mean = in_numbers(found.sd), in_numbers(abs(found.mean))
        cv = "–" if found.cv_percent is None else f"{in_numbers(found.cv_percent)} %"
        working += [
            {
                "says": "sample standard deviation",
                "formula": "√(sum of (x - mean)² / (n - 1))",
                "with": f"n = {found.n}",
                "gives": f"{sd} {unit}",
            },
            {
                "says": "coefficient of variation",
                "formula": "100 · SD / |mean|",
                "with": f"100 · {sd} / {mean}",
                "gives": cv,
            },
            {
                "says": "half width of the 95 % interval of the mean",
                "formula": "t · SD / √n",
                "with": f"{t:.3f} · {sd} / √{found.n}",
                "gives": f"{in_numbers(found.ci95_half_width)} {unit}",
            },
        ]
    bound = f"{row.qualifier} " if row.qualifier in ("<", ">") else ""
    working.append(
        {
            "says": f"reported {wanted.rounded_in_words()}, {rounding}",
            "formula": "rounded once, at the end",
            "with": in_numbers(figure),
            "gives": f"{bound}{row.reported} {unit}",
        }
    )
    return working


def _void_code(specimen: Specimen) -> str | None:
    void = standing_void(specimen)
    return void.code if void else None


def label_words(specimen: Specimen) -> str:
    """What the test works on, from the way the specimen was cut."""
    side: LongSide = "warp" if specimen.long_side == "warp" else "weft"
    method = find_method(specimen.test.method)
    cut = method.cut_for(specimen.test.parameters)
    return works_on(side, cut, method.directions) if cut else specimen.direction
