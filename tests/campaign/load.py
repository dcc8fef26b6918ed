"""Many at once: a class at the bell, and as many as can be without a pause. What is acknowledged must be there, and once.

At the bell each client asks every two to four seconds: Week, a bed, the phone's snapshot, or writes a picking. Then all ask without
a pause. Figures: errors, slowest twentieth beside that of one client, requests a second, and of the pickings those lost and doubled.
"""

import collections
import multiprocessing
import os
import random
import statistics
import threading
import time
from dataclasses import dataclass
from typing import Any
from uuid import uuid4

import httpx2

from almanaque.host.postgres import Addresses
from tests.campaign.clients import log_in, standing_plantings
from tests.campaign.server import Server, demo, query, wait_until_idle
from tests.database import NORTH

BELL, PUSH = 50, 100


@dataclass(frozen=True)
class Asked:
    """One request: what for, how it was answered, and how long that took [s]."""

    what: str
    status: int
    took: float


@dataclass(frozen=True)
class Crowd:
    """What was asked, the pickings that were acknowledged by their numbers, and the CPU that the clients themselves took [s]."""

    asked: list[Asked]
    kept: list[str]
    cpu_s: float


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    plantings = standing_plantings(addresses)
    beds = [str(row[0]) for row in query(addresses, "SELECT id FROM bed WHERE school_id = %s", NORTH)]
    with Server(addresses) as server:
        place = (server.base, beds, plantings)
        for _ in range(3):  # caches of every process
            crowd(2, 4.0, place, pause=(0.0, 0.0))
        wait_until_idle(addresses)
        alone = crowd(1, seconds, place, pause=(0.0, 0.5)).asked
        at_bell = crowd(BELL, seconds, place, pause=(2.0, 4.0))
        pushed = crowd(PUSH, seconds, place, pause=(0.0, 0.0))
    bell, push, kept = at_bell.asked, pushed.asked, [*at_bell.kept, *pushed.kept]
    cores = os.cpu_count() or 1
    free = cores - pushed.cpu_s / seconds  # what the clients left to the server
    rows = collections.Counter(str(i) for (i,) in query(addresses, "SELECT id FROM harvest WHERE note = 'campaign'"))
    lost = [one for one in kept if rows[one] == 0]
    there = sum(rows.values())
    honest = sum(one.status == 503 for one in push)
    wrong = [one.status for one in (*bell, *push) if one.status not in (200, 303, 503)]
    good = [one for one in push if one.status in (200, 303)]
    return (
        f"load: {cores} cores, {server.processes} web processes; one client p95 {p95(alone):.0f} ms; at the bell {BELL} clients: "
        f"{len(bell)} requests, {sum(one.status not in (200, 303) for one in bell)} errors, p95 {p95(bell):.0f} ms = "
        f"{p95(bell) / p95(alone):.1f} x one client; without a pause {PUSH} clients: {len(good) / seconds:.0f} answered a second = "
        f"{len(good) / seconds / free:.0f} for each of {free:.1f} cores that they left, "
        f"p95 {p95(good):.0f} ms, {honest} told to come again, {len(wrong)} other errors {collections.Counter(wrong)}; "
        f"{len(kept)} pickings acknowledged, {len(lost)} lost, {there - len(rows)} doubled"
    )


def p95(asked: list[Asked]) -> float:
    """The slowest twentieth begins here [ms]."""
    return 1000 * statistics.quantiles([one.took for one in asked], n=20)[-1] if len(asked) > 1 else 0.0


def crowd(
    clients: int, seconds: float, place: tuple[str, list[str], list[str]], *, pause: tuple[float, float]
) -> Crowd:
    """So many clients for a time, in two processes of their own, so that they slow each other less than the server."""
    asked: list[Asked] = []
    kept: list[str] = []
    cpu_s = 0.0
    answers: Any = multiprocessing.Queue()
    shares = [share for share in (clients // 2, clients - clients // 2) if share]
    helpers = [
        multiprocessing.Process(target=_share, args=(share, n, seconds, place, pause, answers))
        for n, share in enumerate(shares)
    ]
    for helper in helpers:
        helper.start()
    for _ in helpers:
        some, ids, took = answers.get()
        asked += [Asked(*row) for row in some]
        kept += ids
        cpu_s += took
    for helper in helpers:
        helper.join()
    return Crowd(asked, kept, cpu_s)


def _share(clients: int, seed: int, seconds: float, place: Any, pause: tuple[float, float], answers: Any) -> None:
    rows: list[tuple[str, int, float]] = []
    kept: list[str] = []
    ready = threading.Barrier(clients + 1)
    until: list[float] = []
    threads = [
        threading.Thread(target=_client, args=(seed * 1000 + n, ready, until, place, pause, rows, kept))
        for n in range(clients)
    ]
    for thread in threads:
        thread.start()
    ready.wait()  # everybody has logged in
    before = time.process_time()
    until.append(time.monotonic() + seconds)
    ready.wait()
    for thread in threads:
        thread.join()
    answers.put((rows, kept, time.process_time() - before))


def _client(
    seed: int,
    ready: threading.Barrier,
    until: list[float],
    place: Any,
    pause: tuple[float, float],
    rows: list[tuple[str, int, float]],
    kept: list[str],
) -> None:
    base, beds, plantings = place
    chance = random.Random(seed)
    with httpx2.Client(base_url=base, timeout=60, follow_redirects=False) as client:
        token = log_in(client)
        ready.wait()
        ready.wait()
        time.sleep(chance.uniform(0, pause[1]))
        while time.monotonic() < until[0]:
            what = chance.choices(["week", "bed", "snapshot", "picking"], [4, 4, 2, 3])[0]
            began = time.monotonic()
            if what == "picking":
                number = str(uuid4())
                fields = {"id": number, "planting": chance.choice(plantings), "amount": "10", "unit": "g"}
                fields |= {"use": "kitchen", "sure": "1", "day": "2027-04-14", "note": "campaign", "form_token": token}
                status = client.post("/harvest", data=fields).status_code
                if status == 303:
                    kept.append(number)
            else:
                path = {"week": "/week", "bed": f"/garden/beds/{chance.choice(beds)}", "snapshot": "/field/snapshot"}
                status = client.get(path[what]).status_code
            rows.append((what, status, time.monotonic() - began))
            time.sleep(chance.uniform(*pause))
