"""The rows of a test: figures against limits, each with the slip that opens from it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from endurant.core.cutting.sheet import LongSide, works_on
from endurant.core.document import ResultDocument, summary_of
from endurant.core.judging.criteria import Criterion
from endurant.core.judging.limit_rule import limit_rule
from endurant.core.judging.uncertainty import Guard
from endurant.core.judging.verdicts import (
    NOT_JUDGED,
    Comparison,
    Decision,
    Evidence,
    RowVerdict,
    Rules,
    judge,
)
from endurant.core.messages import worded
from endurant.core.methods import find_method
from endurant.core.methods.method import Method
from endurant.core.methods.properties import Property
from endurant.core.methods.results import SpecimenResult
from endurant.core.methods.summary import SummaryRow, fact_in_words, measured
from endurant.core.rounding import in_numbers
from endurant.core.statistics import Measured, student_t, summarise
from endurant.core.writing import Writing
from endurant.store.tables import Laboratory, Specimen, Test
from endurant.work.facts.laboratory import comparison_for, writing_for
from endurant.work.facts.models import (
    JudgedRow,
    LimitRuleView,
    SummaryView,
    WorkingRow,
)
from endurant.work.facts.results import settled_results
from endurant.work.facts.status import directions_of, required_per_direction, to_go
from endurant.work.facts.test_settings import parameters_of


def criteria(test: Test) -> dict[tuple[str, str], Criterion]:
    """The limits of a test by property and direction; an empty direction is any."""
    return {
        (limit["property"], limit["direction"]): Criterion.model_validate(limit["criterion"])
        for limit in test.limits
    }


def guards(test: Test) -> dict[tuple[str, str], Guard]:
    """The guards of its limits, by property and direction."""
    return {
        (limit["property"], limit["direction"]): Guard.model_validate(limit["guard"])
        for limit in test.limits
        if limit.get("guard") is not None
    }


def judged_rows(lab: Laboratory, test: Test, result: ResultDocument | None) -> list[JudgedRow]:
    """One row for each property and group; those of planned directions from the beginning."""
    method = find_method(test.method)
    parameters = parameters_of(test)
    counted = settled_results(test, result)
    summary = summary_of(method, parameters, counted) if counted else []
    comparison, writing = comparison_for(lab, test.job), writing_for(lab, test.job)
    judging = Judging(comparison, writing, test, method, parameters, counted)
    planned = [
        (requested, direction)
        for requested in method.properties_for(parameters)
        if requested.summed
        and _can_be_given(method, parameters, requested)
        and not _never_given(requested, counted)
        for direction in (directions_of(test) if method.planned == "by-direction" else [])
    ]
    rows, used = [], set()
    for requested, direction in planned:
        own = [
            place
            for place, row in enumerate(summary)
            if row.property == requested.name and (row.direction or "") == direction
        ]
        used.update(own)
        rows += [judging.row(requested, summary[place]) for place in own]
        if not own:
            rows.append(judging.open_row(requested, direction))
    names = {specimen.name: specimen for specimen in method.properties_for(parameters)}
    rows += [
        judging.row(names[row.property], row)
        for place, row in enumerate(summary)
        if place not in used
    ]
    return rows


def _can_be_given(method: Method, parameters: Any, requested: Property) -> bool:
    """A test under these parameters can give this property."""
    return method.rows_for is None or requested.name in method.rows_for(parameters)


def _never_given(requested: Property, counted: Sequence[SpecimenResult]) -> bool:
    """Every specimen was computed and none gave it: a metal without an upper yield point."""
    return bool(counted) and all(
        requested.name in result.values and result.figure(requested.name) is None
        for result in counted
    )


@dataclass(frozen=True)
class Judging:
    """What the rows of one test are judged with."""

    comparison: Comparison
    writing: Writing
    test: Test
    method: Method
    parameters: Any
    counted: list[SpecimenResult]

    def open_row(self, requested: Property, direction: str) -> JudgedRow:
        """The row of a planned direction that has no figure yet."""
        members = [specimen for specimen in self.counted if (specimen.direction or "") == direction]
        return self._row(requested, direction, direction, members, None)

    def row(self, requested: Property, summary: SummaryRow) -> JudgedRow:
        """The row of one group of the summary."""
        members = [specimen for specimen in self.counted if _is_in(specimen, summary)]
        facts = [fact_in_words(name, value) for name, value in summary.facts.items()]
        if requested.statistic in ("count", "class"):
            facts = []
        parts = [summary.direction or "", "" if summary.state == "original" else summary.state]
        text = ", ".join(part for part in [*parts, *facts] if part)
        return self._row(requested, summary.direction or "", text, members, summary)

    def _row(
        self,
        requested: Property,
        direction: str,
        group: str,
        members: list[SpecimenResult],
        summary: SummaryRow | None,
    ) -> JudgedRow:
        limits = criteria(self.test)
        criterion = limits.get((requested.name, direction), limits.get((requested.name, "")))
        values = measured(requested.name, members)
        voids = [
            figure
            for member in members
            if not member.valid and (figure := member.figure(requested.name)) is not None
        ]
        held = guards(self.test)
        guard = held.get((requested.name, direction), held.get((requested.name, "")))
        expanded_u = guard.expanded_u([value.value for value in values]) if guard else None
        verdict = self._verdict(criterion, values, summary, expanded_u)
        view, working = (None, []) if summary is None else self._sent(requested, summary, values)
        if criterion is not None and view is not None:
            if guard is not None and expanded_u is not None:
                working.append(
                    {
                        "says": worded("calculation.expanded-uncertainty-that-guards-the"),
                        "formula": worded("calculation.k-sum-of-relative-u-mean"),
                        "with": worded(
                            "calculation.k-contributions-beside-the-spread",
                            k=in_numbers(guard.k),
                            budget=len(guard.budget),
                        ),
                        "gives": f"{in_numbers(expanded_u)} {requested.unit}",
                    }
                )
            working.append(
                {
                    "says": worded(
                        "calculation.against-the-limit-compared", comparison=self.comparison
                    ).replace("-", " "),
                    "formula": criterion.in_words(requested.unit),
                    "with": verdict.compared or view.reported or "",
                    "gives": verdict.verdict,
                }
            )
        valid = {specimen.label for specimen in self.counted if specimen.enters}
        figures = [value.value for value in values]
        drawn = requested.statistic in ("mean", "median")
        rule = limit_rule(criterion, requested.unit, figures, voids, expanded_u) if drawn else None
        planned = direction in directions_of(self.test)
        return JudgedRow(
            property=requested.name,
            title=requested.title,
            unit=requested.unit,
            beside=self._beside(requested, view),
            direction=direction,
            group=group,
            labels=[member.label for member in members if member.enters or not member.valid],
            limit_text="report only" if criterion is None else criterion.in_words(requested.unit),
            criterion=criterion,
            guard=guard,
            required=required_per_direction(self.test),
            to_go=to_go(self.test, direction, valid) if planned else 0,
            rule=None if rule is None else LimitRuleView.model_validate(rule),
            summary=view,
            working=working,
            verdict=verdict.verdict,
            compared=verdict.compared,
            expanded_u=expanded_u,
            other_school_differs=verdict.other_school_differs,
        )

    def _beside(self, requested: Property, row: SummaryView | None) -> str:
        if row is None or row.qualifier is not None:
            return ""
        figure = row.median if row.statistic == "median" else row.mean
        return self.writing.beside(figure, requested.unit, row.reported)

    def _verdict(
        self,
        criterion: Criterion | None,
        values: list[Measured],
        summary: SummaryRow | None,
        expanded_u: float | None,
    ) -> RowVerdict:
        if criterion is None or summary is None:
            return NOT_JUDGED
        comparison = self.comparison
        decision: Decision = "simple" if expanded_u is None else "guarded"
        rules = Rules(comparison=comparison, rounding=self.parameters.rounding, decision=decision)
        by_document = self.method.planned == "by-document"
        evidence = Evidence(
            values=values,
            expanded_u=expanded_u,
            fire_class=summary.facts.get("class"),
            failures=summary.facts.get("count", 0),
            tested=summary.n or 0,
        )
        return judge(
            criterion, evidence, 1 if by_document else required_per_direction(self.test), rules
        )

    def _sent(
        self, requested: Property, summary: SummaryRow, values: list[Measured]
    ) -> tuple[SummaryView, list[WorkingRow]]:
        """The figures of a row, and the slip that opens from them."""
        fields = {name: getattr(summary, name) for name in SummaryView.model_fields}
        view = SummaryView(**fields)
        if requested.statistic in ("count", "class") or not values:
            decided = summary.facts.get("decided_by")
            message = (
                worded("calculation.decided-by-row-of-the-table", decided=decided)
                if decided
                else worded("calculation.from-the-specimens")
            )
            gives = summary.reported or worded("calculation.none-yet")
            return view, [{"says": message, "formula": requested.title, "with": "", "gives": gives}]
        return view, row_working(requested, values, summary, self.parameters.rounding)


def _is_in(specimen_result: SpecimenResult, summary: SummaryRow) -> bool:
    """A result belongs to the group of a summary row; `all` holds every one."""
    if summary.direction == "all" or summary.state == "all":
        return True
    own = {name: value for name, value in summary.facts.items() if name in specimen_result.facts}
    return (
        (specimen_result.direction == summary.direction or summary.statistic == "class")
        and specimen_result.state == summary.state
        and all(specimen_result.facts[name] == value for name, value in own.items())
    )


def row_working(
    requested: Property, values: list[Measured], row: SummaryRow, rounding: Any
) -> list[WorkingRow]:
    """How the figures of a row came about, line by line."""
    statistics = summarise([value.value for value in values])
    unit = requested.unit
    figure = statistics.median if requested.statistic == "median" else statistics.mean
    shown = " + ".join(f"{value.qualifier or ''}{in_numbers(value.value)}" for value in values)
    listed = ", ".join(sorted(in_numbers(value.value) for value in values))
    working: list[WorkingRow] = [
        {
            "says": worded("calculation.mean-of-valid-specimens", n=statistics.n),
            "formula": worded("calculation.sum-of-x-n"),
            "with": f"({shown}) / {statistics.n}",
            "gives": f"{in_numbers(statistics.mean)} {unit}",
        }
        if requested.statistic == "mean"
        else {
            "says": worded("calculation.median-of-valid-specimens", n=statistics.n),
            "formula": worded("calculation.the-middle-one"),
            "with": listed,
            "gives": f"{in_numbers(statistics.median)} {unit}",
        }
    ]
    if statistics.sd is not None and statistics.ci95_half_width is not None:
        t = student_t(0.95, statistics.n - 1)
        sd, mean = in_numbers(statistics.sd), in_numbers(abs(statistics.mean))
        cv = "–" if statistics.cv_percent is None else f"{in_numbers(statistics.cv_percent)} %"
        working += [
            {
                "says": worded("calculation.sample-standard-deviation"),
                "formula": worded("calculation.sum-of-x-mean-n-1"),
                "with": f"n = {statistics.n}",
                "gives": f"{sd} {unit}",
            },
            {
                "says": worded("calculation.coefficient-of-variation"),
                "formula": worded("calculation.100-sd-mean"),
                "with": f"100 · {sd} / {mean}",
                "gives": cv,
            },
            {
                "says": worded("calculation.half-width-of-the-95-interval-of-the-mean"),
                "formula": worded("calculation.t-sd-n"),
                "with": f"{t:.3f} · {sd} / √{statistics.n}",
                "gives": f"{in_numbers(statistics.ci95_half_width)} {unit}",
            },
        ]
    bound = f"{row.qualifier} " if row.qualifier in ("<", ">") else ""
    working.append(
        {
            "says": worded(
                "calculation.reported",
                rounded_in_words=requested.rounded_in_words(),
                rounding=rounding,
            ),
            "formula": worded("calculation.rounded-once-at-the-end"),
            "with": in_numbers(figure),
            "gives": f"{bound}{row.reported} {unit}",
        }
    )
    return working


def label_text(specimen: Specimen) -> str:
    """What the test works on, from the way the specimen was cut."""
    side: LongSide = "warp" if specimen.long_side == "warp" else "weft"
    method = find_method(specimen.test.method)
    cut = method.blank_for(specimen.test.parameters)
    return works_on(side, cut, method.directions, specimen.direction) if cut else specimen.direction
