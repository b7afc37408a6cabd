"""The manager's figures: turnaround and lateness by month, and the workload of one month."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from datetime import datetime
from statistics import mean, median
from typing import Annotated, Any

from pydantic import Field
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from endurant.core.methods import all_methods
from endurant.core.methods.voids import observations_of
from endurant.core.tables import Table
from endurant.store import clock
from endurant.store.tables import (
    Instrument,
    Job,
    Person,
    Report,
    Run,
    Specimen,
    Station,
    Test,
    Void,
)
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

MONTHS = 12
DAY_S = 86_400.0
HOUR_S = 3_600.0

MonthText = Annotated[str, Field(pattern=r"^(19|20|21)\d\d-(0[1-9]|1[0-2])$")]


class FiguresRequest(RequestBody):
    """The month of the workload, such as 2026-12; this month where it is left out."""

    month: MonthText | None = None


class MonthLine(View):
    """The jobs whose first report was released in a month.

    `turnaround_days` is the median from receipt to that report, `promised_days` the median from
    receipt to the due date; `late_days` is the mean lateness of the `late` ones.
    """

    month: str
    released: int
    turnaround_days: float | None
    promised_days: float | None
    late: int
    late_days: float | None


class WorkLine(View):
    """What one person did in the month; `hours` are those of the runs."""

    name: str
    received: int
    runs: int
    hours: float
    voids: int
    released: int


class UseLine(View):
    """How long a station or an instrument ran in the month."""

    name: str
    serial: str
    runs: int
    hours: float


class VoidLine(View):
    """Voids of the month by method, cause and person."""

    method: str
    cause: str
    person: str
    count: int


class FiguresView(View):
    """Twelve months up to the one that is shown, and the workload of that one."""

    month: str
    months: list[MonthLine]
    people: list[WorkLine]
    stations: list[UseLine]
    instruments: list[UseLine]
    voids: list[VoidLine]


def figures(actor: Actor, request: FiguresRequest) -> FiguresView:
    """Return the figures of a month. Raises Forbidden."""
    actor.must("see-figures")
    month = request.month or f"{clock.now().astimezone():%Y-%m}"
    year, number = int(month[:4]), int(month[5:])
    starts = [_start(year, number - back) for back in range(MONTHS - 1, -2, -1)]
    with transaction() as session:
        return FiguresView(
            month=month,
            months=_months(session, starts),
            people=_people(session, starts[-2], starts[-1]),
            stations=_stations(session, starts[-2], starts[-1]),
            instruments=_instruments(session, starts[-2], starts[-1]),
            voids=_voids(session, starts[-2], starts[-1]),
        )


def _start(year: int, month: int) -> datetime:
    """The first moment of a month by the clock of the laboratory; month 0 is December before."""
    years, rest = divmod(month - 1, 12)
    return datetime(year + years, rest + 1, 1).astimezone()


def _months(session: Session, starts: Sequence[datetime]) -> list[MonthLine]:
    rows = session.execute(
        select(Report.released_at, Job.received_at, Job.due_at)
        .join(Job, Job.id == Report.job_id)
        .where(Report.revision == 1, Report.released_at.between(starts[0], starts[-1]))
    ).all()
    by_month: dict[str, list[tuple[float, float, float]]] = {}
    for released, received, due in rows:
        took, promised = (released - received).total_seconds(), (due - received).total_seconds()
        late = (released - due).total_seconds()
        month = f"{released.astimezone():%Y-%m}"
        by_month.setdefault(month, []).append((took, promised, late))
    return [_month(f"{start:%Y-%m}", by_month.get(f"{start:%Y-%m}", [])) for start in starts[:-1]]


def _month(month: str, rows: Sequence[tuple[float, float, float]]) -> MonthLine:
    late = [each for _, _, each in rows if each > 0]
    return MonthLine(
        month=month,
        released=len(rows),
        turnaround_days=_days(median(took for took, _, _ in rows)) if rows else None,
        promised_days=_days(median(promised for _, promised, _ in rows)) if rows else None,
        late=len(late),
        late_days=_days(mean(late)) if late else None,
    )


def _days(seconds: float) -> float:
    return round(seconds / DAY_S, 1)


def _hours(seconds: Any) -> float:
    return round(float(seconds or 0) / HOUR_S, 1)


_SECONDS = func.sum(func.timestampdiff(text("SECOND"), Run.started_at, Run.ended_at))


def _people(session: Session, start: datetime, end: datetime) -> list[WorkLine]:
    def counted(who: Any, at: Any) -> Counter[int]:
        rows = session.execute(select(who, func.count()).where(at >= start, at < end).group_by(who))
        counts: Counter[int] = Counter()
        for person, count in rows:
            counts[person] = count
        return counts

    received = counted(Job.received_by_id, Job.received_at)
    voids = counted(Void.by_id, Void.at)
    released = counted(Report.released_by_id, Report.released_at)
    runs = {
        person: (count, seconds)
        for person, count, seconds in session.execute(
            select(Run.by_id, func.count(), _SECONDS)
            .where(Run.started_at >= start, Run.started_at < end)
            .group_by(Run.by_id)
        )
    }
    ids = {*received, *voids, *released, *runs}
    names = session.execute(
        select(Person.id, Person.name).where(Person.id.in_(ids)).order_by(Person.name)
    )
    return [
        WorkLine(
            name=name,
            received=received[person],
            runs=runs.get(person, (0, 0))[0],
            hours=_hours(runs.get(person, (0, 0))[1]),
            voids=voids[person],
            released=released[person],
        )
        for person, name in names
    ]


def _stations(session: Session, start: datetime, end: datetime) -> list[UseLine]:
    rows = session.execute(
        select(Station.name, func.count(), _SECONDS)
        .join(Run, Run.station_id == Station.id)
        .where(Run.started_at >= start, Run.started_at < end)
        .group_by(Station.id, Station.name)
        .order_by(Station.name)
    )
    return [
        UseLine(name=name, serial="", runs=runs, hours=_hours(seconds))
        for name, runs, seconds in rows
    ]


def _instruments(session: Session, start: datetime, end: datetime) -> list[UseLine]:
    rows = session.execute(
        select(Instrument.name, Instrument.serial, func.count(), _SECONDS)
        .join(Run, Run.instrument_id == Instrument.id)
        .where(Run.started_at >= start, Run.started_at < end)
        .group_by(Instrument.id, Instrument.name, Instrument.serial)
        .order_by(Instrument.name, Instrument.serial)
    )
    return [
        UseLine(name=name, serial=serial, runs=runs, hours=_hours(seconds))
        for name, serial, runs, seconds in rows
    ]


def _voids(session: Session, start: datetime, end: datetime) -> list[VoidLine]:
    rows = session.execute(
        select(Test.method, Void.code, Person.name, func.count().label("voids"))
        .select_from(Void)
        .join(Specimen, Specimen.id == Void.specimen_id)
        .join(Test, Test.id == Specimen.test_id)
        .join(Person, Person.id == Void.by_id)
        .where(Void.at >= start, Void.at < end, Void.withdrawn_at.is_(None))
        .group_by(Test.method, Void.code, Person.name)
        .order_by(func.count().desc(), Test.method, Void.code, Person.name)
    )
    return [
        VoidLine(method=_title(method), cause=_cause(method, code), person=name, count=count)
        for method, code, name, count in rows
    ]


def _title(method: str) -> str:
    known = all_methods().get(method)
    return known.title if known is not None else method


def _cause(method: str, code: str) -> str:
    known = all_methods().get(method)
    titles = {each.code: each.title for each in observations_of(known)} if known else {}
    return titles.get(code, code)


def figures_tables(view: FiguresView) -> dict[str, list[Table]]:
    """Return the figures as the sheets of a workbook, by title."""
    months = Table(
        ("month", "released", "turnaround (days)", "promised (days)", "late", "lateness (days)"),
        [list(line.model_dump().values()) for line in view.months],
    )
    people = Table(
        ("person", "jobs received", "runs", "hours of runs", "voids", "reports released"),
        [list(line.model_dump().values()) for line in view.people],
    )
    stations = Table(
        ("station", "runs", "hours"),
        [[line.name, line.runs, line.hours] for line in view.stations],
    )
    instruments = Table(
        ("instrument", "serial", "runs", "hours"),
        [list(line.model_dump().values()) for line in view.instruments],
    )
    voids = Table(
        ("method", "cause", "person", "voids"),
        [list(line.model_dump().values()) for line in view.voids],
    )
    return {
        "turnaround": [months],
        f"people {view.month}": [people],
        f"stations {view.month}": [stations],
        f"instruments {view.month}": [instruments],
        f"voids {view.month}": [voids],
    }
