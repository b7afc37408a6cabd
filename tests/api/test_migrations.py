"""Migrations with a laboratory's work in the tables: nothing is lost on the way up or down."""

from __future__ import annotations

import json
from collections.abc import Iterator

import numpy as np
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from endurant.api.app import build_app
from endurant.store.engine import DATABASE_VARIABLE, engine_for
from endurant.store.migrate import downgrade, revisions, upgrade
from endurant.store.samples import pack, pack_entry, unpack, unpack_entry
from endurant.work.upkeep.rebuild import rebuild_missing, stale_cards
from endurant.work.upkeep.verify import verify
from tests.conftest import StandIn
from tests.laboratory import Bench, found, sample, without_trigger


@pytest.fixture
def upgraded(
    database_of_its_own: str, frame: StandIn, monkeypatch: pytest.MonkeyPatch
) -> Iterator[tuple[str, Bench]]:
    """A database of its own with a founded laboratory in it, and someone at the bench."""
    monkeypatch.setenv(DATABASE_VARIABLE, database_of_its_own)
    found(frame.port)
    with TestClient(build_app(supervise=False)) as client:
        yield database_of_its_own, Bench(client, "ines")


def rows(url: str, statement: str) -> list[tuple[object, ...]]:
    with engine_for(url).connect() as connection:
        return [tuple(row) for row in connection.execute(text(statement))]


def test_a_laboratory_from_before_the_cards_shows_the_same_after_the_upgrade(
    upgraded: tuple[str, Bench],
) -> None:
    url, bench = upgraded
    job = bench.tested_job()
    bench.as_("maren").release(job["id"])
    damp = bench.post("/jobs", sample(arrival_state="Damp from the rain", damp=True))
    before = bench.get("/jobs")["jobs"] + bench.get("/jobs?state=released")["jobs"]
    page = bench.get(f"/jobs/{job['id']}")
    houses = rows(url, "SELECT id, lab_settings FROM job")
    sources = rows(url, "SELECT id, source_sha256 FROM run")
    files = rows(url, "SELECT sha256, content FROM source_file")
    ((client_pdf,),) = rows(url, "SELECT client_pdf FROM report")
    downgrade(url, "0004")
    assert rows(url, "SHOW TABLES LIKE 'job_card'") == []
    facts = rows(url, "SELECT number, client, lot, released_at FROM job ORDER BY id")
    upgrade(url)
    # A laboratory from before has none of it; this one had, and its seals say so.
    with engine_for(url).begin() as connection:
        for job_id, laboratory in houses:
            kept = {"id": job_id, "house": laboratory}
            connection.execute(text("UPDATE job SET lab_settings = :house WHERE id = :id"), kept)
        for sha256, content in files:
            held = {"sha256": sha256, "content": content}
            connection.execute(text("INSERT INTO source_file VALUES (:sha256, :content)"), held)
        for run_id, sha256 in sources:
            named = {"id": run_id, "sha256": sha256}
            connection.execute(text("UPDATE run SET source_sha256 = :sha256 WHERE id = :id"), named)
        with without_trigger(connection, "report_no_update"):
            connection.execute(text("UPDATE report SET client_pdf = :pdf"), {"pdf": client_pdf})
    assert rebuild_missing() == 2
    assert rows(url, "SELECT number, client, lot, released_at FROM job ORDER BY id") == facts
    assert bench.get("/jobs")["jobs"] + bench.get("/jobs?state=released")["jobs"] == before
    assert bench.get(f"/jobs/{job['id']}") == page
    assert rows(url, f"SELECT damp FROM job WHERE id = {damp['id']}") == [(1,)]
    assert rows(url, f"SELECT damp FROM job WHERE id = {job['id']}") == [(0,)]
    assert list(stale_cards()) == []
    assert verify().sentences == []


def test_an_upgrade_that_is_done_already_does_nothing(upgraded: tuple[str, Bench]) -> None:
    url, bench = upgraded
    bench.post("/jobs", sample())
    entries = rows(url, "SELECT COUNT(*), MAX(hash) FROM audit_entry")
    upgrade(url)
    upgrade(url)
    assert rebuild_missing() == 0
    assert rows(url, "SELECT COUNT(*), MAX(hash) FROM audit_entry") == entries
    assert len(set(revisions(url))) == 1


def test_samples_and_readings_packed_before_are_still_read(upgraded: tuple[str, Bench]) -> None:
    import zlib

    url, bench = upgraded
    job = bench.tested_job()
    figures = bench.get(f"/jobs/{job['id']}")["tests"][0]["rows"]
    with engine_for(url).begin() as connection:
        for run_id, raw in connection.execute(text("SELECT run_id, packed FROM recording")).all():
            older = zlib.compress(unpack(raw).astype("<f8").tobytes(), level=6)
            connection.execute(
                text("UPDATE recording SET packed = :raw WHERE run_id = :id"),
                {"raw": older, "id": run_id},
            )
            assert np.array_equal(unpack(older), unpack(raw), equal_nan=True)
            assert pack(unpack(older)) == raw
        connection.execute(text("DELETE FROM test_card"))
    entry = {"trace": {"force_n": [0.0, 1.25]}, "observations": ["jaw-slip"]}
    packed, _ = pack_entry(entry)
    assert unpack_entry(packed) == unpack_entry(zlib.compress(json.dumps(entry).encode()))
    bench.as_("maren").release(job["id"])
    assert bench.get(f"/jobs/{job['id']}")["tests"][0]["rows"] == figures
    assert verify().sentences == []
