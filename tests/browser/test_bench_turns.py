"""Kinds of test that are no single pull, at the bench, through the real interface."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Page, expect

from endurant.work.jobs import receiving
from endurant.work.preparation import hanging
from endurant.work.record.founding import add_enclosure
from endurant.work.record.people import sign_in
from tests.browser.conftest import Site
from tests.laboratory import PASSWORD, sample

MELT = {"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0}


def received(test: dict[str, Any], room: str | None = None, **form: Any) -> int:
    """A job of one test whose specimens came ready, hung where it asks for that."""
    _, actor = sign_in("ines", PASSWORD)
    asked = sample(width_mm=None, length_mm=None, tests=[test], **form)
    job = receiving.receive(actor, receiving.SampleAsked(**asked))
    if room is not None:
        ids = [specimen.id for specimen in job.tests[0].specimens]
        hanging.hang(actor, add_enclosure("Room", room), hanging.HangAsked(specimen_ids=ids))
    return job.id


def do(page: Page, title: str, **typed: str) -> None:
    """The step with this title, with what is typed for it, done by Enter."""
    form = page.locator("form.next")
    expect(form.get_by_role("heading")).to_have_text(title, timeout=40_000)
    for label, text in typed.items():
        form.get_by_label(label).fill(text)
    button = form.locator("button.main")
    expect(button).to_be_enabled()
    button.click()


def test_a_charge_of_melt_from_the_hot_barrel_to_its_cleaning(site: Site) -> None:
    job = received({"method": "iso-1133-1-a", "parameters": MELT}, form="granules", mass_g=900)
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    do(page, "Set the barrel to 190 °C")
    do(page, "Begin to charge: small portions, the air tamped out")
    expect(page.get_by_role("timer")).to_have_count(3)
    do(page, "Piston in. How much was charged?", charge="5,1")
    do(page, "Preheated? Weight on, and purge to the lower mark")
    expect(page.get_by_text("exactly 300 s is asked for")).to_be_visible()
    for number, mass in enumerate(("0.056", "0.058", "0.057"), start=1):
        heading = page.locator("form.next").get_by_role("heading")
        expect(heading).to_have_text(f"Cut {number}")
        page.locator("form.next .v-select").click()
        page.get_by_role("option", name="none").click()
        do(page, f"Cut {number}", mass=mass, length="15")
    expect(page.locator(".rods p")).to_have_count(3)
    page.get_by_role("button", name="take it back").click()
    expect(page.locator(".rods p")).to_have_count(2)
    page.locator("form.next .v-select").click()
    page.get_by_role("option", name="none").click()
    do(page, "Cut 3", mass="0.057", length="15")
    do(page, "The last one? Weight off")
    do(page, "Clean hot and at once: die, piston, barrel")
    do(page, "Look at S1")
    expect(page.get_by_role("button", name="S1 1.71")).to_be_visible()


def test_a_pair_of_a_seam_is_pulled_half_after_half(site: Site) -> None:
    job = received({"method": "iso-13936-1"}, "textile-20-65", form="pieces", count=14)
    site.a_day_passes()
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    expect(page.get_by_role("img", name="The way that the frame will take")).to_be_visible()
    do(page, "Set the frame up")
    do(page, "Needle size 90, all-polyester thread, 5 stitches per cm")
    do(page, "Guide line 38 mm from the long edge, along the jaw's edge")
    do(page, "The unsewn half is pulled first, both from zero on one graph")
    do(page, "Zero force and extension")
    do(page, "Fingers clear of the jaws?")
    do(page, "Take the unsewn half out")
    do(page, "Bring the jaws back to their distance")
    do(page, "Clamp the sewn half of W1, the seam midway")
    do(page, "Zero force and extension")
    do(page, "Everything clear? Then pull the sewn half")
    do(page, "Look at W1")
    expect(page.get_by_role("heading", name="Set the frame up")).to_be_visible()


def test_assessors_grade_each_alone_with_a_key(site: Site) -> None:
    job = received({"method": "iso-105-x12"}, "textile-20-65", form="pieces", count=6)
    site.a_day_passes()
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    heading = page.locator("form.next").get_by_role("heading")
    while "assessor" not in heading.inner_text():
        before = heading.inner_text()
        page.locator("form.next button.main").click()
        expect(heading).not_to_have_text(before)
    for assessor, key in enumerate("687", start=1):
        expect(heading).to_have_text(f"Staining: assessor {assessor}")
        expect(page.locator(".covered")).to_have_count(assessor - 1)
        expect(page.locator(".answers button").first).to_be_enabled()
        page.keyboard.press(key)
    expect(page.locator(".grades b.mono")).to_have_text(["3-4", "4-5", "4"])
