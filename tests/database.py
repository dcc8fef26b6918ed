"""A real PostgreSQL for the tests: one private cluster, two template databases, a fresh copy for each test that asks."""

import fcntl
import hashlib
import threading
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any
from uuid import UUID

import psycopg
import pytest
from psycopg import Connection, sql
from psycopg.pq import TransactionStatus

from almanaque.demo import load, schools
from almanaque.host import postgres
from almanaque.host.postgres import Addresses, Cluster
from almanaque.store import migrate
from almanaque.store.db import SESSION_OPTIONS, Database, translated

CLONE = Path(__file__).parents[1]
PATIENCE_S = 600.0  # how long a busy machine may keep a test waiting for a connection
NORTH, SOUTH = load.school_id(schools.BRINDLECOMBE), load.school_id(schools.TALLOWBANK)


def test_cluster() -> Cluster:
    return Cluster(postgres.state_folder(CLONE, "test"), durable=False)


test_cluster.__test__ = False  # type: ignore[attr-defined]


class Run:
    """This process's share in the tests' cluster: the last of all runs in this clone stops it, and none stops another's."""

    def __init__(self, made: Cluster) -> None:
        self.made = made
        made.folder.mkdir(parents=True, exist_ok=True)
        self.users = open(made.folder / "users", "w", encoding="utf-8")  # noqa: SIM115 - held as long as the process runs
        with self._alone():
            fcntl.flock(self.users, fcntl.LOCK_SH)
            made.start()
            self._write_templates()

    def leave(self) -> None:
        """Stop the server and clear up, unless somebody else still uses it."""
        with self._alone(), self.users:
            try:
                fcntl.flock(self.users, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                return
            if self.made.running():
                for name in {*self._databases("^t_"), *self._databases("^template_(empty|demo)_")} - {EMPTY, DEMO}:
                    self.made.drop_database(name)
                self.made.stop()

    @contextmanager
    def _alone(self) -> Iterator[None]:
        with open(self.made.folder / "lock", "w", encoding="utf-8") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    def _databases(self, pattern: str) -> list[str]:
        with psycopg.connect(self.made.url("postgres", "postgres"), autocommit=True) as connection:
            found = connection.execute("SELECT datname FROM pg_database WHERE datname ~ %s", [pattern]).fetchall()
        return [name for (name,) in found]

    def _write_templates(self) -> None:
        """Both templates as this code writes them; they are kept for the next run of the same code."""
        marker = self.made.folder / f"templates-{code_digest()}"
        if marker.exists() and {EMPTY, DEMO} <= set(self._databases("^template_")):
            return
        for name in (EMPTY, DEMO):
            self.made.drop_database(name)
            self.made.ensure_database(name)
            migrate.run(self.made.addresses(name).owner, app_role=postgres.APP)
        load.ensure(self.made.addresses(DEMO).owner, self.made.addresses(DEMO).app)
        marker.touch()


@cache
def code_digest() -> str:
    """A hash of all code that could write a template otherwise."""
    found = hashlib.sha256()
    for path in sorted((CLONE / "src").rglob("*")):
        if path.suffix in (".py", ".sql", ".toml"):
            found.update(f"{path.relative_to(CLONE)}\0".encode() + path.read_bytes())
    return found.hexdigest()[:12]


EMPTY, DEMO = f"template_empty_{code_digest()}", f"template_demo_{code_digest()}"
_run: list[Run] = []


def leave_cluster() -> None:
    """What a process does at its end."""
    while _run:
        _run.pop().leave()


def enter_cluster() -> Cluster:
    """The tests' server with its templates; this process uses it until it leaves."""
    if not _run:
        _run.append(Run(test_cluster()))
    return _run[0].made


@pytest.fixture(scope="session")
def cluster() -> Cluster:
    return enter_cluster()


def fresh_copy(cluster: Cluster, template: str) -> Iterator[Addresses]:
    """A database of one's own, gone when the test is over."""
    name = f"t_{uuid.uuid4().hex[:12]}"
    with psycopg.connect(cluster.url(postgres.OWNER, "postgres"), autocommit=True) as connection:
        connection.execute(
            sql.SQL("CREATE DATABASE {} TEMPLATE {} STRATEGY file_copy").format(
                sql.Identifier(name), sql.Identifier(template)
            )
        )
    yield cluster.addresses(name)
    cluster.drop_database(name)


@pytest.fixture
def empty(cluster: Cluster) -> Iterator[Addresses]:
    """Addresses of a migrated database without any row."""
    yield from fresh_copy(cluster, EMPTY)


@pytest.fixture
def demo(cluster: Cluster) -> Iterator[Addresses]:
    """Addresses of a database of its own that holds the demo schools."""
    yield from fresh_copy(cluster, DEMO)


# What ends with a transaction of the application.
FORGET_LOCALS = "SELECT " + ", ".join(
    f"set_config('almanaque.{local}', '', true)" for local in ("school", "late", "book_changing", "book_counted")
)


class HeldDatabase(Database):
    """The application's database on one connection whose transaction is never kept.

    What the application calls a transaction is a savepoint in it, so that a test costs no copy. Constraints that wait
    for the end of a transaction are asked at the end of each savepoint. Tests in which two connections, a commit or a
    row security of its own matter ask for `demo`, a database of their own.
    """

    def __init__(self, url: str) -> None:
        super().__init__(url)
        self.held: Connection[Any] = psycopg.connect(url, options=SESSION_OPTIONS)
        self._one_at_a_time = threading.RLock()
        self.begin()

    def open(self) -> None: ...

    def close(self) -> None: ...

    def begin(self) -> None:
        """Forget everything since the last call."""
        self.held.rollback()
        self.held.execute("SELECT 1")  # so that transactions of the application are savepoints

    @contextmanager
    def transaction(self) -> Iterator[Connection[Any]]:
        with self._one_at_a_time, translated(), self.held.transaction():
            yield self.held
            if self.held.info.transaction_status is TransactionStatus.INERROR:
                raise psycopg.Rollback  # as a commit of a failed transaction does
            self.held.execute(f"SET CONSTRAINTS ALL IMMEDIATE; SET CONSTRAINTS ALL DEFERRED; {FORGET_LOCALS}")


@pytest.fixture(scope="session")
def shared_demo(cluster: Cluster) -> Iterator[HeldDatabase]:
    """A demo for all tests that keep nothing; at the end it must be as it was."""
    for addresses in fresh_copy(cluster, DEMO):
        before = digest(addresses)
        held = HeldDatabase(addresses.app)
        yield held
        held.held.close()
        assert digest(addresses) == before, "a test kept something in the shared demo"


def digest(addresses: Addresses) -> dict[str, str]:
    """A hash of each table's rows."""
    with psycopg.connect(addresses.owner) as connection:
        tables = connection.execute(
            "SELECT format('%I.%I', schemaname, tablename) FROM pg_tables WHERE schemaname IN ('public', 'queue')"
        ).fetchall()
        found = {}
        for (table,) in tables:
            row = connection.execute(
                f"SELECT md5(coalesce(string_agg(md5(t::text), '' ORDER BY md5(t::text)), '')) FROM {table} t".encode()
            ).fetchone()
            assert row is not None
            found[table] = row[0]
        return found


@pytest.fixture
def database(request: pytest.FixtureRequest) -> Iterator[Database]:
    """The demo under the application's role: the shared one, or that of a test that asks for `demo`."""
    if "demo" not in request.fixturenames:
        shared: HeldDatabase = request.getfixturevalue("shared_demo")
        shared.begin()
        yield shared
        return
    opened = Database(request.getfixturevalue("demo").app, max_size=3, timeout_s=PATIENCE_S)
    opened.open()
    yield opened
    opened.close()


def bed_id(name: str, school: str = "Brindlecombe School") -> UUID:
    return load.demo_id(school, "bed", name)
