"""The pictures in docs/screenshots, from the demo data, by Debian's headless Chromium.

Starts a laboratory of its own beside a running demo: own folder, own ports, always fresh.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from endurant.demo.laboratory import PASSWORD
from endurant.store.server import port_is_free, wait_until

ROOT = Path(__file__).parent.parent
PICTURES = ROOT / "docs" / "screenshots"
FOLDER = ROOT / ".endurant" / "screenshots"
PORT = 8520
ADDRESS = f"http://127.0.0.1:{PORT}"
SETTLED_MS = 700

VIEWS = (
    ("today", "/today"),
    ("study", "/studies/1"),
    ("jobs", "/jobs"),
    ("job", "/jobs/3"),
    ("receive", "/jobs/new"),
    ("cutting", "/cutting/10"),
    ("instruments", "/instruments"),
    ("judge", "/judge/3"),
    ("report", "/judge/2"),
    ("readings", "/readings/11"),
    ("products", "/products"),
    ("method", "/methods/astm-f88"),
)


def main() -> None:
    """Take every picture."""
    shutil.rmtree(FOLDER, ignore_errors=True)
    PICTURES.mkdir(parents=True, exist_ok=True)
    laboratory = subprocess.Popen(
        [
            *(sys.executable, "-m", "endurant.cli", "demo", "--folder", str(FOLDER)),
            *("--port", str(PORT), "--pace", "20"),
        ]
    )
    try:
        wait_until(lambda: not port_is_free(PORT), 240, "the demo did not start")
        with sync_playwright() as playwright:
            chromium = playwright.chromium.launch(
                executable_path="/usr/bin/chromium",
                args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
            )
            page = chromium.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(ADDRESS)
            page.get_by_label("Login").wait_for()
            sign_in(page, "maren")
            for name, path in VIEWS:
                page.goto(ADDRESS + path)
                page.get_by_role("heading", level=1).first.wait_for()
                expect(page.get_by_role("button", name="Planning …")).to_have_count(
                    0, timeout=60_000
                )
                take(page, name)
            prepare(page)
            bench(page)
            bar(page)
            chromium.close()
    finally:
        laboratory.terminate()
        laboratory.wait()
        shutil.rmtree(FOLDER, ignore_errors=True)


def sign_in(page: Page, login: str) -> None:
    """Sign in at the door."""
    page.get_by_label("Login").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("navigation", name="Screens").wait_for()


def prepare(page: Page) -> None:
    """How much to send, a room after last night's excursion, and a strip being measured."""
    page.goto(f"{ADDRESS}/send")
    for method in ("iso-13937-2", "iso-13934-1", "iso-13938-1", "iso-37"):
        page.locator("main input[role=combobox]").fill(method)
        page.get_by_role("option").first.click()
    expect(page.locator("svg.sheet g.piece")).to_have_count(34, timeout=30_000)
    take(page, "send")
    page.goto(f"{ADDRESS}/conditioning")
    page.get_by_role("button", name="Film and plastics room").first.click()
    page.get_by_label("Log of Film and plastics room").wait_for()
    take(page, "conditioning")
    page.goto(f"{ADDRESS}/measuring/9")
    for count in range(2, 6):
        page.get_by_role("button", name="Read caliper").click()
        expect(page.get_by_text(f"{count} of 5")).to_be_visible()
    take(page, "measuring")


def bench(page: Page) -> None:
    """A specimen made ready, and to be looked at; then the same in the dark."""
    page.goto(f"{ADDRESS}/bench/4")
    page.get_by_role("button", name="Set jaws and speed").wait_for()
    go_to(page, "Check W5")
    take(page, "bench-look")
    page.get_by_role("button", name="W5: calculation").click()
    take(page, "working-slip")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Dark").click()
    take(page, "bench-dark")


def bar(page: Page) -> None:
    """A metal bar at the pause in which its extensometer comes off."""
    page.get_by_role("button", name="Light").click()
    page.goto(f"{ADDRESS}/bench/13")
    go_to(page, "Remove the extensometer", typed="80")
    take(page, "bench-bar")


def go_to(page: Page, title: str, typed: str = "") -> None:
    """Do what is next until this is; a run that is on is waited for.

    A field that is still empty gets what is `typed`.
    """
    form = page.locator("form.next")
    while (shown := form.get_by_role("heading").inner_text()) != title:
        for field in form.locator("input").all() if typed else []:
            if not field.input_value():
                field.fill(typed)
        button = form.locator("button.main")
        if button.count():
            button.click()
        expect(form.get_by_role("heading")).not_to_have_text(shown, timeout=60_000)


def take(page: Page, name: str) -> None:
    """One picture, once the page has come to rest."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=PICTURES / f"{name}.png")


if __name__ == "__main__":
    main()
