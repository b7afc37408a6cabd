"""Products: kept by revision, received by, in and out as a table."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import quote

from endurant.store.tables import Job
from endurant.work.base.transactions import transaction
from endurant.work.facts.laboratory import comparison_for, laboratory
from endurant.work.facts.products import revisions_of, states_of
from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench, behind_its_back, queries, sample

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
    bench.as_("maren").post(f"/products/{first['id']}/approve", {})
    kept = bench.get(f"/products/{first['id']}")["product"]
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


STAGES = [
    {"atmosphere": "chamber", "least_minutes": 30.0, "most_wait_minutes": 15.0, "why": "agreed"},
    {"atmosphere": "textile-20-65", "least_minutes": 2880.0, "most_wait_minutes": None, "why": ""},
]


def test_a_product_with_conditioning_of_its_own_brings_it_to_every_job(bench: Bench) -> None:
    own = cloth()
    own["specification"]["tests"][0] |= {"stages": STAGES}
    kept = bench.post("/products", own)
    page = bench.get(f"/products/{kept['id']}")
    shown = {line["name"]: line["text"] for line in page["tests"][0]["parameters"]}
    assert shown["conditioning"].count("; ") == 1
    assert "48 h" in shown["conditioning"]
    job = bench.post("/jobs", sample(tests=kept["specification"]["tests"]))
    prepared = bench.get(f"/tests/{job['tests'][0]['id']}/preparation")
    assert prepared["changed"]
    assert [stage["least_minutes"] for stage in prepared["stages"]] == [30.0, 2880.0]
    copied = bench.get(f"/jobs/{job['id']}/specification")["specification"]
    assert copied["tests"][0]["stages"] == STAGES
    usual = [
        {"atmosphere": stage["atmosphere"], "least_minutes": stage["least_minutes"]}
        for stage in prepared["usual"]
    ]
    tests = [kept["specification"]["tests"][0] | {"stages": usual}]
    as_usual = bench.post("/jobs", sample(tests=tests))
    assert not bench.get(f"/tests/{as_usual['tests'][0]['id']}/preparation")["changed"]
    wet = bench.post("/jobs", sample(tests=[{"method": "iso-13934-1", "state": "wet"}]))
    assert bench.get(f"/tests/{wet['tests'][0]['id']}/preparation")["state"] == "wet"
    moon = cloth(name="Moon cloth")
    moon["specification"]["tests"][0] |= {"stages": [STAGES[0] | {"atmosphere": "moon"}]}
    assert bench.refused("POST", "/products", 422, json=moon) == "conditioning.atmosphere-unknown"


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
    assert bench.get("/products")["products"] == []


def test_a_job_becomes_a_product_and_the_counter_knows_it(bench: Bench) -> None:
    job = bench.post("/jobs", sample())
    kept = bench.post(f"/jobs/{job['id']}/product", {"seen": 0})
    assert kept["specification"]["tests"][0]["limits"][1]["criterion"]["limit"] == "15.0"
    counter = bench.get("/counter")
    assert (counter["clients"], counter["materials"]) == (["Quay Awnings"], ["woven"])
    assert counter["products"] == 1
    assert bench.get("/products")["products"][0]["name"] == "Test cloth"


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
    assert [each["revision"] for each in bench.get("/products")["products"]] == [1]
    after = bench.post("/products/import", files={"file": ("p.csv", changed.encode())})
    assert [each["revision"] for each in after] == [2]
    old = {"files": {"file": ("p.csv", text.encode())}}
    assert bench.refused("POST", "/products/import", 409, **old) == "products.stale-table"
    stale = bench.post("/products/preview", **old)
    assert "is at revision 2" in stale["refusals"][0]
    assert stale["changes"] == []
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
    assert [each["revision"] for each in bench.get("/products")["products"]] == [2]


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


def drafted(bench: Bench, **changes: Any) -> int:
    """A product that Ines drafted; the id of its revision."""
    row: int = bench.post("/products", cloth(**changes))["id"]
    return row


def states(bench: Bench, product_id: int) -> dict[int, str]:
    revisions = bench.get(f"/products/{product_id}")["revisions"]
    return {each["revision"]: each["state"] for each in revisions}


def test_a_draft_counts_once_a_second_person_approved_it(bench: Bench) -> None:
    maren = bench.as_("maren")
    first = drafted(bench)
    body = sample(product="Harbour cloth", product_revision=1)
    assert bench.refused("POST", "/jobs", 409, json=body) == "products.none-in-force"
    assert bench.refused("POST", f"/products/{first}/approve", 403, json={}) == "access.role"
    page = maren.post(f"/products/{first}/approve", {})
    (line,) = page["revisions"]
    assert (page["state"], line["by"], line["approved_by"]) == (
        "in-force",
        "Ines Tester",
        "Maren Reviewer",
    )
    job = bench.post("/jobs", body)
    with transaction() as session:
        assert session.get_one(Job, job["id"]).product_revision == 1
    again = maren.refused("POST", f"/products/{first}/approve", 409, json={})
    assert again == "products.approved-already"


def test_who_worked_on_a_draft_does_not_approve_it_nor_one_that_was_replaced(bench: Bench) -> None:
    maren, greta = bench.as_("maren"), bench.as_("greta")
    first = maren.post("/products", cloth())["id"]
    assert maren.get(f"/products/{first}")["may_approve"] is False
    assert "Another person" in maren.get(f"/products/{first}")["approval"]
    assert bench.get(f"/products/{first}")["approval"] is None
    second = drafted(bench, seen=1)
    for product_id, code in ((first, "products.draft-superseded"), (second, "products.own-draft")):
        path = f"/products/{product_id}/approve"
        assert maren.refused("POST", path, 409, json={}) == code
    assert greta.get(f"/products/{second}")["may_approve"] is True
    greta.post(f"/products/{second}/approve", {})
    assert states(bench, second) == {1: "superseded", 2: "in-force"}


def test_a_later_revision_is_in_force_from_its_day(bench: Bench) -> None:
    greta = bench.as_("greta")
    first, now = drafted(bench), datetime.now(UTC)
    greta.post(f"/products/{first}/approve", {})
    second = drafted(bench, seen=1)
    past = {"valid_from": (now - timedelta(days=1)).isoformat()}
    path = f"/products/{second}/approve"
    assert greta.refused("POST", path, 422, json=past) == "products.valid-from-past"
    greta.post(path, {"valid_from": (now + timedelta(days=2)).isoformat()})
    assert states(bench, second) == {1: "in-force", 2: "approved"}
    (line,) = bench.get("/products?state=in-force")["products"]
    assert (line["in_force"], line["revision"], line["in_force_id"]) == (1, 2, first)
    body = sample(product="Harbour cloth", product_revision=2)
    assert bench.refused("POST", "/jobs", 409, json=body) == "products.not-in-force"
    with transaction() as session:
        rows = revisions_of(session, "Quay Awnings", "Harbour cloth")
        assert states_of(rows, now + timedelta(days=3)) == {first: "superseded", second: "in-force"}


def test_a_retired_product_is_not_received_until_it_is_approved_anew(bench: Bench) -> None:
    greta = bench.as_("greta")
    first = drafted(bench)
    why = {"reason": "no more of it"}
    path = f"/products/{first}/retire"
    assert greta.refused("POST", path, 409, json=why) == "products.none-in-force"
    greta.post(f"/products/{first}/approve", {})
    assert greta.refused("POST", path, 422, json={"reason": " "})
    page = greta.post(path, why)
    assert (page["state"], page["revisions"][0]["retired_why"]) == ("retired", "no more of it")
    assert bench.get("/products?state=in-force")["products"] == []
    assert [each["is_retired"] for each in bench.get("/products?state=retired")["products"]] == [
        True
    ]
    body = sample(product="Harbour cloth", product_revision=1)
    assert bench.refused("POST", "/jobs", 409, json=body) == "products.none-in-force"
    second = drafted(bench, seen=1)
    greta.post(f"/products/{second}/approve", {})
    assert states(bench, second) == {1: "retired", 2: "in-force"}
    assert verify().sentences == []


def test_a_revision_from_before_approvals_is_in_force(bench: Bench, database: str) -> None:
    first = drafted(bench)
    behind_its_back(database, "UPDATE product SET status = NULL")
    page = bench.get(f"/products/{first}")
    assert (page["state"], page["revisions"][0]["approved_by"]) == ("in-force", None)


def test_products_are_found_by_words_and_read_page_by_page(bench: Bench) -> None:
    for number in range(5):
        drafted(bench, name=f"Cloth {number}", client="Mill" if number else "Quay 100%")
    first = bench.get("/products?limit=3")
    assert (first["total"], [each["name"] for each in first["products"]]) == (
        5,
        ["Cloth 1", "Cloth 2", "Cloth 3"],
    )
    rest = bench.get(f"/products?limit=3&after={first['after']}")
    assert [each["name"] for each in rest["products"]] == ["Cloth 4", "Cloth 0"]
    assert rest["after"] is None
    for words, found in (("cloth mill", 4), ("100% QUAY", 1), ("240", 5), ("silk", 0)):
        assert bench.get(f"/products?search={quote(words)}")["total"] == found
    assert bench.refused("GET", "/products?after=99999", 404) == "products.none"


def test_a_page_says_a_revision_in_words_and_two_are_compared(bench: Bench) -> None:
    first = drafted(bench)
    stricter = cloth(seen=1)
    stricter["specification"]["tests"][0]["limits"] = []
    second = bench.post("/products", stricter)["id"]
    page = bench.get(f"/products/{first}")
    assert {line["name"]: line["text"] for line in page["lines"]}[
        "specimen labels"
    ] == "lab default"
    (test,) = page["tests"]
    assert test["limits"] == [{"name": "tear force, warp", "text": "mean ≥ 25\u00a0N"}]
    assert test["parameters"] == [{"name": "number of specimens", "text": "4"}]
    assert (page["newest"], page["newest_id"], page["state"]) == (2, second, "superseded")
    (line,) = bench.get(f"/products/{second}/differences?before={first}")
    assert line.endswith("tear force, warp: removed")
    assert bench.refused("GET", f"/products/{second}/differences?before=9999", 404)
    assert bench.refused("GET", "/products/9999", 404) == "products.none"


def test_the_list_takes_as_many_queries_for_many_products_as_for_few(
    bench: Bench, database: str
) -> None:
    counts = []
    for number in range(6):
        drafted(bench, name=f"Cloth {number}")
        if number in (1, 5):
            with queries(database, "product") as sent:
                bench.get("/products")
            counts.append(len(sent))
    assert counts[0] == counts[1]
