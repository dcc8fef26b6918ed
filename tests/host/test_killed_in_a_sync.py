"""The server is killed in the middle of taking a phone's entries: nothing is lost, nothing is there twice, nothing is half there."""

import os
import re
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import httpx2
import psycopg
import pytest

from almanaque.demo import DEMO_DAY, load
from almanaque.host import postgres, processes
from almanaque.host.postgres import Addresses
from tests.database import CLONE, NORTH, bed_id

ENTRIES = 45
HELD_AT = 20  # the entry at which the server is killed


class Server:
    """The web process as `serve` starts it, which can be killed."""

    def __init__(self, addresses: Addresses) -> None:
        self.port = postgres.free_port()
        self.base = f"http://127.0.0.1:{self.port}"
        self.environment = {
            **os.environ,
            "PYTHONPATH": str(CLONE / "src"),
            "ALMANAQUE_DATABASE_URL": addresses.app,
            "ALMANAQUE_SECRET": "k" * 40,
            "ALMANAQUE_DEMO_DAY": DEMO_DAY.isoformat(),
            "ALMANAQUE_PORT": str(self.port),
        }
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen([sys.executable, "-m", "almanaque", "web"], env=self.environment)
        while not processes.answers(self.base):
            assert self.process.poll() is None
            time.sleep(0.05)

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


@pytest.fixture
def server(demo: Addresses) -> Iterator[Server]:
    made = Server(demo)
    yield made
    if made.process.poll() is None:
        made.kill()


def log_in(client: httpx2.Client) -> str:
    """Log in and return the form token."""
    field = re.compile(r'name="form_token" value="([^"]+)"')
    token = field.search(client.get("/login").text)
    assert token
    client.post(
        "/login", data={"form_token": token[1], "login": "helper", "password": load.PASSWORD}, follow_redirects=True
    )
    found = field.search(client.get("/account").text)
    assert found
    return found[1]


def parcel(bed: str) -> dict[str, Any]:
    entries: list[dict[str, Any]] = []
    for n in range(ENTRIES):
        say = (
            {"kind": "note", "body": f"Note {n}", "bed": bed}
            if n % 3
            else {"kind": "sighting", "what_kind": "pest", "bed": bed, "what": f"pest {n}", "remedy": f"remedy {n}"}
        )
        entries.append({"id": str(uuid4()), "noted_at": f"2027-04-14T09:00:{n:02}Z", "noted_on": "2027-04-14", **say})
    return {"account": str(load.account_id("helper")), "school": str(NORTH), "entries": entries}


def counted(addresses: Addresses) -> tuple[int, int, int, int]:
    with psycopg.connect(addresses.owner) as owner:
        row = owner.execute(
            """SELECT (SELECT count(*) FROM received), (SELECT count(*) FROM journal_entry WHERE body LIKE 'Note %'),
                 (SELECT count(*) FROM sighting WHERE what LIKE 'pest %'), (SELECT count(*) FROM remedy WHERE what LIKE 'remedy %')"""
        ).fetchone()
    assert row is not None
    return row


def test_a_server_killed_in_the_middle_of_a_sync_loses_and_doubles_nothing(server: Server, demo: Addresses) -> None:
    sent = parcel(str(bed_id("Bed 2")))
    with httpx2.Client(base_url=server.base, timeout=None) as client:
        headers = {"X-Form-Token": log_in(client)}
        problem: list[Exception] = []

        def send() -> None:
            try:
                client.post("/field/sync", json=sent, headers=headers)
            except httpx2.HTTPError as error:
                problem.append(error)

        thread = threading.Thread(target=send)
        with psycopg.connect(demo.owner) as holder:
            # An entry with this id is on its way already, so the server waits in the middle of the parcel.
            holder.execute(
                """INSERT INTO received (school_id, id, kind, digest, account_id, noted_on, noted_at)
                   VALUES (%s, %s, 'note', repeat('0', 64), %s, '2027-04-14', now())""",
                [NORTH, sent["entries"][HELD_AT]["id"], sent["account"]],
            )
            thread.start()
            while counted(demo)[0] < HELD_AT:
                assert thread.is_alive()
            server.kill()
            holder.rollback()
        thread.join()
        received, notes, pests, remedies = counted(demo)
        assert problem, "the answer came before the server was killed"
        assert received == HELD_AT
        # What was taken was taken whole: an entry and what it does are one.
        assert notes + pests == received
        assert remedies == pests
        server.start()
        results = client.post("/field/sync", json=sent, headers=headers).json()["results"]
        assert {r["is"] for r in results} == {"kept"}
        assert counted(demo) == (ENTRIES, ENTRIES - ENTRIES // 3, ENTRIES // 3, ENTRIES // 3)


def test_two_phones_that_send_the_same_at_once_enter_it_once(server: Server, demo: Addresses) -> None:
    sent = parcel(str(bed_id("Bed 2")))
    with httpx2.Client(base_url=server.base, timeout=None) as client:
        headers = {"X-Form-Token": log_in(client)}
        answers: list[set[str]] = []

        def send() -> None:
            results = client.post("/field/sync", json=sent, headers=headers).json()["results"]
            answers.append({r["is"] for r in results})

        threads = [threading.Thread(target=send) for _ in range(3)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    assert answers == [{"kept"}] * 3
    assert counted(demo) == (ENTRIES, ENTRIES - ENTRIES // 3, ENTRIES // 3, ENTRIES // 3)
