"""A whole school out and into a new one, row by row; tables as CSV; pickings and plantings of earlier years."""

import csv
import io
import json
from collections.abc import Iterator
from datetime import date
from pathlib import Path
from uuid import UUID, uuid4

import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.harvest import harvest_book
from almanaque.commands.school import history_import, school_bundle
from almanaque.core.errors import BadInput
from almanaque.demo import drawn_photos
from almanaque.formats.school import history_csv
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.harvest import pickings as picking_rows
from almanaque.store.school import whole_school
from tests.database import NORTH, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)


def new_school(owner_url: str) -> UUID:
    made = uuid4()
    with psycopg.connect(owner_url) as owner:
        owner.execute(
            "INSERT INTO school (id, name, zone, latitude, longitude, units) VALUES (%s, 'New', 'Europe/Oslo', 60, 10, 'metric')",
            [made],
        )
    return made


def out(database: Database, school: UUID, *, with_photos: bool = True) -> bytes:
    with database.school(school) as connection:
        return school_bundle.export(connection, day=TODAY, photos=with_photos)


def into(database: Database, school: UUID, body: bytes) -> dict[str, int]:
    with database.school(school) as connection:
        return school_bundle.bring_in(connection, context.load(connection), body)


def add_photo(database: Database) -> None:
    with database.school(NORTH) as connection:
        connection.execute(
            (
                "INSERT INTO photo (school_id, id, bed_id, noted_on, caption, width, "
                "height, picture, small) VALUES (%s, %s, %s, %s, 'A bed', 2, 2, %s, %s)"
            ),
            [NORTH, uuid4(), bed_id("Bed 4"), TODAY, b"\x00\xffpicture\\x41", b"\x01"],
        )


def test_the_whole_demo_goes_into_a_new_school_and_comes_out_the_same(demo: Addresses, database: Database) -> None:
    add_photo(database)
    with database.school(NORTH) as connection:
        year = connection.execute("SELECT id FROM school_year WHERE name = '2024–25'").fetchone()[0]
        connection.execute(
            (
                "INSERT INTO closed_time (school_id, id, school_year_id, from_day, to_day, closed_on, "
                "closed_at) VALUES (%s, %s, %s, '2024-08-28', '2025-08-26', '2025-09-01', now())"
            ),
            [NORTH, uuid4(), year],
        )
    first = out(database, NORTH)
    school = new_school(demo.owner)
    brought = into(database, school, first)
    assert brought["weather_day"] > 10_000
    assert brought["photo"] == 1 + len(drawn_photos.SCENES)
    assert out(database, school) == first
    for section in ("harvest", "planting", "event", "weather_day", "seed_lot"):
        with psycopg.connect(demo.owner) as owner:
            counts = dict(owner.execute(f"SELECT school_id, count(*) FROM {section} GROUP BY 1".encode()).fetchall())
        assert counts[school] == counts[NORTH]
    with database.school(school) as connection:
        here = context.load(connection)
        found = harvest_book.read(connection, here, today=TODAY, until=TODAY)
    with database.school(NORTH) as connection:
        there = harvest_book.read(connection, context.load(connection), today=TODAY, until=TODAY)
    assert found.sums == there.sums
    assert here.school.name == "Brindlecombe School"


def test_without_photos_it_is_smaller_and_still_goes_in(demo: Addresses, database: Database) -> None:
    add_photo(database)
    small = out(database, NORTH, with_photos=False)
    assert b'"photo": [' not in small
    into(database, new_school(demo.owner), small)


def test_a_used_school_a_newer_bundle_and_a_broken_row_change_nothing(demo: Addresses, database: Database) -> None:
    first = out(database, NORTH)
    with refuses("school.bundle_into_used_school"):
        into(database, NORTH, first)
    school = new_school(demo.owner)
    empty = out(database, school)
    for change, says in (
        ({"version": 99}, "newer version"),
        ({"schema": 9999}, "newer version"),
        ({"school": {"password": "x"}}, "no “password”"),
    ):
        with pytest.raises((BadInput, errors.Refused), match=says):
            into(database, school, json.dumps({**json.loads(first), **change}).encode())
    broken = json.loads(first)
    broken["tables"]["bed"][0]["length_mm"] = "long"
    with refuses("school.bundle_value"):
        into(database, school, json.dumps(broken).encode())
    broken = json.loads(first)
    broken["tables"]["harvest"][0]["planting_id"] = str(uuid4())
    with pytest.raises(errors.Refused):
        into(database, school, json.dumps(broken).encode())
    broken = json.loads(first)
    broken["tables"]["station"][0]["readings"] = [{"nothing": 1}]
    with refuses("school.bundle_does_not_fit"):
        into(database, school, json.dumps(broken).encode())
    broken = json.loads(first)
    broken["tables"]["use_of_harvest"][0]["share"] = 0.25
    with pytest.raises(BadInput, match="uses of 1 of its pickings do not add up"):
        into(database, school, json.dumps(broken).encode())
    assert out(database, school) == empty


def test_what_a_new_school_began_with_gives_way(demo: Addresses, database: Database) -> None:
    first, school = out(database, NORTH), new_school(demo.owner)
    with database.school(school) as connection:
        connection.execute(
            "INSERT INTO site (school_id, id, name, width_mm, depth_mm) VALUES (%s, %s, 'Yard', 9000, 9000)",
            [school, school],
        )
        connection.execute(
            (
                "INSERT INTO bed (school_id, id, site_id, ordinal, name, kind, x_mm, y_mm, length_mm, "
                "width_mm, depth_mm, cell_mm) VALUES (%s, %s, %s, 1, 'Bed', 'raised', 0, 0, 900, 900, 300, 300)"
            ),
            [school, school, school],
        )
        connection.execute(
            "INSERT INTO change (school_id, id, bed_id, command, before, version) VALUES (%s, %s, %s, 'x', '{}', 1)",
            [school, uuid4(), school],
        )
        connection.execute(
            "INSERT INTO class_group (school_id, id, name, kind, head_count) VALUES (%s, %s, 'Club', 'club', 9)",
            [school, school],
        )
    into(database, school, first)
    assert out(database, school) == first


def test_a_bundle_cannot_write_into_another_school(demo: Addresses, database: Database) -> None:
    given = json.loads(out(database, NORTH))
    given["tables"]["bed"][0]["school_id"] = str(NORTH)
    with refuses("school.bundle_field_unknown"):
        into(database, new_school(demo.owner), json.dumps(given).encode())


def test_every_school_table_is_in_the_bundle_or_left_out_by_name(database: Database) -> None:
    with database.school(NORTH) as connection:
        every = {
            name
            for (name,) in connection.execute(
                "SELECT c.relname FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attname = 'school_id'"
                " WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r'"
            ).fetchall()
        }
        kept = [table.name for table in whole_school.tables(connection)]
    assert every == set(kept) | whole_school.LEFT_OUT
    assert kept.index("planting") < kept.index("harvest") < kept.index("use_of_harvest")


def test_tables_are_counted_for_this_school_alone(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        present = whole_school.tables(connection)
        counts = whole_school.counts(connection, present)
        assert counts == [len(whole_school.rows(connection, table)) for table in present]
    assert sum(counts) > 0
    with database.school(new_school(demo.owner)) as connection:
        assert sum(whole_school.counts(connection, present)) < sum(counts)


def test_the_bundles_tables_are_described(database: Database) -> None:
    text = (Path(__file__).parents[3] / "docs" / "bundle.md").read_text(encoding="utf-8")
    with database.school(NORTH) as connection:
        for table in whole_school.tables(connection):
            assert f"`{table.name}`" in text, table.name
            for column in table.columns:
                assert f"`{column.name}`" in text, (table.name, column.name)
    for name in whole_school.LEFT_OUT - {"login_session"}:
        assert f"`{name}`" in text


WORDS = st.text(st.characters(exclude_characters="\0", exclude_categories=("Cs",)), min_size=1, max_size=60).filter(
    lambda s: bool(s.strip())
)
NOTES = st.lists(st.tuples(WORDS, st.dates(date(2020, 1, 1), date(2030, 1, 1))), max_size=4)
TASTINGS = st.lists(st.integers(1, 60).flatmap(lambda n: st.tuples(st.just(n), st.integers(0, n))), max_size=3)
LOTS = st.lists(st.tuples(WORDS, st.decimals("0.001", "9999", places=3), st.booleans()), max_size=3)


@pytest.fixture
def once(demo: Addresses, database: Database) -> tuple[str, Database]:
    return demo.owner, database


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(NOTES, TASTINGS, LOTS)
def test_whatever_a_school_holds_comes_out_of_another_the_same(
    once: tuple[str, Database], notes: list, tastings: list, lots: list
) -> None:
    owner, database = once
    school = new_school(owner)
    with database.school(school) as connection:
        for body, day in notes:
            connection.execute(
                "INSERT INTO journal_entry (school_id, id, noted_on, body) VALUES (%s, %s, %s, %s)",
                [school, uuid4(), day, f"x{body}"],
            )
        for tried, liked in tastings:
            connection.execute(
                "INSERT INTO tasting (school_id, id, crop, on_day, tried, liked) VALUES (%s, %s, 'kale', '2027-01-01', %s, %s)",
                [school, uuid4(), tried, liked],
            )
        for name, grams, hybrid in lots:
            connection.execute(
                (
                    "INSERT INTO seed_lot (school_id, id, crop, variety, origin, year, grams, "
                    "hybrid, got_on) VALUES (%s, %s, 'kale', %s, 'bought', 2026, %s, %s, '2026-01-01')"
                ),
                [school, uuid4(), name, grams, hybrid],
            )
    first = out(database, school)
    other = new_school(owner)
    into(database, other, first)
    assert out(database, other) == first


def test_a_table_as_csv_names_units_and_defuses_formulas(database: Database) -> None:
    with database.school(NORTH) as connection:
        connection.execute("UPDATE harvest SET note = '=HYPERLINK(1)' WHERE picked_on = '2027-04-13'")
        text = school_bundle.table_csv(connection, "harvest")
        assert school_bundle.table_csv(connection, "account") is None
        assert school_bundle.table_csv(connection, "garden_pass") is None
        assert "picture" not in (school_bundle.table_csv(connection, "photo") or "picture")
    assert "\r\n" in text
    rows = list(csv.DictReader(io.StringIO(text.removeprefix("\ufeff"))))
    assert {"mass_g", "picked_on", "unit"} <= set(rows[0])
    assert "'=HYPERLINK(1)" in {row["note"] for row in rows}


InSchool = tuple[Connection, Context]


@pytest.fixture
def in_school(database: Database) -> Iterator[InSchool]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def looks(in_school: InSchool, what: history_csv.What, text: str) -> list[history_import.Look]:
    table = history_csv.split(text.encode(), "old.csv", what)
    return history_import.look(*in_school, table.read(), what, today=TODAY, month_first=True)


def test_plantings_and_their_pickings_of_earlier_years_come_in_once(in_school: InSchool) -> None:
    connection, school = in_school
    plantings = "bed,crop,sown,cleared,squares\nBed 4,Turnips,4/2/2025,2025-07-01,A3-B4\nBed 3,beet,3 Apr 2025,1 Jul 2025,D1-E2\n"
    pickings = (
        "date,plot,what,weight,notes\n6/10/2025,bed 4,turnip,2 lbs,\n6/12/2025,Bed "
        "3,Beets,5 bunches,'=nice\n6/12/2025,Bed 3,Beets,500 grams,\n"
    )
    for _ in range(2):
        assert (
            history_import.bring_in(connection, school, looks(in_school, "plantings", plantings), Actor(None, TODAY))
            == 2
        )
        assert (
            history_import.bring_in(connection, school, looks(in_school, "pickings", pickings), Actor(None, TODAY)) == 3
        )
    turnips = [p for p in garden.plantings(connection, bed_id=bed_id("Bed 4")) if p.crop == "turnip"]
    assert [(p.status, p.events["started"], p.events["cleared"]) for p in turnips] == [
        ("finished", date(2025, 4, 2), date(2025, 7, 1))
    ]
    (picked,) = picking_rows.recent(connection, planting=turnips[0].id)
    assert (picked.amount, picked.unit, picked.picked_on) == (2, "lb", date(2025, 6, 10))
    found = harvest_book.read(connection, school, today=TODAY, until=TODAY)
    beets = [s for s in found.within("2024–25") if found.crop_of(s).key == "beet"]
    assert sum(s.pickings for s in beets) == 2
    assert sum(s.weighed_g for s in beets) == 500


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("2025-02-30,Bed 5,kale,1 lb", "is not a day"),
        ("2025-03-06,Bed 99,kale,1 lb", "no bed “Bed 99”"),
        ("2025-03-06,Bed 5,cale,1 lb", "no crop"),
        ("2025-03-06,Bed 5,kale,lots", "not an amount"),
        ("2025-03-06,Bed 5,kale,=1+1", "not an amount"),
        ("2025-03-06,Bed 5,tomato,1 lb", "No tomato stood in Bed 5"),
        ("2028-03-06,Bed 5,kale,1 lb", "has not come yet"),
        ("2025-03-06,Bed 5,kale,-3 lb", "not an amount"),
        ("2025-03-06,,kale,1 lb", "The bed is missing"),
        ("2025-03-06,Bed 5,kale,9e9 kg", "not an amount"),
    ],
)
def test_a_line_that_cannot_come_in_says_why(in_school: InSchool, line: str, says: str) -> None:
    (found,) = looks(in_school, "pickings", f"day,bed,crop,amount\n{line}\n")
    assert says in found.problem


def test_swapped_columns_are_noticed(in_school: InSchool) -> None:
    table = history_csv.split(b"day,bed,crop,amount\n" + b"kale,2025-03-06,Bed 5,1 lb\n" * 9, "old.csv", "pickings")
    found = history_import.look(*in_school, table.read(), "pickings", today=TODAY, month_first=True)
    assert history_import.swapped(found)
    assert not history_import.swapped(looks(in_school, "pickings", "day,bed,crop,amount\n2025-03-06,Bed 5,kale,1 lb\n"))


@pytest.mark.parametrize(
    ("text", "us", "other"),
    [
        ("5/4/2026", date(2026, 5, 4), date(2026, 4, 5)),
        ("14.5.2026", date(2026, 5, 14), date(2026, 5, 14)),
        ("5/14/26", date(2026, 5, 14), date(2026, 5, 14)),
        ("2026-05-14T10:00", date(2026, 5, 14), date(2026, 5, 14)),
        ("May 4, 2026", date(2026, 5, 4), date(2026, 5, 4)),
        ("4 May 2026", date(2026, 5, 4), date(2026, 5, 4)),
    ],
)
def test_days_are_read_as_spreadsheets_write_them(text: str, us: date, other: date) -> None:
    assert history_import.read_day(text, month_first=True) == us
    assert history_import.read_day(text, month_first=False) == other


def test_a_line_that_the_rules_refuse_takes_the_others_back(database: Database) -> None:
    text = "bed,crop,sown,cleared,squares\nBed 4,turnip,2025-04-02,2025-07-01,A3-B4\nBed 4,beet,2025-04-02,2025-07-01,Z99\n"
    with refuses("school.history_line"), database.school(NORTH) as connection:
        school = context.load(connection)
        history_import.bring_in(connection, school, looks((connection, school), "plantings", text), Actor(None, TODAY))
    with database.school(NORTH) as connection:
        assert not [p for p in garden.plantings(connection) if p.crop == "turnip"]
