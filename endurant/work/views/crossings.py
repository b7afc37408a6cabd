"""Specimens that were to have crossing yarns of their own, and for which the sheet had no room."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from endurant.core.cutting.apart import SharedCrossing, shared_crossings
from endurant.core.cutting.sheet import OTHER_YARN, Placement, way_in_words
from endurant.core.labelled import labels_in_words
from endurant.core.methods import find_method
from endurant.core.rounding import in_numbers
from endurant.store.tables import Job, Test


def crossing_text(
    job: Job, placements: Sequence[Placement], labels: Mapping[int, str]
) -> dict[int, list[str]]:
    """The sentences of each test, by its id; none where the yarns are apart.

    `labels` are those of the specimens by what their pieces are known by on the sheet.
    """
    tests = {test.id: test for test in job.tests}
    sentences: dict[int, list[str]] = {}
    for shared in shared_crossings(placements):
        test = tests[int(shared.test)]
        names = list(dict.fromkeys(labels[key] for key in shared.keys))
        sentences.setdefault(test.id, []).append(_sentence(test, shared, names))
    return sentences


def _sentence(test: Test, shared: SharedCrossing, names: list[str]) -> str:
    yarns = way_in_words(OTHER_YARN[shared.long_side], find_method(test.method).directions)
    upper = in_numbers(round(shared.max_mm))
    return (
        f"{labels_in_words(names)} share crossing {yarns} yarns with one another, over {upper} mm "
        "at most: the sample is too small to keep them apart"
    )
