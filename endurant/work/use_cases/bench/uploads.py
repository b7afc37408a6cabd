"""Uploads: files are sent once, looked at, and imported by the id of their upload.

What the screen shows of them is read on the server, and read again from the same bytes when they
are imported: neither a sample nor the name of a file comes from a browser twice.
"""

from __future__ import annotations

import hashlib
from codecs import BOM_UTF8
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import timedelta
from typing import Any

from sqlalchemy import delete, exists, or_, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, undefer

from endurant.core.csv_import import import_csv
from endurant.core.file_matching import Matched, match
from endurant.core.methods import find_method
from endurant.core.reading import parse_json
from endurant.core.refusals import Conflict, Invalid, NotFound
from endurant.store import clock
from endurant.store.tables import Run, Test
from endurant.store.uploads import SourceFile, Upload
from endurant.work.base.actors import Actor
from endurant.work.base.transactions import transaction
from endurant.work.facts.called_specimens import called_specimens
from endurant.work.facts.status import last_run, test_or_refuse

MAX_FILES = 300
KEPT_FOR = timedelta(days=1)
"""An upload that nobody imports is forgotten after so long, with its files."""
MAX_NAME = 200


@dataclass(frozen=True)
class Source:
    """The file that the readings of a specimen were read from, and how it was read."""

    name: str
    sha256: str
    said: tuple[str, ...] = ()


@dataclass(frozen=True)
class Brought:
    """A test document, and the file of each specimen that came from one, by its label."""

    document: dict[str, Any]
    sources: Mapping[str, Source] = field(default_factory=dict)


@dataclass(frozen=True)
class _Read:
    """What files hold: entries of specimens, each with its file, and what a document adds."""

    entries: list[tuple[dict[str, Any], Source]]
    beside: dict[str, Any]
    names_specimens: bool

    @property
    def names(self) -> list[str]:
        """What the entries are called in the files."""
        return [str(entry["label"]) for entry, _ in self.entries]


@dataclass(frozen=True)
class Kept:
    """An upload as it was looked at: its id, its entries, and what each was taken for."""

    id: int
    entries: list[dict[str, Any]]
    matches: list[Matched]
    said: list[str]


def keep_upload(
    actor: Actor,
    test_id: int,
    files: Sequence[tuple[str, bytes]],
    specimens_by: str | None,
    mapped: Mapping[str, str],
) -> Kept:
    """Keep files for a test and match them with its specimens; nothing is imported yet.

    Raises Invalid that names the file, NotFound.
    """
    actor.must("test")
    if len(files) > MAX_FILES:
        raise Invalid("upload.too-many-files", count=len(files), max=MAX_FILES, field="files")
    with transaction() as session:
        test = test_or_refuse(session, test_id)
        method = test.method
        open_ones, others = _specimens_of(test)
    read = _read(method, files, specimens_by, mapped)
    if read.names_specimens:
        matches = [Matched(name, name) for name in read.names]
    else:
        matches = _matched(read.names, open_ones, others)
    with transaction() as session:
        _forget(session, actor)
        kept = [
            {"name": name[:MAX_NAME], "sha256": _keep_file(session, data)} for name, data in files
        ]
        upload = Upload(
            test_id=test_id,
            by_id=actor.id,
            at=clock.now(),
            files=kept,
            specimens_by=specimens_by,
            columns=dict(mapped),
            labels=[matched.label for matched in matches],
        )
        session.add(upload)
        session.flush()
        said = [
            line for source in dict.fromkeys(s for _, s in read.entries) for line in source.said
        ]
        return Kept(upload.id, [entry for entry, _ in read.entries], matches, said)


def read_upload(actor: Actor, test_id: int, upload_id: int) -> Brought:
    """The document of an upload, read again from its files; raises NotFound, Conflict."""
    with transaction() as session:
        upload = _upload_or_refuse(session, actor, test_id, upload_id)
        method = session.get_one(Test, test_id).method
        held = session.scalars(
            select(SourceFile)
            .where(SourceFile.sha256.in_([file["sha256"] for file in upload.files]))
            .options(undefer(SourceFile.content))
        )
        contents = {row.sha256: row.content for row in held}
        if any(file["sha256"] not in contents for file in upload.files):
            raise NotFound("upload.gone")
        files = [(file["name"], contents[file["sha256"]]) for file in upload.files]
        specimens_by, mapped, labels = upload.specimens_by, upload.columns, upload.labels
    read = _read(method, files, specimens_by, mapped)
    taken = [
        (entry | {"label": label}, source)
        for (entry, source), label in zip(read.entries, labels, strict=True)
        if label is not None
    ]
    return Brought(
        read.beside | {"specimens": [entry for entry, _ in taken]},
        {entry["label"]: source for entry, source in taken},
    )


def use_upload(session: Session, actor: Actor, test_id: int, upload_id: int) -> None:
    """Mark an upload as imported; raises Conflict for one that was imported before."""
    upload = _upload_or_refuse(session, actor, test_id, upload_id, lock=True)
    upload.used_at = clock.now()


def keep_source(session: Session, name: str, data: bytes, said: Sequence[str]) -> Source:
    """Keep one file that readings came from."""
    return Source(name[:MAX_NAME], _keep_file(session, data), tuple(said))


def _upload_or_refuse(
    session: Session, actor: Actor, test_id: int, upload_id: int, *, lock: bool = False
) -> Upload:
    upload = session.get(Upload, upload_id, with_for_update=lock or None)
    if upload is None or upload.test_id != test_id or upload.by_id != actor.id:
        raise NotFound("upload.gone")
    if upload.used_at is not None:
        raise Conflict("upload.used")
    return upload


Named = list[tuple[str, str]]
"""Labels of specimens with their codes."""


def _specimens_of(test: Test) -> tuple[Named, Named]:
    """The specimens that are to be tested, and all others."""
    called = {specimen.id for specimen in called_specimens(test) if last_run(specimen) is None}
    open_ones: Named = []
    others: Named = []
    for specimen in test.specimens:
        named = open_ones if specimen.id in called else others
        named.append((specimen.label, specimen.code))
    return open_ones, others


def _matched(names: Sequence[str], open_ones: Named, others: Named) -> list[Matched]:
    """What each name was taken for; one that names a specimen which is not open says so."""
    closed = match(names, others)
    return [
        replace(found, text=f"{other.label} cannot be tested: it is tested, void or a spare")
        if found.label is None and other.label is not None
        else found
        for found, other in zip(match(names, open_ones), closed, strict=True)
    ]


def _read(
    method: str,
    files: Sequence[tuple[str, bytes]],
    specimens_by: str | None,
    mapped: Mapping[str, str],
) -> _Read:
    """The specimens of files, file by file; a test document has to come alone."""
    if len(files) == 1 and files[0][1].removeprefix(BOM_UTF8).lstrip()[:1] in (b"{", b"["):
        return _read_document(*files[0])
    entries: list[tuple[dict[str, Any], Source]] = []
    for name, data in files:
        taken = import_csv([(name, data)], method, dict(mapped) or None, specimens_by)
        source = Source(name[:MAX_NAME], hashlib.sha256(data).hexdigest(), tuple(taken.said))
        entries += [(entry, source) for entry in taken.document["specimens"]]
    by_document = find_method(method).planned == "by-document"
    return _Read(entries, {}, names_specimens=by_document)


def _read_document(name: str, data: bytes) -> _Read:
    try:
        document = parse_json(data)
    except Invalid as refusal:
        raise refusal.within("file.in", file=name) from refusal
    specimens = document.get("specimens") if isinstance(document, dict) else None
    if not isinstance(document, dict) or not isinstance(specimens, list) or not specimens:
        raise Invalid("import.not-a-test-document", name=name, field="specimens")
    for number, entry in enumerate(specimens, start=1):
        if not isinstance(entry, dict) or not isinstance(entry.get("label"), str):
            raise Invalid("import.specimen-without-label", name=name, number=number, field="label")
    source = Source(name[:MAX_NAME], hashlib.sha256(data).hexdigest())
    beside = {key: value for key, value in document.items() if key != "specimens"}
    return _Read([(entry, source) for entry in specimens], beside, names_specimens=True)


def _keep_file(session: Session, data: bytes) -> str:
    sha256 = hashlib.sha256(data).hexdigest()
    row = insert(SourceFile).values(sha256=sha256, content=data).prefix_with("IGNORE")
    session.execute(row)
    return sha256


def _forget(session: Session, actor: Actor) -> None:
    """Forget old uploads that nobody imported, with files that nothing names.

    The last one of this person is forgotten too: nobody fills the database by looking at files.
    """
    is_over = or_(Upload.at < clock.now() - KEPT_FOR, Upload.by_id == actor.id)
    gone = list(session.scalars(select(Upload).where(is_over, Upload.used_at.is_(None))))
    hashes = {file["sha256"] for upload in gone for file in upload.files}
    for upload in gone:
        session.delete(upload)
    session.flush()
    if hashes:
        waiting = session.scalars(select(Upload.files).where(Upload.used_at.is_(None)))
        hashes -= {file["sha256"] for files in waiting for file in files}
        named = exists().where(Run.source_sha256 == SourceFile.sha256)
        session.execute(delete(SourceFile).where(SourceFile.sha256.in_(hashes), ~named))
