"""Explores at random what may be handed to the program, and prints how to do it again.

Documents with one thing changed, requests made from the API's contract as each role, bytes on
the device line, and CSV files. What it finds becomes an example in a test.

    python -m scripts.fuzz MINUTES [SEED]
"""

from __future__ import annotations

import os
import socket
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from pathlib import Path
from random import Random

from fastapi import FastAPI
from fastapi.testclient import TestClient

from endurant.api.app import build_app
from endurant.core.conditioning.log_csv import read_log_csv
from endurant.core.csv_import import import_csv
from endurant.core.csv_trace import read_trace_csv
from endurant.core.methods import MODULES
from endurant.core.refusals import Refusal
from endurant.devices.driver import DeviceRefused, LineLost
from endurant.devices.gauge.driver import TcpGauge
from endurant.devices.line import GarbledMessage, Message, decode, encode
from endurant.devices.logger.driver import TcpLogger
from endurant.store import clock
from endurant.store.engine import DATABASE_VARIABLE
from endurant.store.migrate import upgrade
from endurant.store.server import DatabaseServer
from tests.contract import explore, operations_of
from tests.laboratory import Bench, csv_of, found
from tests.mutants import fault, mutants

SLICE_S = 20.0
SLOWEST_S = 10.0
ROLES = ("ines", "maren", "pelle", "greta")

Findings = Iterator[tuple[str, str]]


def documents(luck: Random, until: float) -> Findings:
    """Worked examples with one thing changed."""
    while time.monotonic() < until:
        for mutant in mutants(luck, 3):
            began = time.monotonic()
            wrong = fault(mutant.answer, mutant.document)
            seconds = time.monotonic() - began
            if wrong is None and seconds > SLOWEST_S:
                wrong = f"took {seconds:.0f} s"
            if wrong is not None:
                yield (
                    f"{mutant.name.split('--')[0]} {wrong[:60]}",
                    f"{mutant.in_words()} -> {wrong}",
                )
            if time.monotonic() > until:
                return


NUMBERS = ("1", "-3.5", "1e99", "nan", "inf", "1,5", "1.234,5", "", "x", "=1+1", "٣", "0x10")
HEADERS = (
    "time_s",
    "Extension (mm)",
    "Load [kN]",
    "label",
    "time",
    "temperature_c",
    "humidity_percent",
    "[" * 40,
    "(" * 2000,
    "mass (g)",
    "é°C",
    "",
)
BITS = ("\n", "\r\n", ";", ",", "\t", '"', "\x00", " ", "2026-03-02T08:00:00Z", "\ufeff", "#")


def csv_files(luck: Random, until: float) -> Findings:
    """Text that looks like a table, in every way that a table can be wrong."""
    readers: list[Callable[[bytes], object]] = [
        read_trace_csv,
        lambda data: read_log_csv(data, None),
        lambda data: import_csv([("a.csv", data)], luck.choice(list(MODULES))),
    ]
    plain = csv_of("J-0001-1-W1")[:4000]
    while time.monotonic() < until:
        if luck.random() < 0.4:
            data = bytearray(plain)
            for _ in range(luck.randint(1, 12)):
                data[luck.randrange(len(data))] = luck.randrange(256)
        else:
            parts = [*NUMBERS, *HEADERS, *BITS, *BITS]
            text = "".join(luck.choice(parts) for _ in range(luck.randint(1, 120)))
            data = bytearray(text.encode(luck.choice(("utf-8", "utf-16", "latin-1")), "replace"))
        reader = luck.choice(readers)
        began = time.monotonic()
        try:
            reader(bytes(data))
        except Refusal as refusal:
            if "\n" in refusal.sentence or len(refusal.sentence) > 4000:
                yield "csv sentence", f"{refusal.sentence[:200]!r} for {bytes(data)[:300]!r}"
        except Exception as error:
            yield f"csv {type(error).__name__}", f"{error!r} for {bytes(data)[:600]!r}"
        if time.monotonic() - began > SLOWEST_S:
            yield "csv slow", f"{bytes(data)[:600]!r}"


def device_lines(luck: Random, until: float) -> Findings:
    """Bytes that a device may send, alone and over a real line."""
    good = [
        Message("R", {"t": "1767225600", "c": "20.1", "h": "65"}),
        Message("END"),
        Message("OK", {"value": "12.5"}),
        Message("ERR", {"says": "no"}),
    ]
    with socket.create_server(("127.0.0.1", 0)) as server:
        address = ("127.0.0.1", server.getsockname()[1])
        while time.monotonic() < until:
            pieces = []
            for _ in range(luck.randint(1, 30)):
                line = bytearray(encode(luck.choice(good)))
                for _ in range(luck.choice((0, 0, 0, 1, 3))):
                    line[luck.randrange(len(line))] = luck.randrange(256)
                pieces.append(bytes(line))
            join = b"".join(pieces)
            for piece in join.split(b"\n"):
                try:
                    decode(piece)
                except GarbledMessage:
                    continue
                except Exception as error:
                    yield f"line {type(error).__name__}", f"{error!r} for {piece!r}"
            speaker = threading.Thread(target=_speak, args=(server, join), daemon=True)
            speaker.start()
            try:
                if luck.random() < 0.5:
                    TcpLogger("logger", address, "L").readings_after(clock.now())
                else:
                    TcpGauge("gauge", address, "G").read(None)
            except (LineLost, DeviceRefused, Refusal):
                pass
            except Exception as error:
                yield f"device {type(error).__name__}", f"{error!r} for {join[:600]!r}"
            speaker.join()


def _speak(server: socket.socket, line: bytes) -> None:
    try:
        connection, _ = server.accept()
        with connection:
            connection.recv(4096)
            connection.sendall(line)
    except OSError:
        return


class Contract:
    """Requests made from the contract, to a laboratory with a job in every state."""

    def __init__(self, stack: ExitStack) -> None:
        folder = stack.enter_context(tempfile.TemporaryDirectory(prefix="endurant-fuzz-"))
        server = DatabaseServer(Path(folder), _free_port())
        server.start()
        stack.callback(server.stop)
        url = server.create("endurant_fuzz")
        upgrade(url)
        os.environ[DATABASE_VARIABLE] = url
        found(_free_port())
        app = build_app(supervise=False)
        client = TestClient(app, raise_server_exceptions=False)
        bench = Bench(client, "ines")
        bench.tested_job()
        bench.job_ready_to_test()
        self.app: FastAPI = app
        self.client = client
        self.operations = operations_of(app)

    def __call__(self, luck: Random, until: float) -> Findings:
        """Some operations, as some role."""
        while time.monotonic() < until:
            token = Bench(self.client, luck.choice(ROLES)).token
            for broken in explore(luck.choice(self.operations), token, 20, at_random=True):
                yield (
                    f"{broken.operation} {broken.wording[:60]}",
                    f"{broken.wording}\n{broken.curl}",
                )


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port: int = probe.getsockname()[1]
        return port


def main(minutes: float, seed: int) -> int:
    """Explore in turns until the time is over; how many different things were found."""
    luck = Random(seed)
    print(f"exploring for {minutes:g} min with seed {seed}", flush=True)
    end = time.monotonic() + 60 * minutes
    seen: Counter[str] = Counter()
    with ExitStack() as stack:
        ways: list[Callable[[Random, float], Findings]] = [
            documents,
            csv_files,
            device_lines,
            Contract(stack),
        ]
        while time.monotonic() < end:
            for way in ways:
                for key, how in way(luck, min(end, time.monotonic() + SLICE_S)):
                    seen[key] += 1
                    if seen[key] == 1:
                        print(f"\nFOUND {key}\n{how}", flush=True)
    print(f"\n{len(seen)} different things were found")
    return len(seen)


if __name__ == "__main__":
    request = [float(part) for part in sys.argv[1:]]
    sys.exit(
        min(main(request[0] if request else 10, int(request[1]) if len(request) > 1 else 0), 1)
    )
