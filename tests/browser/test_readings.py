"""Any method through the screens: asked for, brought in or typed, judged and released."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.browser.conftest import Site
from tests.browser.walk import ask_for
from tests.examples import example
from tests.laboratory import PASSWORD


def receive_resin(page: Page, method: str) -> None:
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name=re.compile("Receive (first )?sample")).click()
    page.get_by_label("Client").fill("Lindal Packs")
    page.get_by_label("Lot").fill("R-5")
    page.get_by_label("Product").fill("Cap regrind")
    page.get_by_label("Material, with mass if known").fill("regrind, grey")
    page.get_by_role("radio", name="Granules").click()
    page.get_by_label("Amount").fill("800")
    ask_for(page, method)


def test_a_document_is_brought_in_judged_and_released(site: Site, tmp_path: Path) -> None:
    page = site.page("ines")
    receive_resin(page, "iso-1133-1-a")
    page.get_by_label("temperature, °C").fill("190")
    page.get_by_label("load, kg").fill("2.16")
    expect(page.get_by_label("cut interval, s")).to_have_count(0)
    page.get_by_label("Melt mass-flow rate: mean at least").fill("1.5")
    page.get_by_role("button", name="Receive sample").click()
    expect(page.get_by_text("Required before a result can be computed")).to_be_visible()
    page.get_by_role("link", name="Enter or import readings").click()
    expect(page.get_by_role("heading", name="Import readings")).to_be_visible()
    page.get_by_label("cut interval, s").fill("20")
    page.get_by_role("button", name="Save set-up").click()
    expect(page.get_by_text("cut interval, s 20")).to_be_visible()

    document = example("iso-1133-1-a--bottle-cap-regrind")["document"]
    path = tmp_path / "regrind.json"
    path.write_text(json.dumps(document))
    page.locator("input[type=file]").set_input_files(path)
    page.get_by_role("button", name="Preview files").click()
    page.get_by_role("button", name="Import 2 of 2").click()
    expect(page.get_by_role("alert")).to_contain_text("Choose one of: S1, S2")

    for specimen, label in zip(document["specimens"], ("S1", "S2"), strict=True):
        specimen["label"] = label
    path.write_text(json.dumps(document))
    page.locator("input[type=file]").set_input_files(path)
    page.get_by_role("button", name="Preview files").click()
    page.get_by_role("button", name="Import 2 of 2").click()
    page.get_by_role("button", name="Accept all 2").click()
    expect(page.get_by_role("link", name="Review and release")).to_be_visible()

    reviewer = site.page("maren")
    reviewer.goto(page.url.replace("/readings/", "/judge/"))
    expect(reviewer.get_by_text("1.71 g/10 min")).to_be_visible()
    reviewer.get_by_label("Your password").fill(PASSWORD)
    reviewer.get_by_role("button", name="Release report").click()
    expect(reviewer.get_by_text("Released report")).to_be_visible(timeout=30_000)


def test_readings_are_typed_on_the_page_made_from_the_model(site: Site) -> None:
    page = site.page("ines")
    receive_resin(page, "barrel-check")
    page.get_by_role("button", name="Receive sample").click()
    page.get_by_role("textbox", name="label").fill("upper")
    page.get_by_label("displayed, °C").fill("190.0")
    page.get_by_label("reference, °C").fill("190.4")
    page.get_by_label("old offset, °C").fill("0.3")
    page.get_by_role("button", name="Record readings").click()
    expect(page.get_by_role("cell", name="0.4")).to_be_visible()


def test_the_wall_has_a_page_for_a_method_with_its_picture(site: Site) -> None:
    page = site.page("ines")
    page.get_by_role("link", name="Methods").click()
    page.get_by_label("Find a method").fill("seal")
    page.get_by_role("link", name=re.compile("Seal strength")).click()
    expect(page.get_by_role("img", name=re.compile("Specimen, 150 x 25 mm"))).to_be_visible()
    page.get_by_role("button", name="T130-1").click()
    expect(page.locator(".trace")).to_have_attribute("data-points", re.compile(r"^\d\d"))
    page.get_by_role("button", name="Calculation").click()
    expect(page.locator(".slip")).to_contain_text("middle 80 %")
