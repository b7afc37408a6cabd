"""The pictures in docs/screenshots, from the demo data, by Debian's headless Chromium.

Starts a laboratory of its own beside a running demo: own folder, own ports, always fresh.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

from endurant.demo.load import PASSWORD
from endurant.store.server import port_is_free, wait_until

ROOT = Path(__file__).parent.parent
PICTURES = ROOT / "docs" / "screenshots"
FOLDER = ROOT / ".endurant" / "screenshots"
PORT = 8520
ADDRESS = f"http://127.0.0.1:{PORT}"
SETTLED_MS = 700

VIEWS = (
    ("jobs", "/jobs"),
    ("job", "/jobs/3"),
    ("receive", "/jobs/new"),
    ("cutting", "/cutting/7"),
    ("conditioning", "/conditioning"),
    ("judge", "/judge/3"),
    ("report", "/judge/2"),
    ("readings", "/readings/9"),
    ("methods", "/methods"),
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
            page.get_by_label("Name you sign in with").wait_for()
            take(page, "sign-in")
            sign_in(page, "maren")
            for name, path in VIEWS:
                page.goto(ADDRESS + path)
                page.get_by_role("heading", level=1).first.wait_for()
                take(page, name)
            bench(page)
            chromium.close()
    finally:
        laboratory.terminate()
        laboratory.wait()
        shutil.rmtree(FOLDER, ignore_errors=True)


def sign_in(page: Page, login: str) -> None:
    """Sign in at the door."""
    page.get_by_label("Name you sign in with").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("navigation", name="Screens").wait_for()


def bench(page: Page) -> None:
    """A specimen made ready, running and to be looked at; then the same in the dark."""
    page.goto(f"{ADDRESS}/bench/4")
    page.get_by_role("button", name="Set jaws and speed").wait_for()
    take(page, "bench-ready")
    for act in ("Set jaws and speed", "W5 is clamped", "Zero", "start W5"):
        expect(page.get_by_role("button", name=act)).to_be_enabled(timeout=20_000)
        page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Keep W5")).to_be_enabled(timeout=60_000)
    take(page, "bench-look")
    page.get_by_role("button", name="Tear force of W5").click()
    take(page, "working-slip")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Dark").click()
    take(page, "bench-dark")


def take(page: Page, name: str) -> None:
    """One picture, once the page has come to rest."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=PICTURES / f"{name}.png")


if __name__ == "__main__":
    main()
