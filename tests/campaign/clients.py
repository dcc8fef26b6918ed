"""People of the campaign: logged in, with a form token, sending forms."""

import threading
import time
from typing import Any
from uuid import UUID

import httpx2
import psycopg

from almanaque.demo import load as accounts
from almanaque.host.postgres import Addresses
from almanaque.passwords import hash_password
from almanaque.web import security
from tests.campaign.server import query
from tests.database import NORTH

_logins = threading.Lock()


def log_in(client: httpx2.Client, login: str = "educator") -> str:
    """Log in and return the form token; again for as long as the server is busy or away."""
    while True:
        try:
            with _logins:
                token = token_of(client.get("/login").text)
                sent = {"form_token": token, "login": login, "password": accounts.PASSWORD}
                if client.post("/login", data=sent).status_code == 303:
                    return token_of(client.get("/school/partners").text)
        except (httpx2.HTTPError, ValueError):
            pass
        time.sleep(0.2)


def token_of(page: str) -> str:
    """The form token of a page. Raises ValueError for one without."""
    before, _, after = page.partition('name="form_token" value="')
    if not after:
        raise ValueError(before[:80])
    return after.partition('"')[0]


def make_account(addresses: Addresses, login: str, school: UUID, role: str) -> None:
    """Somebody who belongs to this school alone, with the demo's password."""
    with psycopg.connect(addresses.owner) as owner:
        row = owner.execute(
            "INSERT INTO account (id, login, name, password_hash) VALUES (gen_random_uuid(), %s, %s, %s) RETURNING id",
            [login, login, hash_password(accounts.PASSWORD)],
        ).fetchone()
        assert row is not None
        owner.execute(
            "INSERT INTO membership (school_id, account_id, role) VALUES (%s, %s, %s)", [school, row[0], role]
        )


def make_pass(addresses: Addresses, school: UUID, secret: str) -> None:
    """A carer's pass that is open, held by whoever has this secret in the cookie."""
    with psycopg.connect(addresses.owner) as owner:
        owner.execute(
            """INSERT INTO garden_pass (school_id, id, label, token_hash, expires_at)
               VALUES (%s, gen_random_uuid(), 'Carer', %s, now() + interval '1 day')""",
            [school, security.token_hash(secret)],
        )


def standing_plantings(addresses: Addresses) -> list[str]:
    """Plantings of the northern school from which somebody can pick."""
    rows = query(
        addresses,
        "SELECT id FROM planting WHERE school_id = %s AND status = 'in the ground' AND start_on < '2027-04-01'",
        NORTH,
    )
    return [str(row[0]) for row in rows]


def asked(client: httpx2.Client, method: str, path: str, **sent: Any) -> httpx2.Response | None:
    """The answer, or none where the line broke."""
    try:
        return client.request(method, path, **sent)
    except httpx2.HTTPError:
        return None
