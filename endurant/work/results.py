"""From stored samples to figures, rules and verdicts. Nothing here changes the record."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from endurant.core.cutting.sheet import LongSide, works_on
from endurant.core.document import ResultDocument, analyse, read_document
from endurant.core.judging import Criterion, RowVerdict, judge_row
from endurant.core.limit_rule import limit_rule
from endurant.core.methods import find_method
from endurant.core.methods.method import Method, Property, SpecimenResult
from endurant.core.quantities import four_digits
from endurant.core.refusals import Invalid
from endurant.core.statistics import Statistics, student_t, summarise
from endurant.store.samples import COLUMNS, Table, unpack
from endurant.store.tables import Laboratory, Run, Specimen, Test
from endurant.work.states import last_run, standing_void, wanted_per_direction
from endurant.work.views import JudgedRow, LimitRuleView, SummaryView

_MOST_REMEMBERED = 64


class _Remembered:
    """Results of documents that were computed already, by what they were computed from."""

    def __init__(self) -> None:
        self._found: OrderedDict[tuple[Any, ...], ResultDocument] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[Any, ...]) -> ResultDocument | None:
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
            return self._found.get(key)

    def put(self, key: tuple[Any, ...], result: ResultDocument) -> None:
        with self._lock:
            self._found[key] = result
            while len(self._found) > _MOST_REMEMBERED:
                self._found.popitem(last=False)


_remembered = _Remembered()


def laboratory(session: Session) -> Laboratory:
    """The house rules; raises Invalid when the database was never set up."""
    found = session.get(Laboratory, 1)
    if found is None:
        raise Invalid("this database holds no laboratory; load the demo or run `endurant found`")
    return found


def trace_columns(table: Table) -> dict[str, list[float]]:
    """The columns of a stored run as a test document carries them; time may be absent."""
    columns = {name: table[:, place] for place, name in enumerate(COLUMNS)}
    return {name: column.tolist() for name, column in columns.items() if np.isfinite(column).all()}


def finished_run(specimen: Specimen) -> Run | None:
    """The run whose samples are complete, kept or still to be looked at."""
    run = last_run(specimen)
    return run if run is not None and run.state != "running" else None


def document_of(test: Test) -> dict[str, Any]:
    """The test document of all specimens with samples, in the order they are placed."""
    entries = []
    for specimen in test.specimens:
        run = finished_run(specimen)
        if run is None or run.raw is None:
            continue
        void = standing_void(specimen)
        entries.append(
            {
                "label": specimen.label,
                "direction": specimen.direction,
                "trace": trace_columns(unpack(run.raw)),
                "observations": [void.code] if void else [],
            }
        )
    return {"method": test.method, "parameters": test.parameters, "specimens": entries}


def test_result(test: Test) -> ResultDocument | None:
    """Everything computed from what has been tested so far; None when nothing has."""
    runs = [(one, run) for one in test.specimens if (run := finished_run(one)) is not None]
    if not runs:
        return None
    key = (
        test.id,
        test.method,
        repr(sorted(test.parameters.items())),
        *((one.label, run.sha256, _void_code(one)) for one, run in runs),
    )
    found = _remembered.get(key)
    if found is None:
        found = analyse(read_document(document_of(test)))
        _remembered.put(key, found)
    return found


def criteria(test: Test) -> dict[tuple[str, str], Criterion]:
    """The limits of a test by property and direction."""
    return {
        (limit["property"], limit["direction"]): Criterion.model_validate(limit["criterion"])
        for limit in test.limits
    }


def judged_rows(house: Laboratory, test: Test, result: ResultDocument | None) -> list[JudgedRow]:
    """One row for each property and direction of a test.

    A specimen that was pulled but not yet kept is drawn and counted in no figure.
    """
    method = find_method(test.method)
    limits = criteria(test)
    settled = {
        specimen.label
        for specimen in test.specimens
        if (run := last_run(specimen)) is not None and run.state == "settled"
    }
    counted = [one for one in (result.specimens if result else []) if one.label in settled]
    wanted = wanted_per_direction(test)
    rows = []
    for direction in method.directions:
        if not any(one.direction == direction for one in test.specimens):
            continue
        for wanted_property in method.properties:
            rows.append(
                _judged_row(
                    house,
                    method,
                    wanted_property,
                    direction,
                    limits.get((wanted_property.name, direction)),
                    [one for one in counted if one.direction == direction],
                    wanted,
                    test,
                )
            )
    return rows


def _judged_row(
    house: Laboratory,
    method: Method,
    wanted_property: Property,
    direction: str,
    criterion: Criterion | None,
    members: list[SpecimenResult],
    wanted: int,
    test: Test,
) -> JudgedRow:
    def figures(*, valid: bool) -> list[float]:
        return [
            figure.value
            for one in members
            if one.valid is valid
            and (figure := one.values.get(wanted_property.name)) is not None
            and figure.value is not None
        ]

    values = figures(valid=True)
    rounding = test.parameters["rounding"]
    verdict = RowVerdict(verdict="not judged", compared=None, other_school_differs=False)
    if criterion is not None:
        verdict = judge_row(
            criterion,
            values,
            wanted,
            "unrounded" if house.comparison == "unrounded" else "as-rounded",
            rounding,
        )
    summary, working = summary_and_working(wanted_property, values, rounding)
    if criterion is not None and summary is not None:
        working.append(
            {
                "says": f"against the limit, compared {house.comparison.replace('-', ' ')}",
                "formula": criterion.in_words(wanted_property.unit),
                "with": verdict.compared or wanted_property.reported(summary.mean, rounding),
                "gives": verdict.verdict,
            }
        )
    return JudgedRow(
        property=wanted_property.name,
        title=wanted_property.title,
        unit=wanted_property.unit,
        direction=direction,
        criterion=criterion,
        wanted=wanted,
        to_go=max(wanted - len(values), 0),
        rule=LimitRuleView.model_validate(
            limit_rule(criterion, wanted_property.unit, values, figures(valid=False))
        ),
        summary=summary,
        working=working,
        verdict=verdict.verdict,
        compared=verdict.compared,
        other_school_differs=verdict.other_school_differs,
    )


def summary_and_working(
    wanted_property: Property, values: list[float], rounding: Any
) -> tuple[SummaryView | None, list[dict[str, str]]]:
    """The figures of a row, and the slip that opens from its mean."""
    if not values:
        return None, []
    found = summarise(values)
    unit = wanted_property.unit
    figure = found.mean if wanted_property.statistic == "mean" else found.median
    reported = wanted_property.reported(figure, rounding)
    working = [
        {
            "says": f"mean of {found.n} valid specimens",
            "formula": "sum of x / n",
            "with": f"({' + '.join(four_digits(value) for value in values)}) / {found.n}",
            "gives": f"{four_digits(found.mean)} {unit}",
        }
    ]
    if found.sd is not None and found.ci95_half_width is not None:
        t = student_t(0.95, found.n - 1)
        working += [
            {
                "says": "sample standard deviation",
                "formula": "√(sum of (x - mean)² / (n - 1))",
                "with": f"n = {found.n}",
                "gives": f"{four_digits(found.sd)} {unit}",
            },
            {
                "says": "coefficient of variation",
                "formula": "100 · SD / |mean|",
                "with": f"100 · {four_digits(found.sd)} / {four_digits(abs(found.mean))}",
                "gives": "–" if found.cv_percent is None else f"{four_digits(found.cv_percent)} %",
            },
            {
                "says": "half width of the 95 % interval of the mean",
                "formula": "t · SD / √n",
                "with": f"{t:.3f} · {four_digits(found.sd)} / √{found.n}",
                "gives": f"{four_digits(found.ci95_half_width)} {unit}",
            },
        ]
    working.append(
        {
            "says": f"reported {wanted_property.rounded_in_words()}, {rounding}",
            "formula": "rounded once, at the end",
            "with": four_digits(figure),
            "gives": f"{reported} {unit}",
        }
    )
    summary = SummaryView(**_summary_fields(found), reported=reported)
    return summary, working


def _summary_fields(found: Statistics) -> dict[str, Any]:
    return {name: getattr(found, name) for name in SummaryView.model_fields if name != "reported"}


def _void_code(specimen: Specimen) -> str | None:
    void = standing_void(specimen)
    return void.code if void else None


def label_words(specimen: Specimen) -> str:
    """What the test works on, from the way the specimen was cut."""
    side: LongSide = "warp" if specimen.long_side == "warp" else "weft"
    cut = find_method(specimen.test.method).guide.cut
    return works_on(side, cut) if cut else specimen.direction
