"""Bad input on screen, keys, codes, themes, sizes and the server gone."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.conftest import Site
from tests.browser.walk import hang, place_and_cut, receive, to_the_bench


def test_a_limit_that_is_no_number_is_refused_and_nothing_typed_is_lost(site: Site) -> None:
    page = site.page("ines")
    receive(page, warp="1e3")
    expect(page.get_by_role("alert")).to_contain_text("a number such as 25")
    expect(page.get_by_label("Product")).to_have_value("Veranda cloth, ochre")
    page.get_by_label("warp: mean at least").fill("5")
    page.get_by_role("button", name="Receive sample").click()
    expect(page.get_by_role("button", name="Place specimens")).to_be_visible()


def test_a_sample_too_small_says_what_is_missing(site: Site) -> None:
    page = site.page("ines")
    receive(page, length="320")
    page.get_by_role("button", name="Place specimens").click()
    expect(page.get_by_text(re.compile("mm too short. It is 320 mm long")).first).to_be_visible()
    expect(page.get_by_role("button", name="Confirm cut")).to_have_count(0)


def test_a_bad_file_is_refused_next_to_the_specimen(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    place_and_cut(page)
    hang(page)
    to_the_bench_early(site, page)
    page.locator("input[type=file][accept*=csv]").set_input_files(
        {"name": "w1.csv", "mimeType": "text/csv", "buffer": b"Extension (mm),Load (N)\n0,1\n1,x\n"}
    )
    expect(page.get_by_role("alert")).to_contain_text(
        "Row 3, column “Load (N)”: “x” is not a number"
    )


def to_the_bench_early(site: Site, page) -> None:  # type: ignore[no-untyped-def]
    site.a_day_passes()
    to_the_bench(page)
    page.get_by_role("button", name="Import trace from file").wait_for()


def test_testing_too_early_asks_for_a_reason(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    place_and_cut(page)
    hang(page)
    page.goto(f"{site.address}/bench/1")
    page.get_by_role("button", name="Import trace from file").wait_for()
    rows = "".join(f"{x},{20 + 5 * (x % 3)}\n" for x in range(60))
    page.locator("input[type=file][accept*=csv]").set_input_files(
        {"name": "w1.csv", "mimeType": "text/csv", "buffer": f"Extension,Load\n{rows}".encode()}
    )
    expect(page.get_by_role("heading", name="Reason for the deviation")).to_be_visible()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Reason", exact=True).fill("the client waits at the counter")
    page.get_by_role("button", name="Continue with the reason").click()
    looked_at = re.compile("Accept W1|Examine the trace")
    expect(page.get_by_role("button", name=looked_at)).to_be_enabled()
    page.goto(f"{site.address}/judge/1")
    expect(page.get_by_text("Reason: the client waits at the counter")).to_be_visible()


def test_keys_and_codes(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    expect(page.get_by_role("heading", name="Sheet", exact=True)).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keyboard shortcuts")).to_be_visible()
    expect(page.get_by_text("mark an area to avoid")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Keyboard shortcuts")).not_to_be_visible()
    page.keyboard.press("g")
    page.keyboard.press("h")
    expect(page.get_by_role("heading", name="Conditioning")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("j-0401-1-f2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^F2"), pressed=True)).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_label("Action, screen, job or method").fill("J-0401")
    expect(page.get_by_role("option", name=re.compile("^J-0401 "))).to_be_visible()
    page.get_by_label("Action, screen, job or method").fill("required size")
    page.keyboard.press("Enter")
    page.wait_for_url("**/send")
    page.get_by_label("Find anything").fill("J-9999")
    page.get_by_label("Find anything").press("Enter")
    expect(page.get_by_text("Nothing found. Try")).to_be_visible()


def test_the_server_gone_is_said_and_the_page_comes_back(site: Site) -> None:
    page = site.page("ines")
    page.get_by_role("link", name="Jobs").click()
    expect(page.get_by_text("No samples received yet")).to_be_visible()
    page.context.set_offline(True)
    expect(page.get_by_text("The connection to the server is lost")).to_be_visible(timeout=30_000)
    page.context.set_offline(False)
    expect(page.get_by_text("No clock is running")).to_be_visible(timeout=30_000)


def test_no_screen_is_wider_than_its_window(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    page.get_by_role("button", name="Place specimens").click()
    expect(page.get_by_text("All cutting rules are kept")).to_be_visible()
    for path in (
        "/today",
        "/jobs",
        "/jobs/1",
        "/jobs/new",
        "/send",
        "/measuring/1",
        "/cutting/1",
        "/conditioning",
        "/bench/1",
        "/judge/1",
        "/due",
        "/products",
        "/clients",
        "/nonconformities",
        "/figures",
        "/trends",
    ):
        page.goto(site.address + path)
        page.get_by_role("heading", level=1).first.wait_for()
        inner = page.locator("main > .sheet")
        for width, height in ((1024, 768), (1920, 1080), (820, 1180), (640, 400), (390, 844)):
            page.set_viewport_size({"width": width, "height": height})
            overflow = inner.evaluate("element => element.scrollWidth - element.clientWidth")
            assert overflow <= 0, (path, width)


def test_the_theme_is_kept(site: Site) -> None:
    page = site.page("ines")
    page.get_by_role("button", name="Dark").click()
    page.reload()
    expect(page.get_by_role("button", name="Light")).to_be_visible()
    expect(page.locator(".v-theme--dark").first).to_be_attached()


def test_a_wrong_address_and_a_missing_job(site: Site) -> None:
    page = site.page("ines")
    page.goto(f"{site.address}/nowhere")
    expect(page.get_by_text("Page not found")).to_be_visible()
    page.goto(f"{site.address}/jobs/77")
    expect(page.get_by_role("alert")).to_contain_text("There is no job with id 77")
