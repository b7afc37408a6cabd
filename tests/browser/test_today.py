"""The day on its screen, and several samples received in one go."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.conftest import Site
from tests.browser.walk import ask_for, choose, receive


def test_the_day_says_what_is_next_and_leads_there(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    page.get_by_role("button", name="Place specimens").wait_for()
    page.goto(site.address)
    expect(page.get_by_role("heading", level=1, name="Today")).to_be_visible()
    step = page.get_by_role("link", name="cut J-0401 Trouser tear of woven fabric")
    expect(step).to_be_visible(timeout=40_000)
    # Whatever the hour and the day of the week, some of the week is worked.
    page.get_by_role("button", name="the week").click()
    expect(page.get_by_role("button", name=re.compile("^condition of J-0401"))).to_have_count(2)
    page.get_by_role("button", name=re.compile("^cut of J-0401")).first.dispatch_event("click")
    expect(page.get_by_text("open")).to_be_visible()
    page.get_by_text("What if …").click()
    choose(page, "Job with an earlier due date", "J-0401")
    page.get_by_label("Due by").fill("1 Jan 2020, 12:00")
    page.get_by_role("button", name="Show effect").click()
    expect(page.get_by_text("The plan was not changed.")).to_be_visible(timeout=40_000)
    expect(page.get_by_text(re.compile("J-0401 .* would be .* late"))).to_be_visible()
    step.click()
    page.wait_for_url("**/cutting/1")


def test_several_samples_are_received_in_one_go_and_stand_side_by_side(site: Site) -> None:
    page = site.page("ines")
    page.goto(f"{site.address}/jobs/new")
    for field, typed in (
        ("Client", "Quay Awnings"),
        ("Lot", "B-1"),
        ("Product", "Hinge bracket"),
        ("Material, with mass if known", "polyester, printed"),
    ):
        page.get_by_label(field, exact=True).fill(typed)
    page.get_by_role("radio", name="Pieces").click()
    page.get_by_label("How many").fill("12")
    ask_for(page, "iso-180")
    page.get_by_text("Several samples").click()
    for number, name in enumerate(("flat", "upright", "on edge"), start=1):
        page.get_by_label(f"Sample {number}", exact=True).fill(name)
    page.get_by_label("Lot of sample 2").fill("B-2")
    page.get_by_role("button", name="Receive sample").click()
    page.wait_for_url("**/studies/1")
    for job, name in (("J-0401", "flat"), ("J-0402", "upright"), ("J-0403", "on edge")):
        row = page.get_by_role("listitem").filter(has_text=job)
        expect(row).to_contain_text(name)
    page.get_by_role("link", name="J-0402").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Hinge bracket")
    expect(page.get_by_text("· lot B-2 ·")).to_be_visible()
