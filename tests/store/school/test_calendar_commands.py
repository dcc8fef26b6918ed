"""Whole school years written from a file, and the closure nobody planned, on a real database."""

from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise
from uuid import UUID, uuid4

import pytest

from almanaque.commands import context
from almanaque.commands.garden import renewal
from almanaque.commands.school import calendar, calendar_export, project_plans
from almanaque.core.school.school_year import HalfDay, SchoolYear, Span
from almanaque.demo import DEMO_DAY
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.place import planting_chart
from almanaque.store.school import project_plans as project_store
from almanaque.store.school import school
from tests.database import NORTH, SOUTH
from tests.refuses import refuses

D = date.fromisoformat


def new_year(first: str, last_term_day: str, ends: str) -> SchoolYear:
    start = D(first)
    return SchoolYear(
        f"new {start.year}",
        start,
        D(ends),
        (Span("All year", start, D(last_term_day), "term"),),
        (Span("Leaf days", start + timedelta(days=60), start + timedelta(days=64), "break"),),
    )


def test_a_year_for_the_same_time_is_replaced_and_keeps_its_feasts(database: Database) -> None:
    with database.school(NORTH) as connection:
        before = context.load(connection)
        old = next(y for y in before.years if y.name == "2026–27")
        written = calendar.write_years(connection, before, [new_year("2026-08-26", "2027-06-16", "2027-08-24")])
        after = context.load(connection)
    year = next(y for y in after.years if y.id == old.id)
    assert (written.made, written.replaced) == ((), ("2026–27",))
    assert [r.span.name for r in year.terms] == ["All year"]
    assert [r.span.name for r in year.closures] == ["Leaf days"]
    assert year.half_days == []
    assert [r.span.name for r in year.feasts] == ["Soup day", "Last day of school"]
    assert len(after.years) == len(before.years)


def test_a_new_year_lasts_until_the_one_on_file_begins_and_the_one_before_gives_way(database: Database) -> None:
    with database.school(SOUTH) as connection:
        before = context.load(connection)
        calendar.write_years(connection, before, [new_year("2028-01-25", "2028-12-15", "2029-01-24")])
        after = context.load(connection)
    assert [(y.starts.year, y.ends) for y in after.years][-2:] == [(2027, D("2028-01-24")), (2028, D("2029-01-24"))]


def test_a_year_that_would_cut_a_term_is_refused_and_nothing_is_written(database: Database) -> None:
    with refuses("school.span_outside_year"), database.school(SOUTH) as connection:
        calendar.write_years(connection, context.load(connection), [new_year("2027-10-01", "2028-08-01", "2028-09-30")])
    with database.school(SOUTH) as connection:
        assert [y.name for y in context.load(connection).years] == ["2026", "2027"]


def close(database: Database, *, ends: date | None = None) -> UUID:
    closure = uuid4()
    with database.school(NORTH) as connection:
        calendar.close_suddenly(
            connection,
            context.load(connection),
            closure,
            name="Storm",
            starts=DEMO_DAY,
            ends=ends,
            why="until further notice",
        )
    return closure


def test_a_sudden_closure_shows_what_it_does_before_and_after_the_dates_were_worked_out_again(
    database: Database,
) -> None:
    closure = close(database)
    found = []
    for recompute in (False, True):
        with database.school(NORTH) as connection:
            now = context.load(connection)
            span = next(r.span for y in now.years for r in y.closures if r.id == closure)
            if recompute:
                renewal.renew(connection, now, today=DEMO_DAY)
            found.append(calendar.effects_of(connection, now, span))
    before, after = found
    assert span.ends == D("2027-08-24")
    assert len(before.jobs) > 20
    assert {job.group for job in before.jobs} & {"Grade 2", "Grade 4"}
    assert any("a carer is wanted" in job.group for job in after.jobs)
    assert any("Carrot" in finding.subject for finding in before.seedbeds)
    assert [f.subject for f in before.pickings] == [f.subject for f in after.pickings]
    assert before.pickings


def test_opening_again_ends_the_closure_and_on_its_first_day_takes_it_back(database: Database) -> None:
    closure = close(database)
    with database.school(NORTH) as connection:
        calendar.reopen(connection, context.load(connection), closure, DEMO_DAY + timedelta(days=5))
        now = context.load(connection)
        assert next(r.span.ends for y in now.years for r in y.closures if r.id == closure) == DEMO_DAY + timedelta(
            days=4
        )
        assert now.calendar.in_session(DEMO_DAY + timedelta(days=5))
        calendar.reopen(connection, now, closure, DEMO_DAY)
        assert all(r.id != closure for y in context.load(connection).years for r in y.closures)


def test_it_may_lie_over_a_planned_break_and_wants_a_year_on_file(database: Database) -> None:
    with database.school(NORTH) as connection:
        now = context.load(connection)
        calendar.close_suddenly(
            connection, now, uuid4(), name="Flood", starts=D("2026-12-18"), ends=D("2026-12-28"), why="weather"
        )
        with refuses("school.no_year_for_day"):
            calendar.close_suddenly(
                connection, now, uuid4(), name="Flood", starts=D("2031-12-18"), ends=None, why="weather"
            )


def test_half_days_and_feasts_are_kept_once_and_in_their_year(database: Database) -> None:
    with database.school(NORTH) as connection:
        now = context.load(connection)
        year = next(y for y in now.years if y.name == "2026–27")
        half = year.half_days[0].half_day
        with refuses("school.span_outside_year"):
            calendar.save_half_day(connection, now, year.id, uuid4(), replace(half, day=D("2028-01-10")))
        with refuses("school.name_missing"):
            calendar.save_feast(connection, now, year.id, uuid4(), " ", D("2027-05-01"))
    with pytest.raises(errors.Refused, match="a half day already"), database.school(NORTH) as connection:
        calendar.save_half_day(
            connection, context.load(connection), year.id, uuid4(), HalfDay("Twice", half.day, half.until)
        )


def test_public_holidays_are_added_where_no_break_lies_already(database: Database) -> None:
    with database.school(NORTH) as connection:
        wanted = [
            Span("A", D("2027-05-31"), D("2027-05-31"), "holiday"),
            Span("B", D("2026-12-25"), D("2026-12-25"), "holiday"),
            Span("C", D("2031-01-01"), D("2031-01-01"), "holiday"),
        ]
        assert calendar.add_closures(connection, context.load(connection), wanted) == 1


def test_the_plan_as_events_has_steady_keys_and_no_pencil(database: Database) -> None:
    with database.school(NORTH) as connection:
        now = context.load(connection)
        once, again = (calendar_export.events(connection, now, "both") for _ in range(2))
        assert once == again
        assert len({e.key for e in once}) == len(once)
        pencilled = {p.id for p in garden.plantings(connection) if p.status == "pencilled"}
        assert not any(str(i) in e.key for e in once for i in pencilled)
        assert {e.category for e in calendar_export.events(connection, now, "calendar")} == {
            "school",
            "no school",
            "garden",
        }


def test_a_plan_of_stages_is_dated_by_this_schools_days_and_freezes(database: Database) -> None:
    with database.school(NORTH) as connection:
        now = context.load(connection)
        made = project_plans.begin(
            connection, now, project_id=uuid4(), name="", template="one-bed", starts=D("2027-01-11")
        )
        stages = project_store.stages(connection, made)
        assert project_store.project(connection, made).name == "One raised bed"
        assert all(s.starts <= s.ends for s in stages)
        assert all(before.ends < after.starts for before, after in pairwise(stages))
        with refuses("school.no_such_template"):
            project_plans.begin(connection, now, project_id=uuid4(), name="", template="castle", starts=D("2027-01-11"))


def test_a_class_that_moved_up_keeps_what_it_planted(database: Database) -> None:
    with database.school(NORTH) as connection:
        now = context.load(connection)
        garlic = next(p for p in garden.plantings(connection) if p.crop == "garlic" and p.start_on == D("2026-10-06"))
        who = [now.who_planted(garlic.class_group_id, garlic.start_on, D(day)) for day in ("2027-04-14", "2027-09-01")]
        names = [now.group_names(D(day))[str(garlic.class_group_id)] for day in ("2027-08-24", "2027-08-25")]
        here = [{g.name for g in now.groups_on(D(day))} for day in ("2027-08-24", "2027-08-25")]
        lessons = [
            {le.group_id for le in now.calendar.lessons(D(a), D(b))}
            for a, b in (("2027-05-01", "2027-06-16"), ("2027-09-01", "2027-10-01"))
        ]
        ids = {g.name: str(g.id) for g in now.groups}
    assert who == ["Grade 4", "last year's Grade 4, now Grade 5"]
    assert names == ["Grade 4", "Grade 5"]
    assert ("Alders" in here[0], "Alders" in here[1], "Gentians" in here[0], "Gentians" in here[1]) == (
        True,
        False,
        False,
        True,
    )
    assert (ids["Alders"] in lessons[0], ids["Alders"] in lessons[1]) == (True, False)
    assert (ids["Gentians"] in lessons[0], ids["Gentians"] in lessons[1]) == (False, True)


def test_typed_freezes_and_a_chart_change_what_answers_depend_on(database: Database) -> None:
    from almanaque.core.place.typed_freezes import TypedFreezes

    with database.school(NORTH) as connection:
        before = context.load(connection).weather_digest
        planting_chart.save_typed_freezes(connection, NORTH, TypedFreezes("05-10", None, None, None))
        typed = context.load(connection)
        planting_chart.save_chart(
            connection,
            NORTH,
            [
                planting_chart.ChartEntry("pea", 3, "sow"),
                planting_chart.ChartEntry("pea", 3, "sow"),
                planting_chart.ChartEntry("kale", 8, "sow"),
            ],
        )
        planting_chart.save_chart(connection, NORTH, [planting_chart.ChartEntry("pea", 4, "sow")], only_crop="pea")
        charted = context.load(connection)
    assert len({before, typed.weather_digest, charted.weather_digest}) == 3
    assert charted.setting.chart == {("pea", "sow"): frozenset({4}), ("kale", "sow"): frozenset({8})}


def test_a_group_with_a_history_is_not_deleted(database: Database) -> None:
    with database.school(NORTH) as connection:
        groups = {g.name: g.id for g in school.groups(connection)}
        school.delete_group(connection, groups["Gentians"])
    with pytest.raises(errors.Refused, match="history stays"), database.school(NORTH) as connection:
        school.delete_group(connection, groups["Birches"])
