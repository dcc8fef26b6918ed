"""Two people who begin the same school: its classes are kept once."""

from concurrent.futures import ThreadPoolExecutor
from datetime import time

from almanaque.commands import context as contexts
from almanaque.commands.school import beginning
from almanaque.commands.school.beginning import StartingClass
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.store.school import school
from tests.database import NORTH, PATIENCE_S

NEW = StartingClass("Early birds", 2031, 20, 0, time(9, 0))


def somebody_waits(database: Database) -> bool:
    with database.school(NORTH) as looking:
        return looking.execute("SELECT FROM pg_locks WHERE NOT granted").fetchone() is not None


def test_of_two_at_once_the_second_finds_the_classes_of_the_first(demo: Addresses) -> None:
    database = Database(demo.app, max_size=3, timeout_s=PATIENCE_S)
    database.open()

    def second() -> None:
        with database.school(NORTH) as connection:
            connection.execute("SET LOCAL lock_timeout = 0")
            beginning.keep_classes(connection, context, [NEW])

    with ThreadPoolExecutor(1) as pool:
        with database.school(NORTH) as first:
            context = contexts.load(first)
            beginning.keep_classes(first, context, [NEW])
            waiting = pool.submit(second)
            while not waiting.done() and not somebody_waits(database):
                pass
        waiting.result()
    with database.school(NORTH) as connection:
        assert [group.entry_year for group in school.groups(connection)].count(2031) == 1
    database.close()
