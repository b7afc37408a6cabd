"""What a demo that was killed has left running: found again by its notes, and ended."""

from __future__ import annotations

import os
import signal
from functools import partial
from pathlib import Path

from endurant.core.refusals import Unavailable
from endurant.store.server import wait_until

ENDS_WITHIN_S = 30.0


class Notes:
    """The process ids that a demo writes into its folder while it runs."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def write(self, name: str, pid: int) -> None:
        """Note a process of this demo."""
        self.folder.mkdir(parents=True, exist_ok=True)
        (self.folder / f"{name}.pid").write_text(str(pid))

    def end_leftovers(self) -> list[str]:
        """End what an earlier demo in this folder left behind; the names of what was ended.

        A process counts as ours only while it still runs what it was started for. Raises
        Unavailable when that demo itself is still running.
        """
        demo = self._pid("demo")
        if demo is not None and demo != os.getpid() and _runs(demo, "endurant", "demo"):
            raise Unavailable("demo.already-running", process=demo)
        ended = []
        for name, text in (
            ("mariadb", ("mariadbd", str(self.folder / "data"))),
            ("standins", ("endurant.cli", "standins")),
        ):
            pid = self._pid(name)
            if pid is None or not _runs(pid, *text):
                continue
            os.kill(pid, signal.SIGTERM)
            wait_until(partial(_is_gone, pid, text), ENDS_WITHIN_S, f"process {pid} does not end")
            ended.append(name)
        return ended

    def _pid(self, name: str) -> int | None:
        try:
            return int((self.folder / f"{name}.pid").read_text())
        except (OSError, ValueError):
            return None


def _is_gone(pid: int, text: tuple[str, ...]) -> bool:
    return not _runs(pid, *text)


def _runs(pid: int, *text: str) -> bool:
    """The process is there, is no zombie, and its command line holds all the words."""
    try:
        line = Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ")
    except OSError:
        return False
    return bool(line.strip()) and all(word.encode() in line for word in text)
