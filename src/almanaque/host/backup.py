"""Whole databases out and in. A restore fills a new database and checks it before it takes the old one's place."""

import os
import subprocess
from datetime import datetime
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import psycopg
from psycopg import Connection, sql

from almanaque.host.errors import HostError
from almanaque.host.postgres import find_bin
from almanaque.store import errors, migrate


def write(owner_url: str, file: Path) -> int:
    """Write a backup in PostgreSQL's custom format, first beside the file and then in its place; return its bytes."""
    if file.is_dir() or not file.parent.is_dir():
        raise HostError(f"{file} cannot be written: give a file name in a folder that exists.")
    half = file.with_name(file.name + ".part")
    try:
        _run("pg_dump", owner_url, "--format=custom", "--no-owner", "--no-privileges", f"--file={half}")
        os.chmod(half, 0o600)
        os.replace(half, file)
    finally:
        half.unlink(missing_ok=True)
    return file.stat().st_size


def restore(owner_url: str, file: Path, *, app_role: str, now: datetime) -> str:
    """Fill a new database from a backup, check it, then swap it in; return the name under which the old one is kept.

    A backup of an earlier version is brought to this one's schema. Raises HostError before anything is swapped when the
    file is no backup, or one of a newer version.
    """
    if not file.is_file():
        raise HostError(f"There is no file {file}.")
    current = urlsplit(owner_url).path.lstrip("/")
    stamp = now.strftime("%Y%m%d_%H%M%S")
    fresh, kept = f"{current}_restore_{stamp}", f"{current}_before_{stamp}"
    with psycopg.connect(_with_database(owner_url, "postgres"), autocommit=True) as server:
        server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(fresh)))
        try:
            _run(
                "pg_restore",
                _with_database(owner_url, fresh),
                "--exit-on-error",
                "--no-owner",
                "--no-privileges",
                "--single-transaction",
                str(file),
            )
            _bring_up_to_date(_with_database(owner_url, fresh), app_role)
            with psycopg.connect(_with_database(owner_url, fresh), autocommit=True) as connection:
                check(connection)
        except BaseException:
            _drop(server, fresh)
            raise
        try:
            server.execute(
                "SELECT pg_terminate_backend(pid, 2000) FROM pg_stat_activity"
                " WHERE datname = %s AND pid <> pg_backend_pid() AND usename IN (current_user, %s)",
                [current, app_role],
            )
            _swap(server, current=current, fresh=fresh, kept=kept)
        except psycopg.Error as error:
            _drop(server, fresh)
            raise HostError(
                "The backup was read but not put in place, because the database is in use. "
                "Stop Almanaque, then run the restore again."
            ) from error
    return kept


def _bring_up_to_date(url: str, app_role: str) -> None:
    """Apply the steps that a backup of an earlier version lacks, and give the application's role its rights."""
    try:
        migrate.run(url, app_role=app_role)
    except errors.SchemaMismatch as error:
        raise HostError(f"The backup was read but not put in place. {error}") from error


def _swap(server: Connection[Any], *, current: str, fresh: str, kept: str) -> None:
    with server.transaction():
        for before, after in ((current, kept), (fresh, current)):
            server.execute(
                sql.SQL("ALTER DATABASE {} RENAME TO {}").format(sql.Identifier(before), sql.Identifier(after))
            )


def check(connection: Connection[Any]) -> None:
    """Raise HostError unless the restored database has this code's schema and someone who can log in."""
    try:
        migrate.refuse_other_schema(connection)
    except errors.SchemaMismatch as error:
        raise HostError(f"The backup was read but not put in place. {error}") from error
    row = connection.execute("SELECT count(*) FROM membership").fetchone()
    if row is None or row[0] == 0:
        raise HostError("The backup was read but not put in place: it holds no school with a person in it.")


def _drop(server: Connection[Any], database: str) -> None:
    server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(database)))


def _with_database(url: str, database: str) -> str:
    return urlunsplit(urlsplit(url)._replace(path=f"/{database}"))


def _run(program: str, url: str, *arguments: str) -> None:
    """Run one of PostgreSQL's programs; the password goes by the environment, not by the list of processes."""
    parts = urlsplit(url)
    environment = {**os.environ, "PGPASSWORD": parts.password or "", "PGCONNECT_TIMEOUT": "5"}
    bare = urlunsplit(parts._replace(netloc=f"{parts.username}@{parts.hostname}:{parts.port or 5432}"))
    done = subprocess.run(
        [str(find_bin() / program), f"--dbname={bare}", *arguments],
        capture_output=True,
        text=True,
        check=False,
        env=environment,
    )
    if done.returncode != 0:
        said = [line for line in done.stderr.strip().splitlines() if line]
        raise HostError(f"{program} did not finish: {said[0] if said else 'it said nothing'}. Nothing was changed.")
