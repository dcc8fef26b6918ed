"""Everybody at every address of another school: its pages, its writes with its own numbers, and values that nobody means.

A coordinator of the southern school, a viewer of the northern one, the holder of a pass and somebody without a login ask for all
addresses of the northern school. Figures: calls, answers that name what is the north's, rows of the north that changed, faults.
"""

import collections
import random
import re
import time

import httpx2

from almanaque.host.postgres import Addresses
from almanaque.web import security
from tests.campaign.clients import asked, log_in, make_account, make_pass, token_of
from tests.campaign.server import Server, demo, query, wait_until_idle
from tests.database import NORTH, SOUTH, bed_id
from tests.web.addresses import FIELDS, NASTY, PAGES, USUAL

# What a school keeps to itself, as its own pages say it.
NORTHS = ("Brindlecombe", "Alders", "Birches", "Half barrel", "Runa Oakes", "Oda Fennel")


def run(seconds: float) -> str:
    """Return the line of figures."""
    with demo() as addresses:
        return _over(addresses, seconds)


def _over(addresses: Addresses, seconds: float) -> str:
    make_account(addresses, "intruder", SOUTH, "coordinator")
    make_pass(addresses, NORTH, "p" * 43)
    calls, leaks, faults = 0, list[str](), list[str]()
    answers: collections.Counter[int] = collections.Counter()
    chance = random.Random(11)
    paths = [*PAGES, f"/garden/beds/{bed_id('Bed 4')}", *_rows(addresses)]
    with Server(addresses) as server:
        people = {
            name: httpx2.Client(base_url=server.base, timeout=60) for name in ("south", "viewer", "pass", "nobody")
        }
        tokens = {"south": log_in(people["south"], "intruder"), "viewer": log_in(people["viewer"], "viewer")}
        people["pass"].cookies.set(security.PASS_COOKIE, "p" * 43, domain="127.0.0.1")
        tokens["pass"] = token_of(people["pass"].get("/pass").text)
        tokens["nobody"] = token_of(people["nobody"].get("/login").text)
        wait_until_idle(addresses)
        before = _digest(addresses)
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            who = chance.choice(list(people))
            path, sent = _call(chance, paths)
            method = "POST" if sent is not None else "GET"
            form = {**(sent or {}), "form_token": tokens[who]} if sent is not None else None
            answer = asked(people[who], method, path, **({"data": form} if form else {}))
            calls += 1
            answers[answer.status_code if answer is not None else 0] += 1
            if answer is None or answer.status_code in (500, 501, 502):
                faults.append(f"{who} {method} {path}")
            elif who in ("south", "nobody"):
                text = re.sub(r'value="[^"]*"', "", answer.text)  # what one typed oneself comes back
                leaks += [f"{who} {method} {path}: {word}" for word in NORTHS if word in text]
        wait_until_idle(addresses)
        changed = [name for name, digest in _digest(addresses).items() if digest != before[name]]
        for one in people.values():
            one.close()
    return (
        f"hostile: {calls} calls in {seconds:.0f} s by four who may not ({', '.join(f'{n} x {s}' for s, n in sorted(answers.items()))}); "
        f"{len(leaks)} leaks {leaks[:3]}, {len(changed)} tables of the school changed {changed}, {len(faults)} faults {faults[:3]}"
    )


def _rows(addresses: Addresses) -> list[str]:
    """Addresses of single rows of the northern school."""
    found = []
    for table, path in (
        ("planting", "/garden/plantings/{}"),
        ("class_group", "/school/groups?open={}"),
        ("station", "/week/stations/{}"),
        ("photo", "/journal/photos/{}"),
        ("task", "/week/jobs/{}"),
        ("letter", "/journal/letters/{}"),
    ):
        ids = query(addresses, f"SELECT id FROM {table} WHERE school_id = %s ORDER BY id LIMIT 3", NORTH)
        found += [path.format(row[0]) for row in ids]
    return found


def _call(chance: random.Random, paths: list[str]) -> tuple[str, dict[str, str] | None]:
    """An address and what is sent there; nothing for a look. Logging out and in is left out, since it ends the trial."""
    if chance.random() < 0.4:
        return chance.choice(paths), None
    path = chance.choice(
        [one for one in FIELDS if not one.startswith(("/login", "/account", "/forgotten", "/demo-day", "/start"))]
    )
    fields = {name: chance.choice(NASTY) for name in FIELDS[path] if chance.random() < 0.5}
    return path, {**USUAL.get(path, {}), **fields}


def _digest(addresses: Addresses) -> dict[str, str]:
    """What every table of the northern school holds, in short; passes note when they were used."""
    tables = query(
        addresses,
        """SELECT c.table_name FROM information_schema.columns c JOIN information_schema.tables t USING (table_schema, table_name)
           WHERE c.table_schema = 'public' AND c.column_name = 'school_id' AND t.table_type = 'BASE TABLE'""",
    )
    left_out = {"garden_pass", "login_session", "audit_entry", "written_once", "print_job"}  # a PDF changes nothing
    return {
        name: str(
            query(
                addresses,
                f"SELECT md5(coalesce(string_agg(md5(t::text), '' ORDER BY md5(t::text)), '')) FROM {name} t WHERE school_id = %s",
                NORTH,
            )[0][0]
        )
        for (name,) in tables
        if name not in left_out
    }
