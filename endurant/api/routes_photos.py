"""Photographs of specimens."""

from __future__ import annotations

from functools import partial
from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Request, Response, UploadFile

from endurant.api.long import in_long_thread, in_process, photograph_places
from endurant.api.route import Route
from endurant.api.session import FILE_BYTES, SignedIn, reads_up_to, right
from endurant.work.use_cases.photographs import photos
from endurant.work.use_cases.photographs.encoding import encode

router = APIRouter(route_class=Route, tags=["photographs"])

UNFOLDED_WITHIN_S = 20.0
FOREVER = {"cache-control": "private, max-age=31536000, immutable"}
"""A photograph is named by its hash: its bytes never change."""


@router.get("/specimens/{specimen_id}/photographs")
def list_photos(actor: SignedIn, specimen_id: int) -> list[photos.PhotoView]:
    """The photographs of a specimen."""
    return photos.photos_of(specimen_id)


@router.post(
    "/specimens/{specimen_id}/photographs",
    dependencies=[reads_up_to(FILE_BYTES), right("test")],
    status_code=201,
)
async def add_photo(
    actor: SignedIn,
    request: Request,
    specimen_id: int,
    file: Annotated[UploadFile, File()],
    shows: Annotated[str, Form(max_length=200)] = "",
    subject: Annotated[str, Form(max_length=80)] = "",
) -> list[photos.PhotoView]:
    """A photograph from a file or a camera."""
    unfold = partial(encode, file.filename or "the photograph")
    data = await file.read()
    encoded = await in_process(request, unfold, data, UNFOLDED_WITHIN_S, photograph_places)
    return await in_long_thread(
        lambda: photos.add_photo(actor, specimen_id, encoded, shows, subject)
    )


@router.get("/specimens/{specimen_id}/photograph-subjects")
def list_photo_subjects(actor: SignedIn, specimen_id: int) -> list[str]:
    """The looks, drops and voids of a specimen that a photograph can show by itself."""
    return photos.subjects_of(specimen_id)


@router.put("/photographs/{photo_id}", dependencies=[right("test")])
def change_photo(
    actor: SignedIn, photo_id: int, request: photos.PhotoRequest
) -> list[photos.PhotoView]:
    """What it shows, and whether the report shows it."""
    return photos.change_photo(actor, photo_id, request)


@router.delete("/photographs/{photo_id}", dependencies=[right("test")])
def remove_photo(
    actor: SignedIn, photo_id: int, reason: Annotated[str, Query(max_length=300)] = ""
) -> list[photos.PhotoView]:
    """Take it off the specimen; once that was tested, with a reason."""
    return photos.remove_photo(actor, photo_id, reason)


@router.get("/photographs/{sha256}.jpg", response_class=Response)
def show_photo(actor: SignedIn, sha256: str, small: bool = False) -> Response:
    """The photograph itself, whole or small."""
    return Response(
        photos.photo_bytes(sha256, small=small), media_type="image/jpeg", headers=FOREVER
    )
