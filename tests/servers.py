"""A PostgreSQL server for one run of tests: made in a folder of its own, gone afterwards."""

from __future__ import annotations

import os
import pwd
import shutil
import signal
import socket
import subprocess
import tempfile
import time
import uuid
from pathlib import Path

import psycopg
import pytest

from bruiser.store.opening import open_campaign
from bruiser.store.server.address import ServerAddress
from bruiser.store.server.opening import create_on_server

USER = "keeper"
_PLACES = "/usr/lib/postgresql/*/bin/initdb"
WHY_NOT = "no PostgreSQL server is installed here (apt-get install postgresql)"


@pytest.fixture(params=["file", "server"])
def home(request):
    """Campaigns in a file and on a server: a module that imports this runs its tests on both."""
    return request.getfixturevalue("server") if request.param == "server" else None


@pytest.fixture(name="home", params=["file", pytest.param("server", marks=pytest.mark.slow)])
def home_daily_on_a_file(request):
    """The same; every day on a file only, with ``./run test --full`` on a server too."""
    return request.getfixturevalue("server") if request.param == "server" else None


def find_binaries() -> Path | None:
    """The folder of the newest server programs; None where there are none that can be run."""
    found = shutil.which("initdb")
    if found:
        return Path(found).resolve().parent
    newest = sorted(Path("/").glob(_PLACES.lstrip("/")), key=lambda p: int(p.parts[-3]))
    return newest[-1].parent if newest and _whose() is not None else None


def _whose() -> int | None:
    """The user a server runs as: it refuses to be root's."""
    if os.getuid():
        return os.getuid()
    try:
        return pwd.getpwnam("postgres").pw_uid
    except KeyError:
        return None


class ThrowawayServer:
    """A server that trusts whoever comes over this machine's own network.

    Attributes
    ----------
    port : int
        Where it listens.
    """

    def __init__(self) -> None:
        binaries = find_binaries()
        assert binaries is not None, WHY_NOT
        self._binaries = binaries
        # Where the server's own user may go, whatever the folder for temporary files of this one.
        where = None if os.getuid() else "/tmp"
        self._folder = Path(tempfile.mkdtemp(prefix="bruiser-server-", dir=where))
        self._uid = _whose()
        assert self._uid is not None
        os.chown(self._folder, self._uid, -1)
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = int(free.getsockname()[1])
        self._run(
            "initdb", "-D", "data", "-U", USER, "-A", "trust", "-E", "UTF8", "--locale=C", "-N"
        )
        self._process: subprocess.Popen[bytes] | None = None

    def _user(self) -> dict[str, object]:
        if os.getuid():
            return {}
        return {"user": self._uid, "group": pwd.getpwuid(self._uid or 0).pw_gid, "extra_groups": []}

    def _run(self, program: str, *words: str) -> str:
        done = subprocess.run(
            [str(self._binaries / program), *words],
            cwd=self._folder,
            capture_output=True,
            text=True,
            check=False,
            env={"PATH": os.environ["PATH"], "HOME": str(self._folder), "LC_ALL": "C"},
            **self._user(),
        )
        assert done.returncode == 0, done.stderr
        return done.stdout

    def tool(self, program: str, *words: str) -> str:
        """Run one of the server's own programs on it, such as ``pg_dump``; what it printed."""
        at = ("-h", "127.0.0.1", "-p", str(self.port), "-U", USER)
        return self._run(program, *at, *words)

    def start(self) -> None:
        """Start it, and wait until it answers."""
        self._process = subprocess.Popen(
            [
                str(self._binaries / "postgres"), "-D", "data", "-p", str(self.port),
                "-c", "listen_addresses=127.0.0.1", "-c", f"unix_socket_directories={self._folder}",
                "-c", "fsync=off", "-c", "max_connections=200", "-c", "autovacuum=off",
            ],
            cwd=self._folder,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            **self._user(),
        )  # fmt: skip
        until = time.monotonic() + 60
        while True:
            try:
                psycopg.connect(self.line("postgres"), connect_timeout=2).close()
            except psycopg.OperationalError:
                assert time.monotonic() < until, "the server did not start"
                time.sleep(0.05)
            else:
                return

    def stop(self, *, at_once: bool = True) -> None:
        """Stop it: at once, with every connection cut, or as when the power goes."""
        if self._process is not None:
            self._process.send_signal(signal.SIGINT if at_once else signal.SIGQUIT)
            self._process.wait(60)
            self._process = None

    def line(self, database: str, user: str = USER) -> str:
        """What a driver is told to connect."""
        return f"host=127.0.0.1 port={self.port} user={user} dbname={database}"

    def address(self, database: str, user: str = USER) -> ServerAddress:
        """The address of a database of it."""
        return ServerAddress(host="127.0.0.1", port=self.port, user=user, database=database)

    def run_sql(self, *statements: str, database: str = "postgres") -> None:
        """Run statements as its keeper, each by itself."""
        with psycopg.connect(self.line(database), autocommit=True) as connection:
            for statement in statements:
                connection.execute(statement)

    def ask(self, query: str, database: str = "postgres") -> list[str]:
        """The first column of what a query finds, asked as its keeper."""
        with psycopg.connect(self.line(database), autocommit=True) as connection:
            return [str(row[0]) for row in connection.execute(query)]

    def run_script(self, address: ServerAddress, script: str) -> None:
        """Run a dump as its own reader does."""
        path = self._folder / f"{uuid.uuid4().hex}.sql"
        path.write_text(script, encoding="utf-8")
        path.chmod(0o644)
        self.tool("psql", "-q", "-v", "ON_ERROR_STOP=1", "-f", str(path), address.database)

    def wants_password(self, user: str) -> None:
        """Let a user in by password only, from now on."""
        rules = self._folder / "data" / "pg_hba.conf"
        line = f"host all {user} 127.0.0.1/32 scram-sha-256\n"
        rules.write_text(line + rules.read_text(encoding="utf-8"), encoding="utf-8")
        self.run_sql("SELECT pg_reload_conf()")

    def empty(self) -> ServerAddress:
        """An empty database of a new name."""
        name = f"ridge_{uuid.uuid4().hex[:12]}"
        self.run_sql(f"CREATE DATABASE {name} TEMPLATE template0")
        return self.address(name)

    def copy_of(self, kept: ServerAddress) -> ServerAddress:
        """A database like another one that nobody is connected to."""
        name = f"ridge_{uuid.uuid4().hex[:12]}"
        self.run_sql(f"CREATE DATABASE {name} TEMPLATE {kept.database}")
        return self.address(name)

    def filled_with(self, path: Path) -> ServerAddress:
        """A database that a campaign file was put into whole."""
        made = self.empty()
        with open_campaign(path, read_only=True) as file:
            create_on_server(made, file)
        return made

    def forget(self, address: ServerAddress) -> None:
        """Drop a database, whoever is connected."""
        self.run_sql(f"DROP DATABASE IF EXISTS {address.database} WITH (FORCE)")

    def remove(self) -> None:
        """Stop it and take its folder away."""
        self.stop(at_once=False)
        shutil.rmtree(self._folder, ignore_errors=True)
