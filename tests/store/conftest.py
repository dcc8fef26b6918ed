"""What tests of commands share: one transaction in the northern demo school, with what the rules need to know of it."""

from collections.abc import Iterator

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.context import Context
from almanaque.store.db import Database
from tests.database import NORTH


@pytest.fixture
def in_school(database: Database) -> Iterator[tuple[Connection, Context]]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)
