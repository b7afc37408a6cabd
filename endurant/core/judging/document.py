"""The judging document: statistics, outliers, sample sizes, rounding and criteria as one object."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import asdict
from typing import Annotated, Any, Literal, Self

from pydantic import Field, PlainValidator, model_validator

from endurant.core.bounds import refuse_what_is_not_finite
from endurant.core.complaints import complaint
from endurant.core.fields import Name, NotNegative, Number, Positive, Strict
from endurant.core.judging.criteria import FIGURES, Criterion
from endurant.core.judging.uncertainty import Contribution, uncertainty
from endurant.core.judging.verdicts import (
    NOT_JUDGED,
    Evidence,
    RowVerdict,
    Rules,
    judge,
    report_verdict,
)
from endurant.core.messages import Message
from endurant.core.quantities import GRADES, read_grade, round_to_step
from endurant.core.reading import read_model
from endurant.core.refusals import Invalid
from endurant.core.rounding import RoundingRule, as_decimal, round_to_decimals, round_to_significant
from endurant.core.statistics import Measured, Qualifier, grubbs, sample_size, summarise

MAX_VALUES = 100_000

Values = Annotated[list[Number], Field(min_length=1, max_length=MAX_VALUES)]
Share = Annotated[float, Field(strict=True, gt=0, lt=1)]
_NUMBER = re.compile(r"[+-]?\d{1,30}(\.\d{0,30})?([eE][+-]?\d{1,2})?")


class StatisticsRequest(Strict):
    """`statistics`: values, and what their uncertainty is made of."""

    kind: Literal["statistics"]
    values: Values
    budget: Annotated[list[Contribution], Field(max_length=100)] | None = None
    k: Positive = 2

    def answer(self) -> dict[str, Any]:
        """Statistics, with a budget the uncertainty of the mean."""
        statistics = summarise(self.values)
        answer: dict[str, Any] = dict(vars(statistics))
        if self.budget is not None:
            answer["uncertainty"] = asdict(uncertainty(statistics, self.budget, self.k))
        return answer


class GrubbsRequest(Strict):
    """`grubbs`: is one value too far out."""

    kind: Literal["grubbs"]
    values: Values
    labels: Annotated[list[Name], Field(max_length=MAX_VALUES)] | None = None
    alpha: Share = 0.05

    @model_validator(mode="after")
    def _a_label_each(self) -> Self:
        if self.labels is not None and len(self.labels) != len(self.values):
            raise complaint("review.labels-count", field="labels")
        return self

    def answer(self) -> dict[str, Any]:
        """Return the test, and the suspect by name."""
        result = grubbs(self.values, self.alpha)
        suspect = None
        if result.suspect is not None:
            suspect = self.labels[result.suspect] if self.labels else str(result.suspect + 1)
        return {
            "n": len(self.values),
            "g": result.g,
            "critical": result.critical,
            "suspect": suspect,
            "flags": [] if suspect is None else ["outlier-suspect"],
        }


class SampleSizeRequest(Strict):
    """`sample-size`: how many specimens a wished half width asks for."""

    kind: Literal["sample-size"]
    sd: NotNegative
    half_width: Positive
    confidence: Share = 0.95
    have: Annotated[int, Field(strict=True, ge=0)] = 0

    def answer(self) -> dict[str, Any]:
        """Return how many in all, and how many more."""
        n = sample_size(self.sd, self.half_width, self.confidence)
        return {"n": n, "more": max(n - self.have, 0)}


def _as_figure(given: Any) -> Any:
    """A number, a number as text, or null."""
    if given is None or (isinstance(given, str) and _NUMBER.fullmatch(given.strip())):
        return given if given is None else given.strip()
    if isinstance(given, int | float) and not isinstance(given, bool) and abs(given) < 1e30:
        return as_decimal(float(given))
    raise complaint("review.value-expected")


Figure = Annotated[Any, PlainValidator(_as_figure)]
Places = Annotated[int, Field(strict=True, ge=-30, le=30)]
SignificantDigits = Annotated[int, Field(strict=True, ge=1, le=30)]


class RoundingRequest(Strict):
    """`rounding`: one figure to decimals, significant digits or a step."""

    kind: Literal["rounding"]
    value: Figure
    rule: RoundingRule = "half-even"
    decimals: Places | None = None
    significant: SignificantDigits | None = None
    most_decimals: Places | None = None
    step: Figure = None

    @model_validator(mode="after")
    def _one_of_three(self) -> Self:
        given = [self.decimals, self.significant, self.step]
        if sum(specimen is not None for specimen in given) != 1:
            raise complaint("review.rounding-rule")
        if self.most_decimals is not None and self.significant is None:
            raise complaint("review.most-decimals-alone", field="most_decimals")
        return self

    def answer(self) -> dict[str, Any]:
        """Return the text; null stays null."""
        if self.value is None:
            return {"text": None}
        if self.significant is not None:
            text = round_to_significant(self.value, self.significant, self.rule, self.most_decimals)
        elif self.decimals is not None:
            text = round_to_decimals(self.value, self.decimals, self.rule)
        else:
            text = round_to_step(self.value, self.step, self.rule)
        return {"text": text}


class BoundedValue(Strict):
    """A value that is a bound."""

    value: Number
    qualifier: Qualifier | None = None


class RowResult(Strict):
    """What a row is judged on: values (numbers, bounds or grades), a class, or failures."""

    values: Annotated[list[Number | BoundedValue | str], Field(max_length=MAX_VALUES)] | None = None
    u: NotNegative | None = None
    fire_class: Annotated[int, Field(strict=True, ge=1, le=3)] | None = Field(None, alias="class")
    failures: Annotated[int, Field(strict=True, ge=0)] | None = None
    n: Annotated[int, Field(strict=True, ge=0)] | None = None


class CriterionRow(Strict):
    """One row of a specification with what came of it."""

    property: Name
    direction: Name | None = None
    state: Name | None = None
    required: bool = Field(True, strict=True)
    n_required: Annotated[int, Field(strict=True, ge=1)] = 1
    criterion: Criterion
    result: RowResult | None = None


class CriterionRequest(Rules):
    """`criterion`: rows against their limits."""

    kind: Literal["criterion"]
    rows: Annotated[list[CriterionRow], Field(min_length=1, max_length=10_000)]

    def answer(self) -> dict[str, Any]:
        """Return the verdict of each row, and of the report over the required ones."""
        rules = Rules(comparison=self.comparison, decision=self.decision, rounding=self.rounding)
        verdicts = [
            judge_document_row(row, rules, place) for place, row in enumerate(self.rows, start=1)
        ]
        required = [
            verdict.verdict
            for row, verdict in zip(self.rows, verdicts, strict=True)
            if row.required and row.criterion.on != "report-only"
        ]
        return {
            "rows": [verdict.model_dump() for verdict in verdicts],
            "report": report_verdict(required),
        }


def judge_document_row(row: CriterionRow, rules: Rules, place: int) -> RowVerdict:
    """Return the verdict of one row; raises Invalid when its result does not fit its criterion."""
    criterion, result = row.criterion, row.result
    if result is None:
        return NOT_JUDGED

    def refuse(field: str, code: str, **params: object) -> Invalid:
        refusal = Invalid(Message(code, params), field=field)
        return refusal.within("review.in-row", row=place, property=row.property, value=field)

    if criterion.on == "no-failures":
        if result.failures is None or result.n is None:
            raise refuse("failures", "review.failures-missing")
        if result.failures > result.n:
            raise refuse(
                "failures", "review.too-many-failures", failures=result.failures, n=result.n
            )
    if rules.decision == "guarded" and criterion.on in FIGURES and result.u is None:
        raise refuse("u", "review.uncertainty-missing")
    judged_by_values = criterion.on not in ("class", "no-failures", "report-only")
    evidence = Evidence(
        values=[measured_value(value, criterion, refuse) for value in result.values or []]
        if judged_by_values
        else [],
        expanded_u=result.u,
        fire_class=result.fire_class,
        failures=result.failures or 0,
        tested=result.n or 0,
    )
    return judge(criterion, evidence, row.n_required, rules)


def measured_value(
    given: float | BoundedValue | str,
    criterion: Criterion,
    refuse: Callable[..., Invalid],
) -> Measured:
    """Return one value of a row: a number, a bound, or a grade where grades are evaluated."""
    if criterion.on == "grade":
        if isinstance(given, BoundedValue):
            raise refuse("values", "review.grade-as-limit")
        try:
            return Measured(read_grade(given))
        except ValueError as error:
            known = list(GRADES)
            raise refuse("values", "review.grade-unknown", given=given, known=known) from error
    if isinstance(given, BoundedValue):
        return Measured(given.value, given.qualifier)
    if isinstance(given, str):
        raise refuse("values", "review.not-a-number", given=given)
    return Measured(given)


KINDS: dict[str, type[Strict]] = {
    "statistics": StatisticsRequest,
    "grubbs": GrubbsRequest,
    "sample-size": SampleSizeRequest,
    "rounding": RoundingRequest,
    "criterion": CriterionRequest,
}


def judge_document(data: Any) -> dict[str, Any]:
    """Return the answer to a judging document; raises Invalid that names the row."""
    if not isinstance(data, dict):
        raise Invalid("review.document-shape")
    kind = data.get("kind")
    if not isinstance(kind, str) or kind not in KINDS:
        raise Invalid("review.kind-missing", known=list(KINDS), field="kind")
    request = read_model(KINDS[kind], data, kind)
    answer: dict[str, Any] = request.answer()
    refuse_what_is_not_finite(answer, kind)
    return answer
