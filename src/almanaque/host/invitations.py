"""Invitations by whoever runs the server, as the owner of the database: to set up a school, or into one that nobody can enter."""

import hashlib
import secrets
from datetime import datetime, timedelta
from uuid import UUID, uuid4

import psycopg

from almanaque.host.errors import HostError

DAYS = 14


def to_found_a_school(owner_url: str, label: str, *, now: datetime) -> str:
    """Make an invitation to set up a school; return its secret, of which only the hash is kept."""
    return _made(owner_url, label, None, now)


def into_a_school(owner_url: str, label: str, school: str, *, now: datetime) -> str:
    """Make an invitation to coordinate a school that exists, by its name; return its secret. Raises HostError for no such school."""
    with psycopg.connect(owner_url) as connection:
        rows = connection.execute("SELECT id, name FROM school ORDER BY name").fetchall()
    found = [school_id for school_id, name in rows if name.casefold() == school.strip().casefold()]
    if len(found) != 1:
        names = ", ".join(name for _, name in rows) or "none"
        raise HostError(f"There is no one school named “{school}” on this server. Its schools: {names}.")
    return _made(owner_url, label, found[0], now)


def _made(owner_url: str, label: str, school_id: UUID | None, now: datetime) -> str:
    plain = " ".join(label.split())
    if not 1 <= len(plain) <= 80:
        raise HostError("Say whom the invitation is for, in at most 80 characters.")
    secret = secrets.token_urlsafe(32)
    with psycopg.connect(owner_url) as connection:
        connection.execute(
            "INSERT INTO invitation (id, school_id, token_hash, role, label, expires_at) VALUES (%s, %s, %s, 'coordinator', %s, %s)",
            [uuid4(), school_id, hashlib.sha256(secret.encode()).digest(), plain, now + timedelta(days=DAYS)],
        )
    return secret
