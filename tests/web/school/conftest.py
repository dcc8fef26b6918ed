"""Somebody who has just founded a school, with nothing in it."""

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from almanaque.host.postgres import Addresses
from tests.web.conftest import client_for
from tests.web.pages import Page, open_page

FOUND = {
    "invitation": "demo",
    "school_name": "Heron School",
    "place": "",
    "town": "",
    "latitude": "42.9",
    "longitude": "-75.4",
    "zone": "America/New_York",
    "units": "us",
    "action": "found",
    "name": "Ola",
    "login": "ola",
    "password": "long enough words",
}


@pytest.fixture
def founder(demo: Addresses) -> Iterator[TestClient]:
    """Somebody who has just founded a school."""
    with client_for(demo) as client:
        form = open_page(client, "/start").form("/start").fields
        Page(client.post("/start", data={**form, **FOUND}))
        yield client
