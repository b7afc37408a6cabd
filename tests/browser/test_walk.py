"""From the parcel to the signed PDF, through the real interface."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Site
from tests.browser.walk import (
    choose,
    drag,
    hang,
    keep,
    make_ready_and_start,
    place_and_cut,
    pull,
    receive,
    take_out,
    to_the_bench,
)
from tests.laboratory import PASSWORD, csv_of
from tests.pdf_text import text_of


def test_from_the_parcel_to_the_signed_pdf(site: Site) -> None:
    page = site.sign_in_by_hand("ines")
    page.get_by_role("link", name="Jobs").click()
    expect(page.get_by_text("No samples received yet")).to_be_visible()
    receive(page)

    page.get_by_role("button", name="Mark an area").click()
    drag(page, (0.0, 0.30), (1.0, 0.34))
    expect(page.get_by_role("listitem").filter(has_text="crease")).to_be_visible()
    page.get_by_role("button", name="Place specimens").click()
    expect(page.get_by_text("All cutting rules are kept")).to_be_visible()
    move_a_specimen_onto_its_neighbour(page)
    page.get_by_role("button", name="Place specimens again").click()
    page.get_by_role("button", name="Confirm cut").click()
    page.get_by_role("button", name="Start conditioning").click()
    hang(page)
    expect(page.get_by_label("Running clocks").get_by_text(re.compile(r"^2[34] h"))).to_be_visible()
    site.a_day_passes()

    to_the_bench(page)
    for label in ("W1", "W2"):
        pull(page, label)
        keep(page, label)
    choose(page, re.compile("Behaviour (in|from)"), "lets the specimen slip in the jaw")
    pull(page, "W3")
    page.keyboard.press("1")
    expect(page.get_by_role("button", name=re.compile("^W3.*void"))).to_be_visible()
    bring_the_rest_in(page, ["W4", "W5", "W6", "F1", "F2", "F3", "F4", "F5"])
    page.get_by_role("main").get_by_role("link", name="Review").click()
    page.wait_for_url("**/judge/*")

    expect(page.get_by_text("pass", exact=True).first).to_be_visible()
    expect(page.get_by_text("void, slipped in the jaw")).to_be_visible()
    expect(page.get_by_text("A reviewer or manager who did not test the sample")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^2\d\.\d.N")).first.click()
    slip = page.get_by_role("document")
    expect(slip.get_by_text("mean of 5 valid specimens")).to_be_visible()
    page.keyboard.press("Escape")

    maren = site.page("maren")
    maren.goto(page.url)
    maren.get_by_label("Your password").fill("not this one")
    maren.get_by_role("button", name="Release report").click()
    expect(maren.get_by_text("The password is wrong")).to_be_visible()
    maren.get_by_label("Your password").fill(PASSWORD)
    maren.get_by_role("button", name="Release report").click()
    pdf_link = maren.get_by_role("link", name="Full record", exact=True)
    expect(pdf_link).to_be_visible(timeout=60_000)
    href = pdf_link.get_attribute("href")
    wording = text_of(maren.request.get(f"{site.address}{href}").body())
    assert "Released" in wording
    assert "Maren Reviewer" in wording
    assert "a leg slipped in its jaw" in wording

    page.reload()
    expect(page.get_by_text("Released report")).to_be_visible()


def move_a_specimen_onto_its_neighbour(page: Page) -> None:
    """While it is being dragged the broken rule is said; dropped, it stays said."""
    pieces = page.locator("svg.sheet g.piece polygon.edge")
    specimen, other = pieces.nth(6).bounding_box(), pieces.nth(7).bounding_box()
    assert specimen is not None
    assert other is not None
    page.mouse.move(specimen["x"] + specimen["width"] / 2, specimen["y"] + specimen["height"] / 2)
    page.mouse.down()
    page.mouse.move(other["x"] + other["width"] / 2, other["y"] + other["height"] / 2, steps=8)
    expect(page.get_by_text("F1 and F2 overlap")).to_be_visible()
    page.mouse.up()
    expect(page.get_by_role("button", name="Place specimens again")).to_be_enabled()
    expect(page.get_by_text("F1 and F2 overlap")).to_be_visible()


def bring_the_rest_in(page: Page, labels: list[str]) -> None:
    """From files, as from a frame that writes them."""
    for label in labels:
        expect(page.get_by_text(re.compile(rf"^{label}$")).first).to_be_visible()
        page.get_by_role("button", name="Import trace from file").wait_for()
        data = csv_of(f"J-0401-1-{label}")
        page.locator("input[type=file][accept*=csv]").set_input_files(
            {"name": f"{label}.csv", "mimeType": "text/csv", "buffer": data}
        )
        expect(page.get_by_role("button", name=f"Accept {label}")).to_be_enabled()
        keep(page, label)


def test_a_lost_line_is_said_and_caught_up(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    place_and_cut(page)
    hang(page)
    site.a_day_passes()
    to_the_bench(page)
    choose(page, re.compile("Behaviour (in|from)"), "loses its line during the test")
    make_ready_and_start(page, "W1")
    expect(page.get_by_text("samples are stored. Reading")).to_be_visible()
    expect(page.get_by_role("button", name="Close run with the stored data")).to_be_visible()
    take_out(page)
    expect(page.get_by_role("button", name="Accept W1")).to_be_enabled(timeout=40_000)
    expect(page.get_by_text("4501 samples, end of travel")).to_be_visible()


def test_a_second_browser_sees_the_run_and_the_void(site: Site) -> None:
    page, other = site.page("ines"), site.page("olga")
    receive(page)
    place_and_cut(page)
    hang(page)
    site.a_day_passes()
    to_the_bench(page)
    other.goto(page.url)
    pull(page, "W1")
    expect(other.get_by_role("button", name="Accept W1")).to_be_enabled()
    page.get_by_role("button", name="Slipped in the jaw").click()
    expect(page.get_by_role("button", name=re.compile("^W1.*void"))).to_be_visible()
    expect(other.get_by_role("button", name=re.compile("^W1.*void"))).to_be_visible()
