"""The first invitation of a server: made by whoever runs it, as the owner of the database."""

import hashlib
import secrets
from datetime import datetime, timedelta
from uuid import uuid4

import psycopg

from almanaque.host.errors import HostError

DAYS = 14


def to_found_a_school(owner_url: str, label: str, *, now: datetime) -> str:
    """Make an invitation to set up a school; return its secret, of which only the hash is kept."""
    plain = " ".join(label.split())
    if not 1 <= len(plain) <= 80:
        raise HostError("Say whom the invitation is for, in at most 80 characters.")
    secret = secrets.token_urlsafe(32)
    with psycopg.connect(owner_url) as connection:
        connection.execute(
            "INSERT INTO invitation (id, token_hash, role, label, expires_at) VALUES (%s, %s, 'coordinator', %s, %s)",
            [uuid4(), hashlib.sha256(secret.encode()).digest(), plain, now + timedelta(days=DAYS)],
        )
    return secret
