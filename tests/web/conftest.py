from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from almanaque import logs
from almanaque.clock import Clock
from almanaque.commands.harvest import harvest_book
from almanaque.demo import DEMO_DAY
from almanaque.host.postgres import Addresses
from almanaque.settings import Settings
from almanaque.store.db import Database
from almanaque.web.app import create_app
from tests.database import PATIENCE_S, HeldDatabase
from tests.web.inline import BASE, InlineClient
from tests.web.pages import enter

logs.configure()  # as the web process does: traces without the values of variables


SETTINGS = Settings(secret="s" * 40, demo_day=DEMO_DAY)


def client_for(addresses: Addresses) -> TestClient:
    """A visitor without a session in a database of a test's own."""
    app = create_app(SETTINGS, Clock(DEMO_DAY), Database(addresses.app, timeout_s=PATIENCE_S))
    return TestClient(app, base_url=BASE, raise_server_exceptions=False)


@pytest.fixture(scope="session")
def shared_client(shared_demo: HeldDatabase) -> Iterator[TestClient]:
    """One application for all tests that keep nothing."""
    with InlineClient(create_app(SETTINGS, Clock(DEMO_DAY), shared_demo)) as client:
        yield client


@pytest.fixture
def client(request: pytest.FixtureRequest) -> Iterator[TestClient]:
    """A visitor without a session: in the shared demo, or in that of a test that asks for `demo`."""
    if "demo" in request.fixturenames:
        with client_for(request.getfixturevalue("demo")) as own:
            yield own
        return
    shared: TestClient = request.getfixturevalue("shared_client")
    request.getfixturevalue("shared_demo").begin()
    harvest_book._books = harvest_book._Books()  # a version may come again after what led to it was undone
    shared.cookies.clear()
    yield shared


@pytest.fixture
def coordinator(client: TestClient) -> TestClient:
    enter(client, "coordinator")
    return client


@pytest.fixture
def viewer(client: TestClient) -> TestClient:
    enter(client, "viewer")
    return client


@pytest.fixture
def reader(coordinator: TestClient) -> TestClient:
    """The coordinator, for tests that only look."""
    return coordinator


@pytest.fixture
def anvil(coordinator: TestClient) -> TestClient:
    """The coordinator, for tests that beat on whatever takes a form."""
    return coordinator
