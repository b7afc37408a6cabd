"""The animated tour in docs: the way of a sample through the screens, from their pictures.

`scripts/screenshots.py` takes the pictures; this turns those of the daily path into one file.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

PICTURES = Path(__file__).parent.parent / "docs" / "screenshots"
TOUR = PICTURES.parent / "tour.webp"
PATH = (
    *("today", "receive", "cutting", "conditioning", "measuring"),
    *("bench-look", "working-slip", "judge", "report"),
)
SIZE = (960, 600)
SHOWN_MS = 2200
MAX_BYTES = 3_000_000


def main() -> None:
    """Write the tour; end with a failure when it is larger than a page should load."""
    frames = [_frame(name) for name in PATH]
    frames[0].save(
        TOUR,
        save_all=True,
        append_images=frames[1:],
        duration=SHOWN_MS,
        loop=0,
        quality=80,
        method=6,
    )
    size = TOUR.stat().st_size
    print(f"{TOUR.name}: {len(frames)} pictures, {size / 1000:.0f} kB")
    if size > MAX_BYTES:
        sys.exit(f"{TOUR.name} is larger than {MAX_BYTES / 1e6:g} MB")


def _frame(name: str) -> Image.Image:
    with Image.open(PICTURES / f"{name}.png") as picture:
        return picture.convert("RGB").resize(SIZE, Image.Resampling.LANCZOS)


if __name__ == "__main__":
    main()
