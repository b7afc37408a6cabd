"""Instruments, people and changed jobs, through the real interface."""

from __future__ import annotations

import io
from typing import Any

from PIL import Image
from playwright.sync_api import FilePayload, expect

from endurant.work.facts.models import JobView
from endurant.work.use_cases.people.sign_in import sign_in
from endurant.work.use_cases.receiving import receiving
from tests.browser.conftest import Site
from tests.laboratory import PASSWORD, csv_of, sample


def received(**changes: Any) -> JobView:
    _, actor = sign_in("ines", PASSWORD)
    return receiving.receive(actor, receiving.SampleRequest(**sample(**changes)))


def test_a_check_is_begun_fails_and_puts_its_station_out(site: Site) -> None:
    page = site.page("greta")
    page.goto(f"{site.address}/instruments")
    page.get_by_role("button", name="Add check").click()
    for label, text in (
        ("Quantity", "Check weight"),
        ("Reference value", "100"),
        ("Unit", "N"),
        ("Warning at ±", "0,5"),
        ("Limit ±", "1"),
    ):
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="Add check").last.click()
    page.get_by_label("Reading", exact=True).fill("100.2")
    page.get_by_role("button", name="Record reading").first.click()
    expect(page.locator("p.good")).to_contain_text("0.2 N above the target of 100 N")
    page.get_by_label("Reading", exact=True).fill("22.48")
    page.get_by_role("button", name="Record reading").first.click()
    expect(page.get_by_role("alert")).to_contain_text("confused")
    page.get_by_label("Reading", exact=True).fill("98,4")
    page.get_by_role("button", name="Record reading").first.click()
    expect(page.locator("p.text")).to_contain_text("Out of service until a check passes")
    page.get_by_role("button", name="Consumables").click()
    page.get_by_label("Lot", exact=True).fill("K-1")
    page.get_by_role("combobox", name="Item").fill("knife")
    page.get_by_label("Change after").fill("3")
    page.get_by_role("button", name="Open lot").click()
    expect(page.get_by_role("cell", name="K-1")).to_be_visible()


def test_someone_is_added_and_authorised_and_the_rules_are_changed(site: Site) -> None:
    page = site.page("greta")
    page.goto(f"{site.address}/people")
    page.get_by_role("button", name="Add person").click()
    expect(page.get_by_role("heading", name="Add person")).to_be_visible()
    page.get_by_label("Name", exact=True).fill("Nora Tester")
    page.get_by_label("Login").fill("nora")
    page.get_by_label("Password, at least 10 characters").fill("short")
    expect(page.get_by_label("Name", exact=True)).to_have_value("Nora Tester")
    page.get_by_role("button", name="Add person").last.click()
    expect(page.get_by_role("alert")).to_contain_text("at least 10 characters")
    page.get_by_label("Password, at least 10 characters").fill(PASSWORD)
    page.get_by_role("button", name="Add person").last.click()
    page.get_by_role("button", name="Nora Tester").click()
    page.get_by_role("combobox", name="Method").fill("iso-180")
    page.get_by_role("option").first.click()
    authorise = page.get_by_role("button", name="Authorise", exact=True)
    page.get_by_label("Until (optional)").fill("some day")
    expect(authorise).to_be_disabled()
    page.get_by_label("Until (optional)").fill("31 Dec 2199")
    authorise.click()
    granted = page.get_by_role("listitem").filter(has_text="iso-180")
    expect(granted).to_contain_text("31 Dec 2199")
    page.get_by_role("button", name="Lab settings").click()
    page.get_by_role("radio", name="unrounded").check()
    page.get_by_label("Reason").fill("the accreditor asked")
    page.get_by_role("button", name="Save or propose change").click()
    change = "comparison from as-rounded to unrounded"
    expect(page.get_by_role("status").filter(has_text=change)).to_be_visible()
    expect(page.get_by_role("button", name="Confirm change")).to_have_count(0)
    second = site.page("maren")
    second.goto(f"{site.address}/people")
    second.get_by_role("button", name="Lab settings").click()
    second.get_by_role("button", name="Confirm change").click()
    expect(second.get_by_text(f"Maren Reviewer confirmed {change}")).to_be_visible()


def test_an_enclosure_is_added_mended_and_closed(site: Site) -> None:
    page = site.page("greta")
    page.goto(f"{site.address}/conditioning")
    page.get_by_role("button", name="Add room").click()
    called = page.get_by_label("Name")
    called.fill("Textile room")
    page.get_by_role("button", name="Add room").last.click()
    expect(page.get_by_role("alert")).to_contain_text("There is already")
    called.fill("Second room")
    page.get_by_role("button", name="Add room").last.click()
    page.get_by_role("button", name="Second room").click()
    mend = page.get_by_role("button", name="edit or close room")
    mend.click()
    page.get_by_label("Capacity, specimens").fill("24")
    page.get_by_role("button", name="Save changes").click()
    expect(page.get_by_text("Room for 24 specimens.")).to_be_visible()
    mend.click()
    page.get_by_role("button", name="Close room", exact=True).click()
    expect(page.get_by_role("button", name="Second room")).to_have_count(0)


def test_a_job_is_changed_photographed_and_cancelled(site: Site) -> None:
    job = received()
    page = site.page("ines")
    page.goto(f"{site.address}/jobs/{job.id}")
    page.get_by_role("button", name="change, hold or cancel").click()
    why = page.get_by_label("Reason (required")
    why.fill("the client called")
    page.get_by_label("Storage location").fill("B 4")
    page.get_by_role("button", name="Save changes").click()
    expect(page.get_by_text("Stored at B 4.")).to_be_visible()
    why.fill("no cloth left")
    page.get_by_role("button", name="hold", exact=True).click()
    expect(page.get_by_text("is on hold: no cloth left")).to_be_visible()
    why.fill("it came")
    page.get_by_role("button", name="resume", exact=True).click()
    expect(page.get_by_text("is on hold: no cloth left")).to_have_count(0)
    why.fill("given up")
    page.get_by_role("button", name="Cancel job").click()
    expect(page.get_by_text("Cancelled: given up")).to_be_visible()


def test_files_are_looked_at_and_a_photograph_is_kept(site: Site) -> None:
    job = received(form="pieces", count=20, width_mm=None, length_mm=None)
    page = site.page("ines")
    page.goto(f"{site.address}/readings/{job.id}")
    files: list[FilePayload] = [
        {"name": f"frame_{code}.csv", "mimeType": "text/csv", "buffer": csv_of(code)}
        for code in ("J-0401-1-W1", "J-0401-1-F2", "J-0401-1-W99")
    ]
    page.locator("input[type=file]").set_input_files(files)
    page.get_by_role("button", name="Preview files").click()
    expect(page.get_by_role("button", name="Import 2 of 3")).to_be_enabled()
    expect(page.get_by_text("it names no specimen of this test")).to_be_visible()
    page.goto(f"{site.address}/bench/{job.id}")
    page.get_by_text("Photographs of W1").click()
    written = io.BytesIO()
    Image.new("RGB", (400, 300), (90, 40, 30)).save(written, "PNG")
    page.get_by_label("Caption").fill("a crease")
    page.get_by_label("Photograph of W1").set_input_files(
        {"name": "w1.png", "mimeType": "image/png", "buffer": written.getvalue()}
    )
    expect(page.get_by_role("img", name="a crease")).to_be_visible()
    page.get_by_role("button", name="not in the report").click()
    expect(page.get_by_role("button", name="in the report", exact=True)).to_be_visible()
