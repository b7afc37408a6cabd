"""What tests stand on: a MariaDB of their own, a laboratory in it, a simulated frame."""

from __future__ import annotations

import asyncio
import fcntl
import gc
import itertools
import os
import shutil
import tempfile
import threading
import time
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import IO, Any

import pytest
from argon2 import PasswordHasher
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings
from sqlalchemy import text

from endurant.api.app import build_app
from endurant.standins.laboratory import demo_host
from endurant.store.engine import DATABASE_VARIABLE, engine_for
from endurant.store.migrate import upgrade
from endurant.store.server import DatabaseServer, port_is_free
from tests.kept import empty
from tests.laboratory import Bench, found

os.environ["TZ"] = "UTC"
time.tzset()

settings.register_profile(
    "same-every-time",
    derandomize=True,
    deadline=None,
    max_examples=60,
    database=None,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("same-every-time")

ROOM_FOR_TESTS = 1_500_000_000
FAST = 300.0
"""How many times as fast as a real one the frame of the tests runs."""


LONGEST_FIRST = (
    "test_from_the_parcel_to_the_signed_pdf",
    "test_years_of_work_are_seeded",
    "test_the_demo_has_a_job_in_every_state",
    "test_a_pilot_gives_the_wide_specimens",
    "test_every_kind_of_change_by_hand",
    "test_contract",
    "test_axe_has_nothing_to_say",
    "browser",
    "test_seed",
    "test_demo",
    "test_tampering",
)
"""What takes longest is begun first, so that no worker waits for another at the end."""


def pytest_collection_finish() -> None:
    """What was imported stays; the collector of garbage need not look at it again and again.

    Nor so often at what a request makes and drops: that was a fourteenth of all processor time.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)


REST = (
    "browser",
    "test_demo",
    "test_seed",
    "test_contract",
    "test_tampering",
    "api/test_bench",
    "api/test_planning",
    "api/test_runs",
    "api/test_reports",
    "api/test_cards",
    "api/test_instruments",
    "api/test_conditioning",
    "api/test_migrations",
)
"""What `make test` leaves to `make test-rest`: whatever needs a browser, a device or a history."""


@pytest.hookimpl(wrapper=True)
def pytest_collection_modifyitems(
    config: pytest.Config, items: list[pytest.Item]
) -> Generator[None]:
    """Mark what is left to the rest, and deal out what takes longest first.

    Each worker is given a stretch of the list, and steals from the end of another's once it is
    through: so every stretch begins with its share of the longest. After them, the tests of one
    file stay together, for they share what their file sets up.
    """
    for item in items:
        if any(part in item.path.as_posix() for part in REST):
            item.add_marker("rest")
    yield  # What is not asked for is taken out here.
    items.sort(key=_rank)
    longest = [item for item in items if _rank(item) < len(LONGEST_FIRST)]
    others = items[len(longest) :]
    workers = int(getattr(config, "workerinput", {}).get("workercount", 1))
    each = -(-len(others) // workers)
    items[:] = [
        item
        for worker in range(workers)
        for item in longest[worker::workers] + others[worker * each : (worker + 1) * each]
    ]


def _rank(item: pytest.Item) -> int:
    """The place of a test among the longest; the same last place for all others."""
    found = (place for place, part in enumerate(LONGEST_FIRST) if part in item.nodeid)
    return next(found, len(LONGEST_FIRST))


QUICK_HASHER = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)
"""Passwords of the tests guard nothing: six at full strength are a second of every test."""


@pytest.fixture(scope="session", autouse=True)
def _quick_passwords() -> Iterator[None]:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("endurant.work.use_cases.people.sign_in._hasher", QUICK_HASHER)
        yield


LOWEST_PORT, PORTS_OF_A_WORKER = 20_000, 4_000
_ports = itertools.count(os.getpid() % 1000)
_locks: list[IO[str]] = []


def free_port() -> int:
    """A port that nothing listens on, and that no other test of this machine is given.

    They lie below the ports that the system lends to outgoing connections, so that nothing
    takes one between here and its server's start. A lock in a file, held until this process
    ends, keeps two sessions of tests apart.
    """
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
    first = LOWEST_PORT + worker % 3 * PORTS_OF_A_WORKER
    while True:
        port = first + next(_ports) % PORTS_OF_A_WORKER
        if port_is_free(port) and _locked(port):
            return port


def _locked(port: int) -> bool:
    """True when the port is ours from now on."""
    lock = (Path(tempfile.gettempdir()) / f"endurant-port-{port}.lock").open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.close()
        return False
    _locks.append(lock)
    return True


class StandIn:
    """The simulated devices at a port of their own, which can be killed and started again."""

    def __init__(self, pace: float) -> None:
        self.port = free_port()
        self.pace = pace
        self._loop: asyncio.AbstractEventLoop | None = None
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Start them and wait until they listen."""
        loop = self._loop = asyncio.new_event_loop()
        listens = threading.Event()
        self._thread = threading.Thread(
            target=self._serve, args=(loop, listens), name="standin", daemon=True
        )
        self._thread.start()
        assert listens.wait(20), "the stand-in did not start"

    def empty(self) -> None:
        """Start them again: nothing is held, no test is under way, no fault waits."""
        self.kill()
        self.start()

    def kill(self) -> None:
        """Pull their plug: every line drops, and nothing that they knew is left."""
        if self._loop is not None and self._thread is not None:
            self._loop.call_soon_threadsafe(self._loop.stop)
            self._thread.join()
            self._loop = self._thread = None

    def _serve(self, loop: asyncio.AbstractEventLoop, listens: threading.Event) -> None:
        host = demo_host(self.pace)
        server = loop.run_until_complete(host.serve("127.0.0.1", self.port))
        listens.set()
        loop.run_forever()
        server.close()
        host.drop_lines()
        tasks = asyncio.all_tasks(loop)
        for task in tasks:
            task.cancel()
        loop.run_until_complete(_ended(tasks))
        loop.close()


async def _ended(tasks: set[asyncio.Task[Any]]) -> None:
    """Wait for tasks that were cancelled."""
    await asyncio.gather(*tasks, return_exceptions=True)


@pytest.fixture(scope="session")
def server() -> Iterator[DatabaseServer]:
    """One MariaDB server for all tests, in a folder of its own: in memory where there is room."""
    memory = Path("/dev/shm")
    roomy = memory.is_dir() and shutil.disk_usage(memory).free > ROOM_FOR_TESTS
    place = memory if roomy else None
    with tempfile.TemporaryDirectory(prefix="endurant-test-", dir=place) as folder:
        database = DatabaseServer(Path(folder), free_port())
        database.start()
        yield database
        database.stop()


@pytest.fixture(scope="module")
def frame() -> Iterator[StandIn]:
    """A simulated frame in a hurry."""
    standin = StandIn(FAST)
    standin.start()
    yield standin
    standin.kill()


@pytest.fixture(scope="session")
def tables(server: DatabaseServer) -> str:
    """A database with this program's tables, shared by all tests; its address."""
    url = server.create("endurant_tests")
    upgrade(url)
    os.environ[DATABASE_VARIABLE] = url
    return url


@pytest.fixture
def database(tables: str) -> str:
    """The tables, emptied for one test; those that nobody touched are empty still."""
    with engine_for(tables).begin() as connection:
        empty(connection)
    return tables


@pytest.fixture(scope="session")
def app() -> FastAPI:
    """The application, built once: its routes are worked out at its first request."""
    return build_app()


@pytest.fixture
def database_of_its_own(server: DatabaseServer) -> Iterator[str]:
    """A database with this program's tables for one test that changes them; its address."""
    name = f"test_{os.urandom(4).hex()}"
    url = server.create(name)
    upgrade(url)
    yield url
    server.drop(name)


@pytest.fixture
def bench(database: str, frame: StandIn, app: FastAPI) -> Iterator[Bench]:
    """A founded laboratory with its web application, and a technician signed in."""
    found(frame.port)
    with TestClient(app) as client:
        yield Bench(client, "ines")
    for thread in threading.enumerate():
        if thread.name.removeprefix("run-").isdigit():
            thread.join(20)
    with engine_for(database).connect() as connection:
        was_used = connection.execute(text("SELECT 1 FROM bench_event LIMIT 1")).first()
    if was_used:
        frame.empty()
