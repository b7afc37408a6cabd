"""What an attached file is: decided by its content, never by its name."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass

from endurant.core.csv_dialect import text_of
from endurant.core.refusals import Invalid
from endurant.work.use_cases.photographs.encoding import encode

MAX_BYTES = 20_000_000
PDF = "application/pdf"
JPEG = "image/jpeg"
TEXT = "text/plain"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
ODS = "application/vnd.oasis.opendocument.spreadsheet"
_LOOKED_FOR_ITS_END = 2048
_IMAGES = (b"\xff\xd8\xff", b"\x89PNG", b"GIF8", b"RIFF", b"II*\0", b"MM\0*", b"BM")


@dataclass(frozen=True)
class CheckedFile:
    """A file as it is kept: a picture is encoded anew, without what it hid."""

    media_type: str
    content: bytes


def checked_file(name: str, data: bytes) -> CheckedFile:
    """Return what a file is; raises Invalid for one that is too large, torn, or of another kind.

    Read are PDF, pictures, text, and spreadsheets (XLSX, ODS).
    """
    if not data:
        raise Invalid("attachment.empty", name=name, field="file")
    if len(data) > MAX_BYTES:
        size, upper = len(data) / 1e6, MAX_BYTES / 1e6
        raise Invalid("attachment.too-large", name=name, size_mb=size, max_mb=upper, field="file")
    if data.startswith(b"%PDF-"):
        if b"%%EOF" not in data[-_LOOKED_FOR_ITS_END:]:
            raise Invalid("attachment.torn", name=name, field="file")
        return CheckedFile(PDF, data)
    if data.startswith(b"PK"):
        return CheckedFile(_spreadsheet(name, data), data)
    if data.startswith(_IMAGES):
        return CheckedFile(JPEG, encode(name, data).jpeg)
    try:
        return CheckedFile(TEXT, text_of(data).encode())
    except Invalid as refusal:
        raise Invalid("attachment.kind-unknown", name=name, field="file") from refusal


def _spreadsheet(name: str, data: bytes) -> str:
    """The kind of a spreadsheet, by what its archive lists; nothing in it is unpacked but that."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = set(archive.namelist())
            if {"[Content_Types].xml", "xl/workbook.xml"} <= names:
                return XLSX
            is_short = "mimetype" in names and archive.getinfo("mimetype").file_size == len(ODS)
            if is_short and archive.read("mimetype") == ODS.encode():
                return ODS
    except (zipfile.BadZipFile, RuntimeError, ValueError) as error:
        raise Invalid("attachment.torn", name=name, field="file") from error
    raise Invalid("attachment.kind-unknown", name=name, field="file")
