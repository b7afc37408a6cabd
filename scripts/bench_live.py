"""`make bench`: twelve stations that record at once, and a bench with a million samples.

The stand-ins run in this process at 500 samples a second, so that the moment at which each sample
was made is known; the web process is one of its own, with its database. A viewer a station takes
what its socket sends, as a browser does.
"""

from __future__ import annotations

import argparse
import asyncio
import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx2 as httpx
import numpy as np
from websockets.sync.client import connect

from endurant.demo.house import PASSWORD, PEOPLE
from endurant.devices.frame.standin import SimulatedFrame
from endurant.standins.host import Host
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.server import DatabaseServer, port_is_free, wait_until

STATIONS, RATE_HZ, SECONDS = 12, 500.0, 60.0
FIRST_PORT = 8740
MILLION = 1_000_000


class FastFrame(SimulatedFrame):
    """A frame that samples as often as frames do."""

    rate_hz = RATE_HZ


def main(words: Sequence[str] | None = None) -> None:
    """Found a laboratory of twelve frames, run them all, and print what was seen."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=SECONDS)
    parser.add_argument("--stations", type=int, default=STATIONS)
    options = parser.parse_args(words)
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
    from endurant.work.jobs import receiving
    from endurant.work.record.founding import NewStation, add_person, add_station, found_laboratory

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
    asked = receiving.SampleAsked(
        client="Bench",
        product="Bench cloth",
        lot="1",
        material="cloth",
        form="pieces",
        count=60,
        due_at=now + timedelta(days=3),
        tests=[receiving.TestAsked(method="iso-13937-2", parameters={"specimens_wanted": 20})],
    )
    job = receiving.receive(people["ines"], asked)
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
        asked = {
            "act": step["act"],
            "seen": view["last"],
            "station_id": station,
            "confirmed": step["confirms"],
            "deviation": "a measurement of the program",
        }
        browser.post(f"{path}/acts", json=asked).raise_for_status()


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


def _lost(browser: httpx.Client, run_id: int, frame: FastFrame) -> int:
    def over() -> bool:
        return bool(browser.get(f"/api/runs/{run_id}").json()["state"] != "running")

    wait_until(over, 60, "a run did not end")
    made = len(frame.test.samples) if frame.test else 0
    return made - int(browser.get(f"/api/runs/{run_id}").json()["samples"])


def _cpu_s(pid: int) -> float:
    cells = Path(f"/proc/{pid}/stat").read_text().rpartition(") ")[2].split()
    return (int(cells[11]) + int(cells[12])) / os.sysconf("SC_CLK_TCK")


def _million(browser: httpx.Client, run_id: int) -> None:
    """Put a million samples into a run, and open its bench."""
    from endurant.store.samples import pack, sha256
    from endurant.store.tables import Run
    from endurant.work.record.transactions import transaction

    time_s = np.arange(MILLION) / RATE_HZ
    force = 20 + 4 * np.sin(time_s * 1.3) + 0.01 * np.random.default_rng(1).standard_normal(MILLION)
    table = np.column_stack([time_s, 150 * time_s / time_s[-1], force])
    with transaction() as session:
        run = session.get_one(Run, run_id)
        run.raw, run.sha256, run.samples = pack(table), sha256(table), MILLION
        specimen_id = run.specimen_id
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
