"""Backups that were damaged on the way: bits turned, ends cut off, middles taken out, other files under their name.

Each is restored over a school that has gone on; a damaged one must change nothing or give back every row. Figures: damaged files,
how many were refused, how many put something else in place; and an undamaged one compared row by row.
"""

import random
import shutil
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import psycopg

from almanaque.host import backup, postgres
from almanaque.host.errors import HostError
from almanaque.host.postgres import Addresses
from tests.campaign.server import demo


def run(seconds: float) -> str:
    """Return the line of figures."""
    folder = Path(tempfile.mkdtemp(prefix="almanaque-restore-"))
    try:
        with demo() as addresses:
            return _over(addresses, seconds, folder)
    finally:
        shutil.rmtree(folder)


def _over(addresses: Addresses, seconds: float, folder: Path) -> str:
    whole = folder / "whole"
    backup.write(addresses.owner, whole)
    backed_up = _rows(addresses)
    body = whole.read_bytes()
    chance, until = random.Random(5), time.monotonic() + seconds
    tried = refused = wrong = 0
    while time.monotonic() < until:
        tried += 1
        _go_on(addresses, tried)
        now = _rows(addresses)
        damaged = folder / "damaged"
        damaged.write_bytes(_damage(body, chance))
        if _restored(addresses, damaged):
            wrong += _rows(addresses) != backed_up
        else:
            refused += 1
            wrong += _rows(addresses) != now
    _go_on(addresses, tried + 1)
    good = _restored(addresses, whole)
    differ = sum(a != b for a, b in zip(_rows(addresses).items(), backed_up.items(), strict=True))
    return (
        f"restore: {tried} damaged backups in {seconds:.0f} s, {refused} refused, {tried - refused} taken, {wrong} of all left something "
        f"else than every row of before or of the backup; the whole one {'taken' if good else 'refused'}, "
        f"{len(backed_up)} tables compared row by row, {differ} differ"
    )


def _restored(addresses: Addresses, file: Path) -> bool:
    """Whether it was put in place. The database that it replaced is dropped."""
    try:
        kept = backup.restore(addresses.owner, file, app_role=postgres.APP, now=datetime.now(UTC))
    except HostError:
        return False
    backup.drop_kept(addresses.owner, kept)
    return True


def _damage(body: bytes, chance: random.Random) -> bytes:
    how = chance.choice(["turn", "cut", "gap", "repeat", "zero", "other"])
    at = chance.randrange(1, len(body))
    length = min(len(body) - at, chance.choice([1, 100, 10_000]))
    if how == "turn":
        found = bytearray(body)
        for _ in range(chance.choice([1, 3, 50])):
            found[chance.randrange(len(found))] ^= 1 << chance.randrange(8)
        return bytes(found)
    return {
        "cut": body[:at],
        "gap": body[:at] + body[at + length :],
        "repeat": body[:at] + body[at : at + length] + body[at:],
        "zero": body[:at] + b"\0" * length + body[at + length :],
        "other": chance.choice([b"", b"PGDMP", b"not a backup\n", bytes(1000)]),
    }[how]


def _go_on(addresses: Addresses, number: int) -> None:
    """The school writes something that the backup does not have."""
    with psycopg.connect(addresses.owner) as owner:
        owner.execute(
            """INSERT INTO journal_entry (school_id, id, noted_on, body) SELECT id, gen_random_uuid(), '2027-04-14', %s FROM school""",
            [f"after the backup {number}"],
        )


def _rows(addresses: Addresses) -> dict[str, str]:
    """Every table of ours: the digest of all its rows. What the server notes of its own backups and restores is left out."""
    with psycopg.connect(addresses.owner) as owner:
        tables = owner.execute(
            """SELECT n.nspname, c.relname FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
               WHERE c.relkind = 'r' AND n.nspname IN ('public', 'queue') AND c.relname <> 'upkeep' ORDER BY 1, 2"""
        ).fetchall()
        return {
            name: str(
                owner.execute(
                    f"SELECT md5(coalesce(string_agg(md5(t::text), '' ORDER BY md5(t::text)), '')) FROM {schema}.{name} t".encode()
                ).fetchone()
            )
            for schema, name in tables
        }
