"""Files that go with a job, a client, an instrument or a product."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, Response, UploadFile

from endurant.api.files import attached
from endurant.api.long import in_long_thread, in_process, photograph_places
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right
from endurant.work.use_cases.attachments import attachments
from endurant.work.use_cases.attachments.content import checked_file

router = APIRouter(route_class=Route, tags=["attachments"])

CHECKED_WITHIN_S = 20.0
Key = Annotated[str, Query(min_length=1, max_length=120)]


@router.get("/attachments")
def list_attachments(
    actor: SignedIn, subject: attachments.Subject, key: Key
) -> list[attachments.AttachmentView]:
    """The files of a job, a client, an instrument or a product."""
    return attachments.attachments_of(subject, key)


@router.post(
    "/attachments", dependencies=[reads_up_to(FILE_BYTES), right("receive")], status_code=201
)
async def attach(
    actor: SignedIn,
    request: Request,
    file: Annotated[UploadFile, File()],
    subject: Annotated[attachments.Subject, Form()],
    key: Annotated[str, Form(min_length=1, max_length=120)],
) -> list[attachments.AttachmentView]:
    """Attach a file: a PDF, a picture, text or a spreadsheet."""
    name = file.filename or ""
    check = partial(checked_file, name)
    data = await file.read()
    checked = await in_process(request, check, data, CHECKED_WITHIN_S, photograph_places)
    return await in_long_thread(lambda: attachments.attach(actor, subject, key, name, checked))


@router.delete("/attachments/{attachment_id}", dependencies=[right("receive")])
def remove_attachment(
    actor: SignedIn, attachment_id: int, reason: Annotated[str, Query(max_length=300)] = ""
) -> list[attachments.AttachmentView]:
    """Take a file off the lists, with a reason."""
    return attachments.remove_attachment(actor, attachment_id, reason)


@router.get("/attachments/{attachment_id}/content", response_class=Response)
def attachment_content(actor: SignedIn, attachment_id: int) -> Response:
    """The file itself, to be saved."""
    name, media_type, content = attachments.attachment_content(attachment_id)
    return attached(content, media_type, name)
