"""People look, decide and count: endpoints, grades of several assessors, and what is due next."""

from __future__ import annotations

from typing import Any

import pytest

from endurant.core.methods.looking import (
    Inspection,
    cycles_done,
    endpoint_of,
    give_endpoint,
    give_grade,
    next_grade,
    next_look,
    rubs_done,
)
from endurant.core.methods.readings import Readings
from endurant.core.methods.results import SpecimenResult
from endurant.core.refusals import Invalid

READINGS = Readings(label="E1")


def looks(*counts: int, failed_at: int | None = None) -> list[Inspection]:
    return [
        Inspection(count=count, acceptable=failed_at is None or count < failed_at)
        for count in counts
    ]


def result() -> SpecimenResult:
    return SpecimenResult("E1", None, "original")


@pytest.mark.parametrize(
    ("inspections", "last", "failed"),
    [
        (looks(5000, 10000, 15000), 15000, None),
        (looks(5000, 10000, 15000, failed_at=15000), 10000, 15000),
        (looks(5000, failed_at=1), 0, 5000),
        (looks(5000, 10000, 15000, failed_at=6000), 5000, 10000),
    ],
)
def test_a_surface_ends_between_the_last_good_and_the_first_bad_look(
    inspections: list[Inspection], last: int, failed: int | None
) -> None:
    found = endpoint_of(READINGS, inspections)
    assert (found.last_acceptable, found.first_failed) == (last, failed)
    given = result()
    give_endpoint(given, found)
    assert given.figure("endpoint_count") == (last if failed is None else failed)
    assert given.values["endpoint_count"].qualifier == (">" if failed is None else None)
    assert given.figure("last_acceptable") == last


@pytest.mark.parametrize("counts", [(5000, 5000), (5000, 4000)])
def test_counts_of_looks_rise(counts: tuple[int, ...]) -> None:
    with pytest.raises(Invalid) as refusal:
        endpoint_of(READINGS, looks(*counts))
    assert refusal.value.code == "reading.count-not-rising"


def test_what_was_bad_does_not_become_good_again() -> None:
    again = [*looks(5000, failed_at=1), Inspection(count=6000, acceptable=True)]
    with pytest.raises(Invalid) as refusal:
        endpoint_of(READINGS, again)
    assert refusal.value.code == "reading.better-than-before"


@pytest.mark.parametrize(
    ("grades", "reported", "disagree"),
    [
        ([4.0], 4.0, False),
        ([4.0, 4.5], 4.0, False),
        ([4.0, 4.5, 4.0], 4.0, False),
        ([3.0, 4.0], 3.5, True),
        ([3.0, 4.0, 4.5], 4.0, True),
        ([4.5, 5.0, 5.0], 5.0, False),
    ],
)
def test_the_grade_is_the_median_down_to_a_half_step(
    grades: list[float], reported: float, disagree: bool
) -> None:
    given = result()
    give_grade(given, "stain_grade", grades, "")
    assert given.figure("stain_grade") == reported
    assert given.has_flag("assessors-disagree") is disagree


def test_a_disagreement_is_flagged_once_however_many_grades_disagree() -> None:
    given = result()
    give_grade(given, "stain_grade", [2.0, 4.0], ", cotton")
    give_grade(given, "change_grade", [2.0, 4.0], ", wool")
    assert [flag.code for flag in given.flags] == ["assessors-disagree"]


@pytest.mark.parametrize(
    ("grades", "assessor"),
    [([], 1), (["4"], 2), (["4", "4-5"], None), (["3", "4"], 3), (["3", "4", "4"], None)],
)
def test_a_third_assessor_grades_where_the_first_two_disagree(
    grades: list[str], assessor: int | None
) -> None:
    turn = next_grade("grade", "Staining")({}, grades)
    assert (None if turn is None else turn.title) == (
        None if assessor is None else f"Staining: assessor {assessor}"
    )
    if turn is not None:
        assert ("disagree" in turn.why) is (assessor == 3)


def look(count: int, acceptable: bool = True) -> dict[str, Any]:
    return {"count": count, "acceptable": acceptable}


def test_the_rig_runs_from_one_look_to_the_next() -> None:
    first = next_look([], 5000, "good", "worn", per_min=50)
    assert first is not None
    assert first.goes is not None
    assert (first.goes.seconds, first.goes.counts) == (60 * 5000 / 50, 5000)
    assert "First look." in first.why
    later = next_look([look(5000)], 8000, "good", "worn", per_min=50)
    assert later is not None
    assert later.goes is not None
    assert later.goes.seconds == 60 * 3000 / 50
    assert "Good up to 5000 so far." in later.why


def test_looks_end_with_a_bad_one_or_with_the_count_that_ends_them() -> None:
    assert next_look([look(5000, acceptable=False)], 6000, "good", "worn") is None
    assert next_look([look(200)], 400, "good", "worn", ends_at=200) is None
    last = next_look([look(150)], 400, "good", "worn", ends_at=200)
    assert last is not None
    assert last.title == "Examine {label} at 200"


def test_what_a_specimen_wore_is_counted_by_its_last_look_or_its_strokes() -> None:
    assert rubs_done({"inspections": [look(50), look(200)]}, {}) == 200
    assert rubs_done({}, {}) == 1
    assert cycles_done({}, {"cycles": 500}) == 500
    assert cycles_done({}, {}) == 1


@pytest.mark.parametrize("per_min", [30.0, 60.0, 120.0])
def test_the_time_of_a_run_is_that_of_its_rate(per_min: float) -> None:
    turn = next_look([look(100)], 700, "good", "worn", per_min=per_min)
    assert turn is not None
    assert turn.goes is not None
    assert turn.goes.seconds == pytest.approx(600 / per_min * 60)
    assert turn.goes.counts == 700
    assert [ask.name for ask in turn.asks] == ["count", "acceptable"]
    assert turn.asks[0].preset == 700


def test_the_answers_of_a_look_are_the_words_of_its_method() -> None:
    turn = next_look([], 200, "print intact", "print worn")
    assert turn is not None
    assert turn.asks[1].choices == ("print worn", "print intact")
    assert turn.asks[1].means == {"print worn": False, "print intact": True}
