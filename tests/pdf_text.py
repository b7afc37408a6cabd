"""The text of a PDF, page by page, as a reader sees it (poppler's `pdftotext`)."""

from __future__ import annotations

import subprocess


def pages_of(pdf: bytes) -> list[str]:
    """Return the text of each page, its words parted by single blanks."""
    ran = subprocess.run(
        ["pdftotext", "-raw", "-", "-"], input=pdf, capture_output=True, check=True
    )
    pages = ran.stdout.decode().split("\f")[:-1]
    return [" ".join(page.split()) for page in pages]


def text_of(pdf: bytes) -> str:
    """Return the text of all pages."""
    return " ".join(pages_of(pdf))
