"""A page is drawn when its transaction is over; one that answers a write is drawn within it."""

import pytest
from fastapi.testclient import TestClient
from jinja2 import Template

from almanaque.clock import Clock
from almanaque.demo import DEMO_DAY
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.web.app import create_app
from tests.database import PATIENCE_S
from tests.web.conftest import SETTINGS
from tests.web.pages import enter, open_page, post


def test_no_connection_waits_while_a_page_is_drawn(demo: Addresses, monkeypatch: pytest.MonkeyPatch) -> None:
    database = Database(demo.app, max_size=1, timeout_s=PATIENCE_S)
    free: list[tuple[str, bool]] = []
    real = Template.render

    def render(self: Template, *given: object, **named: object) -> str:
        stats = database.pool.get_stats()
        free.append((self.name or "", stats["pool_available"] == stats["pool_size"]))
        return real(self, *given, **named)

    with TestClient(create_app(SETTINGS, Clock(DEMO_DAY), database), base_url="http://testserver") as client:
        enter(client, "coordinator")
        monkeypatch.setattr(Template, "render", render)
        for path in ("/week", "/garden", "/harvest", "/school/people"):
            assert open_page(client, path).status == 200
        assert len(free) >= 4
        assert [name for name, is_free in free if not is_free] == []
        free.clear()
        post(client, "/school/people/invitations", label="Wren", role="helper")
        assert [is_free for _, is_free in free] == [False]
