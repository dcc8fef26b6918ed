"""Weather by source on a real database: COPY, merging, gaps, by hand, and the digest that answers depend on."""

from datetime import date, timedelta
from uuid import uuid4

import pytest

from almanaque.core.place.readings import Reading
from almanaque.demo.frame_of_school import GARDEN_SOURCE, STATION_SOURCE
from almanaque.standins.weather import SOURCE_NAME
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.place import weather
from almanaque.store.school import school
from tests.database import NORTH

D = date.fromisoformat
START = D("1986-01-01")


def readings(count: int, low: float | None = 1.0) -> list[Reading]:
    return [Reading(START + timedelta(days=n), low, 9.0, 0.4 * (n % 7)) for n in range(count)]


def test_forty_years_are_stored_at_once_and_come_back_as_arrays(database: Database) -> None:
    with database.school(NORTH) as connection:
        weather.save_source(connection, NORTH, "station", "region")
        weather.copy_in(connection, NORTH, "station", readings(14_610))
        climate = weather.climate(connection, "station", latitude=42.9)
        assert climate is not None
        assert (climate.first_day, climate.last_day) == (START, D("2025-12-31"))
        source = next(s for s in weather.sources(connection) if s.name == "station")
        assert (source.days, source.missing, source.by_hand) == (14_610, 0, 0)


def test_a_file_sent_again_replaces_values_and_takes_none_away(database: Database) -> None:
    with database.school(NORTH) as connection:
        weather.save_source(connection, NORTH, "station", "region")
        weather.copy_in(
            connection, NORTH, "station", [Reading(START, 1, 9, 5.0), Reading(START + timedelta(days=3), 2, 8, 0)]
        )
        weather.copy_in(connection, NORTH, "station", [Reading(START, 0, 9, None)])
        first, second = weather.days(connection, "station", START, START + timedelta(days=9))
        assert (first.tmin_c, first.rain_mm) == (0, 5)
        assert second.tmin_c == 2
        assert weather.gaps(connection, "station") == [(START + timedelta(days=1), START + timedelta(days=2))]


def test_a_reading_by_hand_keeps_what_was_there_and_adds_the_rest(database: Database) -> None:
    day = D("2027-04-13")
    with database.school(NORTH) as connection:
        before = weather.days(connection, GARDEN_SOURCE, day, day)[0]
        weather.save_by_hand(connection, NORTH, GARDEN_SOURCE, Reading(day, None, None, 2.5, 3.0, 8.0), wind_from="NW")
        after = weather.days(connection, GARDEN_SOURCE, day, day)[0]
    assert (after.tmin_c, after.tmax_c) == (before.tmin_c, before.tmax_c)
    assert (after.rain_mm, after.wind_from, after.soil_c) == (2.5, "NW", 8)


def test_the_digest_follows_the_source_that_answers_rest_on(database: Database) -> None:
    with database.school(NORTH) as connection:
        before = school.school(connection).weather_digest
        weather.save_by_hand(connection, NORTH, GARDEN_SOURCE, Reading(D("2027-04-13"), 1, 9, 0), wind_from=None)
        assert school.school(connection).weather_digest == before
        weather.choose(connection, GARDEN_SOURCE)
        chosen = school.school(connection)
        assert (chosen.weather_source, chosen.weather_digest != before) == (GARDEN_SOURCE, True)
        weather.save_by_hand(connection, NORTH, GARDEN_SOURCE, Reading(D("2027-04-13"), 2, 9, 0), wind_from=None)
        assert school.school(connection).weather_digest != chosen.weather_digest


def test_another_schools_weather_is_not_seen(database: Database) -> None:
    from tests.database import SOUTH

    with database.school(SOUTH) as connection:
        assert weather.climate(connection, "station", latitude=-41) is None
        assert {s.name for s in weather.sources(connection)} == {SOURCE_NAME, GARDEN_SOURCE, STATION_SOURCE}


@pytest.mark.parametrize(
    ("values", "constraint"),
    [
        ("9, 1, 0, NULL, NULL", "weather_day_sane"),
        ("NULL, NULL, NULL, NULL, NULL", "weather_day_something"),
        ("1, 2, 0, 300, NULL", "weather_day_wind_sane"),
        ("1, 2, 0, NULL, 'up'", "weather_day_wind_from_known"),
    ],
)
def test_what_cannot_be_is_refused_by_the_database_too(database: Database, values: str, constraint: str) -> None:
    with pytest.raises(errors.Refused) as refused, database.school(NORTH) as connection:
        connection.execute(
            (
                f"INSERT INTO weather_day (school_id, source, day, tmin_c, tmax_c, rain_mm, "
                f"wind_ms, wind_from) VALUES (%s, '{GARDEN_SOURCE}', '2030-01-01', {values})"
            ).encode(),
            [NORTH],
        )
    assert refused.value.constraint == constraint


def test_a_source_that_is_not_there_cannot_be_written_to(database: Database) -> None:
    with pytest.raises(errors.Refused), database.school(NORTH) as connection:
        weather.copy_in(connection, NORTH, f"unknown {uuid4()}", readings(2))
