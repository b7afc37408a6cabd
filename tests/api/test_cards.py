"""What lists and clocks show: the same as a rebuild after every change, and as quick with more."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import quote

import pytest
from sqlalchemy import text

from endurant.store import clock
from endurant.store.engine import engine_for
from endurant.store.tables import ConditioningTally, Enclosure, Job, JobCard
from endurant.store.tables import Test as TestRow
from endurant.work.base.memory import Remembered
from endurant.work.base.transactions import transaction
from endurant.work.facts import results
from endurant.work.read_models.changes import Lookout
from endurant.work.read_models.job_cards import refresh_turned, watch_turning
from endurant.work.upkeep.rebuild import rebuild, stale_cards
from endurant.work.upkeep.verify import verify
from endurant.work.use_cases.preparation.enclosures import store_readings
from tests.api.test_conditioning import bring_log, cut_job, ids, log_of
from tests.laboratory import Bench, queries, sample


def line_of(bench: Bench, job: dict[str, Any], state: str = "open") -> dict[str, Any]:
    lines = bench.get(f"/jobs?state={state}")["jobs"]
    return next(line for line in lines if line["id"] == job["id"])


def holds() -> None:
    assert list(stale_cards()) == []


def test_the_card_follows_a_job_from_the_counter_to_its_report(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    holds()
    assert line_of(bench, job)["next_code"] == "cut"
    body = {"revision": job["revision"], "seconds": 0}
    sheet = bench.post(f"/jobs/{job['id']}/sheet/place", body)
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    holds()
    assert line_of(bench, job)["next_code"] == "start-conditioning"
    with clock.as_if(datetime.now(UTC) - timedelta(hours=25)):
        bench.post(
            "/enclosures/1/placements", {"specimen_ids": ids(bench.get(f"/jobs/{job['id']}"))}
        )
    holds()
    whole = bench.tested_job()
    holds()
    assert line_of(bench, whole)["next_code"] == "judge"
    bench.as_("maren").release(whole["id"])
    holds()
    assert (
        line_of(bench, whole, "released")["verdict"]
        == bench.get("/jobs?state=released")["jobs"][0]["verdict"]
    )
    assert verify().sentences == []


def test_a_void_and_its_withdrawal_change_the_card(bench: Bench) -> None:
    job = bench.job_ready_to_test()
    bench.bring_in(job, "W1")
    holds()
    assert line_of(bench, job)["tested"] == 1
    specimen = bench.specimen(job, "W1")
    bench.post(f"/specimens/{specimen['id']}/void", {"code": "set-aside", "remark": "wrong roll"})
    holds()
    assert line_of(bench, job)["tested"] == 0
    maren = bench.as_("maren")
    maren.post(f"/specimens/{specimen['id']}/void/withdraw", {"reason": "it was the right one"})
    holds()
    assert line_of(bench, job)["tested"] == 1


def test_time_alone_turns_a_card(bench: Bench, database: str) -> None:
    job = cut_job(bench, {"method": "iso-13937-2"})
    bench.post("/enclosures/1/placements", {"specimen_ids": ids(job)})
    assert line_of(bench, job)["next_code"] == "wait"
    with transaction() as session:
        card = session.get_one(JobCard, job["id"])
        assert card.turns_at is not None
        turns_at = card.turns_at
    with clock.as_if(turns_at - timedelta(seconds=5)), transaction() as session:
        assert refresh_turned(session, clock.now()) == 0
    with clock.as_if(turns_at + timedelta(seconds=1)):
        watch_turning()
    assert line_of(bench, job)["next_code"] == "test"
    with transaction() as session:
        assert session.get_one(JobCard, job["id"]).turns_at is None


def test_a_card_that_is_gone_or_wrong_is_found_and_made_again(bench: Bench, database: str) -> None:
    first, second = bench.post("/jobs", sample()), bench.post("/jobs", sample(lot="T-2"))
    with engine_for(database).begin() as connection:
        connection.execute(text(f"UPDATE job_card SET tested = 3 WHERE job_id = {first['id']}"))
        connection.execute(text(f"DELETE FROM job_card WHERE job_id = {second['id']}"))
    sentences = verify().sentences
    assert [("tested" in wording, "is missing" in wording) for wording in sentences] == [
        (True, False),
        (False, True),
    ]
    assert rebuild() == 2
    assert verify().sentences == []


def test_served_minutes_are_kept_as_the_log_grows(bench: Bench, database: str) -> None:
    bring_log(bench, log_of((26, 2, 20)))
    job = cut_job(bench, {"method": "iso-13937-2"})
    with clock.as_if(datetime.now(UTC) - timedelta(hours=2)):
        bench.post("/enclosures/1/placements", {"specimen_ids": ids(job)})
    with transaction() as session:
        assert session.query(ConditioningTally).count() == 1
        enclosure = session.get_one(Enclosure, 1)
        now = datetime.now(UTC).replace(microsecond=0)
        rows = [(now - timedelta(minutes=10 * n), 20.0, 65.0) for n in range(11, -1, -1)]
        store_readings(session, enclosure.id, rows)
    holds()
    with transaction() as session:
        tally = session.query(ConditioningTally).one()
        assert tally.upto == rows[-1][0]
    with queries(database) as sent:
        group = bench.get("/conditioning")["enclosures"][0]["groups"][0]
    assert 109 <= group["minutes"] <= 121
    assert not any("enclosure_reading" in wording and "at <=" in wording for wording in sent)
    hot = [(now + timedelta(minutes=n), 25.0, 65.0) for n in (1, 2)]
    with clock.as_if(now + timedelta(minutes=3)):
        with transaction() as session:
            store_readings(session, 1, hot)
        holds()
        group = bench.get("/conditioning")["enclosures"][0]["groups"][0]
        assert (group["minutes"], group["excursions"]) == (0, 1)
        assert group["runs_out_at"] is None


def test_readings_that_come_late_are_counted_anew(bench: Bench) -> None:
    job = cut_job(bench, {"method": "iso-13937-2"})
    with clock.as_if(datetime.now(UTC) - timedelta(hours=25)):
        bench.post("/enclosures/1/placements", {"specimen_ids": ids(job)})
    bring_log(bench, log_of((26, 14, 20), (12, 0, 20)))
    holds()
    group = bench.get("/conditioning")["enclosures"][0]["groups"][0]
    assert group["unproven_minutes"] > 100
    bring_log(bench, log_of((14, 12, 20)))
    holds()
    group = bench.get("/conditioning")["enclosures"][0]["groups"][0]
    assert (group["ready"], group["unproven_minutes"]) == (True, 0)


PAGES = ("/jobs", "/jobs?search=cloth", "/jobs/waiting", "/clocks", "/conditioning")


def test_queries_a_list_do_not_grow_with_jobs(bench: Bench, database: str) -> None:
    counts: list[list[int]] = []
    for _ in range(2):
        for number in range(4):
            job = cut_job(bench, {"method": "iso-13937-2"})
            with clock.as_if(datetime.now(UTC) - timedelta(hours=number)):
                bench.post("/enclosures/1/placements", {"specimen_ids": ids(job)})
        own = [*PAGES, f"/jobs/{job['id']}", f"/jobs/{job['id']}/sheet", f"/jobs/{job['id']}/draft"]
        counts.append([])
        for path in own:
            with queries(database) as sent:
                bench.get(path)
            counts[-1].append(len(sent))
    assert counts[0] == counts[1]
    assert max(counts[1][: len(PAGES)]) <= 16


def test_released_jobs_add_nothing_to_the_clocks(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    with queries(database) as sent:
        assert bench.get("/clocks")["clocks"] == []
    placed = bench.get("/conditioning")["enclosures"][0]["groups"]
    assert [group["awaited"] for group in placed] == [False]
    kept = next(wording for wording in sent if "job_card.prepares" in wording)
    assert "released IS false" in kept or "released IS 0" in kept


def test_a_list_is_read_page_by_page_in_order(bench: Bench) -> None:
    now = datetime.now(UTC)
    due = [3, 1, 2, 1, 5]
    for number, days in enumerate(due):
        at = (now + timedelta(days=days)).replace(microsecond=0)
        bench.post("/jobs", sample(lot=f"L-{number}", due_at=at.isoformat()))
    lots, after = [], ""
    while True:
        page = bench.get(f"/jobs?limit=2{after}")
        assert page["total"] == 5
        lots += [line["lot"] for line in page["jobs"]]
        if page["after"] is None:
            break
        after = f"&after={page['after'].replace('+', '%2B')}"
    assert lots == ["L-1", "L-3", "L-2", "L-0", "L-4"]
    assert bench.refused("GET", "/jobs?after=nowhere", 422) == "jobs.no-page"
    assert bench.refused("GET", "/jobs?limit=900", 422) == "field.above-max"


@pytest.mark.parametrize(
    ("order", "lots"),
    [
        ("sort=product", ["L-1", "L-3", "L-0", "L-2"]),
        ("sort=product&descending=true", ["L-2", "L-0", "L-3", "L-1"]),
        ("sort=number", ["L-0", "L-1", "L-2", "L-3"]),
        ("sort=number&descending=true", ["L-3", "L-2", "L-1", "L-0"]),
        ("sort=due&descending=true", ["L-0", "L-1", "L-2", "L-3"]),
    ],
)
def test_a_list_is_sorted_by_a_column_across_its_pages(
    bench: Bench, order: str, lots: list[str]
) -> None:
    now = datetime.now(UTC).replace(microsecond=0)
    for number, product in enumerate(["Denim ~ 2", "Awning", "Felt", "awning"]):
        at = (now + timedelta(days=9 - number)).isoformat()
        bench.post("/jobs", sample(lot=f"L-{number}", product=product, due_at=at))
    found, after = [], ""
    while True:
        page = bench.get(f"/jobs?limit=1&{order}{after}")
        found += [line["lot"] for line in page["jobs"]]
        if page["after"] is None:
            break
        after = f"&after={quote(page['after'])}"
    assert found == lots


def test_a_list_is_narrowed_to_what_a_person_looks_for(bench: Bench) -> None:
    tomorrow = (datetime.now(UTC) + timedelta(days=1)).isoformat()
    own = bench.post("/jobs", sample(lot="own", due_at=tomorrow))
    maren = bench.as_("maren")
    held = maren.post("/jobs", sample(lot="held", due_at=tomorrow))
    test = held["tests"][0]
    maren.post(f"/tests/{test['id']}/hold", {"revision": test["revision"], "reason": "paid late"})
    cut_job(bench, sample()["tests"][0])
    with transaction() as session:
        session.get_one(Job, own["id"]).due_at = datetime.now(UTC) - timedelta(hours=1)

    def numbers(only: str, of: Bench = bench) -> list[str]:
        return [line["number"] for line in of.get(f"/jobs?only={only}")["jobs"]]

    assert numbers("late") == [own["number"]]
    assert numbers("on-hold") == [held["number"]]
    assert numbers("mine", maren) == [held["number"]]
    assert len(numbers("mine")) == 2
    assert len(numbers("waiting")) == 1
    assert bench.refused("GET", "/jobs?only=somehow", 422) == "field.not-a-choice"


def test_jobs_are_found_by_words_and_by_the_screen_they_wait_at(bench: Bench) -> None:
    first = bench.post("/jobs", sample(product="Harbour canvas 100%", client="Quay Awnings"))
    cut = cut_job(bench, {"method": "iso-13937-2"})

    def found_by(wording: str) -> list[int]:
        return [line["id"] for line in bench.get(f"/jobs?{wording}")["jobs"]]

    assert found_by("search=harbour quay") == [first["id"]]
    assert found_by("search=HARBOUR") == [first["id"]]
    assert found_by("search=100%25") == [first["id"]]
    assert found_by("search=%25") == [first["id"]]
    assert found_by(f"search={cut['number']}") == [cut["id"]]
    assert found_by("search=harbour nobody") == []
    assert found_by("place=cutting") == [first["id"]]
    assert found_by("place=conditioning") == [cut["id"]]
    assert bench.get("/jobs/waiting") == {"cutting": 1, "conditioning": 1}


def test_an_unchanged_page_is_not_sent_again(bench: Bench, database: str) -> None:
    job = bench.post("/jobs", sample())
    for path in (f"/jobs/{job['id']}", f"/jobs/{job['id']}/draft", f"/jobs/{job['id']}/sheet"):
        first = bench.call("GET", path)
        tag = first.headers["etag"]
        assert bench.tagged(path, tag).status_code == 304
        assert bench.tagged(path, tag).content == b""
    with queries(database) as sent:
        bench.tagged(f"/jobs/{job['id']}", bench.call("GET", f"/jobs/{job['id']}").headers["etag"])
    assert sum("FROM specimen" in wording for wording in sent) == 0
    tag = bench.call("GET", "/jobs").headers["etag"]
    assert bench.tagged("/jobs", tag).status_code == 304
    bench.post("/jobs", sample(lot="T-2"))
    assert bench.tagged("/jobs", tag).status_code == 200
    limits = {"limits": [], "revision": job["tests"][0]["revision"]}
    tag = bench.call("GET", f"/jobs/{job['id']}").headers["etag"]
    bench.put(f"/tests/{job['tests'][0]['id']}/limits", limits)
    assert bench.tagged(f"/jobs/{job['id']}", tag).status_code == 200


def test_changes_are_told_once(bench: Bench) -> None:
    lookout = Lookout()
    assert (lookout.look().jobs, lookout.look().jobs) == ([], [])
    job = bench.post("/jobs", sample())
    assert lookout.look().jobs == [job["id"]]
    assert (lookout.look().jobs, lookout.look().rooms) == ([], False)
    assert Lookout().look().jobs == [job["id"]], "whose page was read a moment ago missed nothing"
    assert lookout.recent().jobs == [job["id"]]
    bring_log(bench, log_of((2, 0, 20)))
    assert lookout.look().rooms
    assert not lookout.look().rooms


@pytest.mark.parametrize("arrived", [False, True])
def test_a_sample_that_came_damp_is_offered_the_cabinet(bench: Bench, arrived: bool) -> None:
    job = bench.post("/jobs", sample(damp=arrived, arrival_state="damp words decide nothing"))
    body = {"revision": job["revision"], "seconds": 0}
    sheet = bench.post(f"/jobs/{job['id']}/sheet/place", body)
    bench.post(f"/jobs/{job['id']}/sheet/cut", {"revision": sheet["revision"]})
    assert [group["damp"] for group in bench.get("/conditioning")["waiting"]] == [arrived]


def test_the_figures_on_a_card_are_those_of_the_analysis(bench: Bench, database: str) -> None:
    job = bench.tested_job()
    before = bench.get(f"/jobs/{job['id']}")["tests"][0]["rows"]
    with engine_for(database).begin() as connection:
        stored = connection.execute(text("SELECT figures FROM test_card")).scalar_one()
        assert all(not specimen["marks"] for specimen in json.loads(stored)["specimens"])
        connection.execute(text("DELETE FROM test_card"))
    rebuild()
    assert bench.get(f"/jobs/{job['id']}")["tests"][0]["rows"] == before


def test_a_card_in_the_form_of_another_release_is_computed_again(
    bench: Bench, database: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    job = bench.tested_job()
    bench.get(f"/jobs/{job['id']}")
    with engine_for(database).begin() as connection:
        stored = json.loads(connection.execute(text("SELECT figures FROM test_card")).scalar_one())
        stored["specimens"][0]["flags"] = [{"code": "none", "severity": "warn", "said": "then"}]
        connection.execute(text("UPDATE test_card SET figures = :f"), {"f": json.dumps(stored)})
    monkeypatch.setattr(results, "_figures", Remembered[results.Figures](1))
    with transaction() as session:
        test = session.get_one(TestRow, job["tests"][0]["id"])
        figures, problem = results.test_figures(test)
    assert problem is None
    assert figures is not None
    assert figures.specimens[0].flags == []
    monkeypatch.setattr(results, "_figures", Remembered[results.Figures](1))
    rebuild()
    with engine_for(database).begin() as connection:
        healed = json.loads(connection.execute(text("SELECT figures FROM test_card")).scalar_one())
    assert healed["specimens"][0]["flags"] == []


def test_a_card_that_was_only_marked_is_written_by_whoever_looks_next(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    with transaction(cards_at_once=False) as session:
        session.get_one(Job, job["id"]).product = "Another cloth"
    with transaction() as session:
        card = session.get_one(JobCard, job["id"])
        assert "another cloth" not in card.search
        assert card.turns_at is not None
        assert card.turns_at <= clock.now()
    bench.get(f"/jobs/{job['id']}")
    assert "another cloth" in search_of(job["id"])
    holds()


def search_of(job_id: int) -> str:
    with transaction() as session:
        return session.get_one(JobCard, job_id).search
