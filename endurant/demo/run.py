"""`make demo`: the database, the demo laboratory, the stand-ins and the server, until Ctrl-C."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from contextlib import ExitStack
from functools import partial
from pathlib import Path

from endurant.api.app import BUILT
from endurant.api.server import serve
from endurant.core.refusals import Unavailable
from endurant.demo.laboratory import PASSWORD, PEOPLE
from endurant.demo.leftovers import Notes
from endurant.demo.load import load_demo
from endurant.demo.samples import JOBS
from endurant.reports.signing import KEY_VARIABLE, PASSPHRASE_VARIABLE, make_key
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.migrate import upgrade
from endurant.store.server import DatabaseServer, port_is_free, wait_until, with_parent
from endurant.work.upkeep.founding import is_founded
from endurant.work.upkeep.rebuild import rebuild_missing


def run_demo(folder: Path, port: int, pace: float, *, empty: bool = False) -> None:
    """Run the whole laboratory on three ports from `port` on; blocks until it is stopped.

    `empty` founds it with its people and places and without a single job.

    Raises Unavailable with a sentence when a port is taken or something is missing.
    """
    if not (BUILT / "index.html").is_file():
        raise Unavailable("demo.front-end-missing")
    notes = Notes(folder)
    ended = notes.end_leftovers()
    for name in ended:
        print(f"Ended the {name} that an earlier demo had left running", flush=True)
    if ended:
        for left in (port, port + 1, port + 2):
            wait_until(partial(port_is_free, left), 20, f"port {left} does not become free")
    for taken in (port, port + 1):
        if not port_is_free(taken):
            raise Unavailable("demo.port-taken", port=taken)
    with ExitStack() as running:
        signal.signal(signal.SIGTERM, _as_interrupt)
        database = DatabaseServer(folder, port + 2)
        database.start()
        notes.write("demo", os.getpid())
        running.callback(database.stop)
        url = database.create("endurant")
        os.environ[DATABASE_VARIABLE] = url
        os.environ.setdefault(KEY_VARIABLE, _signing_key(folder))
        upgrade(url)
        rebuild_missing()
        standins = subprocess.Popen(
            [
                *with_parent(),
                *(sys.executable, "-m", "endurant.cli", "standins"),
                *("--port", str(port + 1), "--pace", f"{pace:g}"),
            ],
            start_new_session=True,
        )
        notes.write("standins", standins.pid)
        running.callback(standins.wait)
        running.callback(standins.terminate)
        wait_until(lambda: not port_is_free(port + 1), 20, "the stand-ins did not start")
        if not is_founded():
            print("Loading the demo laboratory …", flush=True)
            load_demo("127.0.0.1", port + 1, () if empty else JOBS)
        _greet(port, pace)
        serve("127.0.0.1", port)


def _signing_key(folder: Path) -> str:
    """The key that signs the reports of the demo, made at its first start."""
    file = folder / "signing-key.p12"
    if not file.exists():
        make_key(file, "Endurant demo laboratory", os.environ.get(PASSPHRASE_VARIABLE, ""))
    return str(file)


def _as_interrupt(number: int, frame: object) -> None:
    raise KeyboardInterrupt


def _greet(port: int, pace: float) -> None:
    print(f"\n  Endurant is at http://127.0.0.1:{port}\n", flush=True)
    for person in PEOPLE:
        print(f"  {person.login:<8} {person.name:<16} {person.role}", flush=True)
    print(f"\n  password of all four: {PASSWORD}", flush=True)
    print(f"  The simulated frame runs {pace:g} times as fast as a real one.", flush=True)
    print("  Ctrl-C stops everything.\n", flush=True)
