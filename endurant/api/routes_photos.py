"""Photographs of specimens."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, Response, UploadFile

from endurant.api.session import SignedIn
from endurant.work.photographs import photos

router = APIRouter(tags=["photographs"])

FOREVER = {"cache-control": "private, max-age=31536000, immutable"}
"""A photograph is named by its hash: its bytes never change."""


@router.get("/specimens/{specimen_id}/photos")
def list_photos(actor: SignedIn, specimen_id: int) -> list[photos.PhotoView]:
    """The photographs of a specimen."""
    return photos.photos_of(specimen_id)


@router.post("/specimens/{specimen_id}/photos", status_code=201)
def add_photo(
    actor: SignedIn,
    specimen_id: int,
    file: Annotated[UploadFile, File()],
    shows: Annotated[str, Form(max_length=200)] = "",
    subject: Annotated[str, Form(max_length=80)] = "",
) -> list[photos.PhotoView]:
    """A photograph from a file or a camera."""
    name = file.filename or "the photograph"
    return photos.add_photo(actor, specimen_id, name, file.file.read(), shows, subject)


@router.get("/specimens/{specimen_id}/photo-subjects")
def list_photo_subjects(actor: SignedIn, specimen_id: int) -> list[str]:
    """The looks, drops and voids of a specimen that a photograph can show by itself."""
    return photos.subjects_of(specimen_id)


@router.put("/photos/{photo_id}")
def change_photo(
    actor: SignedIn, photo_id: int, asked: photos.PhotoAsked
) -> list[photos.PhotoView]:
    """What it shows, and whether the report shows it."""
    return photos.change_photo(actor, photo_id, asked)


@router.delete("/photos/{photo_id}")
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
