"""A released report as one file: every form of it, with a list of hashes that proves them.

A package is a ZIP archive. `manifest.json` names each other file with its SHA-256, and the SHA-256
under which the report was released; `manifest.json.p7s` is the laboratory's signature over it.
"""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import struct
import zipfile
import zlib
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from endurant.core.messages import worded
from endurant.core.refusals import Invalid
from endurant.reports.pdf import stamped
from endurant.reports.report_workbook import report_tables
from endurant.reports.signing import (
    Signature,
    has_key,
    signature_of_file,
    signature_of_pdf,
    signature_over,
)
from endurant.reports.tables import report_specimens, report_traces
from endurant.reports.workbook import workbook_of
from endurant.work.use_cases.reporting.release import ReleasedForms

MANIFEST, MANIFEST_SIGNATURE = "manifest.json", "manifest.json.p7s"
CONTENT = "report.json"
MAX_BYTES = 2_000_000_000
"""What an archive may hold unpacked: a stranger's archive may claim anything."""
UNREADABLE = (
    *(zipfile.BadZipFile, zlib.error, lzma.LZMAError, EOFError),
    *(struct.error, RuntimeError, ValueError),
)
"""What is raised while a stranger's archive is read: damaged, locked, or packed in another way."""
Sha256 = Annotated[str, StringConstraints(pattern="^[0-9a-f]{64}$")]


class Manifest(BaseModel):
    """What a package holds. `no_longer` says why the report does not hold; empty if it does.

    `signed` keeps a signature from being taken away unnoticed.
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["endurant-package/1"] = "endurant-package/1"
    number: str
    revision: int
    laboratory: str
    released_at: str
    report_sha256: Sha256
    no_longer: str = ""
    signed: bool = False
    files: dict[str, Sha256] = Field(default_factory=dict)


Member = tuple[str, Callable[[], bytes]]


def released_package(forms: ReleasedForms) -> Iterator[bytes]:
    """The package of a released report: both PDFs, its stored text, and its tables."""
    content, no_longer = forms.content, forms.no_longer
    pdfs = {"record.pdf": forms.pdf, "client.pdf": forms.client_pdf}
    members: list[Member] = [
        (name, partial(_as_it_holds, pdf, no_longer)) for name, pdf in pdfs.items() if pdf
    ]
    members += [
        (CONTENT, forms.text.encode),
        ("report.xlsx", lambda: workbook_of(report_tables(content))),
        ("specimens.csv", lambda: "\n".join(t.csv() for t in report_specimens(content)).encode()),
        ("traces.csv", lambda: report_traces(content).csv().encode()),
    ]
    manifest = Manifest(
        number=content.number,
        revision=content.revision,
        laboratory=content.laboratory,
        released_at=content.released_at.isoformat() if content.released_at else "",
        report_sha256=forms.sha256,
        no_longer=no_longer,
    )
    return package(manifest, members)


def _as_it_holds(pdf: bytes, no_longer: str) -> bytes:
    return stamped(pdf, no_longer) if no_longer else pdf


def package(manifest: Manifest, members: list[Member]) -> Iterator[bytes]:
    """The bytes of a package, made member by member as they are sent."""
    sent = _Sent()
    listed = dict(manifest.files)
    with zipfile.ZipFile(sent, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, make in members:
            content = make()
            listed[name] = hashlib.sha256(content).hexdigest()
            archive.writestr(name, content)
            yield sent.taken()
        whole = manifest.model_copy(update={"files": listed, "signed": has_key()})
        text = json.dumps(whole.model_dump(), indent=1, ensure_ascii=False).encode()
        archive.writestr(MANIFEST, text)
        signature = signature_over(text)
        if signature is not None:
            archive.writestr(MANIFEST_SIGNATURE, signature)
    yield sent.taken()


class _Sent(io.RawIOBase):
    """A stream that is only written to; what was written is taken once."""

    def __init__(self) -> None:
        super().__init__()
        self._kept = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, given: bytes) -> int:  # type: ignore[override]
        self._kept += given
        return len(given)

    def taken(self) -> bytes:
        """What was written since the last call."""
        given, self._kept = bytes(self._kept), bytearray()
        return given


@dataclass(frozen=True)
class Checked:
    """What came of a package: what was seen, and what does not hold."""

    seen: list[str]
    wrong: list[str]


def check_package(file: Path) -> Checked:
    """Check a package without a database: every file, the report's own hash, every signature.

    Raises Invalid for a file that is no package.
    """
    try:
        with zipfile.ZipFile(file) as archive:
            return _checked(archive)
    except FileNotFoundError as missing:
        raise Invalid("package.no-file", file=str(file)) from missing
    except (OSError, *UNREADABLE) as broken:
        raise Invalid("package.not-an-archive", file=str(file), why=str(broken)) from broken


def _checked(archive: zipfile.ZipFile) -> Checked:
    names = archive.namelist()
    if sum(each.file_size for each in archive.infolist()) > MAX_BYTES:
        raise Invalid("package.too-large", most_gb=MAX_BYTES / 1e9)
    if MANIFEST not in names:
        raise Invalid("package.no-manifest")
    text = archive.read(MANIFEST)
    try:
        manifest = Manifest.model_validate_json(text)
    except ValidationError as unreadable:
        raise Invalid("package.manifest-unreadable") from unreadable
    seen = [worded("package.of", number=manifest.number, revision=manifest.revision)]
    if manifest.no_longer:
        seen.append(manifest.no_longer)
    twice = sorted(name for name, times in Counter(names).items() if times > 1)
    wrong = [worded("package.named-twice", name=name) for name in twice]
    beside = set(names) - {MANIFEST, MANIFEST_SIGNATURE}
    wrong += [worded("package.missing", name=n) for n in sorted(set(manifest.files) - beside)]
    wrong += [worded("package.not-listed", name=n) for n in sorted(beside - set(manifest.files))]
    for name in sorted(beside & set(manifest.files)):
        _check_member(archive, name, manifest, seen, wrong)
    if MANIFEST_SIGNATURE in names:
        signature = signature_of_file(text, archive.read(MANIFEST_SIGNATURE))
        _say(signature, MANIFEST, seen, wrong)
    elif manifest.signed:
        wrong.append(worded("package.signature-missing"))
    else:
        seen.append(worded("package.unsigned", name=MANIFEST))
    return Checked(seen, wrong)


def _check_member(
    archive: zipfile.ZipFile, name: str, manifest: Manifest, seen: list[str], wrong: list[str]
) -> None:
    try:
        content = archive.read(name)
    except UNREADABLE:
        wrong.append(worded("package.changed", name=name))
        return
    digest = hashlib.sha256(content).hexdigest()
    if digest != manifest.files[name]:
        wrong.append(worded("package.changed", name=name))
        return
    if name == CONTENT and digest != manifest.report_sha256:
        wrong.append(worded("package.not-as-released", name=name))
    if not name.endswith(".pdf"):
        return
    signature = signature_of_pdf(content)
    if signature is None:
        seen.append(worded("package.unsigned", name=name))
    else:
        _say(signature, name, seen, wrong)


def _say(signature: Signature, name: str, seen: list[str], wrong: list[str]) -> None:
    signer = signature.signer
    if signature.holds:
        signed = worded(
            "package.signed", name=name, signer=signer, fingerprint=signature.fingerprint
        )
        seen.append(signed)
    else:
        wrong.append(worded("package.signature-broken", name=name, signer=signer))
