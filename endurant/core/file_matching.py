"""Which file, or which row of a file, is of which specimen: by its code or its label."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from endurant.core.quoting import listed


@dataclass(frozen=True)
class Matched:
    """A name and the label that it was taken for; None with the reason where it was not."""

    name: str
    label: str | None
    text: str = ""


def match(names: Sequence[str], specimens: Sequence[tuple[str, str]]) -> list[Matched]:
    """Return the label of each name, in order; `specimens` are labels with their codes.

    A code goes before a label, and a whole word is asked for: `S1` is not found in `S12`. A
    label may be written with leading zeros. What fits several specimens fits none, and two
    names that fit the same are both left open.
    """
    matches = [_one(name, specimens) for name in names]
    counts = Counter(matched.label for matched in matches if matched.label is not None)
    return [
        Matched(matched.name, None, f"{counts[matched.label]} fit {matched.label}")
        if matched.label is not None and counts[matched.label] > 1
        else matched
        for matched in matches
    ]


def _one(name: str, specimens: Sequence[tuple[str, str]]) -> Matched:
    for what in (1, 0):
        fits = [each[0] for each in specimens if _stands_in(each[what], name)]
        if len(fits) == 1:
            return Matched(name, fits[0])
        if fits:
            return Matched(name, None, f"it fits {listed(fits)}")
    return Matched(name, None, "it names no specimen of this test")


def _stands_in(word: str, name: str) -> bool:
    letters, digits = re.fullmatch(r"(.*?)(\d*)", word).groups()  # type: ignore[union-attr]
    pattern = re.escape(letters) + (f"0*{digits}" if digits else "")
    return re.search(rf"(?<![A-Za-z0-9]){pattern}(?![A-Za-z0-9])", name, re.IGNORECASE) is not None
