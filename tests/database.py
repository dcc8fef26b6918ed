"""A real PostgreSQL for the tests: one private cluster, two template databases, a fresh copy for each test that asks."""

import fcntl
import os
import uuid
from collections.abc import Iterator
from pathlib import Path
from uuid import UUID

import psycopg
import pytest
from psycopg import sql

from almanaque.demo import brindlecombe, load, tallowbank
from almanaque.host import postgres
from almanaque.host.postgres import Addresses, Cluster
from almanaque.store import migrate
from almanaque.store.db import Database

CLONE = Path(__file__).parents[1]
EMPTY, DEMO = "template_empty", "template_demo"
NORTH, SOUTH = load.school_id(brindlecombe.SCHOOL), load.school_id(tallowbank.SCHOOL)


def test_cluster() -> Cluster:
    return Cluster(postgres.state_folder(CLONE, "test"), durable=False)


test_cluster.__test__ = False  # type: ignore[attr-defined]


def _prepare(made: Cluster, run: str) -> None:
    """Start the cluster and write both templates, once for a run however many workers it has."""
    made.folder.mkdir(parents=True, exist_ok=True)
    with open(made.folder / "lock", "w", encoding="utf-8") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        made.start()
        marker = made.folder / "prepared-for"
        if marker.exists() and marker.read_text(encoding="utf-8") == run:
            return
        with psycopg.connect(made.url("postgres", "postgres"), autocommit=True) as connection:
            old = connection.execute(
                "SELECT datname FROM pg_database WHERE datname ~ '^(template_(empty|demo)|t_)'"
            ).fetchall()
        for (name,) in old:
            made.drop_database(name)
        for name in (EMPTY, DEMO):
            made.ensure_database(name)
            migrate.run(made.addresses(name).owner, app_role=postgres.APP)
        load.ensure(made.addresses(DEMO).owner, made.addresses(DEMO).app)
        marker.write_text(run, encoding="utf-8")


@pytest.fixture(scope="session")
def cluster() -> Cluster:
    made = test_cluster()
    _prepare(made, os.environ.get("PYTEST_XDIST_TESTRUNUID") or f"pid {os.getpid()}")
    return made


def fresh_copy(cluster: Cluster, template: str) -> Iterator[Addresses]:
    """A database of one's own, gone when the test is over."""
    name = f"t_{uuid.uuid4().hex[:12]}"
    with psycopg.connect(cluster.url(postgres.OWNER, "postgres"), autocommit=True) as connection:
        connection.execute(
            sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(sql.Identifier(name), sql.Identifier(template))
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


@pytest.fixture
def database(demo: Addresses) -> Iterator[Database]:
    """The demo under the application's role."""
    opened = Database(demo.app, max_size=3)
    opened.open()
    yield opened
    opened.close()


def bed_id(name: str, school: str = "Brindlecombe School") -> UUID:
    return load.demo_id(school, "bed", name)
