"""The pages of products: the list, one product with its revisions, and what the counter knows."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal

from pydantic import Field
from sqlalchemy import and_, collate, func, or_, select, tuple_
from sqlalchemy.orm import Session, selectinload

from endurant.core.lab_tables import MaterialRow
from endurant.core.methods import all_methods
from endurant.core.refusals import NotFound
from endurant.store import clock
from endurant.store.products import Product
from endurant.store.tables import Job
from endurant.work.base.actors import Actor
from endurant.work.base.requests import RequestBody
from endurant.work.base.transactions import transaction
from endurant.work.base.view import View
from endurant.work.facts.laboratory import laboratory, tables_of
from endurant.work.facts.products import (
    RevisionState,
    approval_refusal,
    products_by_name,
    revisions_of,
    states_of,
    valid_from,
)
from endurant.work.facts.specifications import (
    SpecificationLine,
    SpecifiedTest,
    differences_between,
    own_lines,
    specified_tests,
)

MAX_WORDS = 8
MAX_KNOWN = 300


class ProductView(View):
    """A product in one revision; `gone` are its methods that are not known any more."""

    id: int
    client: str
    name: str
    revision: int
    specification: dict[str, Any]
    gone: list[str]
    by: str
    at: datetime


class ProductsRequest(RequestBody):
    """Which products are listed: by words, and by what they are.

    Every word must stand in the client, the name or the material. `after` is the id of the last
    product of the page before.
    """

    search: str = Field("", max_length=120)
    state: Literal["all", "in-force", "draft", "retired"] = "all"
    limit: int = Field(50, ge=1, le=200)
    after: int | None = Field(None, ge=1)


class ProductLine(View):
    """A product in the list: `id` is its newest revision; `in_force` the one that counts now."""

    id: int
    client: str
    name: str
    material: str
    revision: int
    in_force: int | None
    in_force_id: int | None
    has_draft: bool
    is_retired: bool
    tests: list[str]


class ProductList(View):
    """A page of products by client and name; `after` asks for the next one."""

    products: list[ProductLine]
    total: int
    after: int | None


class ProductRevision(View):
    """One revision of a product: what it is, who wrote it, and who approved or retired it."""

    id: int
    revision: int
    state: RevisionState
    by: str
    at: datetime
    approved_by: str | None
    approved_at: datetime | None
    valid_from: datetime | None
    retired_by: str | None
    retired_at: datetime | None
    retired_why: str | None


class ProductPage(View):
    """One revision of a product in words, with all of its revisions, the newest first.

    `approval` is None where this person may approve it, or else why not; `newest` is the revision
    that a change goes on from.
    """

    product: ProductView
    state: RevisionState
    lines: list[SpecificationLine]
    tests: list[SpecifiedTest]
    revisions: list[ProductRevision]
    newest: int
    newest_id: int
    may_approve: bool
    approval: str | None
    may_retire: bool
    may_draft: bool


class KnownAtCounter(View):
    """What was written at the counter before, the latest first, and the materials of the lab.

    `lots` are lots with the newest job of each, so that a scanned lot brings what it was.
    """

    clients: list[str]
    materials: list[str]
    lots: dict[str, int]
    melt_materials: list[MaterialRow]
    products: int
    last_job_id: int | None


def products(request: ProductsRequest) -> ProductList:
    """Return a page of products. Raises NotFound for a page after a product that is none."""
    with transaction() as session:
        named = products_by_name(clock.now())
        for word in request.search.split()[:MAX_WORDS]:
            material = func.json_value(Product.specification, "$.material")
            columns = (Product.client, Product.name, material)
            holds = (func.lower(each).contains(word.lower(), autoescape=True) for each in columns)
            named = named.where(or_(*holds))
        table = named.subquery()
        has_draft = table.c.newest > func.coalesce(table.c.approved, 0)
        is_retired = and_(table.c.approved.is_not(None), table.c.counting.is_(None))
        filters = {
            "all": [],
            "draft": [has_draft],
            "retired": [is_retired],
            "in-force": [table.c.current.is_not(None)],
        }[request.state]
        total = session.scalar(select(func.count()).select_from(table).where(*filters)) or 0
        # Words are ordered as in a list of words: upper and lower case alike.
        order = [collate(each, "utf8mb4_unicode_ci") for each in (table.c.client, table.c.name)]
        page = select(table).where(*filters).order_by(*order, table.c.newest)
        if request.after is not None:
            last = _product_or_refuse(session, request.after)
            page = page.where(
                tuple_(*order, table.c.newest) > (last.client, last.name, request.after)
            )
        rows_found = session.execute(page.limit(request.limit + 1)).all()
        shown = rows_found[: request.limit]
        ids = {key for row in shown for key in (row.newest, row.current) if key is not None}
        rows = {row.id: row for row in session.scalars(select(Product).where(Product.id.in_(ids)))}
        lines = [_line(rows, row) for row in shown]
    after = lines[-1].id if len(rows_found) > request.limit else None
    return ProductList(products=lines, total=total, after=after)


def _line(rows: Mapping[int, Product], row: Any) -> ProductLine:
    newest = rows[row.newest]
    current = None if row.current is None else rows[row.current]
    return ProductLine(
        id=newest.id,
        client=newest.client,
        name=newest.name,
        material=newest.specification["material"],
        revision=newest.revision,
        in_force=current.revision if current else None,
        in_force_id=current.id if current else None,
        has_draft=row.newest > (row.approved or 0),
        is_retired=row.approved is not None and row.counting is None,
        tests=[test["method"] for test in newest.specification["tests"]],
    )


def product(actor: Actor, product_id: int) -> ProductPage:
    """Return one revision of a product, as this person may act on it. Raises NotFound."""
    with transaction() as session:
        return product_page(session, actor, _product_or_refuse(session, product_id))


def product_page(session: Session, actor: Actor, row: Product) -> ProductPage:
    """Return the page of a revision, in the transaction that may have written it."""
    rows = revisions_of(session, row.client, row.name)
    states = states_of(rows, clock.now())
    refusal = approval_refusal(rows, row, actor.id)
    may_approve = actor.may("approve-products")
    return ProductPage(
        product=product_view(row),
        state=states[row.id],
        lines=own_lines(row.specification),
        tests=specified_tests(row.specification),
        revisions=[_revision(each, states[each.id]) for each in reversed(rows)],
        newest=rows[-1].revision,
        newest_id=rows[-1].id,
        may_approve=may_approve and refusal is None,
        approval=refusal.text if may_approve and refusal is not None else None,
        may_retire=may_approve and states[row.id] == "in-force",
        may_draft=actor.may("receive"),
    )


def _revision(row: Product, state: RevisionState) -> ProductRevision:
    is_draft = row.status == "draft"
    return ProductRevision(
        id=row.id,
        revision=row.revision,
        state=state,
        by=row.by.name,
        at=row.at,
        approved_by=row.approved_by.name if row.approved_by else None,
        approved_at=row.approved_at,
        valid_from=None if is_draft else valid_from(row),
        retired_by=row.retired_by.name if row.retired_by else None,
        retired_at=row.retired_at,
        retired_why=row.retired_why,
    )


def differences(product_id: int, before_id: int) -> list[str]:
    """Return what differs between two revisions, from `before_id`. Raises NotFound."""
    with transaction() as session:
        before = _product_or_refuse(session, before_id)
        after = _product_or_refuse(session, product_id)
        return differences_between(before.specification, after.specification)


def newest_products(session: Session) -> list[ProductView]:
    """Return every product in its newest revision, by client and name."""
    session.flush()
    newest = select(func.max(Product.id)).group_by(Product.client, Product.name)
    rows = session.scalars(
        select(Product)
        .where(Product.id.in_(newest))
        .options(selectinload(Product.by))
        .order_by(Product.client, Product.name)
    )
    return [product_view(row) for row in rows]


def product_view(row: Product) -> ProductView:
    """Return a revision as it is kept."""
    known = all_methods()
    methods = [test["method"] for test in row.specification["tests"]]
    return ProductView(
        id=row.id,
        client=row.client,
        name=row.name,
        revision=row.revision,
        specification=row.specification,
        gone=[method for method in methods if method not in known],
        by=row.by.name,
        at=row.at,
    )


def known_at_counter() -> KnownAtCounter:
    """What the counter completes from."""
    with transaction() as session:
        return KnownAtCounter(
            clients=_latest_texts(session, Job.client),
            materials=_latest_texts(session, Job.material),
            lots=_latest_lots(session),
            melt_materials=tables_of(laboratory(session)).materials,
            products=session.scalar(select(func.count()).select_from(Product)) or 0,
            last_job_id=session.scalar(select(func.max(Job.id))),
        )


def _latest_texts(session: Session, column: Any) -> list[str]:
    newest = func.max(Job.id)
    rows = session.scalars(select(column).group_by(column).order_by(newest.desc()).limit(MAX_KNOWN))
    return list(rows)


def _latest_lots(session: Session) -> dict[str, int]:
    newest = func.max(Job.id)
    rows = session.execute(
        select(Job.lot, newest).group_by(Job.lot).order_by(newest.desc()).limit(MAX_KNOWN)
    )
    return {lot: int(job_id) for lot, job_id in rows}


def _product_or_refuse(session: Session, product_id: int) -> Product:
    row = session.get(Product, product_id)
    if row is None:
        raise NotFound("products.none", product_id=product_id)
    return row
