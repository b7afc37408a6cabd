"""Products: what a client has tested again and again, each change of it a revision of its own.

A job keeps the tests and limits that it was received with, whatever its product becomes later.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.cutting.sheet import LabelSchool
from endurant.core.judging.verdicts import Comparison
from endurant.core.lab_tables import MaterialRow
from endurant.core.messages import Message
from endurant.core.methods import all_methods, find_method
from endurant.core.refusals import Conflict, Invalid
from endurant.core.tables import Table
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.products import Product
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.laboratory import laboratory, tables_of
from endurant.work.facts.status import job_or_refuse
from endurant.work.facts.test_settings import set_up_names
from endurant.work.use_cases.receiving.product_table import (
    OWN_RULES,
    ReadProduct,
    checked_test,
    differences_between,
    read_products,
    table_of_products,
)
from endurant.work.use_cases.receiving.receiving import SampleForm, TestRequest

MAX_SHOWN = 1000
MAX_KNOWN = 300


class Specification(RequestBody):
    """What is asked of every lot of a product.

    Without a `comparison` of its own it is compared as the laboratory does, and without a
    `label_school` its specimens are called as the laboratory calls them.
    """

    material: str = Field(min_length=1, max_length=200)
    form: SampleForm = "sheet"
    comparison: Comparison | None = None
    label_school: LabelSchool | None = None
    tests: list[TestRequest] = Field(min_length=1, max_length=20)


class ProductRequest(RequestBody):
    """A product to keep; `seen` is the revision that it goes on from, 0 for a new one."""

    client: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=120)
    specification: Specification
    seen: int = Field(0, ge=0)


class SeenRequest(RequestBody):
    """The revision of the product that was seen; 0 where there was none."""

    seen: int = Field(0, ge=0)


class ProductView(View):
    """A product in its latest revision; `gone` are its methods that are not known any more."""

    client: str
    name: str
    revision: int
    specification: dict[str, Any]
    gone: list[str]
    by: str
    at: datetime


class KnownAtCounter(View):
    """What was written at the counter before, the latest first, and the materials of the lab.

    `lots` are lots with the newest job of each, so that a scanned lot brings what it was.
    """

    clients: list[str]
    materials: list[str]
    lots: dict[str, int]
    melt_materials: list[MaterialRow]
    products: list[ProductView]
    last_job_id: int | None


class JobSpecification(View):
    """What a job asks for: whose it is, what it is called, and its tests with their limits."""

    client: str
    name: str
    lot: str
    specification: dict[str, Any]


def known_at_counter() -> KnownAtCounter:
    """What the counter completes from."""
    with transaction() as session:
        return KnownAtCounter(
            clients=_latest_texts(session, Job.client),
            materials=_latest_texts(session, Job.material),
            lots=_latest_lots(session),
            melt_materials=tables_of(laboratory(session)).materials,
            products=_views(session),
            last_job_id=session.scalar(select(func.max(Job.id))),
        )


def _latest_lots(session: Session) -> dict[str, int]:
    newest = func.max(Job.id)
    rows = session.execute(
        select(Job.lot, newest).group_by(Job.lot).order_by(newest.desc()).limit(MAX_KNOWN)
    )
    return {lot: int(job_id) for lot, job_id in rows}


def specification_of(job_id: int) -> JobSpecification:
    """What a job asks for. Raises NotFound."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        return JobSpecification(
            client=job.client, name=job.product, lot=job.lot, specification=_as_requested(job)
        )


def keep_product(actor: Actor, request: ProductRequest) -> ProductView:
    """Keep a product as a new revision.

    Raises Invalid for tests or limits that are not valid, Conflict when someone was first.
    """
    actor.must("receive")
    tests = [checked_test(test) for test in request.specification.tests]
    specification = request.specification.model_dump(mode="json") | {"tests": tests}
    for name in OWN_RULES:
        if specification[name] is None:
            del specification[name]
    with transaction() as session:
        return _keep(session, actor, request.client, request.name, specification, request.seen)


def keep_from_job(actor: Actor, job_id: int, request: SeenRequest) -> ProductView:
    """Keep what a job asks for as its product. Raises NotFound, Conflict."""
    actor.must("receive")
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        return _keep(session, actor, job.client, job.product, _as_requested(job), request.seen)


def _as_requested(job: Job) -> dict[str, Any]:
    """The tests of a job as a specification has them, without what was set up at the bench."""
    tests = []
    for test in job.tests:
        bench = set_up_names(find_method(test.method))
        parameters = {name: value for name, value in test.parameters.items() if name not in bench}
        tests.append({"method": test.method, "parameters": parameters, "limits": test.limits})
    kept = job.lab_settings or {}
    said = {name: own for name in OWN_RULES if (own := kept.get(f"{name}_asked")) is not None}
    return {"material": job.material, "form": job.form, **said, "tests": tests}


def products_table() -> Table:
    """Every product in its latest revision, a row for each limit, or for each test without one."""
    with transaction() as session:
        return table_of_products([view.model_dump() for view in _views(session)])


class ProductChange(View):
    """What a table would make of one product."""

    client: str
    name: str
    revision: int
    kind: Literal["new", "changed", "unchanged"]
    differences: list[str]


class ProductsPreview(View):
    """What a table would change, and each refusal with its cell; nothing is stored."""

    changes: list[ProductChange]
    refusals: list[str]


def preview_products(actor: Actor, data: bytes) -> ProductsPreview:
    """Show what a table would change. Raises Invalid for a table without its header."""
    actor.must("receive")
    table = read_products(data)
    with transaction() as session:
        known = {(view.client, view.name): view for view in _views(session)}
    refusals = [message.text for message in table.refusals]
    changes = []
    for key, product in table.products.items():
        before = known.get(key)
        own = None if before is None else before.specification
        stale = _stale(before, product)
        if stale is not None:
            refusals.append(stale.message.text)
        differences = differences_between(own, product.specification)
        kind: Literal["new", "changed", "unchanged"] = "changed" if differences else "unchanged"
        changes.append(
            ProductChange(
                client=key[0],
                name=key[1],
                revision=0 if before is None else before.revision,
                kind="new" if before is None else kind,
                differences=differences,
            )
        )
    return ProductsPreview(changes=changes, refusals=refusals)


def take_products_table(actor: Actor, data: bytes) -> list[ProductView]:
    """Take products from a table as `products_table` gives it; all of them or none.

    One that is as it was makes no new revision. Raises Invalid that names the cell, Conflict for a
    product that has moved on since the table was written.
    """
    actor.must("receive")
    table = read_products(data)
    if table.refusals:
        raise Invalid(table.refusals[0], field="file")
    with transaction() as session:
        known = {(view.client, view.name): view for view in _views(session)}
        for (client, name), product in table.products.items():
            before = known.get((client, name))
            if before is not None and before.specification == product.specification:
                continue
            stale = _stale(before, product)
            if stale is not None:
                raise stale
            seen = 0 if before is None else before.revision
            _keep(session, actor, client, name, product.specification, seen)
        return _views(session)


def _stale(before: ProductView | None, product: ReadProduct) -> Conflict | None:
    """The refusal of a changed product whose table is older than the product, or does not say."""
    if before is None or before.specification == product.specification:
        return None
    if product.revision == before.revision:
        return None
    return Conflict(
        "products.stale-table",
        field="file",
        product=before.name,
        revision=before.revision,
        given=product.revision or 0,
    )


def _keep(
    session: Session,
    actor: Actor,
    client: str,
    name: str,
    specification: dict[str, Any],
    seen: int,
) -> ProductView:
    latest = session.scalar(
        select(func.max(Product.revision)).where(Product.client == client, Product.name == name)
    )
    if (latest or 0) != seen:
        raise Conflict("products.stale", product=name, revision=latest or 0)
    row = Product(
        client=client,
        name=name,
        revision=seen + 1,
        specification=specification,
        at=clock.now(),
        by_id=actor.id,
    )
    session.add(row)
    session.flush()
    record(
        session,
        person_id=actor.id,
        action="keep-product",
        entity="product",
        entity_id=row.id,
        message=Message(
            "audit.keep-product",
            {"actor": actor.name, "name": name, "client": client, "revision": row.revision},
        ),
    )
    return _view(row)


def _views(session: Session) -> list[ProductView]:
    session.flush()
    latest = select(func.max(Product.id)).group_by(Product.client, Product.name)
    rows = session.scalars(
        select(Product)
        .where(Product.id.in_(latest))
        .order_by(Product.client, Product.name)
        .limit(MAX_SHOWN)
    )
    return [_view(row) for row in rows]


def _view(row: Product) -> ProductView:
    known = all_methods()
    request = [test["method"] for test in row.specification["tests"]]
    return ProductView(
        client=row.client,
        name=row.name,
        revision=row.revision,
        specification=row.specification,
        gone=[method for method in request if method not in known],
        by=row.by.name,
        at=row.at,
    )


def _latest_texts(session: Session, column: Any) -> list[str]:
    newest = func.max(Job.id)
    rows = session.scalars(select(column).group_by(column).order_by(newest.desc()).limit(MAX_KNOWN))
    return list(rows)
