"""A MariaDB server of our own: on loopback, in a folder of its own, with its own port."""

from __future__ import annotations

import getpass
import shutil
import socket
import subprocess
import time
from collections.abc import Callable
from pathlib import Path

import pymysql

from endurant.core.refusals import Unavailable

_SERVER = ("mariadbd", "/usr/sbin/mariadbd")
_INSTALL = ("mariadb-install-db", "/usr/bin/mariadb-install-db")
NO_NATIVE_AIO = "--innodb-use-native-aio=0"
"""The kernel gives back the rings of a server that ended a moment later; who starts at once may not
get any, and MariaDB then aborts."""
_END_WITH_PARENT = ("--pdeathsig", "TERM")
INSTALL_TRIES = 3
START_WITHIN_S = 60.0
STOP_WITHIN_S = 30.0


def with_parent() -> list[str]:
    """What a command begins with so that it ends in order when the process that ran it is gone.

    However that went: a killed demo leaves no database behind. Nothing where the machine has no
    `setpriv`; the next start then ends what was left.
    """
    setpriv = shutil.which("setpriv")
    return [] if setpriv is None else [setpriv, *_END_WITH_PARENT]


class DatabaseServer:
    """One MariaDB server with the databases of this laboratory; start it, then stop it."""

    def __init__(self, folder: Path, port: int) -> None:
        self.folder = folder.resolve()
        self.port = port
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def socket_path(self) -> Path:
        """Its Unix socket; only the user that started it can reach it."""
        return self.folder / "mariadb.sock"

    def url(self, database: str) -> str:
        """The address of one of its databases, as the other processes are given it."""
        user = getpass.getuser()
        return f"mysql+pymysql://{user}@127.0.0.1/{database}?unix_socket={self.socket_path}"

    def start(self) -> None:
        """Make the data folder if need be, start the server and wait until it answers.

        Raises Unavailable when MariaDB is not installed, the port is taken, or the server ends.
        """
        data = self.folder / "data"
        if len(str(self.socket_path)) > 100:
            raise Unavailable("database.folder-name-too-long", folder=self.folder)
        if not port_is_free(self.port):
            raise Unavailable("database.port-taken", port=self.port)
        self.folder.mkdir(parents=True, exist_ok=True)
        if not (data / "mysql").is_dir():
            self._install(data)
        log = (self.folder / "server.log").open("ab")
        self._process = subprocess.Popen(
            [
                *with_parent(),
                _find(_SERVER),
                "--no-defaults",
                f"--datadir={data}",
                f"--socket={self.socket_path}",
                f"--pid-file={self.folder / 'mariadb.pid'}",
                f"--port={self.port}",
                "--bind-address=127.0.0.1",
                f"--user={getpass.getuser()}",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_bin",
                "--max-allowed-packet=256M",
                "--innodb-buffer-pool-size=256M",
                "--skip-name-resolve",
                NO_NATIVE_AIO,
            ],
            stdout=log,
            stderr=log,
            start_new_session=True,
        )
        log.close()
        wait_until(self._answers, START_WITHIN_S, "MariaDB did not answer in time")

    def create(self, database: str) -> str:
        """Make the database unless it is there; its address."""
        with self._connect() as connection, connection.cursor() as cursor:
            cursor.execute(
                f"CREATE DATABASE IF NOT EXISTS `{database}` CHARACTER SET utf8mb4"
                " COLLATE utf8mb4_bin"
            )
        return self.url(database)

    def drop(self, database: str) -> None:
        """Remove a database and all that is in it."""
        with self._connect() as connection, connection.cursor() as cursor:
            cursor.execute(f"DROP DATABASE IF EXISTS `{database}`")

    def stop(self) -> None:
        """Shut down in order: everything committed is on disk."""
        if self._process is None:
            return
        self._process.terminate()
        try:
            self._process.wait(STOP_WITHIN_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._process = None

    def kill(self) -> None:
        """End it as a pulled plug would."""
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            self._process = None

    def _install(self, data: Path) -> None:
        """Make the data folder; a server that ended while it was made is tried again.

        Raises Unavailable with the complaints of the last try.
        """
        complaints: list[str] = []
        for _ in range(INSTALL_TRIES):
            complaints = self._complaints_of_installing(data)
            if not complaints:
                return
            shutil.rmtree(data, ignore_errors=True)
            data.mkdir(parents=True)
        raise Unavailable("database.folder-not-made", folder=data, reason=" / ".join(complaints))

    def _complaints_of_installing(self, data: Path) -> list[str]:
        made = subprocess.run(
            [
                _find(_INSTALL),
                "--no-defaults",
                f"--datadir={data}",
                f"--user={getpass.getuser()}",
                "--auth-root-authentication-method=socket",
                f"--auth-root-socket-user={getpass.getuser()}",
                "--skip-test-db",
                NO_NATIVE_AIO,
            ],
            check=False,
            capture_output=True,
            text=True,
        )
        if made.returncode == 0:
            return []
        lines = f"{made.stdout}\n{made.stderr}".strip().splitlines()
        return [line for line in lines if "ERROR" in line] or lines[-1:] or ["it said nothing"]

    def _connect(self) -> pymysql.connections.Connection[pymysql.cursors.Cursor]:
        return pymysql.connect(
            unix_socket=str(self.socket_path), user=getpass.getuser(), autocommit=True
        )

    def _answers(self) -> bool:
        if self._process is not None and self._process.poll() is not None:
            raise Unavailable("database.ended", log=self.folder / "server.log")
        try:
            self._connect().close()
        except pymysql.err.OperationalError:
            return False
        return True


def _find(names: tuple[str, ...]) -> str:
    for name in names:
        if which := shutil.which(name):
            return which
    raise Unavailable("database.not-installed", program=names[0])


def port_is_free(port: int) -> bool:
    """Nothing listens on this port of 127.0.0.1."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def wait_until(ready: Callable[[], bool], within_s: float, otherwise: str) -> None:
    """Ask again and again until it is so; raises Unavailable after `within_s` seconds."""
    give_up = time.monotonic() + within_s
    while not ready():
        if time.monotonic() > give_up:
            raise Unavailable("database.not-in-time", reason=otherwise, within_s=within_s)
        time.sleep(0.05)
