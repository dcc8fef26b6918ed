"""When too many come at once: those beyond what can be answered wait in order, and those beyond that are told honestly to come again."""

import asyncio
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient
from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response

from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.web.admission import Admission, Door, Full
from tests.database import NORTH, bed_id
from tests.web.pages import post, token


def test_those_who_wait_come_in_by_their_turn_and_too_many_are_turned_away() -> None:
    async def at_the_door() -> tuple[list[str], int]:
        door, came, turned_away = Door(2, queued=3, wait_s=60), list[str](), 0
        let_out = asyncio.Event()

        async def one(name: str) -> None:
            nonlocal turned_away
            try:
                await door.enter()
            except Full:
                turned_away += 1
                return
            came.append(name)
            await let_out.wait()
            door.leave()

        everybody = [asyncio.create_task(one(name)) for name in "abcdefg"]
        for _ in range(10):
            await asyncio.sleep(0)
        assert came == ["a", "b"]
        let_out.set()
        await asyncio.gather(*everybody)
        return came, turned_away

    assert asyncio.run(at_the_door()) == (list("abcde"), 2)


def test_who_has_waited_too_long_is_turned_away_and_leaves_the_queue() -> None:
    async def at_the_door() -> None:
        door = Door(1, queued=1, wait_s=0.01)
        await door.enter()
        for _ in range(3):
            with pytest.raises(Full):
                await door.enter()
        door.leave()
        await door.enter()

    asyncio.run(at_the_door())


def test_files_and_probes_come_in_beside_the_door() -> None:
    async def application(scope: Any, receive: Any, send: Any) -> None:
        await PlainTextResponse("in")(scope, receive, send)

    def busy(request: Request) -> Response:
        return PlainTextResponse("busy", status_code=503)

    class Shut(Door):
        async def enter(self) -> None:
            raise Full

    client = TestClient(Admission(application, Shut(1), busy))
    assert [client.get(path).status_code for path in ("/static/x.css", "/healthz", "/readyz")] == [200] * 3
    assert [client.get(path).status_code for path in ("/week", "/field/snapshot", "/login")] == [503] * 3


def test_who_sends_or_reads_slowly_keeps_nobody_out() -> None:
    """One place: somebody is still sending a photo, somebody else still reading an answer, and a third is answered at once."""
    inside: list[str] = []

    async def application(scope: Any, receive: Any, send: Any) -> None:
        while scope["method"] == "POST" and (await receive())["more_body"]:
            pass
        inside.append(scope["path"])
        await PlainTextResponse("here")(scope, receive, send)

    async def at_the_door() -> None:
        gate = Admission(
            application, Door(1, queued=1, wait_s=60), lambda _: PlainTextResponse("busy", status_code=503)
        )
        sends_on, reads_on = asyncio.Event(), asyncio.Event()
        parts = iter([{"type": "http.request", "body": b"a", "more_body": True}])

        async def slow_receive() -> Any:
            for part in parts:
                return part
            await sends_on.wait()
            return {"type": "http.request", "body": b"b", "more_body": False}

        async def slow_send(message: Any) -> None:
            if message["type"] == "http.response.body":
                await reads_on.wait()

        async def nothing(*_: Any) -> Any:
            return {"type": "http.request", "body": b"", "more_body": False}

        def request(method: str, path: str) -> dict[str, Any]:
            return {"type": "http", "method": method, "path": path, "headers": []}

        sender = asyncio.create_task(gate(request("POST", "/photo"), slow_receive, nothing))
        reader = asyncio.create_task(gate(request("GET", "/pdf"), nothing, slow_send))
        for _ in range(10):
            await asyncio.sleep(0)
        assert inside == ["/pdf"]
        await asyncio.wait_for(gate(request("GET", "/week"), nothing, nothing), 60)
        assert inside == ["/pdf", "/week"]
        sends_on.set()
        await asyncio.wait_for(sender, 60)
        assert inside == ["/pdf", "/week", "/photo"]
        reads_on.set()
        await reader

    asyncio.run(at_the_door())


@pytest.fixture
def full(coordinator: TestClient, monkeypatch: pytest.MonkeyPatch) -> TestClient:
    """A server at which nobody comes in."""

    async def nobody(_: Door) -> None:
        raise Full

    monkeypatch.setattr(Door, "enter", nobody)
    return coordinator


def test_a_busy_page_says_that_nothing_was_lost_and_comes_again_by_itself(full: TestClient) -> None:
    page = full.get("/week")
    assert (page.status_code, page.headers["Retry-After"]) == (503, "2")
    assert "Nothing was lost" in page.text
    assert '<meta http-equiv="refresh" content="2">' in page.text
    assert page.headers["Content-Security-Policy"]
    part = full.post("/school/partners", data={"form_token": token(full)}, headers={"HX-Request": "true"})
    assert (part.status_code, part.headers["Retry-After"], part.headers["HX-Retarget"]) == (503, "2", "#message")
    sent = full.post("/school/partners", data={"form_token": token(full), "name": "Mill"})
    assert (sent.status_code, "refresh" in sent.text) == (503, False), (
        "a form is not sent again by a page without script"
    )


def test_a_bed_that_somebody_holds_too_long_has_words_of_its_own(demo: Addresses, database: Database) -> None:
    with psycopg.connect(demo.owner) as owner:
        owner.execute("SELECT FROM bed WHERE id = %s FOR UPDATE", [bed_id("Bed 4")])
        with pytest.raises(errors.Busy, match="Somebody else is writing"), database.school(NORTH) as connection:
            connection.execute("SET LOCAL lock_timeout = '50ms'")
            connection.execute("SELECT FROM bed WHERE id = %s FOR UPDATE", [bed_id("Bed 4")])
    with pytest.raises(errors.Busy, match="took longer than it may"), database.school(NORTH) as connection:
        connection.execute("SET LOCAL statement_timeout = '50ms'")
        connection.execute("SELECT pg_sleep(5)")


def test_what_somebody_else_is_writing_is_told_as_busy(
    coordinator: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    from almanaque.store.garden import changes

    def held(*_: object, **__: object) -> int:
        raise errors.Busy("Somebody else is writing the same at this moment.")

    monkeypatch.setattr(changes, "lock_bed", held)
    said = post(coordinator, f"/garden/beds/{bed_id('Bed 4')}", command="undo")
    assert (said.status, said.response.headers["Retry-After"]) == (503, "2")
    assert "Somebody else is writing" in said.text
