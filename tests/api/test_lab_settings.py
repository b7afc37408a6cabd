"""The rules of the laboratory: changed with a reason, and kept by the jobs that began before."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from endurant.store.tables import Job
from endurant.work.base.transactions import transaction
from endurant.work.facts.laboratory import policy_for
from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench, sample
from tests.pdf_text import text_of

REASON = "the accreditor asked for it"


def request(bench: Bench, **changes: Any) -> dict[str, Any]:
    laboratory = bench.get("/lab-settings")
    rules = {rule["name"]: rule["value"] for rule in laboratory["rules"]}
    kept = {name: laboratory[name] for name in ("name", "address", "revision")}
    return kept | rules | {"reason": REASON} | changes


def changed(bench: Bench, **changes: Any) -> dict[str, Any]:
    """The rules after the manager proposed others and the reviewer confirmed them."""
    proposed = bench.as_("greta").put("/lab-settings", request(bench, **changes))
    seen = {"revision": proposed["revision"]}
    after: dict[str, Any] = bench.as_("maren").post("/lab-settings/confirm", seen)
    return after


def rule(laboratory: dict[str, Any], name: str) -> str:
    return next(str(each["value"]) for each in laboratory["rules"] if each["name"] == name)


def test_a_rule_that_enters_a_figure_waits_for_a_second_person(bench: Bench) -> None:
    greta, maren = bench.as_("greta"), bench.as_("maren")
    nothing = {"revision": 0}
    assert (
        maren.refused("POST", "/lab-settings/confirm", 409, json=nothing)
        == "settings.nothing-proposed"
    )
    after = greta.put("/lab-settings", request(bench, name="Another House", rounding="half-up"))
    assert after["name"] == "Another House"
    assert rule(after, "rounding") == "half-even"
    assert after["proposed"]["text"] == "rounding from half-even to half-up"
    assert after["proposed"]["reason"] == REASON
    seen = {"revision": after["revision"]}
    assert greta.refused("POST", "/lab-settings/confirm", 403, json=seen) == "settings.own-proposal"
    assert maren.refused("POST", "/lab-settings/confirm", 409, json=nothing) == "stale"
    assert bench.refused("POST", "/lab-settings/confirm", 403, json=seen)
    declined = maren.post("/lab-settings/decline", seen)
    assert declined["proposed"] is None
    assert rule(declined, "rounding") == "half-even"
    assert declined["changes"][0]["text"].startswith("Maren Reviewer declined rounding")
    assert (
        maren.refused("POST", "/lab-settings/decline", 409, json={"revision": declined["revision"]})
        == "settings.nothing-proposed"
    )
    assert rule(changed(bench, rounding="half-up"), "rounding") == "half-up"
    assert verify().sentences == []


def test_a_job_keeps_the_rules_that_it_began_with(bench: Bench) -> None:
    job = bench.tested_job(limits={"warp": "20", "weft": "15.0"})
    after = changed(bench, comparison="unrounded", rounding="half-up")
    assert after["revision"] == 2
    assert after["changes"][0]["text"] == (
        "Maren Reviewer confirmed rounding from half-even to half-up, comparison from as-rounded "
        f"to unrounded, proposed by Greta Manager: {REASON}"
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
    for each in bench.get("/lab-settings")["rules"]:
        assert each["value"] in {school["value"] for school in each["schools"]}
        assert all(school["text"].endswith(".") for school in each["schools"])


def test_nothing_and_two_at_once_are_refused(bench: Bench) -> None:
    greta = bench.as_("greta")
    assert (
        greta.refused("PUT", "/lab-settings", 422, json=request(bench))
        == "settings.nothing-changed"
    )
    first = request(bench, name="Another House")
    greta.put("/lab-settings", first)
    wording = greta.refused("PUT", "/lab-settings", 409, json=first | {"name": "A third"})
    assert "stale" in wording
    assert bench.refused("PUT", "/lab-settings", 403, json=first)


def test_tables_enter_new_tests_and_leave_old_ones_alone(bench: Bench) -> None:
    melt = {"method": "iso-1133-1-a", "parameters": {"temperature_c": 230.0, "load_kg": 2.16}}
    bag = {"form": "granules", "width_mm": None, "length_mm": None, "mass_g": 200}
    before = bench.post("/jobs", sample(tests=[melt], **bag))
    greta = bench.as_("greta")
    tables = bench.get("/lab-settings")["tables"] | {"iso_intervals": "iso-older"}
    after = changed(bench, tables=tables)
    assert after["changes"][0]["text"].startswith(
        "Maren Reviewer confirmed iso intervals from iso-newer to iso-older"
    )
    later = bench.post("/jobs", sample(tests=[melt], **bag))
    again = bench.get(f"/jobs/{before['id']}")
    assert again["tests"][0]["parameters"]["interval_table"] == "iso-newer"
    assert later["tests"][0]["parameters"]["interval_table"] == "iso-older"
    twice = tables | {"materials": [tables["materials"][0]] * 2}
    wording = greta.refused("PUT", "/lab-settings", 422, json=request(bench, tables=twice))
    assert "lab-tables.row-twice" in wording
    assert verify().sentences == []


def test_a_room_of_the_house_and_what_an_excursion_does_are_kept_by_the_job(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    row = {
        "atmosphere": "textile-20-65",
        "temperature_c": 20,
        "temperature_tolerance_c": 1,
        "humidity_percent": 65,
        "humidity_tolerance_percent": 3,
        "least_minutes": 960,
    }
    tables = bench.get("/lab-settings")["tables"] | {"atmospheres": [row]}
    changed(bench, tables=tables, conditioning_policy="subtract")
    later = bench.post("/jobs", sample())
    assert [
        "24 h" in job["tests"][0]["prepared"][0],
        "16 h" in later["tests"][0]["prepared"][0],
    ] == [
        True,
        True,
    ]
    with transaction() as session:
        policies = [policy_for(session, session.get_one(Job, each["id"])) for each in (job, later)]
    assert policies == ["restart", "subtract"]


def test_a_report_is_written_as_the_house_writes(bench: Bench) -> None:
    written = {"decimal_sign": "comma", "date_style": "dotted", "units": "both"}
    bench.as_("greta").put("/lab-settings", request(bench, **written))
    assert bench.get("/session")["writing"] == written
    job = bench.tested_job(lot="10.25", limits={"warp": "20.5", "weft": "15.0"})
    wording = text_of(bench.call("GET", f"/jobs/{job['id']}/draft.pdf").content)
    assert "20,5" in wording
    assert "10.25" in wording
    assert "10,25" not in wording
    assert " lbf" in wording
    assert "20.5" not in wording
    assert f"{datetime.now(UTC):.%m.%Y}" in wording


def test_packs_are_written_down_with_their_sizes_and_tests_take_them_from_there(
    bench: Bench,
) -> None:
    packs = {"form": "packs", "width_mm": None, "length_mm": None, "count": 3}
    drop = {"method": "iso-2248"}
    carton = {"size_mm": [400, 300, 200], "gross_mass_kg": 12.5, "faces": "1 printed, 5 seam"}
    job = bench.post("/jobs", sample(tests=[drop], **packs, **carton))
    assert job["arrived"] == "3 packs of 400 x 300 x 200 mm, 12.5 kg, faces: 1 printed, 5 seam"
    assert job["tests"][0]["parameters"]["drop_height_mm"] == 610
    flat = carton | {"size_mm": [400, 0, 200]}
    wording = bench.refused("POST", "/jobs", 422, json=sample(tests=[drop], **packs, **flat))
    assert "field.too-low" in wording
    wording = bench.refused("POST", "/jobs", 422, json=sample(gross_mass_kg=2))
    assert "sample.size-not-allowed" in wording
