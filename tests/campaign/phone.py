"""Phones with a bad signal: parcels that arrive and whose answers do not, parcels cut off on the way, sent again in any order.

What a phone holds it sends until the answer says that it was kept. Figures: entries, parcels sent again, entries lost and doubled.
"""

import collections
import json
import random
import socket
import threading
import time
from typing import Any
from urllib.parse import urlsplit
from uuid import uuid4

import httpx2

from almanaque.host.postgres import Addresses
from tests.campaign.clients import log_in, standing_plantings
from tests.campaign.server import Server, demo, query
from tests.database import bed_id

PHONES = 6


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    plantings = standing_plantings(addresses)
    made: list[str] = []
    again: list[int] = []
    with Server(addresses) as server:
        until = time.monotonic() + seconds
        phones = [
            threading.Thread(target=_walk, args=(n, until, server.base, plantings, made, again)) for n in range(PHONES)
        ]
        for one in phones:
            one.start()
        for one in phones:
            one.join()
    rows = query(
        addresses,
        """SELECT body FROM journal_entry WHERE body LIKE 'phone %%' UNION ALL SELECT note FROM harvest WHERE note LIKE 'phone %%'""",
    )
    there = collections.Counter(text for (text,) in rows)
    return (
        f"phone: {PHONES} phones, {len(made)} entries in {seconds:.0f} s, {sum(again)} parcels whose answer did not come and that were sent "
        f"again; {sum(one not in there for one in made)} lost, {sum(n - 1 for n in there.values())} doubled"
    )


def _walk(seed: int, until: float, base: str, plantings: list[str], made: list[str], again: list[int]) -> None:
    chance = random.Random(seed)
    with httpx2.Client(base_url=base, timeout=60, follow_redirects=False) as client:
        log_in(client, "helper")
        snapshot = client.get("/field/snapshot").json()
        who = {"account": snapshot["account"]["id"], "school": snapshot["school"]["id"]}
        waiting: list[dict[str, Any]] = []
        while time.monotonic() < until or waiting:
            if time.monotonic() < until:
                waiting += [_entry(chance, plantings, made) for _ in range(chance.randint(1, 4))]
            chance.shuffle(waiting)
            parcel = waiting[: chance.randint(1, 20)]
            body = json.dumps({**who, "entries": parcel}).encode()
            head = {"Content-Type": "application/json", "X-Form-Token": snapshot["token"]}
            if chance.random() < 0.4:
                cookie = "; ".join(f"{name}={value}" for name, value in client.cookies.items())
                _cut_off(base, body, {**head, "Cookie": cookie}, chance)
                again.append(1)
                continue
            try:
                answer = client.post("/field/sync", content=body, headers=head)
                if answer.status_code == 200:
                    results = answer.json()["results"]
                    assert all(one["is"] == "kept" for one in results), results
                    waiting = [one for one in waiting if one["id"] not in {result["id"] for result in results}]
            except httpx2.HTTPError:
                again.append(1)
            time.sleep(chance.uniform(0, 0.1))


def _entry(chance: random.Random, plantings: list[str], made: list[str]) -> dict[str, Any]:
    mark = f"phone {uuid4()}"
    made.append(mark)
    noted = {"id": str(uuid4()), "noted_at": "2027-04-14T09:00:00+00:00", "noted_on": "2027-04-14"}
    if chance.random() < 0.5:
        return {**noted, "kind": "note", "bed": str(bed_id("Bed 1")), "body": mark}
    picked = {
        "planting": chance.choice(plantings),
        "amount": "10",
        "unit": "g",
        "use": "kitchen",
        "sure": True,
        "note": mark,
    }
    return {**noted, "kind": "picking", **picked}


def _cut_off(base: str, body: bytes, head: dict[str, str], chance: random.Random) -> None:
    """Send a parcel, whole or in part, and be gone before the answer."""
    place = urlsplit(base)
    lines = ["POST /field/sync HTTP/1.1", f"Host: {place.netloc}", f"Content-Length: {len(body)}"]
    lines += [f"{name}: {value}" for name, value in head.items()]
    sent = "\r\n".join([*lines, "", ""]).encode() + body
    whole = chance.random() < 0.7
    try:
        with socket.create_connection((place.hostname or "", place.port or 0), timeout=30) as line:
            line.sendall(sent if whole else sent[: chance.randrange(len(sent))])
            if whole:
                time.sleep(chance.uniform(0, 0.05))
    except OSError:
        pass
