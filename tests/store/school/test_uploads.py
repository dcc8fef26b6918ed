"""Files between being sent and being taken in: by one of two taps only, whichever comes first."""

from concurrent.futures import ThreadPoolExecutor
from uuid import UUID, uuid4

import pytest

from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.school import uploads
from tests.database import NORTH, PATIENCE_S, SOUTH

DONE = "/school/weather?saved=Harbour"


def sent(database: Database) -> UUID:
    upload_id = uuid4()
    with database.school(NORTH) as connection:
        uploads.save(connection, NORTH, upload_id, "weather", name="rain.csv", body=b"day,rain\n", source="Harbour")
    return upload_id


def test_of_two_taps_at_once_one_takes_the_file_and_the_other_is_led_to_what_came_of_it(demo: Addresses) -> None:
    database = Database(demo.app, max_size=3, timeout_s=PATIENCE_S)
    database.open()
    upload_id = sent(database)

    def second() -> str:
        with database.school(NORTH) as connection:
            connection.execute("SET LOCAL lock_timeout = 0")
            try:
                return uploads.hold(connection, upload_id, "weather").name
            except errors.TakenBefore as before:
                return before.led_to

    with ThreadPoolExecutor(1) as pool:
        with database.school(NORTH) as first:
            assert uploads.hold(first, upload_id, "weather").body == b"day,rain\n"
            waiting = pool.submit(second)
            with database.school(NORTH) as looking:  # a look at the preview waits for nobody
                assert uploads.get(looking, upload_id, "weather").name == "rain.csv"
            uploads.taken(first, upload_id, DONE)
        assert waiting.result() == DONE
    database.close()


def test_a_file_that_could_not_be_taken_can_be_tried_again(database: Database) -> None:
    upload_id = sent(database)
    with pytest.raises(ZeroDivisionError), database.school(NORTH) as connection:
        uploads.taken(connection, uploads.hold(connection, upload_id, "weather").id, DONE)
        raise ZeroDivisionError
    with database.school(NORTH) as connection:
        assert uploads.hold(connection, upload_id, "weather").body


def test_no_other_school_and_no_other_page_takes_it(database: Database) -> None:
    upload_id = sent(database)
    with database.school(SOUTH) as connection, pytest.raises(errors.NotFound):
        uploads.hold(connection, upload_id, "weather")
    with database.school(NORTH) as connection, pytest.raises(errors.NotFound):
        uploads.hold(connection, upload_id, "chart")
