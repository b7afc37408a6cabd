"""A real web process, a real browser, one page for each person."""

from __future__ import annotations

from collections.abc import Iterator
from threading import Thread

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Browser, Page, expect, sync_playwright

from endurant.api.session import COOKIE
from endurant.store.server import wait_until
from endurant.work.use_cases.people.sign_in import sign_in
from tests.conftest import StandIn, free_port
from tests.laboratory import PASSWORD, behind_its_back, found

PACE = 60.0

expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """Debian's Chromium, without a monitor and without a network."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=[
                "--no-sandbox",
                "--disable-gpu",
                "--disable-background-networking",
                "--disable-features=site-per-process",
                "--disable-smooth-scrolling",
                "--renderer-process-limit=1",
            ],
        )
        yield chromium
        chromium.close()


class Site:
    """The laboratory as people reach it: an address, and a page for each of them."""

    def __init__(self, browser: Browser, address: str, database: str, standin: StandIn) -> None:
        self.browser = browser
        self.address = address
        self.database = database
        self.standin = standin
        self.troubles: list[str] = []

    def page(self, login: str | None, width: int = 1280, height: int = 800) -> Page:
        """A page of its own, signed in without the form unless `login` is None."""
        context = self.browser.new_context(
            viewport={"width": width, "height": height},
            accept_downloads=True,
            reduced_motion="reduce",
        )
        if login is not None:
            token, _ = sign_in(login, PASSWORD)
            context.add_cookies([{"name": COOKIE, "value": token, "url": self.address}])
        page = context.new_page()
        page.set_default_timeout(60_000)
        page.on("pageerror", lambda error: self.troubles.append(str(error)))
        page.on("request", lambda request: self._note_request(request.url))
        # Not to Today, which plans the day as it opens: a test that wants that goes there.
        page.goto(f"{self.address}/jobs")
        if login is not None:
            page.get_by_role("navigation", name="Screens").wait_for()
        return page

    def sign_in_by_hand(self, login: str) -> Page:
        """A page of its own, signed in with the form."""
        page = self.page(None)
        page.get_by_label("Login").fill(login)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("navigation", name="Screens").wait_for()
        return page

    def a_day_passes(self) -> None:
        """Everything that hangs was hung a day and an hour earlier than the record says."""
        behind_its_back(
            self.database, "UPDATE conditioning_period SET placed_at = placed_at - INTERVAL 25 HOUR"
        )

    def _note_request(self, url: str) -> None:
        if not url.startswith((self.address, "data:", "blob:")):
            self.troubles.append(f"left the machine: {url}")


@pytest.fixture
def pace() -> float:
    """How many times as fast as real ones the stand-ins run; a file of tests may have its own."""
    return PACE


@pytest.fixture
def site(database: str, browser: Browser, pace: float, app: FastAPI) -> Iterator[Site]:
    """A founded laboratory without jobs, served over a port of its own."""
    standin = StandIn(pace)
    standin.start()
    found(standin.port)
    port = free_port()
    web = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="warning"))
    serving = Thread(target=web.run, name="web")
    serving.start()
    wait_until(lambda: web.started, 120, "the web server did not start")
    site = Site(browser, f"http://127.0.0.1:{port}", database, standin)
    yield site
    for context in browser.contexts:
        context.close()
    web.should_exit = True
    serving.join()
    standin.kill()
    assert site.troubles == []
