"""Files to save, and to show, under a name that any client reads (RFC 6266)."""

from __future__ import annotations

import re
from urllib.parse import quote

from fastapi import Response

from endurant.core.tables import Table
from endurant.reports.workbook import workbook_of


def disposition(how: str, name: str) -> str:
    """The header that names a file: plain letters for old clients, the whole name for others."""
    plain = re.sub(r"[^A-Za-z0-9._ -]", "_", name) or "file"
    if plain == name:
        return f'{how}; filename="{plain}"'
    written = quote(name.encode("utf-8", "replace"), safe="")
    return f"{how}; filename=\"{plain}\"; filename*=UTF-8''{written}"


def attached(data: bytes | str, media_type: str, name: str) -> Response:
    """A file that the browser saves."""
    headers = {"content-disposition": disposition("attachment", name)}
    return Response(data, media_type=media_type, headers=headers)


def csv_response(text: str, name: str) -> Response:
    """A CSV file to save under `name`."""
    return attached(text, "text/csv; charset=utf-8", name)


def workbook_response(tables: dict[str, list[Table]], name: str) -> Response:
    """A workbook to save under `name`, with a sheet for each title."""
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return attached(workbook_of(tables), kind, name)


def pdf_response(pdf: bytes, name: str) -> Response:
    """A PDF that the browser shows, and saves under `name`."""
    headers = {"content-disposition": disposition("inline", name)}
    return Response(pdf, media_type="application/pdf", headers=headers)
