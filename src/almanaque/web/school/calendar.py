"""School: the calendar with its years, terms, breaks, half days and dates to serve, and the closure nobody planned."""

import json
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.school import calendar as commands
from almanaque.core.errors import BadInput
from almanaque.core.school import unplanned_closure
from almanaque.core.school.school_year import SUDDEN, HalfDay, Span
from almanaque.store import errors
from almanaque.store.school.school import SpanRow, YearRow
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.school import month_grid
from almanaque.web.still_missing import still_missing

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]
Look = Annotated[RequestScope, Depends(may("look"))]

RowKind = Literal["term", "closure", "half_day", "feast"]
SAVED = "Saved. Dates and jobs that depend on it are being worked out again in the background."
TERM_KINDS = (("term", "term"), ("summer programme", "summer programme"))
CLOSURE_KINDS = (("break", "break"), ("holiday", "closed day"), ("training day", "training day"))


@dataclass(frozen=True)
class RowForm:
    """One row of the calendar as the template draws it, filled with what was typed when that was refused."""

    id: str
    name: str
    starts: str
    ends: str
    kind: str
    until: str
    new: bool
    wrong: bool


@dataclass(frozen=True)
class Block:
    """A list of the calendar: what its rows are called, which fields they have, and the rows."""

    table: RowKind
    title: str
    word: str
    kinds: tuple[tuple[str, str], ...]
    has_end: bool
    has_time: bool
    rows: list[RowForm]


@router.get("/school")
def school(scope: Look) -> Response:
    with scope.open() as work:
        return _page(work, {})


class SchoolYearForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    starts: str = ""
    ends: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/school/years")
def save_year(scope: Change, form: Annotated[SchoolYearForm, Form()]) -> Response:
    """Add, change or delete a school year."""
    with scope.open() as work:
        year_id = forms.row_id(form.id)
        if form.action == "delete":
            commands.delete_year(work.connection, work.context, year_id)
            return frame.go(work, "/school", changed="yes")
        first = parse_day(form.starts, field="starts")
        last = forms.optional_day(form.ends, field="ends") or _year_later(first)
        commands.save_year(work.connection, work.context, year_id, form.name, first, last)
        return frame.go(work, "/school", changed="yes", day=max(first, min(work.today, last)).isoformat())


class SpanForm(BaseModel):
    """What a row of the calendar sends, as it was typed."""

    kind: RowKind
    year: UUID
    id: str = ""
    name: str = ""
    starts: str = ""
    ends: str = ""
    sort: str = ""
    until: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/school/spans")
def save_span(scope: Change, form: Annotated[SpanForm, Form()]) -> Response:
    """Add, change or delete a term, break, half day or feast. What cannot be kept stays in the form with the reason."""
    try:
        with scope.open() as work:
            row_id = forms.row_id(form.id)
            if form.action == "delete":
                commands.delete_row(work.connection, work.context, form.kind, row_id)
                return frame.go(work, "/school", changed="yes")
            name, first = form.name.strip(), parse_day(form.starts, field="starts")
            last = parse_day(form.ends or form.starts, field="ends")
            match form.kind:
                case "half_day":
                    half = HalfDay(name, first, forms.clock_time(form.until or "12:00", field="until"))
                    commands.save_half_day(work.connection, work.context, form.year, row_id, half)
                case "feast":
                    commands.save_feast(work.connection, work.context, form.year, row_id, name, first)
                case "term" | "closure":
                    allowed = [value for value, _ in (TERM_KINDS if form.kind == "term" else CLOSURE_KINDS)]
                    usual = _usual(form.kind, first, last)
                    sort = forms.one_of(form.sort, [*allowed, *SUDDEN], field="sort") if form.sort else usual
                    span = Span(name, first, last, sort)
                    commands.save_span(work.connection, work.context, form.kind, form.year, row_id, span)
            return frame.go(work, "/school", changed="yes")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, form.model_dump(mode="json"), error=error.message, status=422)


class UnplannedClosureForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    starts: str = ""
    ends: str = ""
    why: str = "until further notice"


@router.post("/school/closures")
def close(scope: Change, form: Annotated[UnplannedClosureForm, Form()]) -> Response:
    """Close the school at once, and show what that does."""
    with scope.open() as work:
        closure_id = forms.row_id(form.id)
        forms.one_of(form.why, SUDDEN, field="why")
        first = parse_day(form.starts, field="starts")
        last = forms.optional_day(form.ends, field="ends")
        commands.close_suddenly(
            work.connection, work.context, closure_id, name=form.name, starts=first, ends=last, why=form.why
        )
        return frame.go(work, f"/school/closures/{closure_id}")


@router.post("/school/closures/{closure_id}/reopen")
def reopen(scope: Change, closure_id: UUID, day: Annotated[str, Form()] = "") -> Response:
    with scope.open() as work:
        commands.reopen(work.connection, work.context, closure_id, parse_day(day))
        return frame.go(work, "/school", changed="yes")


@router.get("/school/closures/{closure_id}")
def closure(scope: Look, closure_id: UUID) -> Response:
    """What a closure does: jobs without people, seedbeds at risk, pickings that move to carers."""
    with scope.open() as work:
        span = next((r.span for y in work.context.years for r in y.closures if r.id == closure_id), None)
        if span is None:
            raise errors.NotFound("That closure is not in the calendar.")
        found = commands.effects_of(work.connection, work.context, span)
        open_end = span.kind == "until further notice"
        values = {
            "closure": span,
            "closure_id": str(closure_id),
            "until": "until further notice" if open_end else f"until {words.long_day(span.ends)}",
            "lost_days": words.count(unplanned_closure.days_lost(work.context.calendar.years, span), "school day"),
            "effects": found,
            "summary": words.joined(
                [
                    words.count(len(found.jobs), "job wants somebody", "jobs want somebody"),
                    words.count(len(found.seedbeds), "seedbed at risk", "seedbeds at risk"),
                    words.count(len(found.pickings), "picking moves to carers", "pickings move to carers"),
                ]
            ),
            "can_reopen": span.kind in SUDDEN,
            "reopen_on": work.today.isoformat(),
        }
        return frame.page(work, "school", span.name, values, template="school/unplanned_closure.html")


def _page(work: UnitOfWork, typed: dict[str, str], *, error: str = "", status: int = 200) -> Response:
    context = work.context
    shown = next((row for row in context.years if row.starts <= work.day <= row.ends), None)
    last = context.years[-1] if context.years else None
    values: dict[str, Any] = {
        "year": shown,
        "years": [(row.name, row.starts.isoformat(), row is shown) for row in context.years],
        "blocks": _blocks(shown, typed) if shown else [],
        "error": error,
        "saved": SAVED if work.scope.request.query_params.get("changed") == "yes" else "",
        "picture": month_grid.draw(shown.core(), work.context.school.zone, rows=_row_of_day(shown)) if shown else None,
        "rows_json": _rows_json(shown) if shown else "",
        "facts": _facts(work),
        "closure_id": str(uuid4()),
        "sudden": [row for row in shown.closures if row.span.kind in SUDDEN] if shown else [],
        "new_year": {"id": str(uuid4()), "starts": (last.ends + timedelta(days=1)).isoformat() if last else ""},
        "steps": still_missing(work) if work.scope.may("calendar") else [],
    }
    return frame.page(work, "school", "School", values, status=status)


def _row_of_day(year: YearRow) -> dict[date, str]:
    """Which row a click on a day opens: a feast before a half day before a closure."""
    found: dict[date, str] = {}
    for row in [*year.closures, *year.feasts]:
        found |= {row.span.starts + timedelta(days=n): str(row.id) for n in range(row.span.days)}
    return found | {row.half_day.day: str(row.id) for row in year.half_days}


def _rows_json(year: YearRow) -> str:
    """The rows of a year for the sheet that opens at the hand, by their ids."""
    rows: dict[str, dict[str, str]] = {}
    kinds: tuple[tuple[RowKind, list[SpanRow]], ...] = (("closure", year.closures), ("feast", year.feasts))
    for kind, spans in kinds:
        for row in spans:
            starts, ends = row.span.starts.isoformat(), row.span.ends.isoformat()
            rows[str(row.id)] = {"kind": kind, "name": row.span.name, "starts": starts, "ends": ends, "until": ""}
    for half in year.half_days:
        day = half.half_day.day.isoformat()
        until = f"{half.half_day.until:%H:%M}"
        rows[str(half.id)] = {
            "kind": "half_day",
            "name": half.half_day.name,
            "starts": day,
            "ends": day,
            "until": until,
        }
    return json.dumps(rows)


def _blocks(year: Any, typed: dict[str, str]) -> list[Block]:
    """The four lists of a year."""
    planned = [row for row in year.closures if row.span.kind not in SUDDEN]
    spans: tuple[tuple[RowKind, str, str, tuple[tuple[str, str], ...], bool, list[Any]], ...] = (
        ("term", "Terms", "term", TERM_KINDS, True, year.terms),
        ("closure", "Breaks and closed days", "break", CLOSURE_KINDS, True, planned),
        ("feast", "Dates to serve", "date", (), False, year.feasts),
    )
    found = []
    for table, title, word, kinds, has_end, rows in spans:
        drawn = [
            RowForm(
                str(r.id),
                r.span.name,
                r.span.starts.isoformat(),
                r.span.ends.isoformat(),
                r.span.kind,
                "",
                False,
                False,
            )
            for r in rows
        ]
        found.append(Block(table, title, word, kinds, has_end, False, _with_typed(drawn, typed, table)))
    halves = [
        RowForm(
            str(r.id), r.half_day.name, r.half_day.day.isoformat(), "", "", f"{r.half_day.until:%H:%M}", False, False
        )
        for r in year.half_days
    ]
    found.insert(2, Block("half_day", "Half days", "half day", (), False, True, _with_typed(halves, typed, "half_day")))
    return found


def _with_typed(rows: list[RowForm], typed: dict[str, str], table: RowKind) -> list[RowForm]:
    """The rows and an empty one for a new entry, with what was typed and refused in its place."""
    mine = typed if typed.get("kind") == table else {}

    def filled(row: RowForm) -> RowForm:
        return RowForm(row.id, mine["name"], mine["starts"], mine["ends"], mine["sort"], mine["until"], row.new, True)

    shown = [filled(row) if mine.get("id") == row.id else row for row in rows]
    blank = RowForm(mine.get("id") or str(uuid4()), "", "", "", "", "12:00" if table == "half_day" else "", True, False)
    is_new = bool(mine) and mine["id"] not in {row.id for row in rows}
    return [*shown, filled(blank) if is_new else RowForm(str(uuid4()), "", "", "", "", blank.until, True, False)]


def _facts(work: UnitOfWork) -> list[tuple[str, str]]:
    """The day's place in the school year, counted."""
    calendar, day = work.context.calendar, work.day
    year = calendar.year_of(day)
    if year is None or day > year.ends:
        return []
    half = calendar.half_day(day)
    state = (
        "School is in"
        if calendar.in_session(day)
        else "The summer programme meets"
        if calendar.children_here(day)
        else "No school"
    )
    week = calendar.week_number(day)
    rows = [
        (
            words.weekday_day(day),
            words.joined([f"{state}{f' until {words.clock(half)}' if half else ''}", f"week {week}" if week else ""]),
        )
    ]
    total, left = len(year.school_days), calendar.school_days_left(day)
    rows.append(("School days", f"{left} left of {total}"))
    gap = calendar.next_break(day)
    if gap is not None:
        until = calendar.school_days_between(day, gap.starts)
        rows.append(
            (
                "Next break",
                f"{gap.name}, {words.span(gap.starts, gap.ends)}"
                + (f"; {words.count(until, 'school day')} before it" if day < gap.starts else ""),
            )
        )
        names = work.context.group_names(day)
        lessons = [
            f"{names[str(group.id)]} {calendar.lessons_before(day, gap.starts, group_id=str(group.id))}"
            for group in work.context.groups_on(day)
            if group.slots
        ]
        if lessons and day < gap.starts:
            rows.append(("Lessons until then", ", ".join(lessons)))
    return rows


def _usual(kind: str, first: date, last: date) -> str:
    return "term" if kind == "term" else "break" if last > first else "holiday"


def _year_later(first: date) -> date:
    return first + timedelta(days=363)
