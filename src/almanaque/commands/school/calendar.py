"""Changing the calendar. Everything that depends on it is recomputed in the background afterwards."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school import unplanned_closure
from almanaque.core.school.calendar_import import year_name
from almanaque.core.school.school_year import HalfDay, SchoolYear, Span, check_year
from almanaque.core.school.unplanned_closure import Effects, JobAhead, PlantingAhead
from almanaque.store import queue
from almanaque.store.garden import garden
from almanaque.store.school import school
from almanaque.store.school.school import CalendarRow, HalfDayRow, SpanKind, SpanRow, YearRow

NAME_IT = "Give it a name, like Autumn term or Spring break."


def save_year(
    connection: Connection[Any], context: Context, year_id: UUID, name: str, starts: date, ends: date
) -> None:
    """Add or change a school year. Raises BadInput when what it holds would lie outside it."""
    if ends <= starts:
        raise BadInput("school.year_ends_before_start", field="ends")
    known = next((year for year in context.years if year.id == year_id), None)
    shown = name.strip() or year_name(starts, ends)
    if known is not None:
        check_year(replace(known, name=shown, starts=starts, ends=ends).core())
    school.save_year(connection, context.school.id, year_id=year_id, name=shown[:80], starts=starts, ends=ends)
    queue.recompute_school(connection, context.school.id)


def delete_year(connection: Connection[Any], context: Context, year_id: UUID) -> None:
    """Take a school year out with all it holds; plantings and pickings stay."""
    school.delete_year(connection, year_id)
    queue.recompute_school(connection, context.school.id)


def save_span(
    connection: Connection[Any], context: Context, kind: SpanKind, year_id: UUID, span_id: UUID, span: Span
) -> None:
    """Add or change a term or break. Raises BadInput when it ends before it starts, overlaps, or leaves its year."""
    year = _year(context, year_id)
    if not span.name.strip():
        raise BadInput("school.name_missing", field="name")
    rows = [
        *(row for row in (year.terms if kind == "term" else year.closures) if row.id != span_id),
        SpanRow(span_id, span),
    ]
    check_year((replace(year, terms=rows) if kind == "term" else replace(year, closures=rows)).core())
    school.save_span(connection, context.school.id, kind, year_id=year_id, span_id=span_id, span=span)
    queue.recompute_school(connection, context.school.id)


def save_half_day(connection: Connection[Any], context: Context, year_id: UUID, row_id: UUID, half: HalfDay) -> None:
    """Add or change a half day. Raises BadInput when it has no name or lies outside its year."""
    year = _year(context, year_id)
    if not half.name.strip():
        raise BadInput("school.name_missing", field="name")
    rows = [*(row for row in year.half_days if row.id != row_id), HalfDayRow(row_id, half)]
    check_year(replace(year, half_days=rows).core())
    school.save_half_day(connection, context.school.id, year_id=year_id, row_id=row_id, half_day=half)
    queue.recompute_school(connection, context.school.id)


def save_feast(
    connection: Connection[Any], context: Context, year_id: UUID, row_id: UUID, name: str, day: date
) -> None:
    """Add or change a date the garden should serve. Raises BadInput when it has no name or lies outside its year."""
    year = _year(context, year_id)
    if not name.strip():
        raise BadInput("school.name_missing", field="name")
    rows = [*(row for row in year.feasts if row.id != row_id), SpanRow(row_id, Span(name, day, day))]
    check_year(replace(year, feasts=rows).core())
    school.save_feast(connection, context.school.id, year_id=year_id, row_id=row_id, name=name, day=day)
    queue.recompute_school(connection, context.school.id)


def delete_row(connection: Connection[Any], context: Context, table: CalendarRow, row_id: UUID) -> None:
    """Take a term, closure, half day or feast out of the calendar."""
    school.delete_row(connection, table, row_id)
    queue.recompute_school(connection, context.school.id)


@dataclass(frozen=True)
class Written:
    """What an import wrote: names of the years made and of those whose terms and breaks were replaced."""

    made: tuple[str, ...]
    replaced: tuple[str, ...]


def write_years(connection: Connection[Any], context: Context, years: Sequence[SchoolYear]) -> Written:
    """Write whole school years. One that is on file for the same time keeps its id, its feasts and sudden closures.

    Neighbouring years on file give way where they only lasted into a new one. Raises BadInput when a year would cut a
    term of another one.
    """
    made, replaced = [], []
    on_file = list(context.years)
    for year in years:
        mine = [row for row in on_file if _same_time(row, year)]
        for row in on_file:
            if row not in mine and row.starts <= year.ends and row.ends >= year.starts:
                year = _give_way(connection, context, row, year)
        if mine:
            row = mine[0]
            school.clear_year(connection, row.id)
            kept = [r.span for r in row.closures if r.span.kind in ("weather", "until further notice")]
            feasts = [r.span for r in row.feasts]
            check_year(replace(year, closures=(*year.closures, *kept), feasts=(*year.feasts, *feasts)))
            replaced.append(row.name)
        else:
            made.append(year.name)
        year_id = mine[0].id if mine else uuid4()
        _write_year(
            connection, context.school.id, year_id, year, {f.span.starts for f in mine[0].feasts} if mine else set()
        )
    queue.recompute_school(connection, context.school.id)
    return Written(tuple(made), tuple(replaced))


def add_closures(connection: Connection[Any], context: Context, closures: Sequence[Span]) -> int:
    """Add closed days to the years they lie in; return how many. Those that a break covers already are left out."""
    added = 0
    for span in closures:
        year = next((y for y in context.years if y.starts <= span.starts and span.ends <= y.ends), None)
        if year is None or any(row.span.starts <= span.ends and row.span.ends >= span.starts for row in year.closures):
            continue
        school.save_span(connection, context.school.id, "closure", year_id=year.id, span_id=uuid4(), span=span)
        added += 1
    queue.recompute_school(connection, context.school.id)
    return added


def close_suddenly(
    connection: Connection[Any],
    context: Context,
    closure_id: UUID,
    *,
    name: str,
    starts: date,
    ends: date | None,
    why: str,
) -> None:
    """Close the school from a day on, until a day or until further notice: then to the end of its school year.

    Raises BadInput when no school year holds the first day.
    """
    year = context.calendar.year_of(starts)
    row = next((r for r in context.years if year is not None and r.starts == year.starts), None)
    if row is None or year is None or starts > year.ends:
        raise BadInput("school.no_year_for_day", field="starts")
    kind = "until further notice" if ends is None or why != "weather" else "weather"
    span = Span(name.strip() or "Closed", starts, min(ends or year.ends, year.ends), kind)
    save_span(connection, context, "closure", row.id, closure_id, span)


def reopen(connection: Connection[Any], context: Context, closure_id: UUID, day: date) -> None:
    """End a sudden closure: school is in again from this day on. One that has not lasted a day is taken out."""
    for year in context.years:
        for row in year.closures:
            if row.id == closure_id:
                if day <= row.span.starts:
                    delete_row(connection, context, "closure", closure_id)
                else:
                    ended = replace(row.span, ends=min(day - timedelta(days=1), row.span.ends), kind="weather")
                    save_span(connection, context, "closure", year.id, closure_id, ended)
                return
    raise BadInput("school.closure_gone")


def effects_of(connection: Connection[Any], context: Context, closure: Span) -> Effects:
    """What a closure does, from the jobs and plantings as they stand."""
    beds = {bed.id: bed.name for bed in garden.beds(connection)}
    names = context.group_names(closure.starts)
    jobs = [
        JobAhead(
            str(job.id),
            f"{job.title}{f', {job.bed_name}' if job.bed_name else ''}",
            job.on_day,
            names.get(str(job.class_group_id), "") or ("a carer is wanted" if job.carer else "nobody yet"),
        )
        for job in school.open_jobs(connection, closure.starts, closure.ends)
    ]
    ahead = []
    for planting in garden.plantings(connection, since=closure.starts, until=closure.ends):
        if planting.dates is None:
            continue
        crop = context.crops[planting.crop]
        up_by = None if "emerged" in planting.events or planting.method != "direct" else planting.dates.emerge_to
        ahead.append(
            PlantingAhead(
                str(planting.id),
                f"{crop.name.en} in {beds[planting.bed_id]}",
                planting.dates.bed_from,
                up_by,
                planting.dates.first_pick,
                planting.dates.last_pick,
                planting.status == "in the ground",
            )
        )
    return unplanned_closure.effects(closure, jobs, ahead)


def _year(context: Context, year_id: UUID) -> YearRow:
    found = next((year for year in context.years if year.id == year_id), None)
    if found is None:
        raise BadInput("school.no_such_year")
    return found


def _same_time(row: YearRow, year: SchoolYear) -> bool:
    """True when more than half of the shorter one is common to both."""
    common = (min(row.ends, year.ends) - max(row.starts, year.starts)).days + 1
    return 2 * common > min((row.ends - row.starts).days, (year.ends - year.starts).days) + 1


def _give_way(connection: Connection[Any], context: Context, row: YearRow, year: SchoolYear) -> SchoolYear:
    """Shorten whichever of two neighbours only lasts into the other; return the new year, shortened if it was it."""
    day = timedelta(days=1)
    if row.starts < year.starts:
        shorter = replace(row, ends=year.starts - day)
        _checked(shorter.core())
        school.save_year(
            connection, context.school.id, year_id=row.id, name=row.name, starts=row.starts, ends=shorter.ends
        )
        return year
    return _checked(replace(year, ends=row.starts - day))


def _checked(year: SchoolYear) -> SchoolYear:
    check_year(year)
    return year


def _write_year(
    connection: Connection[Any], school_id: UUID, year_id: UUID, year: SchoolYear, feasts_kept: set[date]
) -> None:
    school.save_year(connection, school_id, year_id=year_id, name=year.name, starts=year.starts, ends=year.ends)
    spans: tuple[tuple[SpanKind, Sequence[Span]], ...] = (("term", year.terms), ("closure", year.closures))
    for kind, found in spans:
        for span in found:
            school.save_span(connection, school_id, kind, year_id=year_id, span_id=uuid4(), span=span)
    for half in year.half_days:
        school.save_half_day(connection, school_id, year_id=year_id, row_id=uuid4(), half_day=half)
    for feast in year.feasts:
        if feast.starts not in feasts_kept:
            school.save_feast(connection, school_id, year_id=year_id, row_id=uuid4(), name=feast.name, day=feast.starts)
