"""Processes killed while people write: web processes, the worker, and the database server's own processes, one after the other.

Writers send the same form until it is acknowledged, as a person would who sees no answer. Figures: what was acknowledged, and of that
what is lost or there twice; how often each kind was killed.
"""

import collections
import os
import random
import signal
import threading
import time
from uuid import uuid4

import httpx2
import psycopg

from almanaque.host.postgres import Addresses
from tests.campaign.clients import log_in, standing_plantings
from tests.campaign.server import Server, demo, query

WRITERS, EVERY_S = 6, 1.5


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    plantings = standing_plantings(addresses)
    kept: list[str] = []
    tries: collections.Counter[str] = collections.Counter()
    killed: collections.Counter[str] = collections.Counter()
    with Server(addresses) as server:
        until = time.monotonic() + seconds
        writers = [
            threading.Thread(target=_write, args=(n, until, server.base, plantings, kept, tries))
            for n in range(WRITERS)
        ]
        for writer in writers:
            writer.start()
        chance = random.Random(1)
        while time.monotonic() < until:
            time.sleep(EVERY_S)
            what = chance.choice(["web", "web", "worker", "database"])
            pids = _backends(addresses) if what == "database" else server.children(what)
            if pids:
                os.kill(chance.choice(pids), signal.SIGKILL)
                killed[what] += 1
        for writer in writers:
            writer.join()
    rows = collections.Counter(str(i) for (i,) in query(addresses, "SELECT id FROM harvest WHERE note = 'campaign'"))
    notes = query(addresses, "SELECT body, count(*) FROM journal_entry WHERE body LIKE 'campaign %%' GROUP BY 1")
    bodies = dict(notes)
    lost = [one for one in kept if not rows[one] and f"campaign {one}" not in bodies]
    doubled = sum(count - 1 for count in (*rows.values(), *bodies.values()))
    again = sum(count - 1 for count in tries.values())
    return (
        f"kill: {sum(killed.values())} kills ({', '.join(f'{n} {what}' for what, n in sorted(killed.items()))}) in {seconds:.0f} s; "
        f"{len(kept)} writes acknowledged after {again} that had to be sent again, {len(lost)} lost, {doubled} doubled"
    )


def _backends(addresses: Addresses) -> list[int]:
    """The database server's processes that work for the application; none while it comes up again."""
    working = "SELECT pid FROM pg_stat_activity WHERE datname = current_database() AND usename = 'almanaque_app'"
    try:
        return [pid for (pid,) in query(addresses, working)]
    except psycopg.OperationalError:
        return []


def _write(
    seed: int, until: float, base: str, plantings: list[str], kept: list[str], tries: collections.Counter[str]
) -> None:
    chance = random.Random(seed)
    with httpx2.Client(base_url=base, timeout=30, follow_redirects=False) as client:
        token = log_in(client)
        while time.monotonic() < until:
            number = str(uuid4())
            fields = {"form_token": token, "once": str(uuid4())}
            if chance.random() < 0.5:
                fields |= {"id": number, "planting": chance.choice(plantings), "amount": "10", "unit": "g"}
                fields |= {"use": "kitchen", "sure": "1", "day": "2027-04-14", "note": "campaign"}
                path = "/harvest"
            else:
                fields |= {"id": str(uuid4()), "body": f"campaign {number}"}
                path = "/journal"
            while True:
                tries[number] += 1
                try:
                    if client.post(path, data=fields).status_code == 303:
                        kept.append(number)
                        break
                except httpx2.HTTPError:
                    pass
                time.sleep(0.2)
