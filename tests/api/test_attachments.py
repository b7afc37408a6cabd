"""Attachments: what a file is, is decided by its content; it is hashed, sealed, and kept."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import pytest
from openpyxl import Workbook
from PIL import Image

from endurant.core.refusals import Invalid
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.attachments.content import JPEG, ODS, PDF, TEXT, XLSX, checked_file
from tests.laboratory import Bench, behind_its_back, sample

A_PDF = b"%PDF-1.7\n1 0 obj\nendobj\n%%EOF\n"


def picture() -> bytes:
    written = io.BytesIO()
    Image.new("RGB", (40, 30), (90, 40, 30)).save(written, "PNG")
    return written.getvalue()


def workbook() -> bytes:
    written = io.BytesIO()
    Workbook().save(written)
    return written.getvalue()


def archive(**files: bytes) -> bytes:
    written = io.BytesIO()
    with zipfile.ZipFile(written, "w") as made:
        for name, content in files.items():
            made.writestr(name, content)
    return written.getvalue()


@pytest.mark.parametrize(
    ("data", "media_type"),
    [
        (A_PDF, PDF),
        (picture(), JPEG),
        ("Größe 4".encode("cp1252"), TEXT),
        (workbook(), XLSX),
        (archive(mimetype=ODS.encode()), ODS),
    ],
)
def test_a_file_is_what_its_content_says(data: bytes, media_type: str) -> None:
    checked = checked_file("order.exe", data)
    assert checked.media_type == media_type
    if media_type == TEXT:
        assert checked.content.decode() == "Größe 4"


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "attachment.empty"),
        (A_PDF[:-8], "attachment.torn"),
        (workbook()[:200], "attachment.torn"),
        (archive(virus=b"x"), "attachment.kind-unknown"),
        (archive(mimetype=b"x" * len(ODS)), "attachment.kind-unknown"),
        (b"\x7fELF\0\0\0", "attachment.kind-unknown"),
        (picture()[:60], "photo.unreadable"),
        (b"x" * 20_000_001, "attachment.too-large"),
    ],
)
def test_what_cannot_be_attached_is_refused(data: bytes, code: str) -> None:
    with pytest.raises(Invalid, match=code):
        checked_file("order.pdf", data)


def attached(bench: Bench, subject: str, key: object, name: str = "order.pdf") -> Any:
    data = {"subject": subject, "key": str(key)}
    return bench.post("/attachments", data=data, files={"file": (name, A_PDF)})


def test_a_file_goes_with_a_job_once_and_is_removed_with_a_reason(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    (view,) = attached(bench, "job", job["id"], "C:\\papers\\order.pdf")
    assert (view["name"], view["media_type"], view["by"]) == ("order.pdf", PDF, "Ines Tester")
    assert len(attached(bench, "job", job["id"])) == 1
    answer = bench.call("GET", f"/attachments/{view['id']}/content")
    assert answer.content == A_PDF
    assert answer.headers["content-disposition"] == 'attachment; filename="order.pdf"'
    path = f"/attachments/{view['id']}"
    assert bench.refused("DELETE", path, 422) == "attachment.reason-missing"
    assert bench.call("DELETE", f"{path}?reason=wrong+job").json() == []
    assert bench.refused("DELETE", f"{path}?reason=again", 404) == "attachment.none"
    assert bench.call("GET", f"{path}/content").content == A_PDF
    assert bench.get(f"/attachments?subject=job&key={job['id']}") == []
    assert verify().sentences == []


def test_clients_instruments_and_products_have_files_of_their_own(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    first = bench.post(f"/jobs/{job['id']}/product", {"seen": 0})["id"]
    second = bench.post(f"/jobs/{job['id']}/product", {"seen": 1})["id"]
    for subject, key in (("client", job["client"]), ("instrument", "T-1"), ("product", second)):
        assert len(attached(bench, subject, key)) == 1
    (shared,) = bench.get(f"/attachments?subject=product&key={first}")
    assert shared["name"] == "order.pdf"
    for subject, key in (("job", 999), ("client", "Nobody"), ("instrument", "T-9"), ("product", 9)):
        code = bench.refused("GET", f"/attachments?subject={subject}&key={key}", 404)
        assert code == "attachment.subject-unknown"
    assert bench.refused("GET", "/attachments?subject=person&key=1", 422)


def test_a_file_that_was_changed_behind_the_program_is_found(bench: Bench, database: str) -> None:
    job = bench.post("/jobs", sample())
    attached(bench, "job", job["id"])
    behind_its_back(database, "UPDATE attachment SET content = 'other'")
    assert any("attachment" in sentence for sentence in verify().sentences)
