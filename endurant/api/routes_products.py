"""Products: their specifications by revision, and the table of all of them."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, Request, Response, UploadFile

from endurant.api.files import csv_response, workbook_response
from endurant.api.long import in_long_thread, in_process
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right
from endurant.core.workbooks import table_of
from endurant.work.use_cases.products import revisions
from endurant.work.views import products

TABLE_WITHIN_S = 20.0

router = APIRouter(route_class=Route, tags=["products"])


@router.get("/counter")
def known_at_counter(actor: SignedIn) -> products.KnownAtCounter:
    """What was written at the counter before, and the products that are kept."""
    return products.known_at_counter()


@router.get("/products")
def list_products(
    actor: SignedIn, request: Annotated[products.ProductsRequest, Query()]
) -> products.ProductList:
    """A page of products by client and name."""
    return products.products(request)


@router.get("/products/{product_id}")
def show_product(actor: SignedIn, product_id: int) -> products.ProductPage:
    """One revision of a product, with all of its revisions."""
    return products.product(actor, product_id)


@router.get("/products/{product_id}/differences")
def compare_revisions(
    actor: SignedIn, product_id: int, before: Annotated[int, Query()]
) -> list[str]:
    """What differs between two revisions, `before` being the earlier one."""
    return products.differences(product_id, before)


@router.post("/products/{product_id}/approve", dependencies=[right("approve-products")])
def approve_product(
    actor: SignedIn, product_id: int, request: revisions.ApprovalRequest
) -> products.ProductPage:
    """Approve the newest draft of a product."""
    return revisions.approve(actor, product_id, request)


@router.post("/products/{product_id}/retire", dependencies=[right("approve-products")])
def retire_product(
    actor: SignedIn, product_id: int, request: revisions.RetirementRequest
) -> products.ProductPage:
    """Retire a product: no lot of it is received any more."""
    return revisions.retire(actor, product_id, request)


@router.post("/products", dependencies=[right("receive")], status_code=201)
def keep_product(actor: SignedIn, request: revisions.ProductRequest) -> products.ProductView:
    """Keep a product as a new revision, which is a draft."""
    return revisions.keep_product(actor, request)


@router.get("/jobs/{job_id}/specification")
def show_specification(actor: SignedIn, job_id: int) -> revisions.JobSpecification:
    """What a job asks for, so that another one can be received like it."""
    return revisions.specification_of(job_id)


@router.post("/jobs/{job_id}/product", dependencies=[right("receive")], status_code=201)
def keep_product_of_job(
    actor: SignedIn, job_id: int, request: revisions.SeenRequest
) -> products.ProductView:
    """Keep what a job asks for as its product."""
    return revisions.keep_from_job(actor, job_id, request)


@router.get("/products.csv", response_class=Response)
def products_as_table(actor: SignedIn) -> Response:
    """Every product as a table."""
    return csv_response(revisions.products_table().csv(), "products.csv")


@router.get("/products.xlsx", response_class=Response)
def products_as_workbook(actor: SignedIn) -> Response:
    """The same as a workbook."""
    return workbook_response({"products": [revisions.products_table()]}, "products.xlsx")


@router.post("/products/import", dependencies=[reads_up_to(FILE_BYTES), right("receive")])
async def take_products(
    actor: SignedIn, request: Request, file: Annotated[UploadFile, File()]
) -> list[products.ProductView]:
    """Take products from a table (CSV or a workbook), all of them or none."""
    table = await in_process(request, table_of, await file.read(), TABLE_WITHIN_S, whose=actor.id)
    return await in_long_thread(lambda: revisions.take_products_table(actor, table))


@router.post("/products/preview", dependencies=[reads_up_to(FILE_BYTES), right("receive")])
async def preview_products(
    actor: SignedIn, request: Request, file: Annotated[UploadFile, File()]
) -> revisions.ProductsPreview:
    """Show what a table of products would change, and what in it is refused."""
    table = await in_process(request, table_of, await file.read(), TABLE_WITHIN_S, whose=actor.id)
    return await in_long_thread(lambda: revisions.preview_products(actor, table))
