"""Products: kept by revision, received by, in and out as a table."""

from __future__ import annotations

from typing import Any

from endurant.store.tables import Job
from endurant.work.base.transactions import transaction
from endurant.work.facts.laboratory import comparison_for, laboratory
from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench, sample

LIMIT = {
    "property": "tear_force",
    "direction": "warp",
    "criterion": {"on": "mean", "op": ">=", "limit": "25"},
}


def cloth(**changes: Any) -> dict[str, Any]:
    test = {"method": "iso-13937-2", "parameters": {"specimens_wanted": 4}, "limits": [LIMIT]}
    specification = {"material": "woven, 240 g/m²", "form": "sheet", "tests": [test]}
    return {
        "client": "Quay Awnings",
        "name": "Harbour cloth",
        "specification": specification,
        "seen": 0,
    } | changes


def test_a_job_keeps_the_revision_it_was_received_by(bench: Bench) -> None:
    first = bench.post("/products", cloth())
    assert first["revision"] == 1
    (kept,) = bench.get("/counter")["products"]
    body = sample(
        product=kept["name"],
        product_revision=kept["revision"],
        tests=kept["specification"]["tests"],
    )
    job = bench.post("/jobs", body)
    assert job["tests"][0]["rows"][0]["limit_text"] == "mean ≥ 25\u00a0N"
    assert bench.refused("POST", "/products", 409, json=cloth()) == "products.stale"
    stricter = cloth(seen=1)
    stricter["specification"]["tests"][0]["limits"] = [
        LIMIT | {"criterion": {"on": "mean", "op": ">=", "limit": "30"}}
    ]
    assert bench.post("/products", stricter)["revision"] == 2
    after = bench.get(f"/jobs/{job['id']}")
    assert after["tests"][0]["rows"][0]["limit_text"] == "mean ≥ 25\u00a0N"
    assert verify().sentences == []


def test_what_makes_no_sense_is_refused_whole(bench: Bench) -> None:
    odd = cloth()
    odd["specification"]["tests"][0]["limits"] = [LIMIT | {"property": "gloss"}]
    wording = bench.refused("POST", "/products", 422, json=odd)
    assert "limit.property-unknown" in wording
    assert "limit.property-unknown" in wording
    gone = cloth()
    gone["specification"]["tests"] = [{"method": "iso-0"}]
    assert bench.refused("POST", "/products", 422, json=gone) == "method.unknown"
    none = cloth()
    none["specification"]["tests"] = []
    assert bench.refused("POST", "/products", 422, json=none)
    assert bench.get("/counter")["products"] == []


def test_a_job_becomes_a_product_and_the_counter_knows_it(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    kept = bench.post(f"/jobs/{job['id']}/product", {"seen": 0})
    assert kept["specification"]["tests"][0]["limits"][1]["criterion"]["limit"] == "15.0"
    counter = bench.get("/counter")
    assert (counter["clients"], counter["materials"]) == (["Quay Awnings"], ["woven"])
    assert counter["products"][0]["name"] == "Test cloth"


def test_products_go_out_as_a_table_and_come_in_again(bench: Bench) -> None:
    bench.post("/products", cloth())
    text = bench.call("GET", "/products.csv").text
    assert text.splitlines()[0].startswith("client,product,revision,material,form,method")
    same = bench.post("/products/import", files={"file": ("p.csv", text.encode())})
    assert [each["revision"] for each in same] == [1]
    changed = text.replace("mean,at least,25,", "mean,at least,28,")
    assert changed != text
    shown = bench.post("/products/preview", files={"file": ("p.csv", changed.encode())})
    assert shown["refusals"] == []
    (change,) = shown["changes"]
    assert (change["kind"], change["revision"]) == ("changed", 1)
    (difference,) = change["differences"]
    assert difference.endswith("mean ≥ 25\u00a0N becomes mean ≥ 28\u00a0N")
    assert [each["revision"] for each in bench.get("/counter")["products"]] == [1]
    after = bench.post("/products/import", files={"file": ("p.csv", changed.encode())})
    assert [each["revision"] for each in after] == [2]
    old = {"files": {"file": ("p.csv", text.encode())}}
    assert bench.refused("POST", "/products/import", 409, **old) == "products.stale-table"
    assert "is at revision 2" in bench.post("/products/preview", **old)["refusals"][0]
    limit = after[0]["specification"]["tests"][0]["limits"][0]
    assert limit["criterion"]["limit"] == "28"
    book = bench.call("GET", "/products.xlsx").content
    unchanged = bench.post("/products/import", files={"file": ("p.xlsx", book)})
    assert [each["revision"] for each in unchanged] == [2]
    torn = {"files": {"file": ("p.xlsx", book[:400])}}
    wording = bench.refused("POST", "/products/import", 422, **torn)
    assert wording == "workbook.unreadable"
    bad = text.replace("tear_force", "gloss")
    wording = bench.refused(
        "POST", "/products/import", 422, files={"file": ("p.csv", bad.encode())}
    )
    assert wording == "limit.property-unknown"
    wording = bench.refused(
        "POST", "/products/import", 422, files={"file": ("p.csv", b"a,b\n1,2\n")}
    )
    assert "products.column-missing" in wording
    assert [each["revision"] for each in bench.get("/counter")["products"]] == [2]


def test_a_product_may_have_a_comparison_and_labels_of_its_own(bench: Bench) -> None:
    own = cloth()
    own["specification"] |= {"comparison": "unrounded", "label_school": "by-long-side"}
    kept = bench.post("/products", own)
    table = bench.call("GET", "/products.csv").content
    assert b",unrounded,by-long-side" in table
    answer = bench.call("POST", "/products/import", files={"file": ("p.csv", table)})
    assert answer.json()[0]["revision"] == 1
    wrong = table.replace(b",unrounded", b",by-mood")
    answer = bench.call("POST", "/products/import", files={"file": ("p.csv", wrong)})
    assert answer.json()["code"] == "products.area-rule"
    request = {name: kept["specification"][name] for name in ("comparison", "label_school")}
    job = bench.post("/jobs", sample(tests=kept["specification"]["tests"], **request))
    copied = bench.get(f"/jobs/{job['id']}/specification")["specification"]
    assert copied["comparison"] == "unrounded"
    assert copied["label_school"] == job["tests"][0]["label_school"] == "by-long-side"
    with transaction() as session:
        row = session.get_one(Job, job["id"])
        assert comparison_for(laboratory(session), row) == "unrounded"
    plain = bench.post("/jobs", sample())
    assert "comparison" not in bench.get(f"/jobs/{plain['id']}/specification")["specification"]


def test_a_guarded_limit_survives_the_table(bench: Bench) -> None:
    guarded = cloth()
    guard = {"budget": [{"name": "load cell", "value": 25.0, "expanded": 0.2, "k": 2.0}], "k": 2.0}
    guarded["specification"]["tests"][0]["limits"] = [LIMIT | {"guard": guard}]
    before = bench.post("/products", guarded)
    for kind in ("csv", "xlsx"):
        table = bench.call("GET", f"/products.{kind}").content
        (after,) = bench.post("/products/import", files={"file": (f"p.{kind}", table)})
        assert after["revision"] == 1
        assert after["specification"] == before["specification"]
