"""The demo is true: invented, complete, and by the rules."""

from datetime import date

from almanaque.commands import context
from almanaque.demo import DEMO_DAY, is_empty, load
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.harvest import pickings
from almanaque.store.journal import journal_entries
from almanaque.store.week import tasks
from tests.database import NORTH, SOUTH


def test_it_holds_what_every_screen_needs(database: Database) -> None:
    with database.school(NORTH) as connection:
        school = context.load(connection)
        beds = garden.beds(connection)
        assert sum(bed.kind == "raised" for bed in beds) == 9
        assert sum(bed.kind == "container" for bed in beds) == 2
        assert sum(bed.kind == "ground" for bed in beds) == 1
        assert len({(bed.length_mm, bed.width_mm) for bed in beds if bed.kind == "raised"}) >= 4
        plantings = garden.plantings(connection)
        assert {p.status for p in plantings} >= {"pencilled", "planned", "in the ground", "finished"}
        assert all(p.dates and p.verdict for p in plantings)
        assert {p.verdict for p in plantings} == {"fits", "with care", "misses"}
        seasons = {
            school.calendar.year_of(row.picked_on).name
            for row in pickings.recent(connection, until=DEMO_DAY, limit=999)
        }
        assert seasons == {"2024–25", "2025–26", "2026–27"}
        assert school.climate is not None
        assert school.climate.seasons >= 30
        assert any(
            row.span.name == "Soup day" and row.span.starts.month == 11 for year in school.years for row in year.feasts
        )
        week = tasks.tasks(connection, start=date(2027, 4, 12), end=date(2027, 4, 18))
        assert {task.status for task in week} == {"open", "done"}
        assert journal_entries.to_come_back_to(connection, day=DEMO_DAY)


def test_first_school_day_is_late_in_august_and_the_last_in_mid_june(database: Database) -> None:
    with database.school(NORTH) as connection:
        for year in context.load(connection).calendar.years:
            assert date(year.starts.year, 8, 20) <= year.school_days[0] <= date(year.starts.year, 8, 31)
            assert date(year.ends.year, 6, 10) <= year.school_days[-1] <= date(year.ends.year, 6, 20)


def test_the_southern_school_freezes_in_its_own_winter(database: Database) -> None:
    with database.school(SOUTH) as connection:
        school = context.load(connection)
        assert school.school.units == "metric"
        assert school.calendar.years[0].school_days[0].month == 2
        chance = [school.climate.freeze_chance(date(2026, month, 15)) for month in range(1, 13)]
        assert chance.index(max(chance)) + 1 in (6, 7, 8)
        assert chance[0] == chance[11] == 0


def test_a_second_start_writes_nothing_and_one_broken_off_is_written_again(demo: Addresses) -> None:
    import psycopg

    assert not is_empty(demo.owner)
    load.ensure(demo.owner, demo.app)
    with psycopg.connect(demo.owner) as owner:
        before = owner.execute("SELECT count(*) FROM planting").fetchone()
        owner.execute("DELETE FROM login_session")
        owner.execute("DELETE FROM membership")
    load.ensure(demo.owner, demo.app)
    with psycopg.connect(demo.owner) as owner:
        assert owner.execute("SELECT count(*) FROM planting").fetchone() == before
        assert owner.execute("SELECT count(*) FROM membership").fetchone() == (5,)
