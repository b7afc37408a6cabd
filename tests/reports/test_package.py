"""A package proves itself; one changed byte does not."""

from __future__ import annotations

import io
import json
import random
import zipfile
from contextlib import suppress
from functools import partial
from pathlib import Path

import pikepdf
import pytest

from endurant.cli import main
from endurant.core.refusals import Invalid, Unavailable
from endurant.reports.package import Manifest, check_package, package
from endurant.reports.pdf import stamped
from endurant.reports.signing import (
    KEY_VARIABLE,
    PASSPHRASE_VARIABLE,
    has_key,
    make_key,
    signature_of_file,
    signature_of_pdf,
    signature_over,
    signed_pdf,
)

LABORATORY = "Harbour Test House"
NOTHING = "0" * 64


@pytest.fixture(scope="module")
def key(tmp_path_factory: pytest.TempPathFactory) -> Path:
    file = tmp_path_factory.mktemp("key") / "laboratory.p12"
    make_key(file, LABORATORY, "a passphrase")
    return file


@pytest.fixture
def signing(monkeypatch: pytest.MonkeyPatch, key: Path) -> None:
    monkeypatch.setenv(KEY_VARIABLE, str(key))
    monkeypatch.setenv(PASSPHRASE_VARIABLE, "a passphrase")


def one_page() -> bytes:
    with pikepdf.new() as pdf:
        pdf.add_blank_page()
        stream = io.BytesIO()
        pdf.save(stream)
    return stream.getvalue()


def packed(tmp_path: Path, **members: bytes) -> Path:
    """A package with these files, a dot for each `_` of their names."""
    manifest = Manifest(
        number="R-0401",
        revision=2,
        laboratory=LABORATORY,
        released_at="2026-03-02T08:00:00Z",
        report_sha256=NOTHING,
    )
    named = [(name.replace("_", "."), content) for name, content in members.items()]
    made = package(manifest, [(name, partial(bytes, content)) for name, content in named])
    file = tmp_path / "R-0401-2.zip"
    file.write_bytes(b"".join(made))
    return file


def changed(file: Path, name: str, content: bytes | None) -> Path:
    """The same archive with other content under a name, or without it."""
    with zipfile.ZipFile(file) as archive:
        members = {each: archive.read(each) for each in archive.namelist()}
    members |= {name: content or b""}
    if content is None:
        del members[name]
    other = file.with_name("changed.zip")
    with zipfile.ZipFile(other, "w") as archive:
        for each, bytes_of in members.items():
            archive.writestr(each, bytes_of)
    return other


def test_a_signed_package_holds(signing: None, tmp_path: Path) -> None:
    file = packed(tmp_path, record_pdf=signed_pdf(one_page()), specimens_csv=b"label\nW1\n")
    checked = check_package(file)
    assert checked.wrong == []
    assert checked.seen[0] == "Report R-0401, revision 2."
    assert [f"is signed by {LABORATORY}" in sentence for sentence in checked.seen] == [
        False,
        True,
        True,
    ]
    assert main(["verify-package", str(file)]) == 0


@pytest.mark.parametrize(
    ("name", "content", "sentence"),
    [
        ("specimens.csv", b"label\nW2\n", "specimens.csv was changed after the package was made."),
        ("specimens.csv", None, "specimens.csv is listed in the manifest and missing"),
        ("extra.txt", b"more", "extra.txt is in the archive and not listed"),
    ],
)
def test_whatever_differs_from_the_list_is_named(
    signing: None, tmp_path: Path, name: str, content: bytes | None, sentence: str
) -> None:
    other = changed(packed(tmp_path, specimens_csv=b"label\nW1\n"), name, content)
    (wrong,) = check_package(other).wrong
    assert wrong.startswith(sentence)
    assert main(["verify-package", str(other)]) == 1


def test_one_changed_byte_anywhere_is_found(signing: None, tmp_path: Path) -> None:
    file = packed(tmp_path, specimens_csv=b"label\nW1\n" * 40)
    whole = file.read_bytes()
    for place in range(0, len(whole), 7):
        file.write_bytes(whole[:place] + bytes([whole[place] ^ 1]) + whole[place + 1 :])
        try:
            checked = check_package(file)
        except Invalid:
            continue
        if not checked.wrong:
            assert same_files(file, whole), place


def same_files(file: Path, whole: bytes) -> bool:
    """A date of the archive says nothing of what it holds."""
    with zipfile.ZipFile(file) as one, zipfile.ZipFile(io.BytesIO(whole)) as other:
        return one.namelist() == other.namelist() and all(
            one.read(name) == other.read(name) for name in one.namelist()
        )


def test_a_list_written_anew_does_not_carry_the_signature(signing: None, tmp_path: Path) -> None:
    file = packed(tmp_path, specimens_csv=b"W1")
    with zipfile.ZipFile(file) as archive:
        text = archive.read("manifest.json")
    forged = json.dumps(json.loads(text) | {"revision": 3}).encode()
    checked = check_package(changed(file, "manifest.json", forged))
    assert checked.wrong == [f"manifest.json was changed after {LABORATORY} signed it."]


def test_a_signature_that_was_taken_away_is_missed(signing: None, tmp_path: Path) -> None:
    file = packed(tmp_path, specimens_csv=b"W1")
    checked = check_package(changed(file, "manifest.json.p7s", None))
    assert checked.wrong == ["The signature of manifest.json is missing."]


def test_content_that_was_not_released_is_named(tmp_path: Path) -> None:
    checked = check_package(packed(tmp_path, report_json=b"{}"))
    assert checked.wrong == ["report.json is not the content that was released."]
    assert checked.seen[-1] == "manifest.json carries no signature."


@pytest.mark.parametrize(
    ("content", "code"),
    [(b"no archive", "package.not-an-archive"), (b"", "package.not-an-archive")],
)
def test_what_is_no_package_is_refused(tmp_path: Path, content: bytes, code: str) -> None:
    file = tmp_path / "file.zip"
    file.write_bytes(content)
    with pytest.raises(Invalid) as refused:
        check_package(file)
    assert refused.value.code == code
    assert main(["verify-package", str(file)]) == 2


def test_an_archive_without_a_readable_list_is_refused(tmp_path: Path) -> None:
    file = packed(tmp_path, specimens_csv=b"W1")
    with pytest.raises(Invalid) as refused:
        check_package(changed(file, "manifest.json", None))
    assert refused.value.code == "package.no-manifest"
    with pytest.raises(Invalid) as refused:
        check_package(changed(file, "manifest.json", b"{}"))
    assert refused.value.code == "package.manifest-unreadable"
    with pytest.raises(Invalid) as refused:
        check_package(tmp_path / "nowhere.zip")
    assert refused.value.code == "package.no-file"


def test_a_signed_pdf_shows_every_change(signing: None) -> None:
    signed = signed_pdf(one_page())
    signature = signature_of_pdf(signed)
    assert signature is not None
    assert signature.holds
    assert signature.signer == LABORATORY
    place = signed.index(b"/MediaBox") + 1
    altered = signature_of_pdf(signed[:place] + b"m" + signed[place + 1 :])
    assert altered is not None
    assert not altered.is_intact
    added = signature_of_pdf(signed + b"\n% added\n")
    assert added is not None
    assert not added.holds


def test_a_stamp_is_signed_anew(signing: None) -> None:
    signature = signature_of_pdf(stamped(signed_pdf(one_page()), "Withdrawn. It holds no longer."))
    assert signature is not None
    assert signature.holds


def test_without_a_key_nothing_is_signed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv(KEY_VARIABLE, raising=False)
    assert signed_pdf(b"as it is") == b"as it is"
    assert signature_over(b"text") is None
    assert signature_of_pdf(one_page()) is None


def test_a_key_that_cannot_be_read_is_said(
    monkeypatch: pytest.MonkeyPatch, key: Path, tmp_path: Path
) -> None:
    monkeypatch.setenv(KEY_VARIABLE, str(key))
    monkeypatch.setenv(PASSPHRASE_VARIABLE, "another")
    with pytest.raises(Unavailable) as refused:
        has_key()
    assert refused.value.code == "signing.key-unreadable"
    monkeypatch.setenv(KEY_VARIABLE, str(tmp_path / "nowhere.p12"))
    with pytest.raises(Unavailable):
        signed_pdf(one_page())


def test_a_key_is_for_its_owner_and_is_never_written_over(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "new.p12"
    assert main(["signing-key", str(file), "--name", LABORATORY]) == 0
    assert KEY_VARIABLE in capsys.readouterr().out
    assert file.stat().st_mode & 0o077 == 0
    before = file.read_bytes()
    assert main(["signing-key", str(file), "--name", LABORATORY]) == 2
    assert file.read_bytes() == before


@pytest.mark.parametrize("junk", [b"", b"junk", b"0\x82"])
def test_what_is_no_signature_is_refused(junk: bytes) -> None:
    with pytest.raises(Invalid):
        signature_of_file(b"text", junk)
    with pytest.raises(Invalid):
        signature_of_pdf(junk)


def test_damage_anywhere_is_a_refusal_or_a_signature_that_does_not_hold(signing: None) -> None:
    """Bytes chosen once: what a library raises for them never leaves it."""
    rng = random.Random(7)
    pdf, over = signed_pdf(one_page()), signature_over(b"text") or b""
    for _ in range(150):
        with suppress(Invalid):
            assert signature_of_file(b"other", damaged(over, rng)).holds is False
        with suppress(Invalid):
            signature_of_pdf(damaged(pdf, rng))


def damaged(whole: bytes, rng: random.Random) -> bytes:
    """The same bytes with up to eight others among them."""
    changed_bytes = bytearray(whole)
    for _ in range(rng.choice((1, 2, 8))):
        changed_bytes[rng.randrange(len(whole))] = rng.randrange(256)
    return bytes(changed_bytes)
