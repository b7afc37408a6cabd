"""One search for everything that has a number or a name: a few finds of each kind."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field
from sqlalchemy import ColumnElement, func, literal, select, union
from sqlalchemy.orm import InstrumentedAttribute, Session

from endurant.core.messages import worded
from endurant.store.clients import Client
from endurant.store.products import Product
from endurant.store.tables import (
    Gauge,
    Instrument,
    Job,
    JobCard,
    Person,
    Report,
    Specimen,
    Station,
    Test,
)
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.job_status import REMAINDER_ENDING

OF_EACH = 5
MAX_WORDS = 6
OWN_DASHES = 2
"""The code of a specimen has a dash more than the number of its job."""

Kind = Literal["specimen", "job", "report", "client", "product", "instrument", "person"]


class SearchRequest(RequestBody):
    """Words, each of which stands in what is found; a code, or the beginning of one."""

    words: Annotated[str, Field(max_length=120)] = ""


class SearchHit(View):
    """Something that was found: `id` or `name` tells it from others of its kind."""

    kind: Kind
    title: str
    text: str
    id: int | None = None
    name: str | None = None
    job_id: int | None = None


def search(request: SearchRequest) -> list[SearchHit]:
    """Return what the words find, exact codes first; nothing for no words."""
    words = request.words.split()[:MAX_WORDS]
    if not words:
        return []
    with transaction() as session:
        return [
            *_specimens(session, words),
            *_jobs(session, words),
            *_reports(session, words),
            *_clients(session, words),
            *_products(session, words),
            *_instruments(session, words),
            *_people(session, words),
        ]


def _each_in(
    column: ColumnElement[str] | InstrumentedAttribute[str], words: list[str]
) -> list[ColumnElement[bool]]:
    lower = func.lower(column)
    return [lower.contains(word.lower(), autoescape=True) for word in words]


def _specimens(session: Session, words: list[str]) -> Iterator[SearchHit]:
    """By code, or the beginning of one that says more than its job; a code has no blanks."""
    if len(words) > 1 or words[0].count("-") < OWN_DASHES:
        return
    begun = Specimen.code.startswith(words[0].upper(), autoescape=True)
    rows = session.execute(
        select(Specimen.id, Specimen.code, Job)
        .join(Specimen.test)
        .join(Test.job)
        .where(begun)
        .order_by(Specimen.code)
        .limit(OF_EACH)
    )
    for specimen_id, code, job in rows:
        text = worded("search.job", product=job.product, client=job.client, lot=job.lot)
        yield SearchHit(kind="specimen", title=code, text=text, id=specimen_id, job_id=job.id)


def _jobs(session: Session, words: list[str]) -> Iterator[SearchHit]:
    """Open jobs first, and the newest of each; the code of a remainder finds its job."""
    plain = [word.upper().removesuffix(REMAINDER_ENDING).lower() for word in words]
    conditions = [JobCard.search.contains(word, autoescape=True) for word in plain]
    rows = session.scalars(
        select(Job)
        .join(JobCard, JobCard.job_id == Job.id)
        .where(*conditions)
        .order_by(JobCard.released, Job.id.desc())
        .limit(OF_EACH)
    )
    for row in rows:
        text = worded("search.job", product=row.product, client=row.client, lot=row.lot)
        yield SearchHit(kind="job", title=row.number, text=text, id=row.id, job_id=row.id)


def _reports(session: Session, words: list[str]) -> Iterator[SearchHit]:
    if len(words) > 1 or not words[0].upper().startswith("R-"):
        return
    begun = Report.number.startswith(words[0].upper(), autoescape=True)
    rows = session.execute(
        select(Report.id, Report.number, Report.revision, Job)
        .join(Job, Job.id == Report.job_id)
        .where(begun)
        .order_by(Report.id.desc())
        .limit(OF_EACH)
    )
    for report_id, number, revision, job in rows:
        title = worded("search.report", number=number, revision=revision)
        text = worded("search.job", product=job.product, client=job.client, lot=job.lot)
        yield SearchHit(kind="report", title=title, text=text, id=report_id, job_id=job.id)


def _clients(session: Session, words: list[str]) -> Iterator[SearchHit]:
    named = union(select(Client.name), select(Job.client)).subquery()
    rows = session.scalars(
        select(named.c[0]).where(*_each_in(named.c[0], words)).order_by(named.c[0]).limit(OF_EACH)
    )
    for name in rows:
        yield SearchHit(kind="client", title=name, text="", name=name)


def _products(session: Session, words: list[str]) -> Iterator[SearchHit]:
    """The newest revision of each."""
    newest = select(func.max(Product.id)).group_by(Product.client, Product.name)
    both = func.concat(Product.name, " ", Product.client)
    rows = session.scalars(
        select(Product)
        .where(Product.id.in_(newest), *_each_in(both, words))
        .order_by(Product.name)
        .limit(OF_EACH)
    )
    for row in rows:
        text = worded("search.product", client=row.client, revision=row.revision)
        yield SearchHit(kind="product", title=row.name, text=text, id=row.id)


def _instruments(session: Session, words: list[str]) -> Iterator[SearchHit]:
    """By the station that it stands at, its name and its serial number; gauges by the last two."""
    station = func.coalesce(Station.name, "")
    at_station = (
        select(station, Instrument.name, Instrument.serial)
        .outerjoin(Station, Station.instrument_id == Instrument.id)
        .where(*_each_in(func.concat_ws(" ", station, Instrument.name, Instrument.serial), words))
        .order_by(station, Instrument.name)
    )
    gauges = (
        select(literal(""), Gauge.name, Gauge.serial)
        .where(*_each_in(func.concat_ws(" ", Gauge.name, Gauge.serial), words))
        .order_by(Gauge.name)
    )
    for statement in (at_station, gauges):
        for place, name, serial in session.execute(statement.limit(OF_EACH)):
            text = f"{name}, {serial}" if place else serial
            yield SearchHit(kind="instrument", title=place or name, text=text, name=serial)


def _people(session: Session, words: list[str]) -> Iterator[SearchHit]:
    conditions = _each_in(Person.name, words)
    rows = session.scalars(select(Person).where(*conditions).order_by(Person.name).limit(OF_EACH))
    for row in rows:
        yield SearchHit(kind="person", title=row.name, text=row.role, id=row.id)
