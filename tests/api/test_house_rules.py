"""The rules of the house: changed with a reason, and kept by the jobs that began before."""

from __future__ import annotations

from typing import Any

from endurant.work.record.verify import verify
from tests.laboratory import Bench, sample

REASON = "the accreditor asked for it"


def asked(bench: Bench, **changes: Any) -> dict[str, Any]:
    house = bench.get("/house")
    rules = {rule["name"]: rule["value"] for rule in house["rules"]}
    kept = {name: house[name] for name in ("name", "address", "revision")}
    return kept | rules | {"reason": REASON} | changes


def test_a_job_keeps_the_rules_that_it_began_with(bench: Bench) -> None:
    job = bench.tested_job(limits={"warp": "20", "weft": "15.0"})
    greta = bench.as_("greta")
    after = greta.put("/house", asked(bench, comparison="unrounded", rounding="half-up"))
    assert after["revision"] == 1
    assert after["changes"][0]["words"].endswith(
        "(before: comparison as-rounded, rounding half-even)"
    )
    draft = bench.get(f"/jobs/{job['id']}/draft")
    compared = [row["compared"] for row in draft["job"]["tests"][0]["rows"]]
    later = bench.post("/jobs", sample())
    assert later["tests"][0]["parameters"]["rounding"] == "half-up"
    before = bench.get(f"/jobs/{job['id']}")["tests"][0]
    assert before["parameters"]["rounding"] == "half-even"
    assert [row["compared"] for row in before["rows"]] == compared
    assert all(len(str(each)) <= 4 for each in compared)
    assert verify().sentences == []


def test_every_school_says_what_it_means(bench: Bench) -> None:
    for rule in bench.get("/house")["rules"]:
        assert rule["value"] in {school["value"] for school in rule["schools"]}
        assert all(school["says"].endswith(".") for school in rule["schools"])


def test_nothing_and_two_at_once_are_refused(bench: Bench) -> None:
    greta = bench.as_("greta")
    assert "nothing" in greta.refused("PUT", "/house", 422, json=asked(bench))
    first = asked(bench, name="Another House")
    greta.put("/house", first)
    says = greta.refused("PUT", "/house", 409, json=first | {"name": "A third"})
    assert "changed by someone else" in says
    assert bench.refused("PUT", "/house", 403, json=first)
