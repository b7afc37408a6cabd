"""`make bench`: a laboratory with years of work in it, and twenty people looking at it at once.

The database is seeded once and kept in `.endurant/bench`. Each user reads pages as a browser
does, keeps their tags, has three jobs in hand, and looks at each page for two seconds; what is
measured, once everybody has been there for ten seconds, is the time to the whole answer.
"""

from __future__ import annotations

import argparse
import os
import random
import statistics
import subprocess
import sys
import threading
import time
from collections import defaultdict
from collections.abc import Sequence
from pathlib import Path

import httpx2 as httpx

from endurant.demo.laboratory import PASSWORD
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.server import DatabaseServer, port_is_free, wait_until

FOLDER = Path(".endurant/bench")
JOBS, SEED = 2000, 1
USERS, SECONDS, LOOKS_AT_A_PAGE_S = 20, 60, 2.0
WARM_UP_S = 10.0
IN_HAND = 3
FIRST_PORT = 8720
LOGINS = ("maren", "ines", "ruben")
PAGES = ("list", "search", "released", "waiting", "job", "sheet", "draft", "clocks", "conditioning")


def main(wording: Sequence[str] | None = None) -> None:
    """Seed where nothing is there, serve, and print the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--folder", type=Path, default=FOLDER)
    parser.add_argument("--jobs", type=int, default=JOBS)
    parser.add_argument("--seconds", type=float, default=SECONDS)
    parser.add_argument("--users", type=int, default=USERS)
    parser.add_argument("--checkout", type=Path, help="serve another checkout of this program")
    options = parser.parse_args(wording)
    database = DatabaseServer(options.folder, FIRST_PORT + 1)
    database.start()
    try:
        os.environ[DATABASE_VARIABLE] = database.create("endurant")
        if options.checkout is None:
            seed_years(options.jobs)
        _load(options)
    finally:
        database.stop()


def seed_years(jobs: int) -> None:
    """Seed so many jobs where there are fewer."""
    from sqlalchemy import func, select

    from endurant.demo.seed import seed
    from endurant.store.migrate import upgrade
    from endurant.store.tables import Job
    from endurant.work.base.transactions import transaction
    from endurant.work.upkeep.rebuild import rebuild_missing

    upgrade(os.environ[DATABASE_VARIABLE])
    rebuild_missing()
    with transaction() as session:
        there = session.scalar(select(func.count()).select_from(Job)) or 0
    if there < jobs:
        began = time.monotonic()
        counts = seed(jobs - there, SEED, lambda step: print(f"  {step}", flush=True))
        took = time.monotonic() - began
        print(f"seeded in {took:.0f} s: {counts[0]} jobs, {counts[1]} specimens, ", end="")
        print(f"{counts[2]} recordings")


def _load(options: argparse.Namespace) -> None:
    python = sys.executable
    web = subprocess.Popen(
        [python, "-m", "endurant.cli", "serve", "--port", str(FIRST_PORT)],
        cwd=options.checkout or Path.cwd(),
        env=os.environ | {"PYTHONPATH": str((options.checkout or Path.cwd()).resolve())},
    )
    try:
        wait_until(lambda: not port_is_free(FIRST_PORT), 60, "the server did not start")
        times: dict[str, list[float]] = defaultdict(list)
        wrong: list[str] = []
        users = [
            threading.Thread(target=_use, args=(place, options, times, wrong))
            for place in range(options.users)
        ]
        began = time.monotonic()
        for user in users:
            user.start()
        max_mb = 0.0
        while any(user.is_alive() for user in users):
            max_mb = max(max_mb, _resident_mb(web.pid))
            time.sleep(0.5)
        _print_table(times, time.monotonic() - began, max_mb, wrong)
    finally:
        web.terminate()
        web.wait()


def _use(
    place: int, options: argparse.Namespace, times: dict[str, list[float]], wrong: list[str]
) -> None:
    """One person at a browser."""
    luck = random.Random(place)
    tags: dict[str, str] = {}
    new = options.checkout is None
    address = f"http://127.0.0.1:{FIRST_PORT}"
    with httpx.Client(base_url=address, timeout=60, headers={"origin": address}) as browser:
        login = {"login": LOGINS[place % len(LOGINS)], "password": PASSWORD}
        browser.post("/api/session", json=login).raise_for_status()
        jobs = browser.get("/api/jobs").json()
        lines = jobs["jobs"] if new else [line for line in jobs if line["stage"] != "released"]
        mine = [line["id"] for line in luck.sample(lines, min(IN_HAND, len(lines)))]
        sheets = [job_id for job_id in mine if browser.get(f"/api/jobs/{job_id}").json()["is_cut"]]
        time.sleep(luck.uniform(0, WARM_UP_S))
        counts_from = time.monotonic() + WARM_UP_S
        ends = counts_from + options.seconds
        while time.monotonic() < ends:
            for page in PAGES if new else [name for name in PAGES if name in _OLD]:
                path = _path(
                    page, luck.choice(sheets if page == "sheet" and sheets else mine), luck
                )
                headers = {"if-none-match": tags[path]} if path in tags else {}
                began = time.perf_counter()
                answer = browser.get(path, headers=headers)
                if time.monotonic() > counts_from:
                    times[page].append(1000 * (time.perf_counter() - began))
                if answer.status_code not in (200, 304):
                    wrong.append(f"{path}: {answer.status_code}")
                if "etag" in answer.headers:
                    tags[path] = answer.headers["etag"]
                time.sleep(luck.uniform(0.5, 1.5) * LOOKS_AT_A_PAGE_S)


_OLD = ("list", "job", "sheet", "draft", "clocks", "conditioning")


def _path(page: str, job_id: int, luck: random.Random) -> str:
    return {
        "list": "/api/jobs",
        "search": f"/api/jobs?search={luck.choice(('canvas', 'gasket', 'box', 'harbour', 'J-04'))}",
        "released": "/api/jobs?state=released",
        "waiting": "/api/jobs/waiting",
        "job": f"/api/jobs/{job_id}",
        "sheet": f"/api/jobs/{job_id}/sheet",
        "draft": f"/api/jobs/{job_id}/draft",
        "clocks": "/api/clocks",
        "conditioning": "/api/conditioning",
    }[page]


def _resident_mb(pid: int) -> float:
    text = Path(f"/proc/{pid}/status").read_text()
    line = next(line for line in text.splitlines() if line.startswith("VmRSS"))
    return int(line.split()[1]) / 1024


def _print_table(
    times: dict[str, list[float]], took: float, max_mb: float, wrong: list[str]
) -> None:
    every = [figure for figures in times.values() for figure in figures]
    print(f"{'page':<14}{'requests':>9}{'median, ms':>12}{'95 %':>8}{'most':>8}")
    for page, figures in [*times.items(), ("all", every)]:
        print(
            f"{page:<14}{len(figures):>9}{statistics.median(figures):>12.1f}"
            f"{_percentile(figures, 0.95):>8.1f}{max(figures):>8.0f}"
        )
    print(f"{len(every) / took:.1f} requests a second; server {max_mb:.0f} MB at most")
    for wording in sorted(set(wrong))[:10]:
        print(f"refused: {wording}")


def _percentile(figures: list[float], share: float) -> float:
    return sorted(figures)[min(int(share * len(figures)), len(figures) - 1)]


if __name__ == "__main__":
    main()
