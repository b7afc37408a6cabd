"""A clothing fabric at 45 degrees, from its sheet to a class in both states, as it is done."""

from __future__ import annotations

from collections.abc import Sequence

from endurant.work.upkeep.founding import add_enclosure
from tests.api.test_demand import cut, sheet_of
from tests.laboratory import WHY, Bench, through

PLAIN = {"method": "16-cfr-1610", "parameters": {"surface": "plain"}}


def due(bench: Bench, job_id: int) -> list[str]:
    """The strips that are called and not burned yet."""
    specimens = bench.get(f"/jobs/{job_id}")["tests"][0]["specimens"]
    return [each["label"] for each in specimens if each["called"] and each["run_id"] is None]


def start_due_conditioning(bench: Bench, job_id: int, oven: int, *confirmed: str) -> None:
    job = bench.get(f"/jobs/{job_id}")
    ids = [bench.specimen(job, label)["id"] for label in due(bench, job_id)]
    body = {"specimen_ids": ids, "confirmed": confirmed}
    bench.post(f"/enclosures/{oven}/placements", body)


def burn(bench: Bench, job_id: int, label: str, seconds: float) -> None:
    job = bench.get(f"/jobs/{job_id}")
    now = bench.at_bench(job, label)
    view = through(bench, now, deviation=WHY, code="BURN", burn_time_s=seconds)
    bench.act(view)


def bring_in(bench: Bench, job_id: int, labels: Sequence[str], **facts: str | float) -> None:
    """Strips that were burned at another cabinet, written down there."""
    test = bench.get(f"/jobs/{job_id}")["tests"][0]
    way = {"L": "length", "W": "width"}
    specimens = [
        {"label": label, "direction": way[label[0]], "code": "BURN", **facts} for label in labels
    ]
    body = {"document": {"specimens": specimens}, "deviation": "burned at the other cabinet"}
    bench.post(f"/tests/{test['id']}/readings", body)
    bench.post(f"/tests/{test['id']}/accept")


def test_strips_burn_in_rounds_and_the_cloth_is_refurbished_before_its_own(
    bench: Bench, rig: int
) -> None:
    oven = add_enclosure("Drying oven", "oven-105")
    job_id = cut(bench, sheet_of(bench, PLAIN, material="woven", width_mm=1500))["job_id"]
    assert due(bench, job_id) == ["L1", "W1"]
    (group,) = bench.get("/conditioning")["waiting"]
    assert [each["label"] for each in group["specimens"]] == ["L1", "W1"]
    start_due_conditioning(bench, job_id, oven, "mounted")
    burn(bench, job_id, "W1", 4.0)
    assert due(bench, job_id) == ["L1"]
    burn(bench, job_id, "L1", 4.4)
    five = [f"W{number}" for number in range(2, 7)]
    assert due(bench, job_id) == five
    bring_in(bench, job_id, five, round="first", state="original", burn_time_s=4.0)

    assert due(bench, job_id) == ["L13", "W13"]
    job = bench.get(f"/jobs/{job_id}")
    body = {"specimen_ids": [bench.specimen(job, "L13")["id"]], "confirmed": ["mounted"]}
    said = bench.refused("POST", f"/enclosures/{oven}/placements", 422, json=body)
    assert said == "bench.action-unconfirmed"
    start_due_conditioning(bench, job_id, oven, "mounted", "cut-after")
    burn(bench, job_id, "L13", 4.2)
    bring_in(bench, job_id, ["W13"], round="preliminary", state="refurbished", burn_time_s=4.6)
    five = [f"L{number}" for number in range(14, 19)]
    assert due(bench, job_id) == five
    bring_in(bench, job_id, five, round="first", state="refurbished", burn_time_s=4.1)

    assert due(bench, job_id) == []
    test = bench.get(f"/jobs/{job_id}")["tests"][0]
    classes = [row["summary"]["reported"] for row in test["rows"] if row["property"] == "class"]
    assert classes == ["1", "1", "1"]
    assert (test["required"], test["to_go"]) == (14, 0)
    draft = bench.get(f"/jobs/{job_id}/draft")
    early = [wording for wording in draft["deviations"] if "Drying oven" in wording]
    assert [wording.split(": ")[0] for wording in early if WHY in wording] == ["L1, L13, W1"]
    assert not any("no reason" in wording for wording in early)
