"""A number under which something is written is used once; whoever comes while it is being written waits."""

import threading
from uuid import uuid4

import pytest

from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.school import written_once
from tests.database import NORTH, SOUTH


def test_the_second_waits_for_the_first_and_is_led_where_it_led(demo: Addresses, database: Database) -> None:
    number, began, led = uuid4(), threading.Event(), list[str]()

    def second() -> None:
        began.set()
        with database.school(NORTH) as connection:
            try:
                written_once.begin(connection, NORTH, number)
            except errors.TakenBefore as before:
                led.append(before.led_to)

    with database.school(NORTH) as first:
        written_once.begin(first, NORTH, number)
        thread = threading.Thread(target=second)
        thread.start()
        assert began.wait(60)
        written_once.led_to(first, number, "/week")
    thread.join(60)
    assert led == ["/week"]
    with database.school(SOUTH) as elsewhere:
        written_once.begin(elsewhere, SOUTH, number)  # another school's numbers are its own


def test_what_was_undone_may_be_sent_again_and_old_numbers_go(database: Database) -> None:
    number = uuid4()
    with pytest.raises(RuntimeError), database.school(NORTH) as connection:
        written_once.begin(connection, NORTH, number)
        raise RuntimeError
    with database.school(NORTH) as connection:
        written_once.begin(connection, NORTH, number)
    with database.school(NORTH) as connection:
        written_once.forget_old(connection)
        with pytest.raises(errors.TakenBefore):
            written_once.begin(connection, NORTH, number)
        connection.execute("UPDATE written_once SET written_at = now() - interval '73 hours'")
        written_once.forget_old(connection)
        written_once.begin(connection, NORTH, number)
