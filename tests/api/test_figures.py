"""The manager's figures: what is counted, by whose clock, and who may read it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from io import BytesIO
from typing import Any

from openpyxl import load_workbook

from tests.laboratory import Bench, behind_its_back, queries


def this_month() -> str:
    return f"{datetime.now(UTC).astimezone():%Y-%m}"


def figures(bench: Bench, month: str = "") -> dict[str, Any]:
    view: dict[str, Any] = bench.as_("greta").get(f"/figures?month={month or this_month()}")
    return view


def test_a_month_without_work_has_no_figures(bench: Bench) -> None:
    view = figures(bench, "2020-02")
    assert [line["month"] for line in view["months"]][:2] == ["2019-03", "2019-04"]
    assert view["months"][-1] == {
        "month": "2020-02",
        "released": 0,
        "turnaround_days": None,
        "promised_days": None,
        "late": 0,
        "late_days": None,
    }
    assert (view["people"], view["stations"], view["voids"]) == ([], [], [])


def test_workload_and_voids_are_counted(bench: Bench) -> None:
    job = bench.tested_job()
    specimen = bench.specimen(job, "W1")
    codes = bench.get("/methods/iso-13937-2")["void_codes"]
    body = {"code": codes[0]["code"], "remark": "seen"}
    bench.post(f"/specimens/{specimen['id']}/void", body)
    view = figures(bench)
    work = {line["name"]: line for line in view["people"]}
    runs = work["Ines Tester"]["runs"]
    assert runs == 10
    assert work["Ines Tester"]["voids"] == sum(line["count"] for line in view["voids"])
    assert all(line["person"] == "Ines Tester" for line in view["voids"])


def test_a_late_report_counts_as_late(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    now = datetime.now(UTC)
    behind_its_back(
        database,
        "UPDATE job SET received_at = :received, due_at = :due",
        received=(now - timedelta(days=5.5)).replace(tzinfo=None),
        due=(now - timedelta(days=1.5)).replace(tzinfo=None),
    )
    (line,) = [each for each in figures(bench)["months"] if each["released"]]
    assert line == {
        "month": this_month(),
        "released": 1,
        "turnaround_days": 5.5,
        "promised_days": 4.0,
        "late": 1,
        "late_days": 1.5,
    }
    work = {each["name"]: each["released"] for each in figures(bench)["people"]}
    assert work["Maren Reviewer"] == 1


def test_hours_are_those_of_the_runs_at_a_station(bench: Bench, database: str) -> None:
    job = bench.job_ready_to_test()
    bench.pull(job, "W1")
    behind_its_back(database, "UPDATE run SET ended_at = started_at + INTERVAL 90 MINUTE")
    view = figures(bench)
    (station,) = view["stations"]
    assert (station["name"], station["runs"], station["hours"]) == ("Frame 1", 1, 1.5)
    (instrument,) = view["instruments"]
    assert (instrument["serial"], instrument["hours"]) == ("T-1", 1.5)


def test_only_the_manager_reads_them_and_as_a_workbook_too(bench: Bench, database: str) -> None:
    for login in ("ines", "maren", "pelle"):
        assert bench.as_(login).refused("GET", "/figures", 403) == "access.role"
    greta = bench.as_("greta")
    assert greta.refused("GET", "/figures?month=2026-13", 422)
    book = load_workbook(BytesIO(greta.call("GET", "/figures.xlsx?month=2026-03").content))
    assert book.sheetnames[:2] == ["turnaround", "people 2026-03"]
    assert book["turnaround"]["A13"].value == "2026-03"
    with queries(database, "started_at") as few:
        greta.get("/figures")
    bench.tested_job()
    with queries(database, "started_at") as many:
        greta.get("/figures")
    assert len(many) == len(few)
