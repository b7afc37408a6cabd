"""A photograph from a file: what it is, is decided by its content; what it hides is left behind."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from endurant.core.refusals import Invalid

MAX_BYTES = 20_000_000
MAX_PIXELS = 40_000_000
LONGEST_SIDE, SMALL_SIDE = 2400, 320
QUALITY = 86
FORMATS = ("JPEG", "PNG", "WEBP", "GIF", "TIFF", "BMP")
ENDS = {"JPEG": b"\xff\xd9", "PNG": b"IEND"}
LOOKED_FOR_ITS_END = 65_536


@dataclass(frozen=True)
class Encoded:
    """A photograph as it is kept: upright, in RGB, without anything but its pixels."""

    jpeg: bytes
    small: bytes
    width: int
    height: int

    @property
    def small_sha256(self) -> str:
        """The hash of the small picture."""
        return hashlib.sha256(self.small).hexdigest()

    @property
    def sha256(self) -> str:
        """The hash of its bytes, by which it is kept once."""
        return hashlib.sha256(self.jpeg).hexdigest()


def encode(name: str, data: bytes) -> Encoded:
    """The photograph in a file; raises Invalid for one that is too large, or is none.

    Of a file with several pictures it is the first. A JPEG is unfolded at a fraction of its size
    where that is enough.
    """
    if len(data) > MAX_BYTES:
        raise Invalid(
            "photo.too-large",
            name=name,
            size_mb=len(data) / 1000000.0,
            max_mb=MAX_BYTES / 1000000.0,
            field="file",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
            if image.width * image.height > MAX_PIXELS:
                raise Invalid(
                    "photo.too-many-pixels",
                    name=name,
                    width=image.width,
                    height=image.height,
                    max_million=MAX_PIXELS / 1000000.0,
                    field="file",
                )
            _refuse_torn(image.format or "", data)
            image.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise Invalid("photo.unpacks-too-large", name=name, field="file") from error
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise Invalid("photo.unreadable", name=name, field="file") from error
    upright.info.clear()  # Pillow would write the comment of the file into the new one
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    small = upright.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE))
    return Encoded(_jpeg(upright), _jpeg(small), upright.width, upright.height)


def size_of(jpeg: bytes) -> tuple[int, int] | None:
    """Width and height that a JPEG says it has; None where it is none."""
    try:
        return Image.open(io.BytesIO(jpeg), formats=("JPEG",)).size
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError):
        return None


def _refuse_torn(kind: str, data: bytes) -> None:
    """Raises ValueError for a file that stops before its end, whoever may have allowed such."""
    end = ENDS.get(kind)
    if end is not None and end not in data[-LOOKED_FOR_ITS_END:]:
        raise ValueError("it stops before its end")


def _jpeg(image: Image.Image) -> bytes:
    written = io.BytesIO()
    image.save(written, "JPEG", quality=QUALITY)
    return written.getvalue()
