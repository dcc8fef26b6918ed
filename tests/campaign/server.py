"""The application as `serve` runs it, over a database of the tests, on a free port."""

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType
from typing import Any

import psycopg

from almanaque.demo import DEMO_DAY, load
from almanaque.host import postgres, processes
from almanaque.host.postgres import Addresses, Cluster
from almanaque.settings import Settings
from almanaque.store import migrate
from tests.database import CLONE


@contextmanager
def demo() -> Iterator[Addresses]:
    """The demo in a database server that keeps what it has acknowledged, as a school's does. The tests' own server does
    not wait for its disk, so it would lose by itself what this is to find."""
    cluster = Cluster(postgres.state_folder(CLONE, "campaign"))
    cluster.start()
    try:
        cluster.ensure_database("campaign")
        made = cluster.addresses("campaign")
        migrate.run(made.owner, app_role=postgres.APP)
        load.ensure(made.owner, made.app)
        yield made
    finally:
        cluster.stop()
        shutil.rmtree(cluster.folder)


class Server:
    """Web processes and worker for as long as the block lasts."""

    def __init__(self, addresses: Addresses) -> None:
        self.port = postgres.free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.processes = Settings().web_processes
        self._environment = {
            **os.environ,
            "PYTHONPATH": str(CLONE / "src"),
            "ALMANAQUE_DATABASE_URL": addresses.app,
            "ALMANAQUE_OWNER_DATABASE_URL": addresses.owner,
            "ALMANAQUE_SECRET": "c" * 40,
            "ALMANAQUE_DEMO_DAY": DEMO_DAY.isoformat(),
            "ALMANAQUE_PORT": str(self.port),
        }

    def __enter__(self) -> "Server":
        self._process = subprocess.Popen(
            [sys.executable, "-m", "almanaque", "serve"],
            env=self._environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        while not processes.readiness(self.base)[0]:
            assert self._process.poll() is None, "the server ended"
            time.sleep(0.1)
        return self

    def children(self, name: str) -> list[int]:
        """The processes that run this part of it now; of the pages the one that starts the others too."""
        found = [n for n in _children(self._process.pid) if _command(n).endswith(name)]
        return [int(n) for n in (*found, *(other for n in found for other in _children(int(n))))]

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._process.terminate()
        self._process.wait()


def _children(pid: int) -> list[str]:
    """What a process has started; nothing for one that has just ended."""
    try:
        return Path(f"/proc/{pid}/task/{pid}/children").read_text(encoding="utf-8").split()
    except OSError:
        return []


def _command(pid: str) -> str:
    """How a process was called; empty for one that has just ended."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().rstrip(b"\0").decode()
    except OSError:
        return ""


def query(addresses: Addresses, statement: str, *values: object) -> list[tuple[Any, ...]]:
    """Rows as the owner sees them."""
    with psycopg.connect(addresses.owner) as owner:
        return owner.execute(statement.encode(), values).fetchall()


def wait_until_idle(addresses: Addresses) -> None:
    """Until nothing is being done in the background, so that it does not count into what is measured next."""
    due = "SELECT 1 FROM queue.procrastinate_jobs WHERE status = 'doing' OR status = 'todo' AND coalesce(scheduled_at, now()) <= now()"
    while query(addresses, due):
        time.sleep(0.2)
