"""A demo school before anything grows in it: ground, beds, calendar, classes, weather, places on trial."""

from dataclasses import replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.types.json import Jsonb

from almanaque.core.place.site_rating import CRITERIA
from almanaque.core.school.school_year import Span
from almanaque.core.units import parse_length, parse_size
from almanaque.demo import DEMO_DAY, LAST_WEATHER_DAY, schools, shapes
from almanaque.demo.shapes import demo_id
from almanaque.standins import weather as weather_standin
from almanaque.store.place import weather, weather_stations

GARDEN_SOURCE = "garden weather hut"


STATION_SOURCE = "station at the gate"


OWN_WEATHER_FROM = date(2026, 9, 1)


NOT_READ = frozenset(date(2026, 12, 19) + timedelta(days=n) for n in range(12))  # nobody came in the winter break


def school_id(school: shapes.DemoSchool) -> UUID:
    return demo_id(school.name)


def write_frame(owner: Connection[Any], school: shapes.DemoSchool) -> None:
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
        created_at=date(2024, 8, 1) + timedelta(days=schools.ALL.index(school)),
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


def write_weather(connection: Connection[Any], school: shapes.DemoSchool) -> None:
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
