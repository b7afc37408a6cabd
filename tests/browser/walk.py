"""The steps of a job as a technician takes them on the screen."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def receive(page: Page, *, warp: str = "20", weft: str = "15", length: str = "900") -> None:
    """Write a made-up cloth down and land on its sheet."""
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("link", name=re.compile("Receive (first )?sample")).click()
    page.get_by_label("Client").fill("Quay Awnings")
    page.get_by_label("Lot").fill("A-17")
    page.get_by_label("Product").fill("Veranda cloth, ochre")
    page.get_by_label("Material, with mass if known").fill("woven acrylic, 290 g/m²")
    page.get_by_label("Along the roll").fill(length)
    ask_for(page, "iso-13937-2")
    page.get_by_label("warp: mean at least").fill(warp)
    page.get_by_label("weft: mean at least").fill(weft)
    page.get_by_role("button", name="Receive sample").click()


def ask_for(page: Page, method: str) -> None:
    """Pick a test by its number."""
    page.get_by_role("combobox", name=re.compile("Test, by name|Add test")).fill(method)
    page.get_by_role("option", name=re.compile(rf"{method}$")).click()


def place_and_cut(page: Page) -> None:
    """Let everything be placed, and cut it like that."""
    page.get_by_role("button", name="Place specimens").click()
    page.get_by_role("button", name="Confirm cut").click()
    page.get_by_role("button", name="Start conditioning").click()


def hang(page: Page) -> None:
    """Hang what waits."""
    page.get_by_role("button", name=re.compile(r"Place \d+ in Textile room")).click()
    expect(page.get_by_text("to go").first).to_be_visible()


def choose(page: Page, label: str | re.Pattern[str], title: str) -> None:
    """Choose in a select field, by its label and the words of the choice."""
    field = page.get_by_role("combobox", name=label)
    field.press("ArrowDown")
    page.get_by_role("option", name=title, exact=True).click()
    field.blur()


def to_the_bench(page: Page) -> None:
    """The first job that is ready to be tested."""
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("link", name="Start testing").first.click()
    page.wait_for_url("**/bench/*")


def pull(page: Page, label: str) -> None:
    """Go through the ready check by the keyboard, run, and wait until it is to be looked at."""
    make_ready_and_start(page, label)
    take_out(page)
    looked_at = re.compile(f"Accept {label}|Examine the trace")
    expect(page.get_by_role("button", name=looked_at)).to_be_enabled(timeout=40_000)
    expect(page.locator(".trace")).to_have_attribute("data-peaks", re.compile(r"^\d\d"))


def make_ready_and_start(page: Page, label: str) -> None:
    """Every action up to the start, by the keyboard; a frame may have done one of them itself."""
    button = page.locator("form.next button.main")
    while True:
        expect(button).to_be_enabled()
        title, wording = page.locator("form.next").evaluate(STEP_AND_BUTTON)
        page.keyboard.press("Enter")
        if wording.startswith(f"Start {label}"):
            return
        expect(page.locator(f'form.next[data-step="{title}"]')).to_have_count(0)


STEP_AND_BUTTON = 'form => [form.dataset.step, form.querySelector("button.main").innerText]'
"""The step that is shown and what its button says, read in one moment."""


def take_out(page: Page) -> None:
    """The specimen is taken out once the run is over."""
    removed = page.get_by_role("button", name="Confirm removed")
    expect(removed).to_be_enabled(timeout=40_000)
    page.keyboard.press("Enter")


def keep(page: Page, label: str) -> None:
    """Keep it, by the keyboard."""
    page.keyboard.press("Enter")
    expect(page.locator(f'form.next[data-step="Check {label}"]')).to_have_count(0)
    slip = page.get_by_role("button", name=re.compile(rf"^{label}\s*\d"))
    expect(slip).to_be_visible()


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag over the sheet, in parts of its size from its upper left corner."""
    cloth = page.locator("svg.sheet .cloth").bounding_box()
    assert cloth is not None
    spots = [
        (cloth["x"] + x * cloth["width"], cloth["y"] + y * cloth["height"]) for x, y in (start, end)
    ]
    page.mouse.move(*spots[0])
    page.mouse.down()
    page.mouse.move(*spots[1], steps=6)
    page.mouse.up()
