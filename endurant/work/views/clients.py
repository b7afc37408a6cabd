"""The pages of clients: the list, and one client with its orders and jobs."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Literal

from pydantic import Field
from sqlalchemy import case, collate, func, select, union
from sqlalchemy.orm import Session

from endurant.core.refusals import NotFound
from endurant.store.clients import Client
from endurant.store.products import Product
from endurant.store.tables import Job, JobCard
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View

MAX_CLIENTS = 500
MAX_JOBS = 200
MAX_WORDS = 8

Paper = Literal["A4", "Letter"]


class Contact(RequestBody):
    """A person at a client, and whether they get its reports."""

    name: str = Field(min_length=1, max_length=80)
    role: str = Field("", max_length=80)
    email: str = Field("", max_length=120, pattern=r"^([^@\s]+@[^@\s]+)?$")
    phone: str = Field("", max_length=40)
    gets_reports: bool = False


class Address(RequestBody):
    """An address of a client, and what it is for."""

    purpose: str = Field(min_length=1, max_length=40)
    text: str = Field(min_length=1, max_length=300)


class ClientLine(View):
    """A client in the list, with the number of its open jobs."""

    name: str
    open_jobs: int
    jobs: int


class JobOfClient(View):
    """A job of a client: open, released or cancelled."""

    id: int
    number: str
    product: str
    lot: str
    reference: str
    due_at: datetime
    state: Literal["open", "released", "cancelled"]


class OrderOfClient(View):
    """An order of a client: done once every job of it is released or cancelled."""

    number: str
    is_done: bool
    jobs: list[JobOfClient]


class ClientPage(View):
    """A client: what is kept about it, its orders, and its jobs without one, the newest first.

    `revision` is 0 where nothing was kept yet. `more_jobs` counts older jobs that are not shown.
    """

    name: str
    contacts: list[Contact]
    addresses: list[Address]
    paper: Paper
    collects_reports: bool
    remark: str
    revision: int
    orders: list[OrderOfClient]
    jobs: list[JobOfClient]
    more_jobs: int
    products: int


def clients(search: str = "") -> list[ClientLine]:
    """Return the clients that have a record or a job, by name; every word must be in the name."""
    with transaction() as session:
        named = union(select(Client.name), select(Job.client)).subquery()
        name = named.c[0]
        filters = [
            func.lower(name).contains(word.lower(), autoescape=True)
            for word in search.split()[:MAX_WORDS]
        ]
        names = session.scalars(
            select(name)
            .where(*filters)
            .order_by(collate(name, "utf8mb4_unicode_ci"))
            .limit(MAX_CLIENTS)
        ).all()
        jobs = {
            client: (count, open_jobs)
            for client, count, open_jobs in session.execute(
                select(
                    Job.client,
                    func.count(),
                    func.count(case((JobCard.released.is_(False), JobCard.job_id))),
                )
                .outerjoin(JobCard, JobCard.job_id == Job.id)
                .where(Job.client.in_(names))
                .group_by(Job.client)
            )
        }
    counts = {each: jobs.get(each, (0, 0)) for each in names}
    return [
        ClientLine(name=each, jobs=counts[each][0], open_jobs=counts[each][1]) for each in names
    ]


def client(name: str) -> ClientPage:
    """Return one client. Raises NotFound for a name that no record and no job bears."""
    with transaction() as session:
        return client_page(session, name)


def client_page(session: Session, name: str) -> ClientPage:
    """Return the page of a client, in the transaction that may have written it."""
    row = session.scalar(select(Client).where(Client.name == name))
    count = session.scalar(select(func.count()).where(Job.client == name)) or 0
    if row is None and not count:
        raise NotFound("client.none", name=name)
    columns = (Job.id, Job.number, Job.product, Job.lot, Job.client_reference, Job.due_at)
    times = (Job.order_number, Job.released_at, Job.cancelled_at)
    rows = session.execute(
        select(*columns, *times).where(Job.client == name).order_by(Job.id.desc()).limit(MAX_JOBS)
    ).all()
    orders: dict[str, list[JobOfClient]] = {}
    for job_id, number, product, lot, reference, due_at, order, released, cancelled in rows:
        state: Literal["open", "released", "cancelled"] = "released" if released else "open"
        job = JobOfClient(
            id=job_id,
            number=number,
            product=product,
            lot=lot,
            reference=reference or "",
            due_at=due_at,
            state="cancelled" if cancelled else state,
        )
        orders.setdefault(order or "", []).append(job)
    loose = orders.pop("", [])
    products = select(func.count(func.distinct(Product.name))).where(Product.client == name)
    return ClientPage(
        name=name,
        contacts=[] if row is None else row.contacts,
        addresses=[] if row is None else row.addresses,
        paper=paper_of(row),
        collects_reports=row is not None and row.collects_reports,
        remark="" if row is None else row.remark,
        revision=0 if row is None else row.revision,
        orders=[_order(number, jobs) for number, jobs in orders.items()],
        jobs=loose,
        more_jobs=max(count - MAX_JOBS, 0),
        products=session.scalar(products) or 0,
    )


def _order(number: str, jobs: Sequence[JobOfClient]) -> OrderOfClient:
    return OrderOfClient(
        number=number, is_done=all(job.state != "open" for job in jobs), jobs=list(jobs)
    )


def paper_of(row: Client | None) -> Paper:
    """Return the paper of a client's reports; A4 where nothing was kept."""
    return "Letter" if row is not None and row.paper == "Letter" else "A4"
