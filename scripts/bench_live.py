"""`make bench`: twelve stations that record at once, and a bench with a million samples.

The stand-ins run in this process at 500 samples a second, so that the moment at which each sample
was made is known; the web process is one of its own, with its database. A viewer a station takes
what its socket sends, as a browser does.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import multiprocessing
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from multiprocessing.queues import SimpleQueue
from multiprocessing.synchronize import Event
from pathlib import Path

import httpx2 as httpx
import numpy as np
from numpy.typing import NDArray
from websockets.sync.client import connect

from endurant.demo.laboratory import PASSWORD, PEOPLE
from endurant.devices.frame.standin import SimulatedFrame
from endurant.standins.host import Host
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.server import DatabaseServer, port_is_free, wait_until

STATIONS, RATE_HZ, SECONDS = 12, 500.0, 60.0
FIRST_PORT = 8740
MILLION, PIECE = 1_000_000, 10_000


class FastFrame(SimulatedFrame):
    """A frame that samples as often as frames do."""

    rate_hz = RATE_HZ


def main(wording: Sequence[str] | None = None) -> None:
    """Found a laboratory of twelve frames, run them all, and print what was seen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=SECONDS)
    parser.add_argument("--stations", type=int, default=STATIONS)
    options = parser.parse_args(wording)
    frames = {f"SF-{n}": FastFrame(f"SF-{n}", 1.0) for n in range(1, options.stations + 1)}
    with tempfile.TemporaryDirectory() as folder:
        database = DatabaseServer(Path(folder), FIRST_PORT + 1)
        database.start()
        try:
            os.environ[DATABASE_VARIABLE] = database.create("endurant")
            specimens = _found(list(frames))
            _serve_frames(frames)
            _measure(options, frames, specimens)
        finally:
            database.stop()


def _found(serials: list[str]) -> list[int]:
    from endurant.store.migrate import upgrade
    from endurant.work.upkeep.founding import (
        NewStation,
        add_person,
        add_station,
        found_laboratory,
    )
    from endurant.work.use_cases.receiving import receiving

    upgrade(os.environ[DATABASE_VARIABLE])
    found_laboratory("Bench", "Bench")
    people = {new.login: add_person(new) for new in PEOPLE}
    now = datetime.now(UTC)
    for serial in serials:
        add_station(
            NewStation(
                name=f"Frame {serial}",
                host="127.0.0.1",
                port=FIRST_PORT + 3,
                simulated=True,
                instrument="Cell",
                serial=serial,
                capacity_n=500,
                certificate="C",
                calibrated_at=now - timedelta(days=1),
                calibration_due_at=now + timedelta(days=300),
                device=serial,
            )
        )
    request = receiving.SampleRequest(
        client="Bench",
        product="Bench cloth",
        lot="1",
        material="cloth",
        form="pieces",
        count=60,
        due_at=now + timedelta(days=3),
        tests=[receiving.TestRequest(method="iso-13937-2", parameters={"specimens_wanted": 20})],
    )
    job = receiving.receive(people["ines"], request)
    return [specimen.id for specimen in job.tests[0].specimens][: len(serials)]


def _serve_frames(frames: dict[str, FastFrame]) -> None:
    first = next(iter(frames.values()))
    host = Host(first, frames, {})

    async def forever() -> None:
        server = await host.serve("127.0.0.1", FIRST_PORT + 3)
        async with server:
            await server.serve_forever()

    threading.Thread(target=lambda: asyncio.run(forever()), daemon=True).start()
    wait_until(lambda: not port_is_free(FIRST_PORT + 3), 20, "the frames did not start")


def _measure(
    options: argparse.Namespace, frames: dict[str, FastFrame], specimens: list[int]
) -> None:
    web = subprocess.Popen(
        [sys.executable, "-m", "endurant.cli", "serve", "--port", str(FIRST_PORT)]
    )
    try:
        wait_until(lambda: not port_is_free(FIRST_PORT), 60, "the server did not start")
        address = f"http://127.0.0.1:{FIRST_PORT}"
        browser = httpx.Client(base_url=address, timeout=60, headers={"origin": address})
        login = {"login": "ines", "password": PASSWORD}
        browser.post("/api/session", json=login).raise_for_status()
        serials = list(frames)
        runs = [_started(browser, place + 1, specimens[place]) for place in range(len(serials))]
        late: list[float] = []
        drawn: list[tuple[int, float]] = []
        looks = threading.Thread(
            target=_look, args=(address, specimens[0], options.seconds, drawn), daemon=True
        )
        looks.start()
        viewers = [
            threading.Thread(target=_view, args=(browser, runs[place], frames[serial], late))
            for place, serial in enumerate(serials)
        ]
        cpu, began = _cpu_s(web.pid), time.monotonic()
        for viewer in viewers:
            viewer.start()
        time.sleep(options.seconds)
        used = (_cpu_s(web.pid) - cpu) / (time.monotonic() - began)
        for run_id in runs:
            browser.post(f"/api/runs/{run_id}/stop")
        for viewer in viewers:
            viewer.join(60)
        pairs = zip(runs, serials, strict=True)
        lost = sum(_lost(browser, run, frames[name]) for run, name in pairs)
        of_20 = 1000 * float(np.quantile(late, 0.95))
        print(f"{len(runs)} stations x {RATE_HZ:.0f} samples/s for {options.seconds:.0f} s")
        print(f"samples lost: {lost}")
        print(f"sent within: median {1000 * statistics.median(late):.0f} ms, ", end="")
        print(f"95 % {of_20:.0f} ms, most {1000 * max(late):.0f} ms")
        looks.join(60)
        first = frames[serials[0]].test
        if first is not None and drawn:
            began_at = first.began + time.time() - time.monotonic()
            pairs_seen = zip([0] + [samples for samples, _ in drawn], drawn, strict=False)
            shown = [at - (began_at + seen / RATE_HZ) for seen, (_, at) in pairs_seen if seen]
            print(f"drawn within: median {1000 * statistics.median(shown):.0f} ms, ", end="")
            print(f"95 % {1000 * float(np.quantile(shown, 0.95)):.0f} ms ({len(shown)} drawings)")
        print(f"server: {used:.2f} of a core")
        _million(browser, runs[0])
    finally:
        web.terminate()
        web.wait()


def _started(browser: httpx.Client, station: int, specimen: int) -> int:
    path = f"/api/specimens/{specimen}"
    while True:
        view = browser.get(f"{path}/bench", params={"station_id": station}).json()
        step = view["step"]
        if step["kind"] == "watch":
            return int(view["run_id"])
        request = {
            "act": step["act"],
            "seen": view["last"],
            "station_id": station,
            "confirmed": step["confirms"],
            "deviation": "a measurement of the program",
        }
        browser.post(f"{path}/actions", json=request).raise_for_status()


def _view(browser: httpx.Client, run_id: int, frame: FastFrame, late: list[float]) -> None:
    cookie = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    address = f"ws://127.0.0.1:{FIRST_PORT}/api/runs/{run_id}/live?first=0"
    headers = {"cookie": cookie, "origin": f"http://127.0.0.1:{FIRST_PORT}"}
    seen = 0
    with connect(address, additional_headers=headers, max_size=None) as socket:
        for message in socket:
            piece = json.loads(message)
            now, test = time.monotonic(), frame.test
            if test is None or piece["state"] != "running":
                return
            if piece["samples"] > seen and seen:
                # The oldest sample of the piece has waited longest.
                late.append(now - (test.began + seen / RATE_HZ))
            seen = piece["samples"]


WATCHES_THE_DRAWING = """
window.drawn = []
const Plain = window.WebSocket
window.WebSocket = class extends Plain {
  constructor(...given) {
    super(...given)
    this.addEventListener('message', (event) => {
      const piece = JSON.parse(event.data)
      if (!piece.samples) return
      const watch = new MutationObserver(() => {
        watch.disconnect()
        requestAnimationFrame(() => window.drawn.push([piece.samples, Date.now() / 1000]))
      })
      const chart = document.querySelector('.chart svg')
      if (chart) watch.observe(chart, { subtree: true, childList: true, attributes: true })
    })
  }
}
"""
"""Notes when a piece that arrived stands in the drawing: the frame after the chart has changed."""


def _look(address: str, specimen: int, seconds: float, drawn: list[tuple[int, float]]) -> None:
    """Look at the bench of one specimen with a browser, and note when samples stand on it."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(WATCHES_THE_DRAWING)
        page.goto(address)
        page.get_by_label("Login").fill("ines")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("navigation", name="Screens").wait_for()
        page.goto(f"{address}/bench/1?specimen={specimen}")
        page.wait_for_timeout(1000 * seconds / 2)
        drawn += [(int(samples), float(at)) for samples, at in page.evaluate("window.drawn")]
        chromium.close()


def _lost(browser: httpx.Client, run_id: int, frame: FastFrame) -> int:
    def over() -> bool:
        return bool(browser.get(f"/api/runs/{run_id}").json()["state"] != "running")

    wait_until(over, 60, "a run did not end")
    made = len(frame.test.samples) if frame.test else 0
    return made - int(browser.get(f"/api/runs/{run_id}").json()["samples"])


def _cpu_s(pid: int) -> float:
    cells = Path(f"/proc/{pid}/stat").read_text().rpartition(") ")[2].split()
    return (int(cells[11]) + int(cells[12])) / os.sysconf("SC_CLK_TCK")


def _close(run_id: int, table: NDArray[np.float64]) -> None:
    """Give a run a million samples as if it were on, and close it while others want its rows."""
    from sqlalchemy import delete

    from endurant.store.samples import pack
    from endurant.store.tables import BenchEvent, Recording, Run, RunChunk
    from endurant.work.base.transactions import transaction
    from endurant.work.use_cases.bench.live import StoredRun

    with transaction() as session:
        run = session.get_one(Run, run_id)
        run.state, run.sha256, run.samples = "running", None, MILLION
        if run.station is not None:
            run.station.leased_by = "bench"
            run.station.leased_until = datetime.now(UTC) + timedelta(hours=1)
        of_it = BenchEvent.specimen_id == run.specimen_id
        session.execute(delete(BenchEvent).where(of_it, BenchEvent.kind == "ended"))
        session.execute(delete(Recording).where(Recording.run_id == run_id))
        for first in range(0, MILLION, PIECE):
            part = table[first : first + PIECE]
            piece = RunChunk(run_id=run_id, first_sample=first, count=PIECE, samples=pack(part))
            session.add(piece)
    apart = multiprocessing.get_context("spawn")
    is_over, notified = apart.Event(), apart.SimpleQueue()
    wants = [
        apart.Process(target=_want, args=(name, run_id, is_over, notified))
        for name in ("run", "chain")
    ]
    for each in wants:
        each.start()
    for _ in wants:
        notified.get()
    StoredRun(run_id, "bench").ended("end-of-travel")
    is_over.set()
    for _ in wants:
        name, longest_s = notified.get()
        print(f"closing a million samples: the {name} is held {1000 * longest_s:.0f} ms at most")


def _want(name: str, run_id: int, is_over: Event, notified: SimpleQueue[tuple[str, float]]) -> None:
    """Lock a row again and again, from a process of its own; say how long it took at most."""
    from sqlalchemy import select
    from sqlalchemy.orm import Session

    from endurant.store.engine import engine_for
    from endurant.store.tables import AuditHead, Run

    row = select(Run.id).where(Run.id == run_id) if name == "run" else select(AuditHead.id)
    longest_s = 0.0
    while not is_over.is_set():
        began = time.perf_counter()
        with Session(engine_for(os.environ[DATABASE_VARIABLE])) as session:
            session.execute(row.with_for_update()).all()
            session.rollback()
        if longest_s == 0.0:
            notified.put((name, 0.0))
            longest_s = 1e-6
            continue
        longest_s = max(longest_s, time.perf_counter() - began)
    notified.put((name, longest_s))


def _million(browser: httpx.Client, run_id: int) -> None:
    """Put a million samples into a run, and open its bench."""
    from endurant.store.tables import Run
    from endurant.work.base.transactions import transaction

    time_s = np.arange(MILLION) / RATE_HZ
    force = 20 + 4 * np.sin(time_s * 1.3) + 0.01 * np.random.default_rng(1).standard_normal(MILLION)
    table = np.column_stack([time_s, 150 * time_s / time_s[-1], force])
    _close(run_id, table)
    with transaction() as session:
        specimen_id = session.get_one(Run, run_id).specimen_id
    for path in (f"/api/specimens/{specimen_id}/bench", f"/api/runs/{run_id}"):
        began = time.perf_counter()
        answer = browser.get(path)
        took = time.perf_counter() - began
        print(f"a million samples: {path.split('/')[2]} {took:.2f} s, {len(answer.content)} bytes")
    began = time.perf_counter()
    for window in range(20):
        low = window * 5
        answer = browser.get(f"/api/runs/{run_id}/window", params={"low": low, "high": low + 20})
        answer.raise_for_status()
    print(f"a window of it: {1000 * (time.perf_counter() - began) / 20:.0f} ms")


if __name__ == "__main__":
    main()
