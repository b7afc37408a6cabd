"""`make bench`: how soon the first screen can be used, and how much script it takes.

A demo laboratory of its own is started, and Chromium opens it with an empty cache and once more
with a full one. Usable means that the navigation stands and the screen has its heading and its
first list or chart.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import time
from pathlib import Path

from playwright.sync_api import BrowserContext, Request, sync_playwright

from endurant.demo.laboratory import PASSWORD
from endurant.store.server import port_is_free, wait_until

ROOT = Path(__file__).parent.parent
FOLDER = ROOT / ".endurant" / "bench-screens"
PORT = 8540
ADDRESS = f"http://127.0.0.1:{PORT}"
SCREENS = (
    ("Today", "/today", "svg"),
    ("Jobs", "/jobs", "tbody tr"),
    ("Bench", "/bench/4", "form.next"),
    ("Conditioning", "/conditioning", "article"),
    ("Review", "/judge/3", "article"),
)
COLD_S, WARM_S, SCRIPT_KB = 1.5, 0.5, 350
"""The budget of the first screen: from the address to its use, and script as it is sent."""


def main() -> None:
    """Print a row for each screen, and whether the first keeps its budget."""
    shutil.rmtree(FOLDER, ignore_errors=True)
    laboratory = subprocess.Popen(
        [
            *(sys.executable, "-m", "endurant.cli", "demo", "--folder", str(FOLDER)),
            *("--port", str(PORT), "--pace", "20"),
        ]
    )
    try:
        wait_until(lambda: not port_is_free(PORT), 240, "the demo did not start")
        measure()
    finally:
        laboratory.terminate()
        laboratory.wait()
        shutil.rmtree(FOLDER, ignore_errors=True)


def measure() -> None:
    """Open every screen cold and warm."""
    print("| Screen | Cold, s | Warm, s | Script sent, kB |\n|---|---|---|---|")
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        for name, path, first in SCREENS:
            context = chromium.new_context(viewport={"width": 1280, "height": 800})
            context.request.post(
                f"{ADDRESS}/api/session", data={"login": "maren", "password": PASSWORD}
            )
            sizes: list[int] = []
            cold_s = usable_s(context, path, first, sizes)
            script_kb = sum(sizes) / 1000
            warm_s = min(usable_s(context, path, first, []) for _ in range(3))
            print(f"| {name} | {cold_s:.2f} | {warm_s:.2f} | {script_kb:.0f} |", flush=True)
            if name == SCREENS[0][0]:
                kept = cold_s <= COLD_S and warm_s <= WARM_S and script_kb <= SCRIPT_KB
                verdict = "within" if kept else "over"
            context.close()
        chromium.close()
    print(f"\nThe first screen is {verdict} its budget: {COLD_S} s, {WARM_S} s, {SCRIPT_KB} kB.")


def usable_s(context: BrowserContext, path: str, first: str, sizes: list[int]) -> float:
    """Seconds until a screen can be used; the size of each script as it was sent."""
    page = context.new_page()
    scripts: list[Request] = []

    def note(request: Request) -> None:
        scripts.append(request)

    page.on("requestfinished", note)
    begun = time.perf_counter()
    page.goto(ADDRESS + path)
    page.get_by_role("navigation", name="Screens").wait_for()
    page.get_by_role("heading", level=1).first.wait_for()
    page.locator(f"main {first}").first.wait_for()
    took_s = time.perf_counter() - begun
    page.wait_for_load_state("networkidle")
    sizes += [
        request.sizes()["responseBodySize"]
        for request in scripts
        if request.resource_type == "script"
    ]
    page.close()
    return took_s


if __name__ == "__main__":
    main()
