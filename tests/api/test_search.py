"""One search finds everything that has a number or a name."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.test_products import cloth
from tests.kept import Kept
from tests.laboratory import Bench, queries, sample


def found(bench: Bench, words: str) -> list[tuple[str, str]]:
    hits: list[dict[str, Any]] = bench.call("GET", "/search", params={"words": words}).json()
    return [(hit["kind"], hit["title"]) for hit in hits]


def released_job(bench: Bench, _: str) -> dict[str, Any]:
    """A job of an order that was released, and a product."""
    job = bench.tested_job(order_number="PO-7781")
    bench.as_("maren").release(job["id"])
    bench.post("/products", cloth())
    return job


KEPT = Kept(released_job)


@pytest.fixture
def released(bench: Bench, database: str) -> dict[str, Any]:
    """The released job of this module."""
    return KEPT.put_back(bench, database)


def test_everything_is_found_by_its_number_or_its_words(
    bench: Bench, released: dict[str, Any]
) -> None:
    number = released["number"]
    assert found(bench, number.lower()) == [("job", number)]
    assert found(bench, f"{number}-R") == [("job", number)]
    code = f"{number}-1-W1"
    assert found(bench, code.lower())[0] == ("specimen", code)
    assert ("report", "R-0401 revision 1") in found(bench, "r-0401")
    assert found(bench, "po-7781") == [("job", number)]
    assert ("client", "Quay Awnings") in found(bench, "awnings quay")
    assert ("product", cloth()["name"]) in found(bench, cloth()["name"])
    assert ("instrument", "Frame 1") in found(bench, "frame 1")
    assert ("person", "Maren Reviewer") in found(bench, "maren")
    assert ("instrument", "T-1") in [
        (hit["kind"], hit["name"])
        for hit in bench.call("GET", "/search", params={"words": "t-1"}).json()
    ]


@pytest.mark.parametrize("words", ["", "   ", "nothing is called this", "100%", "_", "\\"])
def test_what_names_nothing_finds_nothing(
    bench: Bench, released: dict[str, Any], words: str
) -> None:
    assert found(bench, words) == []


def test_a_hit_says_where_it_leads(bench: Bench, released: dict[str, Any]) -> None:
    params = {"words": f"{released['number']}-1-W1"}
    (hit, *_) = bench.call("GET", "/search", params=params).json()
    assert hit["job_id"] == released["id"]
    assert hit["id"] == bench.get(f"/specimens/by-code/{hit['title']}")["specimen"]["id"]


def test_a_search_takes_as_many_queries_for_many_jobs_as_for_one(
    bench: Bench, database: str
) -> None:
    bench.post("/jobs", sample(lot="L-0"))
    bench.get("/search?words=quay")
    with queries(database) as one:
        bench.get("/search?words=quay")
    for place in range(1, 5):
        bench.post("/jobs", sample(lot=f"L-{place}"))
    with queries(database) as many:
        bench.get("/search?words=quay")
    assert len(many) == len(one)
