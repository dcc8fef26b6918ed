from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from almanaque import logs
from almanaque.clock import Clock
from almanaque.demo import DEMO_DAY
from almanaque.host.postgres import Addresses, Cluster
from almanaque.settings import Settings
from almanaque.web.app import create_app
from tests.database import DEMO, fresh_copy
from tests.web.pages import log_in

logs.configure()  # as the web process does: traces without the values of variables


def client_for(addresses: Addresses) -> TestClient:
    settings = Settings(database_url=addresses.app, secret="s" * 40, demo_day=DEMO_DAY)
    return TestClient(
        create_app(settings, Clock(DEMO_DAY)), base_url="http://testserver", raise_server_exceptions=False
    )


@pytest.fixture
def client(demo: Addresses) -> Iterator[TestClient]:
    with client_for(demo) as client:
        yield client


@pytest.fixture
def coordinator(client: TestClient) -> TestClient:
    log_in(client, "coordinator")
    return client


@pytest.fixture
def viewer(client: TestClient) -> TestClient:
    log_in(client, "viewer")
    return client


def _coordinator_once(cluster: Cluster) -> Iterator[TestClient]:
    for addresses in fresh_copy(cluster, DEMO):
        with client_for(addresses) as client:
            log_in(client, "coordinator")
            yield client


@pytest.fixture(scope="session")
def reader(cluster: Cluster) -> Iterator[TestClient]:
    """The coordinator in a demo that tests only look at; it is made once."""
    yield from _coordinator_once(cluster)


@pytest.fixture(scope="session")
def anvil(cluster: Cluster) -> Iterator[TestClient]:
    """The coordinator in a demo that is there to be beaten on: what one test leaves behind must not hurt the next."""
    yield from _coordinator_once(cluster)
