"""Write the demo schools: the frame as rows, the seasons by the same commands that the pages use."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import psycopg
from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import painting, planting_events, renewal
from almanaque.commands.garden.painting import Paint
from almanaque.commands.harvest import learning, pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.journal import tour_answers
from almanaque.commands.journal.tour_answers import When
from almanaque.commands.school import project_plans
from almanaque.commands.week import stations
from almanaque.commands.week.stations import Value
from almanaque.core.journal.sightings import Sighting, next_look
from almanaque.core.school.school_year import week_of
from almanaque.demo import (
    DEMO_DAY,
    THIS_SPRING,
    class_lessons,
    drawn_photos,
    is_empty,
    kitchen,
    schools,
    season_to_plan,
    seed_box,
    shapes,
)
from almanaque.demo.frame_of_school import school_id, write_frame, write_weather
from almanaque.demo.logins import LOGINS as LOGINS
from almanaque.demo.logins import PASSWORD as PASSWORD
from almanaque.demo.shapes import demo_id
from almanaque.passwords import hash_password
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.journal import journal_entries, sightings
from almanaque.store.week import stations as store
from almanaque.store.week.stations import Adoption
from almanaque.store.year import promises_and_themes

SCHOOLS = schools.ALL


def ensure(owner_url: str, app_url: str) -> None:
    """Write the demo unless it is there. One that was broken off half-way is thrown away and written again."""
    if not is_empty(owner_url):
        return
    with psycopg.connect(owner_url) as owner:
        owner.execute("TRUNCATE school, account CASCADE")
        for school in SCHOOLS:
            write_frame(owner, school)
    database = Database(app_url, max_size=1)
    database.open()
    try:
        for school in SCHOOLS:
            with database.school(school_id(school)) as connection:
                write_weather(connection, school)
                _write_seasons(connection, school)
                _write_projects(connection, school)
                if school is schools.BRINDLECOMBE:
                    drawn_photos.write(connection, school.name)
    finally:
        database.close()
    with psycopg.connect(owner_url) as owner:
        _write_logins(owner)
        owner.execute("ANALYZE")


def account_id(login: str) -> UUID:
    return demo_id("account", login)


def _write_logins(owner: Connection[Any]) -> None:
    for person in LOGINS:
        owner.execute(
            "INSERT INTO account (id, login, name, password_hash) VALUES (%s, %s, %s, %s)",
            [account_id(person.login), person.login, person.name, hash_password(PASSWORD)],
        )
        for school, role in person.roles:
            owner.execute(
                "INSERT INTO membership (school_id, account_id, role) VALUES (%s, %s, %s)",
                [school_id(school), account_id(person.login), role],
            )


def _write_seasons(connection: Connection[Any], school: shapes.DemoSchool) -> None:
    context = contexts.load(connection)
    for theme in school.themes:
        found = promises_and_themes.Theme(
            demo_id(school.name, "theme", theme.name), theme.name, theme.ready_on, theme.note
        )
        promises_and_themes.save_theme(connection, context.school.id, found)
    for promise in school.promises:
        bed = demo_id(school.name, "bed", promise.bed)
        kept = promises_and_themes.Promise(
            demo_id(school.name, "promise", promise.bed), bed, promise.from_day, promise.what_for
        )
        promises_and_themes.save_promise(connection, context.school.id, kept)
    for station in school.stations:
        _write_station(connection, context, school, station)
    # What is written here asks for nothing in the background: the dates are brought up to date at the end.
    context = replace(context, school=replace(context.school, learns=False))
    numbered = list(enumerate(school.plantings))
    for number, planting in numbered:
        if planting.start < THIS_SPRING:
            _plant(connection, context, school, planting, number)
    learning.learn(connection, contexts.load(connection), today=THIS_SPRING)  # what the seasons before taught
    context = contexts.load(connection)
    context = replace(context, school=replace(context.school, learns=False))
    for number, planting in numbered:
        if planting.start >= THIS_SPRING:
            _plant(connection, context, school, planting, number)
    for number, note in enumerate(school.notes):
        nid = demo_id(school.name, "note", number)
        journal_entries.save(
            connection,
            context.school.id,
            entry_id=nid,
            bed_id=demo_id(school.name, "bed", note.bed),
            noted_on=note.day,
            body=note.body,
            come_back_on=note.come_back_on,
            by=None,
        )
        if note.closed_on:
            journal_entries.close(connection, nid, note.closed_on)
    for number, seen in enumerate(school.seen):
        _see(connection, context, school, number, seen)
    if school is schools.BRINDLECOMBE:
        kitchen.write(connection, context)
        seed_box.write(connection, context)
    # What lies behind the demo day was done on its day; putting up supports was put off.
    connection.execute(
        """UPDATE task SET status = 'done', done_on = coalesce(on_day, from_day)
           WHERE status = 'open' AND coalesce(on_day, to_day) < %s AND (step <> 'support' OR to_day < %s)""",
        [DEMO_DAY, DEMO_DAY],
    )
    context = learning.learn(connection, contexts.load(connection), today=DEMO_DAY)
    renewal.renew(connection, context, today=DEMO_DAY)  # by the weather until then
    if school is schools.BRINDLECOMBE:
        season_to_plan.write(connection, contexts.load(connection))
        class_lessons.write(connection, contexts.load(connection))


def _write_projects(connection: Connection[Any], school: shapes.DemoSchool) -> None:
    context = contexts.load(connection)
    for wish in school.projects:
        project = project_plans.begin(
            connection,
            context,
            project_id=demo_id(school.name, "project", wish.name),
            name=wish.name,
            template=wish.template,
            starts=wish.starts,
        )
        connection.execute(
            "UPDATE stage_item i SET done_on = s.ends FROM stage s WHERE s.id = i.stage_id AND s.project_id = %s AND s.ends <= %s",
            [project, wish.done_until],
        )


def _plant(
    connection: Connection[Any], context: Context, school: shapes.DemoSchool, wish: shapes.DemoCrop, number: int
) -> None:
    """Pencil, plan, plant, pick and clear one planting by the commands, each on its own day."""
    bed = demo_id(school.name, "bed", wish.bed)
    paint = Paint(
        wish.squares,
        wish.crop,
        wish.method,
        wish.start,
        ink=wish.status != "pencilled",
        with_others=wish.with_others,
        draft_id=demo_id(school.name, "draft", wish.draft) if wish.draft else None,
        cover=wish.cover,
        theme_id=demo_id(school.name, "theme", wish.theme) if wish.theme else None,
    )
    planting_id = painting.paint(connection, context, bed, paint, Actor(None, min(wish.start, DEMO_DAY)))
    if wish.group:
        connection.execute(
            "UPDATE planting SET class_group_id = %s WHERE id = %s",
            [demo_id(school.name, "group", wish.group), planting_id],
        )
    if wish.status in ("pencilled", "planned"):
        return
    planting_events.happened(connection, context, planting_id, "started", wish.start, Actor(None, wish.start))
    if wish.set_out:
        planting_events.happened(connection, context, planting_id, "set out", wish.set_out, Actor(None, wish.set_out))
    for index, (day, amount, unit, use) in enumerate(wish.pickings):
        picking = PickingWish(demo_id(school.name, "picking", number, index), planting_id, amount, unit, use, day)
        pickings.pick(connection, context, picking, Actor(None, day))
    if wish.cleared:
        connection.execute(
            "UPDATE task SET status = 'done', done_on = least(coalesce(on_day, from_day), %s)"
            " WHERE planting_id = %s AND status = 'open'",
            [wish.cleared, planting_id],
        )
        planting_events.happened(connection, context, planting_id, "cleared", wish.cleared, Actor(None, wish.cleared))


def _write_station(
    connection: Connection[Any], context: Context, school: shapes.DemoSchool, wish: shapes.DemoStation
) -> None:
    """A station with what was read there; its jobs begin two weeks before the demo day and are its class's for the school year."""
    since = week_of(DEMO_DAY)[0] - timedelta(weeks=2)
    station = replace(stations.new(wish.kind, wish.name), id=demo_id(school.name, "station", wish.name))
    store.save(connection, context.school.id, station)
    year = context.calendar.year_of(DEMO_DAY)
    if wish.group and year:
        group = demo_id(school.name, "group", wish.group)
        store.adopt(
            connection,
            context.school.id,
            Adoption(demo_id(station.id, "adoption"), station.id, group, year.starts, year.ends),
        )
    stations.renew(connection, context, station, today=since)
    for day, name, value in wish.readings:
        typed = Value(name, None, value) if isinstance(value, str) else Value(name, value)
        stations.read(connection, context, station.id, [typed], day=day, today=DEMO_DAY, note="", by=None)


def _see(
    connection: Connection[Any], context: Context, school: shapes.DemoSchool, number: int, wish: shapes.DemoSighting
) -> None:
    """What was seen on a planting, and what became of it."""
    bed = demo_id(school.name, "bed", wish.bed)
    planting = next(
        p
        for p in reversed(garden.plantings(connection, bed_id=bed))
        if p.crop == wish.crop and p.status != "pencilled" and p.start_on <= wish.day
    )
    when = When(wish.day, datetime(wish.day.year, wish.day.month, wish.day.day, 15, tzinfo=UTC), Actor(None, wish.day))
    sid = demo_id(school.name, "seen", number)
    back = next_look(wish.day) if wish.remedy else None
    tour_answers.see(
        connection,
        context,
        Sighting(
            str(sid),
            wish.kind,
            wish.day,
            planting=str(planting.id),
            what=wish.what,
            part=wish.part,
            severity=wish.severity,
            amount=wish.amount,
            team=wish.team,
            come_back_on=back,
        ),
        when,
    )
    if wish.remedy:
        rid = demo_id(school.name, "remedy", number)
        tour_answers.cure(connection, context, rid, sid, wish.remedy, when)
        if wish.outcome and back:
            sightings.answer_remedy(connection, rid, wish.outcome, back)
            sightings.close(connection, str(sid), back)
