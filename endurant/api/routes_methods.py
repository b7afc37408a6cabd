"""Methods with their guides, and documents computed without a job."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile

from endurant.api.long import in_long_thread
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right
from endurant.core.conditioning.document import condition_document
from endurant.core.csv_import import import_csv
from endurant.core.document import analyse, in_units, read_document
from endurant.core.judging.document import judge_document
from endurant.core.quantities import System
from endurant.core.reading import MAX_BYTES, parse_json, too_large
from endurant.work.base.view import View
from endurant.work.facts.models import TestView
from endurant.work.use_cases.bench import accepting, importing, readings
from endurant.work.views import guides

router = APIRouter(route_class=Route, tags=["methods"])


class ImportedView(View):
    """A test document made of files, and what was taken for what."""

    document: dict[str, Any]
    said: list[str]


@router.get("/methods")
def list_methods(actor: SignedIn) -> list[guides.MethodLine]:
    """Every method that can be asked for."""
    return guides.method_lines()


@router.get("/methods/{method_id}")
def show_method(actor: SignedIn, method_id: str) -> guides.MethodPage:
    """The page of a method: what it needs, does, computes, and what goes wrong."""
    return guides.method_page(method_id)


@router.get("/methods/{method_id}/example")
def show_example(actor: SignedIn, method_id: str) -> guides.ExampleView:
    """A worked example of a method: its readings, curves and figures."""
    return guides.method_example(method_id)


@router.post("/analyse", dependencies=[reads_up_to(FILE_BYTES)])
async def analyse_document(
    actor: SignedIn, request: Request, units: System = "metric"
) -> dict[str, Any]:
    """Compute a test document."""
    data = await _document(request)
    return await in_long_thread(
        lambda: in_units(analyse(read_document(parse_json(data))).as_json(), units)
    )


@router.post("/evaluate", dependencies=[reads_up_to(FILE_BYTES)])
async def answer_judging(actor: SignedIn, request: Request) -> dict[str, Any]:
    """Answer a judging document."""
    data = await _document(request)
    return await in_long_thread(lambda: judge_document(parse_json(data)))


@router.post("/conditioning", dependencies=[reads_up_to(FILE_BYTES)])
async def answer_conditioning(actor: SignedIn, request: Request) -> dict[str, Any]:
    """Answer a conditioning document."""
    data = await _document(request)
    return await in_long_thread(lambda: condition_document(parse_json(data)))


@router.post("/import", dependencies=[reads_up_to(FILE_BYTES)])
async def import_files(
    actor: SignedIn,
    method: Annotated[str, Form(max_length=40)],
    files: Annotated[list[UploadFile], File()],
    specimens_by: Annotated[str | None, Form(max_length=80)] = None,
) -> ImportedView:
    """Make a test document of CSV files, to be looked at before it is brought in."""
    named = [(file.filename or "file.csv", await file.read()) for file in files]
    taken = await in_long_thread(
        lambda: import_csv(named, method, specimens_by=specimens_by or None)
    )
    return ImportedView(document=taken.document, said=taken.said)


@router.post("/tests/{test_id}/import", dependencies=[reads_up_to(FILE_BYTES), right("test")])
async def preview_files(
    actor: SignedIn,
    test_id: int,
    files: Annotated[list[UploadFile], File()],
    specimens_by: Annotated[str, Form(max_length=80)] = "",
    mapping: Annotated[str, Form(max_length=60)] = "",
) -> importing.PreviewView:
    """Keep files and match them with the specimens of a test; nothing is imported yet."""
    named = [(file.filename or "file.csv", await file.read()) for file in files]

    def look() -> importing.PreviewView:
        mapped = importing.mapping_or_refuse(mapping) if mapping else {}
        return importing.preview(actor, test_id, named, specimens_by.strip() or None, mapped)

    return await in_long_thread(look)


@router.post("/headers/import", dependencies=[reads_up_to(FILE_BYTES)])
async def show_headers(
    actor: SignedIn, file: Annotated[UploadFile, File()]
) -> importing.HeadersView:
    """The headers of a file, for whoever says what they mean."""
    return importing.headers(file.filename or "file.csv", await file.read())


@router.get("/mappings")
def list_mappings(actor: SignedIn) -> list[importing.MappingView]:
    """What the headers of other programs mean, by name."""
    return importing.mappings()


@router.post("/mappings", dependencies=[right("test")], status_code=201)
def keep_mapping(actor: SignedIn, request: importing.MappingRequest) -> importing.MappingView:
    """Keep a mapping as a new revision of its name."""
    return importing.keep_mapping(actor, request)


@router.post(
    "/tests/{test_id}/readings",
    dependencies=[reads_up_to(FILE_BYTES), right("test")],
    status_code=201,
)
async def bring_in_readings(
    actor: SignedIn, test_id: int, request: readings.ReadingsRequest
) -> TestView:
    """Take the readings of specimens from a document."""
    return await in_long_thread(lambda: readings.bring_in_readings(actor, test_id, request))


@router.post("/tests/{test_id}/accept", dependencies=[right("test")])
def accept_all(actor: SignedIn, test_id: int) -> TestView:
    """Accept every specimen of a test that waits for it."""
    return accepting.accept_all(actor, test_id)


@router.post("/tests/{test_id}/accept/undo", dependencies=[right("test")])
def undo_acceptance_of_all(actor: SignedIn, test_id: int) -> TestView:
    """Undo *Accept all*: by the person who did it, within a minute."""
    return accepting.undo_acceptance_of_all(actor, test_id)


async def _document(request: Request) -> bytes:
    """The body of a request; refused by its size before it is read."""
    length = request.headers.get("content-length", "")
    if length.isdigit() and int(length) > MAX_BYTES:
        raise too_large(int(length))
    data = bytearray()
    async for piece in request.stream():
        data += piece
        if len(data) > MAX_BYTES:
            raise too_large(len(data))
    return bytes(data)
