"""The school: its place, its years with terms and breaks, its groups with their slots."""

from dataclasses import dataclass, field
from datetime import date, time
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection, sql
from psycopg.rows import class_row, dict_row

from almanaque.core.growth.crop_runs import ReadyBy
from almanaque.core.growth.setting import Leads
from almanaque.core.school.classes import Cohort, FlagKind, Grades, GroupKind
from almanaque.core.school.school_year import HalfDay, SchoolYear, Slot, Span
from almanaque.core.units import Units
from almanaque.core.week.water import WaterPractice
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("school/school")

Neighbours = Literal["off", "evidence", "traditional"]
Feeding = Literal["compost", "fertiliser"]
SpanKind = Literal["term", "closure"]
CalendarRow = Literal["term", "closure", "half_day", "feast"]
GONE = "That is not in the calendar any more."


@dataclass(frozen=True)
class School:
    id: UUID
    name: str
    setting: str
    zone: str
    latitude: float
    longitude: float
    units: Units
    theme: str
    weather_source: str
    weather_digest: str
    place_name: str
    grade_word: str
    first_grade: int
    last_grade: int
    rest_years: int
    neighbours: Neighbours
    feeding: Feeding
    hand_span_mm: float | None
    invasive_here: str
    currency: str
    ready_by: ReadyBy
    moon: bool
    learns: bool = True
    shares_lessons: bool = False
    leads: Leads = "record"
    water_by: WaterPractice = "inch"
    hose_l_min: float | None = None
    bottle_l: float | None = None
    rounds_a_week: int = 2
    mail_to: str = ""

    @property
    def southern(self) -> bool:
        """South of the equator, where the months of the year are half a year on."""
        return self.latitude < 0

    @property
    def grades(self) -> Grades:
        return Grades(self.last_grade, self.grade_word, self.first_grade)


@dataclass(frozen=True)
class SpanRow:
    """A term, closure or feast with its id; a feast lasts one day."""

    id: UUID
    span: Span


@dataclass(frozen=True)
class HalfDayRow:
    id: UUID
    half_day: HalfDay


@dataclass(frozen=True)
class YearRow:
    id: UUID
    name: str
    starts: date
    ends: date
    terms: list[SpanRow] = field(default_factory=list)
    closures: list[SpanRow] = field(default_factory=list)
    half_days: list[HalfDayRow] = field(default_factory=list)
    feasts: list[SpanRow] = field(default_factory=list)

    def core(self) -> SchoolYear:
        terms, closures, feasts = (tuple(row.span for row in rows) for rows in (self.terms, self.closures, self.feasts))
        return SchoolYear(
            self.name, self.starts, self.ends, terms, closures, tuple(row.half_day for row in self.half_days), feasts
        )


@dataclass(frozen=True)
class SlotRow:
    id: UUID
    slot: Slot


@dataclass(frozen=True)
class Flag:
    id: UUID
    kind: FlagKind
    what: str


@dataclass(frozen=True)
class Team:
    id: UUID
    name: str


@dataclass(frozen=True)
class Group:
    id: UUID
    name: str
    kind: GroupKind
    entry_year: int | None
    head_count: int
    led_by: str
    closed_on: date | None
    slot_rows: list[SlotRow]
    flags: list[Flag]
    teams: list[Team]

    @property
    def slots(self) -> list[Slot]:
        return [row.slot for row in self.slot_rows]

    @property
    def cohort(self) -> Cohort:
        return Cohort(str(self.id), self.name, self.entry_year)


@dataclass(frozen=True)
class OpenJob:
    id: UUID
    title: str
    on_day: date
    class_group_id: UUID | None
    carer: bool
    bed_name: str


def school(connection: Connection[Any]) -> School:
    row = connection.cursor(row_factory=class_row(School)).execute(SQL["school"]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such school.")
    return row


def save_school(connection: Connection[Any], values: dict[str, Any]) -> None:
    """Change columns of the transaction's school."""
    columns = sql.SQL(", ").join(
        sql.SQL("{} = {}").format(sql.Identifier(name), sql.Placeholder(name)) for name in values
    )
    connection.execute(sql.SQL("UPDATE school SET {}").format(columns), values)


def hold(connection: Connection[Any]) -> None:
    """Let nobody else set up the transaction's school until it ends: what was read of its years and groups stays true."""
    connection.execute("SELECT FROM school FOR NO KEY UPDATE")


def years(connection: Connection[Any]) -> list[YearRow]:
    rows = connection.cursor(row_factory=dict_row).execute(SQL["years"]).fetchall()
    for row in rows:
        row.update({name: _spans(row[name]) for name in ("terms", "closures", "feasts")})
        row["half_days"] = [
            HalfDayRow(UUID(row_id), HalfDay(name, date.fromisoformat(day), time.fromisoformat(until)))
            for row_id, name, day, until in row["half_days"]
        ]
    return [YearRow(**row) for row in rows]


def groups(connection: Connection[Any]) -> list[Group]:
    rows = connection.cursor(row_factory=dict_row).execute(SQL["groups"]).fetchall()
    return [
        Group(
            row["id"],
            row["name"],
            row["kind"],
            row["entry_year"],
            row["head_count"],
            row["led_by"],
            row["closed_on"],
            [_slot(str(row["id"]), values) for values in row["slots"]],
            [Flag(UUID(flag_id), kind, what) for flag_id, kind, what in row["flags"]],
            [Team(UUID(team_id), name) for team_id, name in row["teams"]],
        )
        for row in rows
    ]


def save_year(
    connection: Connection[Any], school_id: UUID, *, year_id: UUID, name: str, starts: date, ends: date
) -> None:
    connection.execute(
        SQL["save_year"], {"school": school_id, "id": year_id, "name": name, "starts": starts, "ends": ends}
    )


def delete_year(connection: Connection[Any], year_id: UUID) -> None:
    """Take a school year out, and its terms, closures, half days and feasts with it."""
    if connection.execute("DELETE FROM school_year WHERE id = %s", [year_id]).rowcount == 0:
        raise errors.NotFound("That school year is not there any more.")


def clear_year(connection: Connection[Any], year_id: UUID) -> None:
    """Take terms, planned closures and half days out of a year; feasts and sudden closures stay."""
    for statement in (
        "DELETE FROM term WHERE school_year_id = %s",
        "DELETE FROM half_day WHERE school_year_id = %s",
        "DELETE FROM closure WHERE school_year_id = %s AND kind NOT IN ('weather', 'until further notice')",
    ):
        connection.execute(statement, [year_id])


def save_span(
    connection: Connection[Any], school_id: UUID, kind: SpanKind, *, year_id: UUID, span_id: UUID, span: Span
) -> None:
    """Write a term or closure under its id, new or changed."""
    usual = "term" if kind == "term" else "break"
    connection.execute(
        sql.SQL(
            """INSERT INTO {table} (school_id, id, school_year_id, name, starts, ends, kind)
               VALUES (%(school)s, %(id)s, %(year)s, %(name)s, %(starts)s, %(ends)s, %(kind)s)
               ON CONFLICT (school_id, id) DO UPDATE
               SET name = excluded.name, starts = excluded.starts, ends = excluded.ends, kind = excluded.kind"""
        ).format(table=sql.Identifier(kind)),
        {
            "school": school_id,
            "id": span_id,
            "year": year_id,
            "kind": span.kind or usual,
            "name": span.name,
            "starts": span.starts,
            "ends": span.ends,
        },
    )


def save_half_day(
    connection: Connection[Any], school_id: UUID, *, year_id: UUID, row_id: UUID, half_day: HalfDay
) -> None:
    connection.execute(
        SQL["save_half_day"],
        {
            "school": school_id,
            "id": row_id,
            "year": year_id,
            "name": half_day.name,
            "day": half_day.day,
            "until": half_day.until,
        },
    )


def save_feast(
    connection: Connection[Any], school_id: UUID, *, year_id: UUID, row_id: UUID, name: str, day: date
) -> None:
    connection.execute(
        SQL["save_feast"], {"school": school_id, "id": row_id, "year": year_id, "name": name, "day": day}
    )


def delete_row(connection: Connection[Any], table: CalendarRow, row_id: UUID) -> None:
    done = connection.execute(sql.SQL("DELETE FROM {} WHERE id = %s").format(sql.Identifier(table)), [row_id])
    if done.rowcount == 0:
        raise errors.NotFound(GONE)


def words(connection: Connection[Any]) -> dict[str, list[str]]:
    """The school's own words by kind; empty where it keeps the usual ones."""
    found: dict[str, list[str]] = {}
    for kind, phrase in connection.execute("SELECT kind, phrase FROM calendar_word ORDER BY kind, phrase").fetchall():
        found.setdefault(kind, []).append(phrase)
    return found


def save_words(connection: Connection[Any], school_id: UUID, words: dict[str, list[str]]) -> None:
    """Put these words in the place of all the school's own."""
    connection.execute("DELETE FROM calendar_word")
    with connection.cursor() as cursor:
        cursor.executemany(
            "INSERT INTO calendar_word (school_id, kind, phrase) VALUES (%s, %s, %s) ON CONFLICT DO NOTHING",
            [(school_id, kind, phrase) for kind, phrases in words.items() for phrase in phrases],
        )


def save_group(connection: Connection[Any], school_id: UUID, group: Group) -> None:
    """Write a group without its slots, flags and teams."""
    connection.execute(
        SQL["save_group"],
        {
            "school": school_id,
            "id": group.id,
            "name": group.name,
            "kind": group.kind,
            "entry_year": group.entry_year,
            "head_count": group.head_count,
            "led_by": group.led_by,
            "closed_on": group.closed_on,
        },
    )


def save_slot(connection: Connection[Any], school_id: UUID, slot_id: UUID, slot: Slot) -> None:
    connection.execute(
        SQL["save_slot"],
        {
            "school": school_id,
            "id": slot_id,
            "group": UUID(slot.group_id),
            "weekday": slot.weekday,
            "starts_at": slot.starts_at,
            "minutes": slot.minutes,
            "from_day": slot.from_day,
            "to_day": slot.to_day,
            "in_terms": slot.in_terms,
            "in_programme": slot.in_programme,
        },
    )


def save_flag(
    connection: Connection[Any], school_id: UUID, group_id: UUID, *, flag_id: UUID, kind: str, what: str
) -> None:
    connection.execute(
        "INSERT INTO group_flag (school_id, id, class_group_id, kind, what) VALUES (%s, %s, %s, %s, %s)",
        [school_id, flag_id, group_id, kind, what],
    )


def save_team(connection: Connection[Any], school_id: UUID, group_id: UUID, *, team_id: UUID, name: str) -> None:
    connection.execute(
        "INSERT INTO team (school_id, id, class_group_id, name) VALUES (%s, %s, %s, %s)",
        [school_id, team_id, group_id, name],
    )


def delete_of_group(
    connection: Connection[Any], table: Literal["slot", "group_flag", "team"], group_id: UUID, row_id: UUID
) -> None:
    statement = sql.SQL("DELETE FROM {} WHERE class_group_id = %s AND id = %s").format(sql.Identifier(table))
    if connection.execute(statement, [group_id, row_id]).rowcount == 0:
        raise errors.NotFound("That is not there any more.")


def delete_group(connection: Connection[Any], group_id: UUID) -> None:
    """Take a group out that nothing points to. One that planted, picked or worked is refused, so that history stays."""
    used = connection.execute(
        """SELECT EXISTS (SELECT FROM planting WHERE class_group_id = %(id)s)
               OR EXISTS (SELECT FROM harvest WHERE class_group_id = %(id)s)
               OR EXISTS (SELECT FROM task WHERE class_group_id = %(id)s AND status = 'done')""",
        {"id": group_id},
    ).fetchone()
    if used and used[0]:
        raise errors.Refused(
            "This group has planted, picked or worked here. Close it instead; its history stays.", constraint=""
        )
    if connection.execute("DELETE FROM class_group WHERE id = %s", [group_id]).rowcount == 0:
        raise errors.NotFound("That group is not there any more.")


def open_jobs(connection: Connection[Any], start: date, end: date) -> list[OpenJob]:
    rows = connection.cursor(row_factory=class_row(OpenJob))
    return rows.execute(SQL["open_jobs"], {"start": start, "end": end}).fetchall()


def _spans(rows: list[list[str]]) -> list[SpanRow]:
    return [
        SpanRow(UUID(row_id), Span(name, date.fromisoformat(starts), date.fromisoformat(ends), kind))
        for row_id, name, starts, ends, kind in rows
    ]


def _slot(group_id: str, values: list[Any]) -> SlotRow:
    slot_id, weekday, at, minutes, from_day, to_day, in_terms, in_programme = values
    first, last = (date.fromisoformat(day) if day else None for day in (from_day, to_day))
    return SlotRow(
        UUID(slot_id), Slot(group_id, weekday, time.fromisoformat(at), minutes, first, last, in_terms, in_programme)
    )


def save_practice(
    connection: Connection[Any],
    *,
    rest_years: int,
    neighbours: Neighbours,
    feeding: Feeding,
    hand_span_mm: float | None,
    invasive_here: str,
    currency: str,
    ready_by: ReadyBy,
    leads: Leads,
    moon: bool,
) -> None:
    """How the school gardens, where practice divides."""
    connection.execute(
        "UPDATE school SET rest_years = %s, neighbours = %s, feeding = %s, hand_span_mm = %s, invasive_here = %s, currency = %s,"
        " ready_by = %s, leads = %s, moon = %s",
        [rest_years, neighbours, feeding, hand_span_mm, invasive_here, currency, ready_by, leads, moon],
    )


def save_learns(connection: Connection[Any], *, learns: bool) -> None:
    """Whether the school's own pickings move its dates by themselves."""
    connection.execute("UPDATE school SET learns = %s", [learns])


def save_shares_lessons(connection: Connection[Any], *, agreed: bool) -> None:
    """Whether the school learns with others near by."""
    connection.execute("UPDATE school SET shares_lessons = %s", [agreed])


def save_watering(
    connection: Connection[Any], *, water_by: WaterPractice, hose_l_min: float | None, bottle_l: float | None
) -> None:
    """By which school the beds are watered, what the hose gives in a minute [L] and a sunk bottle holds [L]."""
    connection.execute(
        "UPDATE school SET water_by = %s, hose_l_min = %s, bottle_l = %s", [water_by, hose_l_min, bottle_l]
    )


def save_rounds_a_week(connection: Connection[Any], rounds: int) -> None:
    """How many rounds carers walk in a week without school."""
    connection.execute("UPDATE school SET rounds_a_week = %s", [rounds])


def set_mail_to(connection: Connection[Any], mail_to: str) -> None:
    """Say who gets warnings by mail; empty for nobody."""
    connection.execute("UPDATE school SET mail_to = %s", [mail_to])
