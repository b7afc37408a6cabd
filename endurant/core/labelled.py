"""Labels as they are read."""

from __future__ import annotations

import re
from collections.abc import Sequence


def labels_in_words(labels: Sequence[str]) -> str:
    """Return labels as they are read: "L1 to L6, L9"; three or more in a row are drawn together."""
    runs: list[list[str]] = []
    for label in labels:
        if runs and _follows(runs[-1][-1], label):
            runs[-1].append(label)
        else:
            runs.append([label])
    wording = [[f"{run[0]} to {run[-1]}"] if len(run) > 2 else run for run in runs]
    return ", ".join(word for some in wording for word in some)


def _follows(before: str, label: str) -> bool:
    """`label` is the next number of the same letters."""
    parts = [re.fullmatch(r"(.*\D|)(\d{1,9})", text) for text in (before, label)]
    if parts[0] is None or parts[1] is None:
        return False
    return parts[0][1] == parts[1][1] and int(parts[1][2]) == int(parts[0][2]) + 1
