"""Photographs that unfold to far more than they weigh."""

from __future__ import annotations

import io
import struct
import zlib

import pytest
from PIL import Image, ImageOps

from endurant.core.refusals import Invalid
from endurant.work.use_cases.photographs.encoding import LONGEST_SIDE, MAX_PIXELS, encode


def saved(image: Image.Image, kind: str, **more: object) -> bytes:
    written = io.BytesIO()
    image.save(written, kind, **more)
    return written.getvalue()


def a_gif_of(wide: int, high: int) -> bytes:
    """A GIF that says it is so large, and holds next to nothing."""
    small = saved(Image.new("P", (8, 8)), "GIF")
    return small[:6] + struct.pack("<HH", wide, high) + small[10:]


def a_png_of(wide: int, high: int) -> bytes:
    """A PNG of a few kilobytes whose rows are all nothing."""

    def chunk(name: bytes, data: bytes) -> bytes:
        body = name + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    head = struct.pack(">IIBBBBB", wide, high, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes((wide + 7) // 8 + 1) * high, 9)
    signature = b"\x89PNG\r\n\x1a\n"
    return signature + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


@pytest.mark.parametrize("make", [a_gif_of, a_png_of])
@pytest.mark.parametrize(("wide", "high"), [(7700, 7700), (60_000, 60_000), (65_000, 700)])
def test_more_pixels_than_are_read_are_refused_before_they_are_unfolded(
    make: object, wide: int, high: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert callable(make)
    data = make(wide, high)
    assert len(data) < 1_000_000
    monkeypatch.setattr(ImageOps, "exif_transpose", _unfolded)
    with pytest.raises(Invalid) as refusal:
        encode("bomb", data)
    assert refusal.value.code in ("photo.too-many-pixels", "photo.unpacks-too-large")


def _unfolded(image: Image.Image) -> Image.Image:
    raise AssertionError(f"{image.size} was unfolded")


def test_a_large_jpeg_is_unfolded_at_a_fraction_of_its_size(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    wide = 6000
    assert wide * wide < MAX_PIXELS
    data = saved(Image.new("RGB", (wide, wide), (90, 90, 90)), "JPEG")
    seen: list[tuple[int, int]] = []
    whole = ImageOps.exif_transpose

    def noted(image: Image.Image) -> Image.Image:
        seen.append(image.size)
        return whole(image)

    monkeypatch.setattr(ImageOps, "exif_transpose", noted)
    encoded = encode("large.jpg", data)
    assert seen == [(wide // 2, wide // 2)]
    assert (encoded.width, encoded.height) == (LONGEST_SIDE, LONGEST_SIDE)


def test_only_the_first_of_many_pictures_is_unfolded() -> None:
    frames = [Image.new("P", (300, 200), shade) for shade in range(60)]
    data = saved(frames[0], "GIF", save_all=True, append_images=frames[1:])
    assert (encode("many.gif", data).width, encode("many.gif", data).height) == (300, 200)


@pytest.mark.parametrize("kind", ["JPEG", "GIF", "PNG"])
def test_nothing_that_a_file_says_of_itself_is_kept(kind: str) -> None:
    secret = b"made by a person at an address"
    image = Image.new("RGB", (40, 30))
    more: dict[str, object] = {"comment": secret}
    data = saved(image, kind, **more) + (secret if kind == "PNG" else b"")
    encoded = encode("said", data)
    assert secret in data
    assert secret not in encoded.jpeg + encoded.small


@pytest.mark.parametrize(
    "data", [b"", b"\xff\xd8\xff", b"GIF89a", b"RIFF0000WEBP", b"II*\0\0\0\0\0", b"BM" + bytes(60)]
)
def test_heads_without_a_body_are_refused_in_words(data: bytes) -> None:
    with pytest.raises(Invalid, match="photo.unreadable"):
        encode("head", data)
