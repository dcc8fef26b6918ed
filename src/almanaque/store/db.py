"""Connections and transactions. A transaction belongs to one school, and the database sees to it."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from uuid import UUID

import psycopg
from psycopg import Connection
from psycopg_pool import ConnectionPool, PoolTimeout

from almanaque.store import errors, migrate
from almanaque.store.constraints import sentence_for

# The queue's functions name their tables without a schema, so both are on the path.
SESSION_OPTIONS = "-c search_path=public,queue -c statement_timeout=20000 -c lock_timeout=5000 -c timezone=UTC"

BUSY = "Somebody else is writing the same at this moment. Nothing of yours was changed; wait a moment and try again."
TOO_LONG = "That took longer than it may. Nothing was changed; wait a moment and try again, or ask for less at once."
UNREACHABLE = "The database does not answer. Nothing was changed; wait a moment and try again."


class Database:
    """A pool of connections under the application's role.

    A connection is checked before it is lent, so that the first requests after a restart of the database succeed.
    """

    def __init__(self, url: str, *, max_size: int = 8, timeout_s: float = 5.0) -> None:
        self.url, self.max_size = url, max_size
        self.pool: ConnectionPool[Connection[Any]] = ConnectionPool(
            url,
            min_size=1,
            max_size=max_size,
            timeout=timeout_s,
            open=False,
            check=ConnectionPool.check_connection,
            kwargs={"options": SESSION_OPTIONS, "connect_timeout": 5},
        )

    def open(self) -> None:
        self.pool.open()

    def close(self) -> None:
        self.pool.close()

    @contextmanager
    def transaction(self) -> Iterator[Connection[Any]]:
        """One transaction of no school: only the functions for logging in can be used in it."""
        with translated(), self.pool.connection() as connection, connection.transaction():
            yield connection

    @contextmanager
    def school(self, school_id: UUID) -> Iterator[Connection[Any]]:
        """One transaction in which only this school's rows exist."""
        with self.transaction() as connection:
            connection.execute("SELECT set_config('almanaque.school', %s, true)", [str(school_id)])
            yield connection

    def check_ready(self) -> None:
        """Raise unless the role is a safe one and the schema is the code's own."""
        with self.transaction() as connection:
            refuse_unsafe_role(connection)
            migrate.refuse_other_schema(connection)


@contextmanager
def translated() -> Iterator[None]:
    """Turn the driver's errors into the store's: a named constraint into its sentence, a lock held too long and a lost server
    into one each."""
    try:
        yield
    except psycopg.IntegrityError as error:
        name = error.diag.constraint_name
        raise errors.Refused(sentence_for(name), constraint=name or "") from error
    except (psycopg.errors.LockNotAvailable, psycopg.errors.DeadlockDetected) as error:
        raise errors.Busy(BUSY) from error
    except psycopg.errors.QueryCanceled as error:
        raise errors.Busy(TOO_LONG) from error
    except (psycopg.OperationalError, PoolTimeout) as error:
        raise errors.Unreachable(UNREACHABLE) from error


def refuse_unsafe_role(connection: Connection[Any]) -> None:
    """Row security does not bind owners, superusers and roles with BYPASSRLS, so the application never runs as one."""
    row = connection.execute(
        """SELECT r.rolsuper OR r.rolbypassrls,
                  EXISTS (SELECT FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
                          WHERE n.nspname = 'public' AND pg_has_role(current_user, c.relowner, 'USAGE'))
           FROM pg_roles r WHERE r.rolname = current_user"""
    ).fetchone()
    if row is None or row[0] or row[1]:
        raise errors.UnsafeRole(
            "The application's database role owns tables or may bypass row security. "
            "Give ALMANAQUE_DATABASE_URL a plain role that owns nothing, and keep the owner for ALMANAQUE_OWNER_DATABASE_URL."
        )
