"""From how much to send to measured specimens, through the real interface."""

from __future__ import annotations

import re
from collections.abc import Mapping

from playwright.sync_api import Page, expect

from endurant.work.base.actors import Actor
from endurant.work.upkeep.founding import NewLogger, add_enclosure
from endurant.work.use_cases.people.sign_in import sign_in
from endurant.work.use_cases.preparation import placement
from endurant.work.use_cases.receiving import receiving
from endurant.work.use_cases.sheets import cutting
from endurant.work.views import job_page
from tests.api.test_conditioning import log_of
from tests.api.test_measuring import gauge
from tests.browser.conftest import Site
from tests.browser.walk import ask_for, choose, drag
from tests.laboratory import PASSWORD, sample

STRIPS = {
    "method": "astm-d882",
    "parameters": {"specimens_wanted": 1, "gauge_length_mm": 100.0},
}


def cut_job(*tests: Mapping[str, object]) -> tuple[Actor, list[str]]:
    """A job whose specimens were cut, and their codes."""
    _, actor = sign_in("ines", PASSWORD)
    job = receiving.receive(
        actor,
        receiving.SampleRequest(**sample(tests=[dict(test) for test in tests], length_mm=2000)),
    )
    sheet = cutting.place_all(actor, job.id, job.revision, cutting.PlaceRequest(seconds=0))
    cutting.confirm_cut(actor, job.id, sheet.revision)
    return actor, [specimen.code for test in job.tests for specimen in test.specimens]


def click(page: Page, spot: tuple[float, float]) -> None:
    cloth = page.locator("svg.sheet .cloth").bounding_box()
    assert cloth is not None
    page.mouse.move(cloth["x"] + spot[0] * cloth["width"], cloth["y"] + spot[1] * cloth["height"])
    page.mouse.down()
    page.mouse.up()


def test_from_how_much_to_send_to_a_sheet_with_two_tests(site: Site) -> None:
    page = site.page("ines")
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name="Required sample size").click()
    ask_for(page, "iso-13937-2")
    expect(page.get_by_text("of the 1500 mm wide roll")).to_be_visible()
    ask_for(page, "iso-527")
    expect(page.locator("svg.sheet g.piece")).to_have_count(18)
    page.get_by_role("button", name="Receive sample").click()
    expect(page.get_by_label("Across the roll")).to_have_value("1500")
    expect(page.get_by_text("These tests need")).to_be_visible()
    page.get_by_label("Along the roll").fill("200")
    expect(page.get_by_text("mm too short")).to_be_visible()
    expect(page.get_by_text("These fit: Tension of plastics")).to_be_visible()
    page.get_by_label("Along the roll").fill("900")
    for label, wording in (
        ("Client", "Quay Awnings"),
        ("Lot", "A-1"),
        ("Product", "Cloth"),
        ("Material, with mass if known", "woven"),
    ):
        page.get_by_label(label).fill(wording)
    page.get_by_role("button", name="Receive sample").click()

    expect(page.get_by_role("heading", name="Sheet")).to_be_visible()
    page.keyboard.press("m")
    page.get_by_role("button", name="Band along a crease").click()
    drag(page, (0.0, 0.5), (1.0, 0.55))
    expect(page.get_by_role("listitem").filter(has_text="crease")).to_be_visible()
    page.keyboard.press("m")
    page.get_by_role("button", name="Any outline").click()
    page.get_by_role("button", name="stain", exact=True).click()
    for spot in ((0.3, 0.7), (0.4, 0.7), (0.35, 0.8)):
        click(page, spot)
    page.keyboard.press("Enter")
    expect(page.get_by_role("listitem").filter(has_text="stain")).to_be_visible()
    page.get_by_role("button", name="Place specimens").click()
    expect(page.get_by_text("All cutting rules are kept")).to_be_visible(timeout=40_000)
    expect(page.locator("svg.sheet g.piece")).to_have_count(18)

    page.locator('g.piece[data-name="2-S5"]').click()
    expect(page.get_by_text("stretches along its length").first).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_text("long side along the weft")).to_be_visible()
    page.keyboard.press("l")
    expect(page.get_by_role("button", name="Unlock")).to_be_enabled()
    page.keyboard.press("z")
    expect(page.get_by_role("button", name=re.compile("^Lock"))).to_be_enabled()
    page.keyboard.press("z")
    expect(page.get_by_text("long side along the warp")).to_be_visible()

    page.get_by_role("button", name="Print, export, labels").click()
    for name in ("PDF to scale", "A4 tiles", "one page", "SVG", "DXF"):
        href = page.get_by_role("link", name=name).get_attribute("href")
        assert page.request.get(f"{site.address}{href}").status == 200, name
    choose(page, "Sheet of labels", "A4, 21 of 63.5 x 38.1 mm")
    href = page.get_by_role("link", name="PDF", exact=True).get_attribute("href")
    assert href is not None
    assert "stock=a4-21" in href
    assert page.request.get(f"{site.address}{href}").headers["content-type"] == "application/pdf"


def test_scanned_specimens_are_hung_and_a_log_is_brought_in(site: Site) -> None:
    _, codes = cut_job({"method": "iso-13937-2"})
    page = site.page("ines")
    page.goto(f"{site.address}/conditioning")
    scan = page.get_by_label("Scan or type specimen codes")
    for code in (*codes[:3], "J-0401-1-X9"):
        scan.fill(code)
        scan.press("Enter")
    expect(page.get_by_text("3 scanned:")).to_be_visible()
    expect(page.get_by_text("No specimen has the code J-0401-1-X9")).to_be_visible()
    page.get_by_role("button", name="Place 3 in Textile room").click()
    expect(page.get_by_text("counted by the clock")).to_be_visible()
    page.locator("input[type=file]").set_input_files(
        {"name": "room.csv", "mimeType": "text/csv", "buffer": b"time,temperature_c\nnow,20\n"}
    )
    expect(page.get_by_text("Row 2: “now” is not a time")).to_be_visible()
    data = log_of((20, 6, 20), (6, 5, 24.5), (5, 0, 20))
    page.locator("input[type=file]").set_input_files(
        {"name": "room.csv", "mimeType": "text/csv", "buffer": data}
    )
    expect(page.get_by_text("120 new readings imported, 0 already known")).to_be_visible()
    expect(page.get_by_label("Log of Textile room")).to_be_visible()
    excursion = page.get_by_role("paragraph").filter(has_text="out of tolerance, worst 24.5 °C")
    expect(excursion).to_be_visible()
    page.get_by_role("button", name="weigh").click()
    page.get_by_label("mass").fill("4,21")
    page.get_by_role("button", name="Record mass").click()
    expect(page.get_by_text("weigh again 2 h after the first weighing")).to_be_visible()
    page.get_by_role("button", name="change", exact=True).click()
    page.get_by_label("Temperature").fill("24")
    page.get_by_label("Reason").fill("the new standard")
    page.get_by_role("button", name="Request set point").click()
    expect(page.get_by_text("A set point is waiting for confirmation")).to_be_visible()
    expect(page.get_by_role("button", name="Confirm set point")).to_have_count(0)
    reviewer = site.page("maren")
    reviewer.goto(f"{site.address}/conditioning")
    reviewer.get_by_role("button", name="Confirm set point").click()
    expect(reviewer.get_by_text("24 ± 2 °C").first).to_be_visible()
    page.get_by_role("button", name="Take out").first.click()
    expect(page.get_by_text("No specimens")).to_be_visible()


def test_specimens_are_measured_with_one_key_a_reading(site: Site) -> None:
    film = add_enclosure("Film room", "film-23-50")
    actor, _ = cut_job(STRIPS)
    gauge(site.standin.port, "CAL-7", "caliper")
    ids = [specimen.id for specimen in job_page.job(1).tests[0].specimens]
    placement.place_specimens(actor, film, placement.PlacementRequest(specimen_ids=ids))
    page = site.page("ines")
    page.goto(f"{site.address}/jobs/1")
    page.get_by_role("link", name="width, thickness: 0 of 2 measured").click()
    field = page.get_by_label("width in mm")
    expect(page.get_by_text("1 of 5")).to_be_visible()
    for count in range(2, 6):
        field.press("Space")
        expect(page.get_by_text(f"{count} of 5")).to_be_visible()
    field.fill("0,59")
    field.press("Enter")
    expect(page.get_by_text("0.59 looks like inches where the others say")).to_be_visible()
    page.get_by_label("thickness in mm").press("Backspace")
    expect(page.get_by_text("5 of 5")).to_be_visible()
    expect(page.get_by_text("looks like inches")).to_be_hidden()
    page.get_by_label("width in mm").fill("15.02")
    page.get_by_label("width in mm").press("Enter")
    for reading in ("0.08", "0.081", "0.08", "0.079", "0.08"):
        expect(page.get_by_label("thickness in mm")).to_be_enabled()
        page.get_by_label("thickness in mm").fill(reading)
        page.get_by_label("thickness in mm").press("Enter")
    expect(page.get_by_text("1/4 measured")).to_be_visible()
    page.reload()
    expect(page.get_by_text("1/4 measured")).to_be_visible()
    page.get_by_role("button", name="M1", exact=True).click()
    expect(page.get_by_text("Section:")).to_be_visible()
    page.get_by_role("button", name="M2", exact=True).click()
    choose(page, "How the simulated gauge behaves", "sends garbled data")
    expect(page.get_by_label("width in mm")).to_be_enabled()
    page.get_by_role("button", name="Read caliper").click()
    expect(page.get_by_text("sends data that cannot be read")).to_be_visible()


def test_a_logged_room_is_seen_to_warm_and_to_fall_silent(site: Site) -> None:
    logger = NewLogger("127.0.0.1", site.standin.port, "TH-1", simulated=True)
    add_enclosure("Logged room", "textile-20-65", logger)
    page = site.page("ines")
    page.goto(f"{site.address}/conditioning")
    page.get_by_role("button", name=re.compile("^Logged room")).click()
    page.get_by_role("button", name="read loggers now").click()
    expect(page.get_by_label("Log of Logged room")).to_be_visible()
    choose(page, "How the simulated logger behaves", "sends garbled data")
    page.get_by_role("button", name="read loggers now").click()
    expect(page.get_by_text("sends data that cannot be read").first).to_be_visible()
    expect(page.get_by_text("logger silent")).to_be_visible()
