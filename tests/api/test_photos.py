"""Photographs: what they are is decided by their content, and they are kept once."""

from __future__ import annotations

import io
from typing import Any

import pytest
from PIL import Image
from sqlalchemy import text

from endurant.store.engine import engine_for
from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench


def picture(
    wide: int = 640, high: int = 480, kind: str = "JPEG", shade: int = 120, **more: Any
) -> bytes:
    written = io.BytesIO()
    Image.new("RGB", (wide, high), (shade, 80, 60)).save(written, kind, **more)
    return written.getvalue()


def blank(wide: int, high: int) -> bytes:
    """A large picture of one colour, made in no time."""
    written = io.BytesIO()
    Image.new("1", (wide, high)).save(written, "PNG", compress_level=1)
    return written.getvalue()


def send(bench: Bench, specimen_id: int, name: str, data: bytes, shows: str = "") -> Any:
    path = f"/specimens/{specimen_id}/photographs"
    return bench.post(path, files={"file": (name, data)}, data={"shows": shows})


def test_a_photograph_is_kept_once_without_what_it_hid(bench: Bench, database: str) -> None:
    job = bench.job_ready_to_test()
    w1, w2 = (bench.specimen(job, label)["id"] for label in ("W1", "W2"))
    exif = Image.Exif()
    exif[0x010F] = "A maker"
    exif[0x0112] = 6
    data = picture(exif=exif, comment=b"where the parcel was opened")
    (photo,) = send(bench, w1, "front.jpg", data, "slipped at the left jaw")
    assert (photo["width"], photo["height"]) == (480, 640)
    send(bench, w1, "again.jpg", data, "the same")
    assert len(bench.get(f"/specimens/{w1}/photographs")) == 1
    send(bench, w2, "front.jpg", data)
    with engine_for(database).connect() as connection:
        assert connection.execute(text("SELECT COUNT(*) FROM photo")).scalar() == 1
    whole = bench.call("GET", f"/photographs/{photo['sha256']}.jpg")
    assert whole.headers["content-type"] == "image/jpeg"
    kept = Image.open(io.BytesIO(whole.content))
    assert not kept.getexif()
    assert b"parcel" in data
    assert b"parcel" not in whole.content
    small = bench.call("GET", f"/photographs/{photo['sha256']}.jpg?small=true")
    assert max(Image.open(io.BytesIO(small.content)).size) == 320
    assert verify().sentences == []


@pytest.mark.parametrize(
    ("name", "data", "wording"),
    [
        ("notes.jpg", b"a text file, whatever its name", "photo.unreadable"),
        ("half.jpg", picture()[:700], "photo.unreadable"),
        ("large.jpg", b"\xff" * 30_000_000, "photo.too-large"),
        ("wide.png", blank(9000, 9000), "photo.too-many-pixels"),
    ],
)
def test_what_is_no_photograph_is_refused_in_words(
    bench: Bench, name: str, data: bytes, wording: str
) -> None:
    job = bench.job_ready_to_test()
    path = f"/specimens/{bench.specimen(job, 'W1')['id']}/photographs"
    answer = bench.refused("POST", path, 422, files={"file": (name, data)})
    assert answer == wording
    assert bench.get(path) == []


def test_a_photograph_that_was_chosen_is_in_the_report(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    w1 = bench.specimen(job, "W1")["id"]
    (photo,) = send(bench, w1, "scan.png", picture(kind="PNG"), "a clean tear")
    before = len(bench.call("GET", f"/jobs/{job['id']}/draft.pdf").content)
    body = {"shows": "a clean tear, face up", "in_report": True}
    (photo,) = bench.put(f"/photographs/{photo['id']}", body)
    assert photo["in_report"] is True
    assert len(bench.call("GET", f"/jobs/{job['id']}/draft.pdf").content) > before + 1000
    assert bench.as_("maren").release(job["id"]).status_code == 200
    assert bench.refused("DELETE", f"/photographs/{photo['id']}", 409) == "job.released"
    path = f"/specimens/{w1}/photographs"
    assert bench.refused("POST", path, 409, files={"file": ("b.jpg", picture())}) == "job.released"
    with engine_for(database).begin() as connection:
        connection.execute(text("UPDATE photo SET jpeg = CONCAT(jpeg, 'x')"))
    assert any("is not the one that was stored" in wording for wording in verify().sentences)


@pytest.mark.parametrize(
    ("change", "wording"),
    [
        ("DELETE FROM photo", "is missing: a specimen names it"),
        ("UPDATE photo SET small = jpeg", "its small picture is not the one"),
        ("UPDATE photo SET width = 7", "is said to be 7 x 480"),
        ("UPDATE photo SET height = height + 1", "is said to be 640 x 481"),
    ],
)
def test_each_part_of_a_photograph_is_proved(
    bench: Bench, database: str, change: str, wording: str
) -> None:
    job = bench.job_ready_to_test()
    send(bench, bench.specimen(job, "W1")["id"], "front.jpg", picture())
    assert verify().sentences == []
    with engine_for(database).begin() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        connection.execute(text(change))
    (found,) = verify().sentences
    assert wording in found


def test_one_that_is_taken_off_can_come_back(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    w1 = bench.specimen(job, "W1")["id"]
    (photo,) = send(bench, w1, "a.jpg", picture())
    assert bench.call("DELETE", f"/photographs/{photo['id']}").json() == []
    assert bench.refused("DELETE", f"/photographs/{photo['id']}", 404)
    (again,) = send(bench, w1, "a.jpg", picture(), "once more")
    assert (again["id"], again["shows"]) == (photo["id"], "once more")
    assert bench.refused("GET", f"/photographs/{'0' * 64}.jpg", 404)
