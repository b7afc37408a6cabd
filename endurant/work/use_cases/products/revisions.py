"""Products: what a client has tested again and again, each change of it a revision of its own.

A revision is a draft until a second person approves it. A job keeps the tests and limits that it
was received with, whatever its product becomes later.
"""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.methods import find_method
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.core.tables import Table
from endurant.store import clock
from endurant.store.audit import record
from endurant.store.products import Product
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.requests import Moment, RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.products import approval_refusal, is_approved, revisions_of, states_of
from endurant.work.facts.specifications import OWN_RULES, differences_between, own_stages
from endurant.work.facts.status import job_or_refuse
from endurant.work.facts.test_settings import set_up_names
from endurant.work.use_cases.products.product_table import ReadProduct, read_products
from endurant.work.use_cases.products.specification import (
    Specification,
    checked_specification,
    conditioning_of,
)
from endurant.work.use_cases.products.table_columns import table_of_products
from endurant.work.views.products import (
    ProductPage,
    ProductView,
    newest_products,
    product_page,
    product_view,
)


class ProductRequest(RequestBody):
    """A product to keep; `seen` is the revision that it goes on from, 0 for a new one."""

    client: str = Field(min_length=1, max_length=120)
    name: str = Field(min_length=1, max_length=120)
    specification: Specification
    seen: int = Field(0, ge=0)


class ApprovalRequest(RequestBody):
    """From when an approved revision is in force; at once where it does not say."""

    valid_from: Moment | None = None


class RetirementRequest(RequestBody):
    """Why a product is not received any more."""

    reason: str = Field(min_length=1, max_length=300)


class SeenRequest(RequestBody):
    """The revision of the product that was seen; 0 where there was none."""

    seen: int = Field(0, ge=0)


class JobSpecification(View):
    """What a job asks for: whose it is, what it is called, and its tests with their limits."""

    client: str
    name: str
    lot: str
    specification: dict[str, Any]


def specification_of(job_id: int) -> JobSpecification:
    """What a job asks for. Raises NotFound."""
    with transaction() as session:
        job = job_or_refuse(session, job_id)
        return JobSpecification(
            client=job.client, name=job.product, lot=job.lot, specification=_as_requested(job)
        )


def keep_product(actor: Actor, request: ProductRequest) -> ProductView:
    """Keep a product as a new revision, which is a draft.

    Raises Invalid for tests or limits that are not valid, Conflict when someone was first.
    """
    actor.must("receive")
    specification = checked_specification(request.specification)
    with transaction() as session:
        return _keep(session, actor, request.client, request.name, specification, request.seen)


def approve(actor: Actor, product_id: int, request: ApprovalRequest) -> ProductPage:
    """Approve the newest draft of a product; it is in force from the moment that is given.

    Raises NotFound, Conflict for a draft that is not the newest or that this person worked on,
    Invalid for a moment that has passed.
    """
    actor.must("approve-products")
    with transaction() as session:
        row, rows = _locked(session, product_id)
        refusal = approval_refusal(rows, row, actor.id)
        if refusal is not None:
            raise Conflict(refusal)
        now = clock.now()
        if request.valid_from is not None and request.valid_from < now:
            raise Invalid("products.valid-from-past", field="valid_from")
        row.status, row.approved_at, row.approved_by_id = "approved", now, actor.id
        row.valid_from = request.valid_from or now
        _note(session, actor, row, "approve-product")
        return product_page(session, actor, row)


def retire(actor: Actor, product_id: int, request: RetirementRequest) -> ProductPage:
    """Retire a product: no lot of it is received any more until a new revision is approved.

    Raises NotFound, Conflict for a product without a revision in force.
    """
    actor.must("approve-products")
    with transaction() as session:
        row, rows = _locked(session, product_id)
        now = clock.now()
        states = states_of(rows, now)
        if "in-force" not in states.values():
            raise Conflict("products.none-in-force", product=row.name)
        for each in rows:
            if is_approved(each) and each.retired_at is None:
                each.retired_at, each.retired_by_id = now, actor.id
                each.retired_why = request.reason
        session.flush()
        _note(session, actor, row, "retire-product", request.reason)
        return product_page(session, actor, row)


def _locked(session: Session, product_id: int) -> tuple[Product, list[Product]]:
    """A revision and all of its product, locked; raises NotFound."""
    row = session.get(Product, product_id, with_for_update=True)
    if row is None:
        raise NotFound("products.none", product_id=product_id)
    return row, revisions_of(session, row.client, row.name)


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
        conditioning = conditioning_of(test.state, own_stages(test.preparation or {}))
        requested = {"method": test.method, "parameters": parameters, "limits": test.limits}
        tests.append(requested | conditioning)
    kept = job.lab_settings or {}
    said = {name: own for name in OWN_RULES if (own := kept.get(f"{name}_asked")) is not None}
    return {"material": job.material, "form": job.form, **said, "tests": tests}


def products_table() -> Table:
    """Every product in its latest revision, a row for each limit, or for each test without one."""
    with transaction() as session:
        return table_of_products([view.model_dump() for view in newest_products(session)])


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
        known = {(view.client, view.name): view for view in newest_products(session)}
    refusals = [message.text for message in table.refusals]
    changes = []
    for key, product in table.products.items():
        before = known.get(key)
        own = None if before is None else before.specification
        is_same = own == product.specification
        stale = None if is_same else _stale(before, product)
        if stale is not None:
            refusals.append(stale.message.text)
            continue
        differences = [] if is_same else differences_between(own, product.specification)
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
        known = {(view.client, view.name): view for view in newest_products(session)}
        for (client, name), product in table.products.items():
            before = known.get((client, name))
            if before is not None and before.specification == product.specification:
                continue
            stale = _stale(before, product)
            if stale is not None:
                raise stale
            seen = 0 if before is None else before.revision
            _keep(session, actor, client, name, product.specification, seen)
        return newest_products(session)


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
        status="draft",
    )
    session.add(row)
    session.flush()
    _note(session, actor, row, "keep-product")
    return product_view(row)


def _note(session: Session, actor: Actor, row: Product, action: str, why: str = "") -> None:
    facts = {"name": row.name, "client": row.client, "revision": row.revision}
    record(
        session,
        person_id=actor.id,
        action=action,
        entity="product",
        entity_id=row.id,
        message=Message(f"audit.{action}", {"actor": actor.name} | facts),
        why=why or None,
    )
