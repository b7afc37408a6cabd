"""Every screen for those who see, hear or reach otherwise: by axe, and by the keyboard alone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from tests.browser.conftest import Site
from tests.browser.walk import receive

AXE = Path("web/node_modules/axe-core/axe.min.js")
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]
SCREENS = (
    "/today",
    "/jobs",
    "/jobs/new",
    "/jobs/1",
    "/send",
    "/cutting",
    "/cutting/1",
    "/conditioning",
    "/bench",
    "/bench/1",
    "/readings/1",
    "/judge",
    "/judge/1",
    "/measuring/1",
    "/instruments",
    "/people",
    "/due",
    "/products",
    "/clients",
    "/nonconformities",
    "/figures",
    "/trends",
    "/methods",
    "/methods/iso-13937-2",
)


def troubles(page: Page, requested: dict[str, Any]) -> list[tuple[str, str]]:
    """What axe finds: its rule, and the first element it finds it on."""
    answer: dict[str, Any] = page.evaluate(
        "rules => axe.run(document, {runOnly: rules})", requested
    )
    return [(problem["id"], problem["nodes"][0]["html"][:160]) for problem in answer["violations"]]


def test_axe_has_nothing_to_say_of_any_screen(site: Site) -> None:
    """Every rule in the light theme; in the dark one the contrast, for nothing else differs."""
    page = site.page("ines")
    page.emulate_media(reduced_motion="reduce", color_scheme="light")
    receive(page)
    page.get_by_role("button", name="Place specimens").click()
    expect(page.get_by_text("All cutting rules are kept")).to_be_visible()
    wrong_on: dict[str, list[tuple[str, str]]] = {}
    for path in SCREENS:
        page.emulate_media(color_scheme="light")
        page.goto(site.address + path)
        expect(page.get_by_role("heading", level=1).first).to_be_visible()
        page.evaluate(AXE.read_text())
        wrong_on[path] = troubles(page, {"type": "tag", "values": RULES})
        page.emulate_media(color_scheme="dark")
        expect(page.locator(".v-theme--dark").first).to_be_visible()
        wrong_on[path] += troubles(page, {"type": "rule", "values": ["color-contrast"]})
    assert {path: wrong for path, wrong in wrong_on.items() if wrong} == {}


def test_a_job_is_reached_and_left_by_keys_alone(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    expect(page.get_by_role("heading", name="Sheet", exact=True)).to_be_visible()
    page.goto(f"{site.address}/jobs")
    expect(page.get_by_role("link", name="J-0401")).to_be_visible()
    page.keyboard.press("f")
    expect(page.get_by_role("searchbox")).to_be_focused()
    page.keyboard.type("nothing of the kind")
    expect(page.get_by_text("No job is found")).to_be_visible()
    page.keyboard.press("Control+a")
    page.keyboard.type("0401")
    expect(page.get_by_role("link", name="J-0401")).to_be_visible()
    for _ in range(12):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent").strip() == "J-0401":
            break
    page.keyboard.press("Enter")
    page.wait_for_url("**/jobs/1")
    for key, path in (("c", "/cutting"), ("h", "/conditioning"), ("b", "/bench"), ("j", "/jobs")):
        page.keyboard.press("g")
        page.keyboard.press(key)
        page.wait_for_url(f"**{path}")


def test_released_jobs_stand_apart(site: Site) -> None:
    page = site.page("ines")
    receive(page)
    expect(page.get_by_role("heading", name="Sheet", exact=True)).to_be_visible()
    page.goto(f"{site.address}/jobs")
    expect(page.get_by_role("link", name="J-0401")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_text("No job is released yet")).to_be_visible()
    page.get_by_label("open").check()
    expect(page.get_by_role("link", name="J-0401")).to_be_visible()
    expect(page.get_by_text("1 job", exact=True)).to_be_visible()
