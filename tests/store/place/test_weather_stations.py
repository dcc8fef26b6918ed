"""Stations asked over real HTTP and through a worker's round: answers, faults, silence, and mail that is told once a day."""

import email
import email.policy
import json
import threading
from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from almanaque import demo
from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.place import weather_station
from almanaque.host import postgres
from almanaque.settings import Settings
from almanaque.standins import station
from almanaque.standins.station import SimulatedStation
from almanaque.standins.weather import SimulatedPlace
from almanaque.store.db import Database
from almanaque.store.place import weather, weather_stations
from almanaque.store.school import outgoing_mail
from almanaque.worker.polling import Rounds
from tests.database import NORTH

TODAY = demo.DEMO_DAY
SOURCE = "station at the gate"
NOW = datetime(2027, 4, 14, 6, tzinfo=UTC)


@pytest.fixture
def gateway() -> Iterator[str]:
    """The demo's stations, as the demo starts them."""
    told = {
        key: SimulatedStation(
            SimulatedPlace(**row["place"]), *(date.fromisoformat(str(row[name])) for name in ("first_day", "last_day"))
        )  # type: ignore[arg-type]
        for key, row in demo.stations().items()
    }
    server = station.serve(told, 0, TODAY)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()
    thread.join(5)


def rounds(database: Database, url: str, outbox: Path | None = None) -> Rounds:
    return Rounds(database, Clock(TODAY), Settings(station_url=url, outbox=outbox))


def poll(database: Database, fetch: Any, now: datetime = NOW) -> int:
    with database.school(NORTH) as connection:
        context = contexts.load(connection)
        return weather_station.poll(
            connection, context, weather_stations.devices(connection)[0], fetch, today=TODAY, now=now
        )


def said(**changed: Any) -> bytes:
    row = {"day": "2027-04-14", "tmin_c": 4.0, "tmax_c": 14.0, "rain_mm": 0.0, "wind_ms": 2.0}
    return json.dumps({"device": "hut", "days": [{**row, **changed}]}).encode()


def test_the_worker_asks_every_station_and_keeps_what_can_be(database: Database, gateway: str) -> None:
    assert rounds(database, gateway).stations()
    with database.school(NORTH) as connection:
        days = weather.days(connection, SOURCE, TODAY - timedelta(days=10), TODAY)
        row = weather_stations.devices(connection)[0]
    assert len(days) == station.DAYS_TOLD
    assert row.answered_at is not None
    assert row.problem == ""
    rounds(database, gateway).stations()  # asked again, nothing is doubled
    with database.school(NORTH) as connection:
        assert len(weather.days(connection, SOURCE, TODAY - timedelta(days=10), TODAY)) == station.DAYS_TOLD


def test_a_station_has_faults_and_says_of_a_day_always_the_same() -> None:
    device_ = SimulatedStation(SimulatedPlace(7, 9.0, 11.0, 9.0, 200, 0.3, 6.0), date(2020, 1, 1), date(2022, 1, 1))
    days = [date(2020, 1, 15) + timedelta(days=n) for n in range(400)]
    answers = [station.readings(device_, day) for day in days[::40]]
    assert answers == [station.readings(device_, day) for day in days[::40]]
    rows = [row for day in days for row in station.readings(device_, day)["days"][-1:]]
    missing = sum(None in row.values() for row in rows) / len(rows)
    absurd = sum(
        row["tmax_c"] == 85.0
        or row["tmin_c"] == -127.0
        or row["wind_ms"] == "--"
        or (row["rain_mm"] or 0) in (-1.0, 6553.5)
        for row in rows
    )
    assert 0.05 < missing < 0.25
    assert 0 < absurd < 60
    assert any(station.late(device_, day) for day in days)
    clean = station.readings(device_, days[50], faults=False)["days"]
    assert all(None not in row.values() for row in clean)


@pytest.mark.parametrize(
    ("body", "problem"),
    [
        (b"<html>busy</html>", "cannot be read"),
        (b"{}", "cannot be read"),
        (b'{"days": 7}', "cannot be read"),
        (b"\xff\xfe", "cannot be read"),
        (b"x" * 300_000, "too long"),
    ],
)
def test_an_answer_that_is_none_is_noted_and_nothing_is_kept(database: Database, body: bytes, problem: str) -> None:
    assert poll(database, lambda _: body) == 0
    with database.school(NORTH) as connection:
        assert problem in weather_stations.devices(connection)[0].problem
        assert weather.days(connection, SOURCE, TODAY - timedelta(days=10), TODAY) == []


def test_a_station_that_is_down_holds_up_nobody_and_is_told_after_a_day(database: Database) -> None:
    port = postgres.free_port()
    assert not rounds(database, f"http://127.0.0.1:{port}").stations()
    with database.school(NORTH) as connection:
        context = contexts.load(connection)
        assert weather_stations.devices(connection)[0].problem == "The station did not answer in time."
        assert "station_silent" in {f.code for f in weather_station.findings(connection, context, today=TODAY, now=NOW)}
    poll(database, lambda _: said(), now=NOW)

    def down(_: str) -> bytes:
        raise weather_station.NoAnswer("The station did not answer in time.")

    for hours, silent in ((2, False), (30, True)):
        poll(database, down, now=NOW + timedelta(hours=hours))
        with database.school(NORTH) as connection:
            found = {f.code for f in weather_station.findings(connection, context, today=TODAY, now=NOW)}
        assert ("station_silent" in found) == silent, hours


def test_a_doubtful_reading_is_marked_left_out_and_told(database: Database) -> None:
    poll(database, lambda _: said(tmax_c=85.0))
    with database.school(NORTH) as connection:
        day = weather.days(connection, SOURCE, TODAY, TODAY)[0]
        assert (day.tmin_c, day.tmax_c) == (4.0, None)
        (doubt,) = weather_stations.doubts(connection, SOURCE, TODAY)
        assert (doubt.what, doubt.value) == ("tmax_c", "85")
        found = weather_station.findings(connection, contexts.load(connection), today=TODAY, now=NOW)
        assert [f.message for f in found if f.code == "reading_doubtful"] == [
            f"{SOURCE}: greatest temperature 85 cannot be as greatest temperature."
        ]
    poll(database, lambda _: said(day="2031-01-01"))
    with database.school(NORTH) as connection:
        assert weather.days(connection, SOURCE, TODAY + timedelta(days=1), date(2032, 1, 1)) == []


def test_frost_is_told_by_mail_once_a_day_and_lies_in_the_outbox(database: Database, tmp_path: Path) -> None:
    poll(database, lambda _: said(tmin_c=1.0))
    own = rounds(database, "", tmp_path)
    own.stations()
    own.stations()
    own.mail()
    own.mail()
    files = sorted(tmp_path.glob("*.eml"))
    messages = [email.message_from_bytes(file.read_bytes(), policy=email.policy.default) for file in files]
    frost = [m for m in messages if "next night may freeze" in m["Subject"]]
    assert len(frost) == 1
    assert frost[0]["To"] == "garden@brindlecombe.example"
    body = frost[0].get_content()
    assert "34 °F" in body
    assert "Cover" in body or "Nothing tender" in body
    assert [m for m in messages if "Bird seed: 1 kg left" in m["Subject"]]
    with database.school(NORTH) as connection:
        assert outgoing_mail.due(connection) == []
        assert all(one.sent_at for one in outgoing_mail.mails(connection))


def test_mail_that_cannot_be_handed_over_waits_with_the_reason(database: Database, tmp_path: Path) -> None:
    poll(database, lambda _: said(tmin_c=1.0))
    blocked = tmp_path / "file"
    blocked.write_text("not a folder")
    own = rounds(database, "", blocked)
    own.stations()
    own.mail()
    with database.school(NORTH) as connection:
        waiting = outgoing_mail.due(connection)
    assert waiting
    assert all("did not take it" in one.problem for one in waiting)
    rounds(database, "", tmp_path / "outbox").mail()
    with database.school(NORTH) as connection:
        assert outgoing_mail.due(connection) == []


def test_nobody_is_told_where_nobody_wants_to_be(database: Database) -> None:
    with database.school(NORTH) as connection:
        connection.execute("UPDATE school SET mail_to = ''")
    poll(database, lambda _: said(tmin_c=-3.0))
    with database.school(NORTH) as connection:
        assert weather_station.tell(connection, contexts.load(connection), today=TODAY, now=NOW) == 0
        assert outgoing_mail.mails(connection) == []
