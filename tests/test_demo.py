"""The demo laboratory loads whole, and a killed one is found again and ended."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from endurant.core.refusals import Unavailable
from endurant.demo.leftovers import Notes
from endurant.demo.load import load_demo
from endurant.demo.samples import JOBS
from endurant.store.server import port_is_free, wait_until
from endurant.work.upkeep.verify import verify
from endurant.work.views import job_page
from endurant.work.views.job_list import JobsRequest, jobs
from tests.conftest import StandIn, free_port


def waiting(*wording: str) -> subprocess.Popen[bytes]:
    """A process with these words on its command line that waits for a line."""
    script = "print('up', flush=True); input()"
    started = subprocess.Popen(
        [sys.executable, "-c", script, *wording], stdin=subprocess.PIPE, stdout=subprocess.PIPE
    )
    assert started.stdout is not None
    assert started.stdout.readline() == b"up\n"
    return started


def test_the_demo_has_a_job_in_every_state_and_its_record_holds(
    database: str, frame: StandIn
) -> None:
    load_demo("127.0.0.1", frame.port, JOBS)
    lines = [
        *jobs(JobsRequest(limit=200)).jobs,
        *jobs(JobsRequest(state="released", limit=200)).jobs,
    ]
    assert {line.stage for line in lines} >= {
        "received",
        "cut",
        "conditioned",
        "tested",
        "released",
    }
    assert all(line.problem is None for line in lines)
    assert {job_page.job(line.id).form for line in lines} >= {"sheet", "granules"}
    assert verify().sentences == []


def test_what_a_killed_demo_left_running_is_ended(tmp_path: Path) -> None:
    port = free_port()
    left = subprocess.Popen([sys.executable, "-m", "endurant.cli", "standins", "--port", str(port)])
    wait_until(lambda: not port_is_free(port), 120, "the stand-ins did not start")
    notes = Notes(tmp_path)
    notes.write("standins", left.pid)
    assert notes.end_leftovers() == ["standins"]
    left.wait(30)
    assert notes.end_leftovers() == []


def test_a_process_of_somebody_else_is_left_alone(tmp_path: Path) -> None:
    other = waiting()
    notes = Notes(tmp_path)
    notes.write("mariadb", other.pid)
    assert notes.end_leftovers() == []
    assert other.poll() is None
    other.communicate(b"\n")


def test_a_demo_that_still_runs_is_not_ended(tmp_path: Path) -> None:
    running = waiting("endurant", "demo")
    notes = Notes(tmp_path)
    notes.write("demo", running.pid)
    with pytest.raises(Unavailable, match="demo.already-running"):
        notes.end_leftovers()
    running.communicate(b"\n")


def test_a_child_ends_with_a_parent_that_was_killed() -> None:
    script = (
        "import subprocess, sys; from endurant.store.server import with_parent\n"
        "child = subprocess.Popen([*with_parent(), 'cat'], stdin=subprocess.PIPE)\n"
        "print(child.pid, flush=True); sys.stdin.read()"
    )
    parent = subprocess.Popen(
        [sys.executable, "-c", script], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert parent.stdout is not None
    child = int(parent.stdout.readline())
    line = Path(f"/proc/{child}/cmdline")
    wait_until(lambda: line.read_bytes().startswith(b"cat"), 120, "the child did not begin")
    parent.kill()
    parent.communicate()
    wait_until(lambda: is_gone(child), 120, "the child goes on without its parent")


def is_gone(pid: int) -> bool:
    """No such process, or one that has ended and that nobody has asked after."""
    try:
        return ") Z " in Path(f"/proc/{pid}/stat").read_text()
    except (FileNotFoundError, ProcessLookupError):
        return True
