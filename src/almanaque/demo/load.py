"""Write the demo schools: the frame as rows, the seasons by the same commands that the pages use."""

from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import UUID

import psycopg
from psycopg import Connection
from psycopg.types.json import Jsonb

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events, plantings
from almanaque.commands.garden.plantings import Actor, Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.journal import tour_answers
from almanaque.commands.journal.tour_answers import When
from almanaque.commands.school import project_plans
from almanaque.commands.week import stations
from almanaque.commands.week.stations import Value
from almanaque.core.journal.sightings import Sighting, next_look
from almanaque.core.place.site_rating import CRITERIA
from almanaque.core.school.school_year import Span, week_of
from almanaque.core.units import parse_length, parse_size
from almanaque.demo import DEMO_DAY, LAST_WEATHER_DAY, brindlecombe, is_empty, kitchen, seed_box, shapes, tallowbank
from almanaque.demo.shapes import demo_id
from almanaque.passwords import hash_password
from almanaque.standins import weather as weather_standin
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.journal import journal_entries, sightings
from almanaque.store.place import weather, weather_stations
from almanaque.store.week import stations as store
from almanaque.store.week.stations import Adoption
from almanaque.store.year import promises_and_themes

GARDEN_SOURCE = "garden weather hut"
STATION_SOURCE = "station at the gate"
OWN_WEATHER_FROM = date(2026, 9, 1)
NOT_READ = frozenset(date(2026, 12, 19) + timedelta(days=n) for n in range(12))  # nobody came in the winter break
PASSWORD = "soup-day-2026"  # noqa: S105 - printed by the demo for everyone to use
SCHOOLS = (brindlecombe.SCHOOL, tallowbank.SCHOOL)


@dataclass(frozen=True)
class Login:
    login: str
    name: str
    about: str
    roles: tuple[tuple[shapes.DemoSchool, str], ...]


LOGINS = (
    Login(
        "coordinator", "Oda Fennel", "plans, and changes calendar and people", ((brindlecombe.SCHOOL, "coordinator"),)
    ),
    Login(
        "educator",
        "Ivo Tarn",
        "plans and logs, in two schools",
        ((brindlecombe.SCHOOL, "educator"), (tallowbank.SCHOOL, "coordinator")),
    ),
    Login("helper", "Runa Oakes", "ticks jobs off, writes notes, logs pickings", ((brindlecombe.SCHOOL, "helper"),)),
    Login("viewer", "Pell Marsh", "looks only", ((brindlecombe.SCHOOL, "viewer"),)),
)


def ensure(owner_url: str, app_url: str) -> None:
    """Write the demo unless it is there. One that was broken off half-way is thrown away and written again."""
    if not is_empty(owner_url):
        return
    with psycopg.connect(owner_url) as owner:
        owner.execute("TRUNCATE school, account CASCADE")
        for school in SCHOOLS:
            _write_frame(owner, school)
    database = Database(app_url, max_size=1)
    database.open()
    try:
        for school in SCHOOLS:
            with database.school(school_id(school)) as connection:
                _write_weather(connection, school)
                _write_seasons(connection, school)
                _write_projects(connection, school)
    finally:
        database.close()
    with psycopg.connect(owner_url) as owner:
        _write_logins(owner)
        owner.execute("ANALYZE")


def school_id(school: shapes.DemoSchool) -> UUID:
    return demo_id(school.name)


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


def _write_frame(owner: Connection[Any], school: shapes.DemoSchool) -> None:
    """School, calendar, classes, site and beds, and the decades of made-up weather."""
    sid = school_id(school)

    def insert(table: str, **values: Any) -> None:
        columns = ", ".join(values)
        marks = ", ".join(["%s"] * len(values))
        owner.execute(f"INSERT INTO {table} ({columns}) VALUES ({marks})".encode(), list(values.values()))  # noqa: S608

    insert(
        "school",
        id=sid,
        name=school.name,
        setting=school.setting,
        zone=school.zone,
        latitude=school.latitude,
        longitude=school.longitude,
        units=school.units,
        theme=school.theme,
        place_name=school.place_name,
        grade_word=school.grades.word,
        first_grade=school.grades.first_number,
        last_grade=school.grades.last,
        water_by=school.water_by,
        hose_l_min=school.hose_l_min,
        bottle_l=school.bottle_l,
        mail_to=school.mail_to,
        created_at=date(2024, 8, 1) + timedelta(days=SCHOOLS.index(school)),
    )
    for week, ordinal, by in school.rounds_taken:
        insert("carer_round", school_id=sid, week=week, ordinal=ordinal, taken_by=by)
    for year in school.years:
        yid = demo_id(school.name, "year", year.name)
        insert("school_year", school_id=sid, id=yid, name=year.name, starts=year.starts, ends=year.ends)
        for table, spans in (("term", year.terms), ("closure", year.closures)):
            for span in spans:
                insert(
                    table,
                    school_id=sid,
                    id=demo_id(school.name, year.name, table, span.name),
                    school_year_id=yid,
                    name=span.name,
                    starts=span.starts,
                    ends=span.ends,
                    kind=span.kind or _usual_kind(table, span),
                )
        for half in year.half_days:
            insert(
                "half_day",
                school_id=sid,
                id=demo_id(school.name, "half", half.day),
                school_year_id=yid,
                name=half.name,
                on_day=half.day,
                until=half.until,
            )
        for span in year.feasts:
            insert(
                "feast",
                school_id=sid,
                id=demo_id(school.name, year.name, "feast", span.name),
                school_year_id=yid,
                name=span.name,
                on_day=span.starts,
            )
    for group in school.groups:
        gid = demo_id(school.name, "group", group.name)
        insert(
            "class_group",
            school_id=sid,
            id=gid,
            name=group.name,
            kind=group.kind,
            entry_year=group.entry_year,
            head_count=group.head_count,
            led_by=group.led_by,
        )
        for slots, programme in ((group.slots, False), (group.programme, True)):
            for weekday, starts_at, minutes in slots:
                insert(
                    "slot",
                    school_id=sid,
                    id=demo_id(gid, weekday, starts_at, programme),
                    class_group_id=gid,
                    weekday=weekday,
                    starts_at=starts_at,
                    minutes=minutes,
                    in_terms=not programme,
                    in_programme=programme,
                )
        for kind, what in group.flags:
            insert("group_flag", school_id=sid, id=demo_id(gid, kind, what), class_group_id=gid, kind=kind, what=what)
        for team in group.teams:
            insert("team", school_id=sid, id=demo_id(gid, "team", team), class_group_id=gid, name=team)
    width, depth = parse_size(school.site_size)
    site = demo_id(school.name, "site")
    insert(
        "site", school_id=sid, id=site, name="School garden", width_mm=width, depth_mm=depth, north_deg=school.north_deg
    )
    for feature in school.features:
        (x, y), (length, breadth) = parse_size_or_corner(feature.at), parse_size(feature.size)
        insert(
            "feature",
            school_id=sid,
            id=demo_id(school.name, "feature", feature.name),
            site_id=site,
            kind=feature.kind,
            name=feature.name,
            x_mm=x,
            y_mm=y,
            width_mm=length,
            depth_mm=breadth,
            turn_deg=feature.turn,
            height_mm=parse_length(feature.height) if feature.height else None,
            base_mm=parse_length(feature.base) if feature.base else 0,
            months_bare=list(feature.months_bare),
            hose_mm=parse_length(feature.hose) if feature.hose else None,
            from_day=feature.from_day,
            to_day=feature.to_day,
        )
    for ordinal, bed in enumerate(school.beds, start=1):
        _write_bed(insert, school, bed, site, ordinal)
    for number, draft in enumerate(school.drafts or (shapes.DemoDraft("Pencil plan"),)):
        insert(
            "draft",
            school_id=sid,
            id=demo_id(school.name, "draft", draft.name),
            name=draft.name,
            made_by=draft.made_by,
            class_group_id=demo_id(school.name, "group", draft.group) if draft.group else None,
            created_at=date(2024, 8, 1) + timedelta(days=number),
        )
    for fact in school.bed_facts:
        words = "/".join(f"{key}={value}" for key, value in sorted(fact.values.items()))
        insert(
            fact.what,
            school_id=sid,
            id=demo_id(school.name, fact.what, fact.bed, words),
            bed_id=demo_id(school.name, "bed", fact.bed),
            **fact.values,
        )
    for supply in school.supplies:
        insert("supply", school_id=sid, id=demo_id(school.name, "supply", supply.name), **vars(supply))
    for partner in school.partners:
        insert(
            "partner",
            school_id=sid,
            id=demo_id(school.name, "partner", partner.name),
            name=partner.name,
            kind=partner.kind,
            gives=partner.gives,
            contact=partner.contact,
            asked_on=partner.asked_on,
            answer=partner.answer,
        )
    for crop, lines in school.chart.items():
        for what, months in lines.items():
            for month in months:
                insert("planting_chart", school_id=sid, crop=crop, month=month, what=what)
    _write_places(insert, school)


def _usual_kind(table: str, span: Span) -> str:
    return "term" if table == "term" else "break" if span.days > 1 else "holiday"


def _write_weather(connection: Connection[Any], school: shapes.DemoSchool) -> None:
    """The decades that answers rest on, and beside them the school's own readings of the last months, with a gap."""
    sid = school_id(school)
    made = weather_standin.make(school.weather, school.first_weather_day, LAST_WEATHER_DAY)
    weather.save_source(
        connection,
        sid,
        weather_standin.SOURCE_NAME,
        "simulated",
        "No real place. Days to come are made up too, so that the demo day can be moved.",
    )
    readings = list(weather.from_arrays(made.first_day, made.tmin_c, made.tmax_c, made.rain_mm))
    weather.copy_in(connection, sid, weather_standin.SOURCE_NAME, readings)
    weather.choose(connection, weather_standin.SOURCE_NAME)
    weather.save_source(connection, sid, GARDEN_SOURCE, "garden", "Read by the classes at the weather hut.")
    own = [
        replace(r, tmin_c=round(r.tmin_c + 0.6, 1), tmax_c=round(r.tmax_c + 0.3, 1), rain_mm=round(0.9 * r.rain_mm, 1))
        for r in readings
        if OWN_WEATHER_FROM <= r.day < DEMO_DAY
        and r.day not in NOT_READ
        and r.tmin_c is not None
        and r.tmax_c is not None
        and r.rain_mm is not None
    ]
    weather.copy_in(connection, sid, GARDEN_SOURCE, own)
    weather.save_source(
        connection,
        sid,
        STATION_SOURCE,
        "garden",
        "A simulated station that answers as a real one would, faults included.",
    )
    weather_stations.link(connection, STATION_SOURCE, school.device)


def _write_places(insert: Any, school: shapes.DemoSchool) -> None:
    """A rating of places as it was done before the garden was built."""
    sid = school_id(school)
    for ordinal, (name, weight, how) in enumerate(CRITERIA if school.places else (), start=1):
        insert(
            "criterion",
            school_id=sid,
            id=demo_id(school.name, "criterion", name),
            ordinal=ordinal,
            name=name,
            weight=weight,
            how=how,
        )
    for name in school.raters:
        insert("rater", school_id=sid, id=demo_id(school.name, "rater", name), name=name)
    for ordinal, place in enumerate(school.places, start=1):
        cid = demo_id(school.name, "place", place.name)
        insert("candidate", school_id=sid, id=cid, ordinal=ordinal, name=place.name, kind=place.kind, about=place.about)
        for criterion, given in place.scores.items():
            for rater, (score, evidence) in zip(school.raters, given, strict=False):
                insert(
                    "place_score",
                    school_id=sid,
                    candidate_id=cid,
                    criterion_id=demo_id(school.name, "criterion", criterion),
                    rater_id=demo_id(school.name, "rater", rater),
                    score=score,
                    evidence=evidence,
                )


def _write_bed(insert: Any, school: shapes.DemoSchool, bed: shapes.DemoBed, site: UUID, ordinal: int) -> None:
    sid, bid = school_id(school), demo_id(school.name, "bed", bed.name)
    (x, y), (length, width) = parse_size_or_corner(bed.at), parse_size(bed.size)
    insert(
        "bed",
        school_id=sid,
        id=bid,
        site_id=site,
        ordinal=ordinal,
        name=bed.name,
        purpose=bed.purpose,
        kind=bed.kind,
        material=bed.material,
        built_year=bed.built_year,
        x_mm=x,
        y_mm=y,
        length_mm=length,
        width_mm=width,
        depth_mm=parse_length(bed.depth),
        cell_mm=parse_length(bed.cell),
        class_group_id=demo_id(school.name, "group", bed.adopted_by) if bed.adopted_by else None,
        turn_deg=bed.turn,
        outline_mm=Jsonb([[float(side) for side in parse_size_or_corner(c)] for c in bed.corners])
        if bed.corners
        else None,
        light_h=bed.light_h,
        warmth_c=bed.warmth_c,
        drip_l_h=bed.drip_l_h,
    )
    for purpose, *place in bed.sections:
        x, y, length, width = (parse_length(part) for part in place)
        insert(
            "section",
            school_id=sid,
            id=demo_id(bid, "section", purpose),
            bed_id=bid,
            purpose=purpose,
            x_mm=x,
            y_mm=y,
            length_mm=length,
            width_mm=width,
        )
    for label, *place in bed.kept:
        x, y, length, width = (parse_length(part) for part in place)
        insert(
            "kept_part",
            school_id=sid,
            id=demo_id(bid, label),
            bed_id=bid,
            label=label,
            x_mm=x,
            y_mm=y,
            length_mm=length,
            width_mm=width,
        )


def parse_size_or_corner(text: str) -> tuple[Any, Any]:
    """A corner on the map, where a side may lie at 0."""
    x, y = text.split(" x ")
    return parse_length(x), parse_length(y)


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
    for number, planting in enumerate(school.plantings):
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
    if school is brindlecombe.SCHOOL:
        kitchen.write(connection, context)
        seed_box.write(connection, context)
    # What lies behind the demo day was done on its day; putting up supports was put off.
    connection.execute(
        """UPDATE task SET status = 'done', done_on = coalesce(on_day, from_day)
           WHERE status = 'open' AND coalesce(on_day, to_day) < %s AND (step <> 'support' OR to_day < %s)""",
        [DEMO_DAY, DEMO_DAY],
    )
    forecasts.refresh_school(connection, context, today=DEMO_DAY)  # by the weather until then


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
    planting_id = plantings.paint(connection, context, bed, paint, Actor(None, min(wish.start, DEMO_DAY)))
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
