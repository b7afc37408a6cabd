"""Which revision of a product is in force, and what each of the others is."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import ColumnElement, and_, case, func, or_, select
from sqlalchemy.orm import Session

from endurant.core.messages import Message
from endurant.core.refusals import Conflict
from endurant.store import clock
from endurant.store.products import Product

RevisionState = Literal["draft", "approved", "in-force", "superseded", "retired"]

IS_APPROVED: ColumnElement[bool] = or_(Product.status.is_(None), Product.status == "approved")


def valid_from(row: Product) -> datetime:
    """Return the moment from which an approved revision is in force."""
    return row.valid_from or row.at


def is_approved(row: Product) -> bool:
    """True for an approved revision, and for one from before there were approvals."""
    return row.status in (None, "approved")


def states_of(rows: Sequence[Product], now: datetime) -> dict[int, RevisionState]:
    """Return what each revision of one product is, by its id.

    The last approved one whose day has come is in force. A product is retired with all of its
    approved revisions; one that is approved afterwards is in force again.
    """
    newest = max(rows, key=lambda row: row.revision)
    current = max(
        (row for row in rows if _counts(row) and valid_from(row) <= now),
        key=lambda row: row.revision,
        default=None,
    )
    states: dict[int, RevisionState] = {}
    for row in rows:
        if not is_approved(row):
            states[row.id] = "draft" if row is newest else "superseded"
        elif row.retired_at is not None:
            states[row.id] = "retired"
        elif current is not None and row.revision < current.revision:
            states[row.id] = "superseded"
        else:
            states[row.id] = "in-force" if row is current else "approved"
    return states


def _counts(row: Product) -> bool:
    return is_approved(row) and row.retired_at is None


def revisions_of(session: Session, client: str, name: str) -> list[Product]:
    """Return every revision of a product, the oldest first."""
    rows = session.scalars(
        select(Product)
        .where(Product.client == client, Product.name == name)
        .order_by(Product.revision)
    )
    return list(rows)


def products_by_name(now: datetime) -> Any:
    """Return a query of the row ids of each product.

    They are its `newest` revision, the newest `approved` one, the newest `counting` one, which is
    not retired, and the `current` one, which is in force.
    """
    counts = and_(IS_APPROVED, Product.retired_at.is_(None))
    is_current = and_(counts, func.coalesce(Product.valid_from, Product.at) <= now)
    return select(
        Product.client,
        Product.name,
        func.max(Product.id).label("newest"),
        func.max(case((IS_APPROVED, Product.id))).label("approved"),
        func.max(case((counts, Product.id))).label("counting"),
        func.max(case((is_current, Product.id))).label("current"),
    ).group_by(Product.client, Product.name)


def approval_refusal(rows: Sequence[Product], row: Product, person_id: int) -> Message | None:
    """Return why a person cannot approve a revision of a product with these rows; None if they can.

    It is the newest draft, and the person wrote no draft since the last approved revision.
    """
    if is_approved(row):
        return Message("products.approved-already", {"revision": row.revision})
    if row.revision != max(each.revision for each in rows):
        return Message("products.draft-superseded", {"revision": row.revision})
    last = max((each.revision for each in rows if is_approved(each)), default=0)
    if any(each.by_id == person_id for each in rows if each.revision > last):
        return Message("products.own-draft")
    return None


def refuse_not_in_force(session: Session, client: str, name: str, revision: int) -> None:
    """Raises Conflict for a revision of a product that is not the one in force."""
    rows = revisions_of(session, client, name)
    states = states_of(rows, clock.now()) if rows else {}
    current = next((row.revision for row in rows if states[row.id] == "in-force"), None)
    if current == revision:
        return
    if current is None:
        raise Conflict("products.none-in-force", product=name)
    raise Conflict("products.not-in-force", product=name, revision=revision, current=current)
