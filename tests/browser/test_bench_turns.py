"""Kinds of test that are no single pull, at the bench, through the real interface."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Page, expect

from endurant.work.upkeep.founding import add_enclosure
from endurant.work.use_cases.people.sign_in import sign_in
from endurant.work.use_cases.preparation import placement
from endurant.work.use_cases.receiving import receiving
from tests.browser.conftest import Site
from tests.browser.test_bench_runs import accept, go, in_order
from tests.laboratory import PASSWORD, sample

MELT = {"temperature_c": 190.0, "load_kg": 2.16, "cut_interval_s": 20.0}


def received(test: dict[str, Any], room: str | None = None, **form: Any) -> int:
    """A job of one test whose specimens came ready, hung where it asks for that."""
    _, actor = sign_in("ines", PASSWORD)
    request = sample(width_mm=None, length_mm=None, tests=[test], **form)
    job = receiving.receive(actor, receiving.SampleRequest(**request))
    if room is not None:
        ids = [specimen.id for specimen in job.tests[0].specimens]
        placement.place_specimens(
            actor, add_enclosure("Room", room), placement.PlacementRequest(specimen_ids=ids)
        )
    return job.id


def do(page: Page, title: str, **typed: str) -> None:
    """The step with this title, with what is typed for it, done by its button."""
    form = page.locator("form.next")
    expect(form.get_by_role("heading")).to_have_text(title, timeout=40_000)
    for label, text in typed.items():
        form.get_by_label(label.replace("_", " ")).fill(text)
    button = form.locator("button.main")
    expect(button).to_be_enabled()
    button.click()


def go_on_early(page: Page, title: str) -> None:
    """A clock holds the key of this step; go on before it has run, with a reason."""
    form = page.locator("form.next")
    expect(form.get_by_role("heading")).to_have_text(title, timeout=40_000)
    expect(form.locator("button.main")).to_have_count(0)
    form.get_by_role("button", name="Continue now with a reason").click()
    give_reason(page)


def give_reason(page: Page) -> None:
    """The reason that the report will state."""
    page.get_by_role("dialog").get_by_role("textbox").fill("agreed with the client")
    page.get_by_role("button", name="Continue with the reason").click()


def cut(page: Page, number: int, mass: str) -> None:
    heading = page.locator("form.next").get_by_role("heading")
    expect(heading).to_have_text(f"Cut {number}")
    page.locator("form.next .v-select").click()
    page.get_by_role("option", name="none").click()
    do(page, f"Cut {number}", mass=mass, length_of_the_strand="15")


def test_a_charge_of_melt_from_the_hot_barrel_to_its_cleaning(site: Site) -> None:
    job = received({"method": "iso-1133-1-a", "parameters": MELT}, form="granules", mass_g=900)
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    do(page, "Set the barrel to 190 °C")
    shown = {"upper_sensor": "190.1", "lower_sensor": "189.9", "time_at_temperature": "45"}
    do(page, "Record the barrel temperature", **shown)
    do(page, "Barrel upright, die and bore clean")
    do(page, "Load of 2.16 kg, piston included, at hand")
    do(page, "Charge in small portions and tamp out the air")
    do(page, "Insert the piston and record the mass of the charge", charge="5,1")
    go_on_early(page, "Place the load and purge to the lower mark")
    for number, mass in enumerate(("0.056", "0.058", "0.057"), start=1):
        cut(page, number, mass)
    expect(page.locator(".rods p")).to_have_count(3)
    page.get_by_role("button", name="undo").first.click()
    expect(page.locator(".rods p")).to_have_count(2)
    cut(page, 3, "0.057")
    do(page, "Take the load off")
    do(page, "Clean die, piston and barrel while they are hot")
    do(page, "Check S1")
    expect(page.get_by_role("button", name="S1 1.71")).to_be_visible()


def test_a_pair_of_a_seam_is_pulled_half_after_half(site: Site) -> None:
    job = received({"method": "iso-13936-1"}, "textile-20-65", form="pieces", count=14)
    site.a_day_passes()
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    seen = go(page, "Check W1")
    in_order(
        seen,
        "Grab faces 25 mm wide fitted",
        "Zero force and extension",
        "Fingers clear of the jaws",
        "Remove the unsewn half",
        "the sewn half",
    )
    accept(page, "W1")
    expect(page.locator("button.slip.tested", has_text="W1")).to_be_visible()


def test_one_assessor_does_not_grade_twice_without_a_reason(site: Site) -> None:
    job = received({"method": "iso-105-x12"}, "textile-20-65", form="pieces", count=6)
    site.a_day_passes()
    page = site.page("ines")
    page.goto(f"{site.address}/bench/{job}")
    go(page, "Record the count")
    page.get_by_label("count shown").fill("10")
    go_on_early(page, "Record the count")
    heading = page.locator("form.next").get_by_role("heading")
    expect(heading).to_have_text("Staining: assessor 1", timeout=60_000)
    expect(page.locator(".answers button").first).to_be_enabled()
    page.keyboard.press("6")
    expect(heading).to_have_text("Staining: assessor 2")
    expect(page.locator(".covered")).to_have_count(1)
    expect(page.locator(".answers button").first).to_be_enabled()
    page.keyboard.press("8")
    expect(page.get_by_text("has already graded W1")).to_be_visible()
    give_reason(page)
    expect(heading).not_to_have_text("Staining: assessor 2")
