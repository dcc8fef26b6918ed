"""The page on which a calendar is looked at before it is kept: the year as a picture, what is asked, and a row for each event."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from typing import Any, cast

from fastapi import Response

from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school import calendar_reading
from almanaque.core.school.calendar_import import KINDS, CalendarEntry, EventKind
from almanaque.core.school.calendar_reading import CalendarQuestion, CalendarReading
from almanaque.core.school.school_year import SchoolYear
from almanaque.data import usual_school_year
from almanaque.store.school.uploads import Upload
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import UnitOfWork, parse_day
from almanaque.web.school import month_grid
from almanaque.web.school.month_grid import YearPicture
from almanaque.web.view import View

PASTED = "pasted.txt"
LONGEST_TYPED = 40  # characters of a day or a time that are shown again


@dataclass(frozen=True)
class CalendarRow:
    """An event as its row says now. What cannot be stays as it was typed, with its sentence by field, and the event keeps its own."""

    entry: CalendarEntry
    starts: str
    ends: str
    until: str
    errors: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class WrongField:
    """Leads from the head of the page to a field that cannot be."""

    field_id: str
    about: str
    says: str


@dataclass(frozen=True)
class RowView:
    """An event in the preview. `times` says in words when it comes again; then its days cannot be changed. An `asked` one is
    answered above the list."""

    number: int
    kind: str
    name: str
    starts: str
    ends: str
    until: str
    where: str
    times: str
    asked: bool
    errors: Mapping[str, str]


@dataclass(frozen=True)
class AnswerView:
    kind: str
    says: str
    chosen: bool


@dataclass(frozen=True)
class AskedView:
    """A question: about which row of the list, and what can be answered; without answers it wants a look."""

    number: int
    about: str
    asks: str
    answers: list[AnswerView]


@dataclass(frozen=True)
class CalendarLookView(View):
    """The page on which a calendar is looked at before it is kept."""

    upload: str
    file_name: str
    country: str
    region: str
    kinds: tuple[EventKind, ...]
    sentences: list[str]
    years: list[YearPicture]
    asked: list[AskedView]
    wants_a_look: list[str]
    told: list[str]
    error: str
    wrong: list[WrongField]
    rows: list[RowView]
    ignored: list[RowView]


def as_read(entries: Sequence[CalendarEntry]) -> list[CalendarRow]:
    """The rows before anybody has typed in them."""
    return [_shown(entry) for entry in entries]


def as_typed(entries: Sequence[CalendarEntry], form: Mapping[str, Any]) -> list[CalendarRow]:
    """The rows as the page's fields say now, each with all that is wrong in it."""
    return [_typed(number, entry, form) for number, entry in enumerate(entries)]


def _typed(number: int, entry: CalendarEntry, form: Mapping[str, Any]) -> CalendarRow:
    kind = forms.one_of(str(form.get(f"kind_{number}", entry.kind)), KINDS, field=f"kind_{number}")
    name = " ".join(str(form.get(f"name_{number}", entry.name)).split())[:80] or entry.name
    entry = replace(entry, kind=cast(EventKind, kind), name=name)
    row = _shown(entry)
    text = {
        part: str(form.get(f"{part}_{number}", getattr(row, part)))[:LONGEST_TYPED]
        for part in ("starts", "ends", "until")
    }
    problems = forms.Problems()
    if len(entry.spans) == 1 and (span := problems.read(_span, entry, text)) is not None:
        entry = replace(entry, spans=(span,))
    if text["until"] and (until := problems.read(forms.clock_time, text["until"], field="until")) is not None:
        entry = replace(entry, until=until)
    return replace(row, entry=entry, errors=problems.by_field, **text)


def _span(entry: CalendarEntry, text: Mapping[str, str]) -> tuple[date, date]:
    first = parse_day(text["starts"], field="starts")
    last = forms.optional_day(text["ends"], field="ends") or first
    try:
        rules.check_span(entry, first, last)
    except BadInput as error:
        raise error.at("ends") from None
    return first, last


def _shown(entry: CalendarEntry) -> CalendarRow:
    until = f"{entry.until or rules.HALF_DAY_ENDS:%H:%M}" if entry.kind == "half day" else ""
    return CalendarRow(entry, entry.starts.isoformat(), entry.ends.isoformat(), until)


def page(
    work: UnitOfWork,
    upload: Upload,
    reading: CalendarReading,
    typed: Sequence[CalendarRow],
    country: str,
    region: str,
    *,
    error: str = "",
    status: int = 200,
) -> Response:
    """The whole page; the picture of the year is drawn from the rows as they were typed."""
    entries = [row.entry for row in typed]
    asked = [question for question in reading.questions if question.answers]
    places = {place for question in asked for place in question.entries}
    rows = [_row(number, row, number in places) for number, row in enumerate(typed)]
    wants = [q for q in reading.questions if not q.answers and not q.of_years]
    years: list[SchoolYear] = []
    try:
        years = rules.assemble(entries)
        wants += calendar_reading.asked_of_years(entries, {}, usual_school_year.days(country))
    except BadInput as found:
        error = error or found.message
    open_days = {day for question in asked for place in question.entries for day in _days(entries[place])}
    left_out = [f"“{name}” on {words.weekday_day(day)}" for name, day in rules.half_days_left_out(entries, years)]
    outside = (
        [f"“{e.name}” on {words.weekday_day(e.starts)}" for e in rules.left_outside(entries, years)] if years else []
    )
    values = CalendarLookView(
        upload=str(upload.id),
        file_name="The list you pasted" if upload.name == PASTED else upload.name,
        country=country,
        region=region,
        kinds=KINDS,
        sentences=[_sentence(work, year, country) for year in years],
        years=[month_grid.draw(year, work.context.school.zone, asked=open_days) for year in years],
        asked=[_asked(question, entries) for question in asked],
        wants_a_look=[str(question.asks) for question in wants],
        told=[
            *(str(phrase) for phrase in reading.told),
            *(f"{what} is a half day without school, and left out." for what in left_out),
            *(f"{what} lies outside the school years, and is left out." for what in outside),
        ],
        error=error,
        wrong=[
            WrongField(f"{part}-{number}", row.entry.name, says)
            for number, row in enumerate(typed)
            for part, says in row.errors.items()
        ],
        rows=[row for row in rows if row.kind != "ignored" or row.asked],
        ignored=[row for row in rows if row.kind == "ignored" and not row.asked],
    )
    return frame.page(
        work, "school", "Look before it is kept", values, template="school/calendar_import_preview.html", status=status
    )


def _sentence(work: UnitOfWork, year: SchoolYear, country: str) -> str:
    low, high = usual_school_year.days(country)
    counted = words.count(len(year.school_days), "school day")
    if year.programme_days:
        counted += f" and {len(year.programme_days)} of a summer programme"
    days = year.school_days
    span = f": {words.long_day(days[0])} to {words.long_day(days[-1])}" if days else ""
    on_file = any(r.starts <= year.starts <= r.ends for r in work.context.years)
    replaced = (
        " A year for this time is on file: its terms, breaks and half days are replaced; its dates to serve stay."
    )
    return (
        f"School year {year.name}{span}. {counted}, usual {'here' if country else 'anywhere'} is {low} to {high}; "
        f"{words.count(len(year.terms), 'term')}, "
        f"{words.count(len(year.closures), 'break or closed day', 'breaks and closed days')}, "
        f"{words.count(len(year.half_days), 'half day')}." + (replaced if on_file else "")
    )


def _asked(question: CalendarQuestion, entries: Sequence[CalendarEntry]) -> AskedView:
    place = question.entries[0]
    entry = entries[place]
    about = f"{entry.name}, {words.weekday_day(entry.starts)}" + (
        f" to {words.weekday_day(entry.ends)}" if entry.ends > entry.starts else ""
    )
    answers = [
        AnswerView(
            answer.kind,
            f"{str(answer.says).capitalize()} · {answer.school_days} school days",
            answer.kind == entry.kind,
        )
        for answer in question.answers
    ]
    return AskedView(place, about, str(question.asks), answers)


def _days(entry: CalendarEntry) -> list[date]:
    return [first + timedelta(days=n) for first, last in entry.spans for n in range((last - first).days + 1)]


def _row(number: int, row: CalendarRow, asked: bool) -> RowView:
    entry = row.entry
    times = ""
    if len(entry.spans) > 1:
        span = f"{words.short_day(entry.starts)} to {words.short_day(entry.ends)}"
        times = f"{words.count(len(entry.spans), 'time')}, {span}"
    return RowView(
        number,
        entry.kind,
        entry.name,
        row.starts,
        row.ends,
        row.until,
        entry.where,
        times,
        asked,
        row.errors,
    )
