"""What the work functions give back: plain models, the same for the API and the command line."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import JsonValue
from typing_extensions import TypedDict

from endurant.core.judging.criteria import Criterion
from endurant.core.judging.uncertainty import Guard
from endurant.core.judging.verdicts import Verdict
from endurant.core.methods.guide import SlipShape
from endurant.work.base.view import View, formerly

SpecimenState = Literal[
    "to-cut", "cut", "conditioning", "ready", "running", "to-look-at", "tested", "void"
]
JobStage = Literal["received", "cut", "conditioned", "tested", "judged", "released", "cancelled"]
NextScreen = Literal["report", "judge", "cutting", "bench", "readings", "conditioning", "job"]
NextCode = Literal[
    "read-report",
    "judge",
    "cut",
    "test",
    "bring-in",
    "start-conditioning",
    "cut-remaining",
    "cut-additional",
    "request-additional",
    "wait",
    "read-cancelled",
    "check-computation",
]


class FlagRow(TypedDict):
    """Something that the reviewer or the report must know, with its weight."""

    code: str
    severity: str
    text: str
    params: dict[str, JsonValue]


WorkingRow = TypedDict("WorkingRow", {"says": str, "formula": str, "with": str, "gives": str})
"""How a figure came about: one line of the slip that opens from it."""


class VoidView(View):
    """Why a specimen does not count."""

    code: str
    title: str
    remark: str = formerly("remark", "words")
    by: str
    at: datetime


class SpecimenView(View):
    """One specimen as its slip shows it."""

    id: int
    code: str
    label: str
    direction: str
    long_side: str
    works_on: str
    spare: bool
    called: bool
    state: SpecimenState
    run_id: int | None
    placed_at: datetime | None = formerly("placed_at", "hung_at")
    ready_at: datetime | None
    void: VoidView | None
    value: float | None
    value_text: str | None
    flags: list[FlagRow]
    revision: int


class RuleStretchView(View):
    """A stretch of a rule, from start to end."""

    start: float
    end: float


class LimitRuleView(View):
    """See core.limit_rule."""

    low: float
    high: float
    step: float
    unit: str
    limit: float | None
    limit_text: str = formerly("limit_text", "limit_words")
    forbidden: RuleStretchView | None
    second_limit: float | None = None
    second_forbidden: RuleStretchView | None = None
    guarded: list[RuleStretchView] = []
    values: list[float]
    voids: list[float]
    mean: float | None
    half_width: float | None


class CurveView(View):
    """A curve as it is drawn: thinned for the eye."""

    name: str
    title: str
    x: list[float]
    y: list[float]
    x_title: str
    y_title: str
    x_unit: str
    y_unit: str


class SummaryView(View):
    """Figures of one property in one direction; all None until something counts."""

    n: int | None
    mean: float | None
    sd: float | None
    cv_percent: float | None
    minimum: float | None
    maximum: float | None
    median: float | None
    ci95_half_width: float | None
    statistic: str = "mean"
    qualifier: str | None = None
    reported: str | None


class JudgedRow(View):
    """One property of one group: its rule (none where there are no figures), and its verdict.

    `direction` is empty where specimens have none; `group` says direction, state and more in
    words, and `labels` names the specimens of the group. `beside` is the reported figure in
    inch-pound units, where the laboratory writes both.
    """

    property: str
    title: str
    unit: str
    beside: str = ""
    direction: str
    group: str = ""
    labels: list[str] = []
    limit_text: str = formerly("limit_text", "limit_words", default="")
    criterion: Criterion | None
    guard: Guard | None = None
    required: int = formerly("required", "wanted")
    to_go: int
    rule: LimitRuleView | None
    summary: SummaryView | None
    working: list[WorkingRow]
    verdict: Verdict
    compared: str | None
    expanded_u: float | None = None
    other_school_differs: bool


class TestView(View):
    """One test of a job.

    `prepared` is its chain of stays in words, `measures` the sizes that are read off each
    specimen, and `measured` how many of those called were. A rule calls those of a test
    `by_rounds`. `one_more` says for each direction how many must still be asked for, because
    nothing is cut from a sheet and no spare is left.
    """

    __test__ = False

    id: int
    job_id: int
    job_number: str
    job_product: str
    method: str
    title: str
    bench: str
    shape: SlipShape = "strip"
    label_school: str
    parameters: dict[str, Any]
    state: str = "original"
    prepared: list[str] = []
    prepared_otherwise: bool = False
    measures: list[str] = []
    measured: int = 0
    at_frame: bool = True
    by_rounds: bool = False
    required: int = formerly("required", "wanted", default=0)
    to_go: int = 0
    specimens: list[SpecimenView]
    rows: list[JudgedRow]
    flags: list[FlagRow]
    problem: str | None = formerly("problem", "trouble", default=None)
    one_more: dict[str, int] = {}
    held: str | None = None
    set_up: list[str] = []
    set_up_missing: list[str] = []
    released: bool
    revision: int


class Event(View):
    """One line of what has happened to a job; `code` names the action."""

    at: datetime
    who: str
    code: str
    text: str = formerly("text", "words")


class ReportLine(View):
    """A released report in the list of a job; `withdrawn` says when, by whom and why it was."""

    id: int
    number: str
    revision: int
    verdict: str
    reason: str | None
    released_at: datetime
    released_by: str
    withdrawn: str = ""


class JobLine(View):
    """A job in the list."""

    id: int
    number: str
    client: str
    product: str
    variant: str | None = None
    study_id: int | None = None
    lot: str
    priority: int = 0
    due_at: datetime
    stage: JobStage
    tested: int
    required: int = formerly("required", "wanted")
    verdict: Verdict
    next_code: NextCode
    next_text: str = formerly("next_text", "next_words")
    next_screen: NextScreen = formerly("next_screen", "next_place")
    problem: str | None = formerly("problem", "trouble", default=None)


class JobList(View):
    """A page of the list of jobs.

    `total` is how many there are in all pages, `after` what the next page is asked for with;
    None on the last one.
    """

    jobs: list[JobLine]
    total: int
    after: str | None


class JobView(JobLine):
    """A job with everything that its page shows."""

    material: str
    arrival_state: str
    form: str = "sheet"
    arrived: str = ""
    width_mm: float | None
    length_mm: float | None
    received_at: datetime
    received_by: str
    is_cut: bool = True
    cut_at: datetime | None
    conditioned: int
    tests: list[TestView]
    events: list[Event]
    reports: list[ReportLine]
    correcting: str | None
    released: bool
    cancelled: str | None
    client_remark: str = formerly("client_remark", "client_words")
    shelf: str
    order_number: str = ""
    client_reference: str = ""
    dropped: list[str]
    revision: int
