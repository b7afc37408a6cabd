"""What is due: one list of calibrations, checks, authorisations, consumables and remainders."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from tests.api.test_instruments import FOIL
from tests.laboratory import Bench, behind_its_back, queries, sample
from tests.pdf_text import text_of


def on(days: float) -> str:
    return (datetime.now(UTC) + timedelta(days=days)).isoformat()


def lines(bench: Bench, kind: str) -> list[dict[str, Any]]:
    return [line for line in bench.get("/due")["lines"] if line["kind"] == kind]


def test_nothing_is_due_in_a_new_laboratory(bench: Bench) -> None:
    view = bench.get("/due")
    assert (view["lines"], view["overdue"]) == ([], 0)
    assert "Nothing is due." in text_of(bench.call("GET", "/due.pdf").content)


def test_what_is_due_is_printed_with_a_box_for_each(bench: Bench, database: str) -> None:
    behind_its_back(
        database, "UPDATE instrument SET calibration_due_at = UTC_TIMESTAMP() - INTERVAL 1 DAY"
    )
    text = text_of(bench.call("GET", "/due.pdf").content)
    assert "Load cell, T-1" in text
    assert "overdue" in text


def test_a_calibration_is_due_within_a_month_and_then_overdue(bench: Bench, database: str) -> None:
    greta = bench.as_("greta")
    dates = {"calibrated_at": on(-300), "calibration_due_at": on(20), "certificate": "C-5"}
    greta.post("/instruments/T-1/calibrate", dates)
    (line,) = lines(bench, "calibration")
    assert (line["serial"], line["overdue"], line["text"]) == (
        "T-1",
        False,
        "calibration, certificate C-5",
    )
    behind_its_back(
        database, "UPDATE instrument SET calibration_due_at = UTC_TIMESTAMP() - INTERVAL 1 DAY"
    )
    (line,) = lines(bench, "calibration")
    assert line["overdue"] is True
    assert bench.get("/due")["overdue"] == 1
    behind_its_back(database, "UPDATE instrument SET retired_at = NOW()")
    assert lines(bench, "calibration") == []


def test_a_reference_check_is_due_by_its_last_reading(bench: Bench, database: str) -> None:
    bench.as_("greta").post("/instruments/T-1/checks", FOIL)
    behind_its_back(database, "UPDATE reference_check SET since = NOW() - INTERVAL 400 DAY")
    (line,) = lines(bench, "check")
    assert (line["serial"], line["overdue"]) == ("T-1", True)


def test_a_weekly_check_is_due_shortly_before_its_week_is_over(bench: Bench, database: str) -> None:
    bench.as_("greta").post("/instruments/T-1/checks", FOIL | {"every_days": 8})
    since = "UPDATE reference_check SET since = NOW() - INTERVAL {} HOUR"
    for hours, listed in ((1, 0), (5 * 24, 0), (6 * 24 + 1, 1), (8 * 24 + 1, 1)):
        behind_its_back(database, since.format(hours))
        assert len(lines(bench, "check")) == listed


def test_an_authorisation_that_ends_is_named_until_another_holds(bench: Bench) -> None:
    greta = bench.as_("greta")
    me = bench.get("/session")["id"]
    path = f"/people/{me}/authorisations"
    greta.post(path, {"method": "iso-13937-2", "until": on(10)})
    (line,) = lines(bench, "authorisation")
    assert (line["title"], line["person_id"], line["overdue"]) == ("Ines Tester", me, False)
    assert line["text"] == "Trouser tear of woven fabric"
    greta.post(path, {"method": "iso-180", "until": on(90)})
    assert len(lines(bench, "authorisation")) == 1


def test_a_lot_past_its_days_is_due_now(bench: Bench, database: str) -> None:
    bench.post("/consumables", {"kind": "diaphragm", "lot": "D-1", "limit_days": 30})
    assert lines(bench, "consumable") == []
    behind_its_back(database, "UPDATE supply SET opened_at = opened_at - INTERVAL 31 DAY")
    (line,) = lines(bench, "consumable")
    assert (line["title"], line["due_at"], line["overdue"]) == ("diaphragm, D-1", None, True)


def test_a_remainder_is_due_until_it_is_disposed_of(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    path = f"/jobs/{job['id']}/custody"
    bench.post(path, {"kind": "kept", "location": "shelf 4", "until": on(60)})
    assert lines(bench, "remainder") == []
    bench.post(path, {"kind": "kept", "location": "shelf 4", "until": on(5)})
    (line,) = lines(bench, "remainder")
    assert (line["job_id"], line["text"]) == (job["id"], "remainder at shelf 4")
    bench.post(path, {"kind": "disposed"})
    assert lines(bench, "remainder") == []


def test_the_list_takes_as_many_queries_for_many_jobs_as_for_one(
    bench: Bench, database: str
) -> None:
    def kept(number: int) -> None:
        for _ in range(number):
            job = bench.post("/jobs", sample())
            body = {"kind": "kept", "location": "shelf 4", "until": on(5)}
            bench.post(f"/jobs/{job['id']}/custody", body)

    def count() -> int:
        with queries(database, "custody_event") as seen:
            bench.get("/due")
        return len(seen)

    kept(1)
    bench.get("/due")
    first = count()
    kept(3)
    assert len(lines(bench, "remainder")) == 4
    assert count() == first > 0
