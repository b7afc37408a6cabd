"""Clients: what the office keeps about them, their orders, and the paper of their reports."""

from __future__ import annotations

from io import BytesIO
from typing import Any
from urllib.parse import quote

from pypdf import PdfReader

from endurant.work.upkeep.verify import verify
from tests.laboratory import Bench, behind_its_back, queries, sample

NAME = "Quay Awnings"


def kept(**changes: Any) -> dict[str, Any]:
    contact = {"name": "A. Buyer", "email": "buyer@quay.example", "gets_reports": True}
    address = {"purpose": "reports", "text": "4 Quay, Harbour"}
    return {"name": NAME, "contacts": [contact], "addresses": [address], "seen": 0} | changes


def page(bench: Bench, name: str = NAME) -> dict[str, Any]:
    view: dict[str, Any] = bench.get(f"/client?name={quote(name)}")
    return view


def test_a_client_is_there_with_its_first_job_and_is_kept_by_revision(bench: Bench) -> None:
    assert bench.refused("GET", f"/client?name={quote(NAME)}", 404) == "client.none"
    bench.post("/jobs", sample())
    assert (page(bench)["revision"], page(bench)["contacts"]) == (0, [])
    assert bench.put("/client", kept())["revision"] == 1
    assert bench.refused("PUT", "/client", 409, json=kept()) == "client.stale"
    second = bench.put("/client", kept(seen=1, remark="calls on Fridays"))
    assert (second["remark"], second["contacts"][0]["email"]) == (
        "calls on Fridays",
        "buyer@quay.example",
    )
    assert verify().sentences == []


def test_what_is_no_address_or_name_is_refused(bench: Bench) -> None:
    for contact in ({"name": ""}, {"name": "A", "email": "at home"}, {"name": "A", "fax": "1"}):
        assert bench.refused("PUT", "/client", 422, json=kept(contacts=[contact]))
    assert bench.refused("PUT", "/client", 422, json=kept(paper="A3"))
    assert bench.refused("PUT", "/client", 422, json=kept(name="two\nlines"))


def test_an_order_is_done_when_all_of_its_jobs_are(bench: Bench, database: str) -> None:
    jobs = [
        bench.post("/jobs", sample(lot=lot, order_number="PO 7", client_reference=f"ref {lot}"))
        for lot in ("a", "b")
    ]
    bench.post("/jobs", sample(lot="c"))
    (order,) = page(bench)["orders"]
    assert (order["number"], order["is_done"], len(order["jobs"])) == ("PO 7", False, 2)
    assert {job["reference"] for job in order["jobs"]} == {"ref a", "ref b"}
    assert [job["lot"] for job in page(bench)["jobs"]] == ["c"]
    why = {"revision": jobs[0]["revision"], "reason": "not sent"}
    bench.post(f"/jobs/{jobs[0]['id']}/cancel", why)
    assert page(bench)["orders"][0]["is_done"] is False
    statement = "UPDATE job SET released_at = NOW() WHERE id = :job_id"
    behind_its_back(database, statement, job_id=jobs[1]["id"])
    order = page(bench)["orders"][0]
    assert (order["is_done"], [job["state"] for job in order["jobs"]]) == (
        True,
        ["released", "cancelled"],
    )


def test_an_order_number_is_searched_amended_and_left_alone(bench: Bench) -> None:
    job = bench.post("/jobs", sample(order_number="PO 7"))
    assert [each["id"] for each in bench.get("/jobs?search=PO+7")["jobs"]] == [job["id"]]
    names = ("client", "product", "lot", "material", "due_at", "revision")
    body = {name: job[name] for name in names} | {"reason": "asked again"}
    after = bench.put(f"/jobs/{job['id']}", body | {"shelf": "B 4"})
    assert after["order_number"] == "PO 7"
    body |= {"shelf": "B 4", "order_number": "PO 8", "revision": after["revision"]}
    assert bench.put(f"/jobs/{job['id']}", body)["order_number"] == "PO 8"
    (order,) = page(bench)["orders"]
    assert order["number"] == "PO 8"


def test_the_report_names_order_and_reference_on_the_paper_of_the_client(bench: Bench) -> None:
    bench.put("/client", kept(paper="Letter"))
    numbers = {"order_number": "PO 7", "client_reference": "bale 3"}
    job = bench.tested_job(**numbers)
    assert bench.as_("maren").release(job["id"]).status_code == 200
    (line,) = bench.get(f"/jobs/{job['id']}")["reports"]
    content = bench.get(f"/reports/{line['id']}.json")
    assert content["paper"] == "Letter"
    assert {name: content[name] for name in numbers} == numbers
    pdf = bench.call("GET", f"/reports/{line['id']}.pdf").content
    page_size = PdfReader(BytesIO(pdf)).pages[0].mediabox
    assert (page_size.width, page_size.height) == (612, 792)


def test_clients_are_listed_by_name_with_their_jobs(bench: Bench, database: str) -> None:
    bench.put("/client", kept(name="Mill & Co"))
    for lot in ("a", "b"):
        bench.post("/jobs", sample(lot=lot))
    with queries(database, "client") as few:
        lines = bench.get("/clients")
    assert [(line["name"], line["jobs"], line["open_jobs"]) for line in lines] == [
        ("Mill & Co", 0, 0),
        (NAME, 2, 2),
    ]
    for number in range(4):
        bench.post("/jobs", sample(client=f"Client {number}"))
    with queries(database, "client") as many:
        assert len(bench.get("/clients")) == 6
    assert len(many) == len(few)
    assert [line["name"] for line in bench.get("/clients?search=MILL")] == ["Mill & Co"]
