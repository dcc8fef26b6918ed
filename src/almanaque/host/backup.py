"""Whole databases out and in. A restore fills a new database and checks it before it takes the old one's place."""

import os
import subprocess
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO, Any
from urllib.parse import urlsplit, urlunsplit

import psycopg
from psycopg import Connection, sql

from almanaque.host import keeping
from almanaque.host.errors import HostError
from almanaque.host.keeping import Keeping
from almanaque.host.postgres import find_bin
from almanaque.store import errors, migrate
from almanaque.store.school import upkeep

BEFORE = "_before_"
STAMP = "%Y%m%d_%H%M%S"


def write(owner_url: str, file: Path, *, snapshot: str = "") -> int:
    """Write a backup in PostgreSQL's custom format, first beside the file and then in its place; return its bytes.

    Nobody but its owner can read it, from its first byte on. With a `snapshot` it is of the moment of that transaction.
    """
    if file.is_dir() or not file.parent.is_dir():
        raise HostError(f"{file} cannot be written: give a file name in a folder that exists.")
    half = file.with_name(file.name + ".part")
    moment = [f"--snapshot={snapshot}"] if snapshot else []
    try:
        half.unlink(missing_ok=True)
        with os.fdopen(os.open(half, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
            _run("pg_dump", owner_url, "--format=custom", "--no-owner", "--no-privileges", *moment, out=out)
            out.flush()
            os.fsync(out.fileno())
        os.replace(half, file)
    except OSError as error:
        raise HostError(f"{file} could not be written: {error.strerror}. The last backup is as it was.") from error
    finally:
        half.unlink(missing_ok=True)
    return file.stat().st_size


@dataclass(frozen=True)
class KeptBackup:
    """A backup that was written, read back and compared; `dropped` are older ones that need not be kept any more."""

    file: Path
    size: int
    rows: int
    dropped: tuple[Path, ...]


def keep(owner_url: str, folder: Path, wish: Keeping, *, now: datetime) -> KeptBackup:
    """Write a backup into a folder, restore it into a database of its own, compare the rows of every table, clear old ones away.

    Its time is noted for School, Health. Raises HostError when it could not be written or does not give back what is there:
    no old one is dropped then.
    """
    if not folder.is_dir():
        raise HostError(f"There is no folder {folder}. Make it, readable by nobody else, and try again.")
    file = folder / keeping.name_of(now)
    with psycopg.connect(owner_url) as connection:
        # One moment for the backup and for the counts, whatever is written meanwhile.
        connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        row = connection.execute("SELECT pg_export_snapshot()").fetchone()
        counted = counts(connection)
        size = write(owner_url, file, snapshot=str(row[0]) if row else "")
    back = _read_back(owner_url, file, now)
    if back != counted:
        wrong = sorted(table for table in counted.keys() | back.keys() if counted.get(table) != back.get(table))
        raise HostError(f"{file} does not give back what is there: {', '.join(wrong)} differ. Old backups were kept.")
    rows = sum(counted.values())
    with psycopg.connect(owner_url) as connection:
        upkeep.done(connection, "backup", f"checked by restoring {rows:,} rows")
    dropped = tuple(folder / name for name in keeping.to_drop([path.name for path in folder.iterdir()], wish))
    for path in dropped:
        path.unlink(missing_ok=True)
    return KeptBackup(file, size, rows, dropped)


def counts(connection: Connection[Any]) -> dict[str, int]:
    """How many rows each table holds."""
    tables = connection.execute(
        "SELECT schemaname, tablename FROM pg_tables WHERE schemaname IN ('public', 'queue')"
    ).fetchall()
    found = {}
    for schema, table in tables:
        row = connection.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(schema, table))).fetchone()
        found[f"{schema}.{table}"] = int(row[0]) if row else 0
    return found


def _read_back(owner_url: str, file: Path, now: datetime) -> dict[str, int]:
    """What a backup holds, from a database that is gone afterwards."""
    scratch = f"{_database_of(owner_url)}_check_{now.strftime(STAMP)}"
    with psycopg.connect(_with_database(owner_url, "postgres"), autocommit=True) as server:
        server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(scratch)))
        try:
            _fill(_with_database(owner_url, scratch), file)
            with psycopg.connect(_with_database(owner_url, scratch)) as connection:
                return counts(connection)
        finally:
            _drop(server, scratch)


def restore(owner_url: str, file: Path, *, app_role: str, now: datetime) -> str:
    """Fill a new database from a backup, check it, then swap it in; return the name under which the old one is kept.

    Where there is no database it becomes it, and the name is empty. A backup of an earlier version is brought to this one's
    schema. Raises HostError before anything is swapped when the file is no backup, or one of a newer version.
    """
    if not file.is_file():
        raise HostError(f"There is no file {file}.")
    current = _database_of(owner_url)
    stamp = now.strftime(STAMP)
    fresh, kept = f"{current}_restore_{stamp}", f"{current}{BEFORE}{stamp}"
    with psycopg.connect(_with_database(owner_url, "postgres"), autocommit=True) as server:
        there = _exists(server, current)
        server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(fresh)))
        try:
            _fill(_with_database(owner_url, fresh), file)
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
            _swap(server, [(current, kept)] if there else [], fresh, current)
        except psycopg.Error as error:
            _drop(server, fresh)
            raise HostError(
                "The backup was read but not put in place, because the database is in use. "
                "Stop Almanaque, then run the restore again."
            ) from error
    return kept if there else ""


def kept_databases(owner_url: str) -> list[str]:
    """Names of the databases that restores have replaced, the oldest first."""
    with psycopg.connect(_with_database(owner_url, "postgres"), autocommit=True) as server:
        rows = server.execute(
            "SELECT datname FROM pg_database WHERE starts_with(datname, %s) ORDER BY datname",
            [f"{_database_of(owner_url)}{BEFORE}"],
        ).fetchall()
    return [name for (name,) in rows]


def drop_kept(owner_url: str, name: str) -> None:
    """Drop a database that a restore has replaced. Raises HostError for any other."""
    if name not in kept_databases(owner_url):
        raise HostError(f"{name} is no database that a restore has kept. `almanaque kept` lists them.")
    with psycopg.connect(_with_database(owner_url, "postgres"), autocommit=True) as server:
        _drop(server, name)


def _fill(url: str, file: Path) -> None:
    _run("pg_restore", url, "--exit-on-error", "--no-owner", "--no-privileges", "--single-transaction", str(file))


def _exists(server: Connection[Any], database: str) -> bool:
    return server.execute("SELECT 1 FROM pg_database WHERE datname = %s", [database]).fetchone() is not None


def _bring_up_to_date(url: str, app_role: str) -> None:
    """Apply the steps that a backup of an earlier version lacks, and give the application's role its rights."""
    try:
        migrate.run(url, app_role=app_role)
    except errors.SchemaMismatch as error:
        raise HostError(f"The backup was read but not put in place. {error}") from error


def _swap(server: Connection[Any], aside: list[tuple[str, str]], fresh: str, current: str) -> None:
    with server.transaction():
        for before, after in (*aside, (fresh, current)):
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


def _database_of(url: str) -> str:
    return urlsplit(url).path.lstrip("/")


def _with_database(url: str, database: str) -> str:
    return urlunsplit(urlsplit(url)._replace(path=f"/{database}"))


def _run(program: str, url: str, *arguments: str, out: IO[bytes] | None = None) -> None:
    """Run one of PostgreSQL's programs, its output into a file where one is given; the password goes by the environment, not by the
    list of processes."""
    parts = urlsplit(url)
    environment = {**os.environ, "PGPASSWORD": parts.password or "", "PGCONNECT_TIMEOUT": "5"}
    bare = urlunsplit(parts._replace(netloc=f"{parts.username}@{parts.hostname}:{parts.port or 5432}"))
    done = subprocess.run(
        [str(find_bin() / program), f"--dbname={bare}", *arguments],
        stdout=out or subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        check=False,
        env=environment,
    )
    if done.returncode != 0:
        said = [line for line in done.stderr.decode(errors="replace").strip().splitlines() if line]
        raise HostError(f"{program} did not finish: {said[0] if said else 'it said nothing'}. Nothing was changed.")
