"""The office of the demo laboratory: clients, and products in force, drafted and retired."""

from __future__ import annotations

from datetime import datetime, timedelta

from endurant.core.judging.criteria import Criterion
from endurant.demo.samples import BOAT, JOBS, LAMINATE, SACK, STRAP
from endurant.store import clock
from endurant.work.base.actors import Actor
from endurant.work.use_cases.clients import records
from endurant.work.use_cases.nonconformities import register
from endurant.work.use_cases.products import revisions
from endurant.work.use_cases.products.specification import Specification
from endurant.work.use_cases.receiving.limits import LimitRequest
from endurant.work.use_cases.receiving.receiving import SampleRequest, TestRequest
from endurant.work.views.clients import Address, Contact
from endurant.work.views.products import ProductView


def keep_products(people: dict[str, Actor], start: datetime) -> None:
    """Keep five products: Ines drafts them, and Maren approves all but the last draft."""
    writer, approver = people["ines"], people["maren"]

    def approved(request: revisions.ProductRequest, days_ago: float) -> ProductView:
        with clock.as_if(start - timedelta(days=days_ago)):
            kept = revisions.keep_product(writer, request)
            revisions.approve(approver, kept.id, revisions.ApprovalRequest())
        return kept

    for sample, days_ago in ((LAMINATE, 25), (SACK, 24), (STRAP, 20)):
        approved(_product(sample), days_ago)
    awning = approved(_awning("20", "16"), 28)
    stricter = _awning("22", "16").model_copy(update={"seen": awning.revision})
    with clock.as_if(start - timedelta(days=2)):
        revisions.keep_product(writer, stricter)
    boat = approved(_product(BOAT), 29)
    with clock.as_if(start - timedelta(days=5)):
        reason = revisions.RetirementRequest(reason="the client orders a heavier cloth instead")
        revisions.retire(approver, boat.id, reason)


def keep_clients(people: dict[str, Actor], start: datetime) -> None:
    """Keep what Ines knows about two clients."""
    canvas = records.ClientRequest(
        name=BOAT.client,
        contacts=[
            Contact(
                name="Odile Farrow",
                role="purchasing",
                email="odile@gantry-lane.example",
                phone="555 0142",
                gets_reports=True,
            ),
            Contact(name="Piet Hollin", role="quality", email="piet@gantry-lane.example"),
        ],
        addresses=[Address(purpose="reports", text="Gantry Lane Covers\n7 Slipway Row")],
        remark="asks for the tear results by telephone first",
    )
    roasters = records.ClientRequest(
        name=LAMINATE.client,
        contacts=[Contact(name="Runa Skeld", role="packaging", gets_reports=True)],
        paper="Letter",
        collects_reports=True,
    )
    with clock.as_if(start - timedelta(days=27)):
        for request in (canvas, roasters):
            records.keep_client(people["ines"], request)


def open_complaint(people: dict[str, Actor], start: datetime) -> None:
    """A client complains about a report that came late, and Maren looks into it."""
    with clock.as_if(start - timedelta(days=3)):
        complaint = register.open_nonconformity(
            people["ines"],
            register.NonconformityRequest(
                kind="complaint",
                title="Report of the harbour cloth came two days late",
                description="Odile Farrow telephoned: the cutting room was kept waiting.",
                owner_id=people["maren"].id,
                due_at=start + timedelta(days=4),
            ),
        )
        register.change_nonconformity(
            people["maren"],
            complaint.id,
            register.NonconformityChange(
                title=complaint.title,
                description=complaint.description,
                cause="the textile room was warm on two days, and conditioning began again",
                owner_id=people["maren"].id,
                due_at=complaint.due_at,
                revision=complaint.revision,
            ),
        )


def _product(sample: SampleRequest) -> revisions.ProductRequest:
    """What a sample asks for, as its product."""
    return revisions.ProductRequest(
        client=sample.client,
        name=sample.product,
        specification=Specification(
            material=sample.material,
            form=sample.form,
            comparison=sample.comparison,
            label_school=sample.label_school,
            tests=[test.model_copy(deep=True) for test in sample.tests],
        ),
    )


def _awning(warp: str, weft: str) -> revisions.ProductRequest:
    """The cloth of the first job, with limits for its tear and its strip tension."""
    tear = [_at_least("tear_force", *each) for each in (("warp", warp), ("weft", weft))]
    strip = [_at_least("max_force", *each) for each in (("warp", "1100"), ("weft", "900"))]
    return revisions.ProductRequest(
        client=JOBS[0].client,
        name=JOBS[0].product,
        specification=Specification(
            material=JOBS[0].material,
            tests=[
                TestRequest(method="iso-13937-2", limits=tear),
                TestRequest(method="iso-13934-1", limits=strip),
            ],
        ),
    )


def _at_least(name: str, direction: str, limit: str) -> LimitRequest:
    return LimitRequest(property=name, direction=direction, criterion=Criterion(limit=limit))
