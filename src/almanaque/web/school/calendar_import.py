"""Bringing a school calendar in: a file or a pasted list, seen as a year before it is kept, or public holidays ticked one by one."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Annotated, Any, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile

from almanaque.commands.school import calendar as commands
from almanaque.commands.school import calendar_file
from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school import calendar_reading
from almanaque.core.school.calendar_import import KINDS, CalendarEntry, EventKind
from almanaque.core.school.calendar_reading import CalendarQuestion, CalendarReading
from almanaque.core.school.school_year import SchoolYear, Span
from almanaque.data import public_holidays, usual_school_year, zones
from almanaque.formats.confined import confined
from almanaque.formats.school import calendar_csv
from almanaque.formats.school import calendar_file as formats
from almanaque.store.garden import garden
from almanaque.store.school import school as store
from almanaque.store.school import uploads
from almanaque.store.school.uploads import Upload
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.school import month_grid
from almanaque.web.school.month_grid import YearPicture
from almanaque.web.view import View

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]

DAYS_BACK, DAYS_AHEAD = 500, 900  # events further from today are not looked at
PASTED = "pasted.txt"


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
    days: str
    times: str
    asked: bool


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
    rows: list[RowView]
    ignored: list[RowView]


@router.get("/school/import")
def ask(scope: Change) -> Response:
    with scope.open() as work:
        return _ask(work)


def _ask(work: UnitOfWork, *, pasted: str = "", error: str = "", status: int = 200) -> Response:
    country = zones.country_of(work.context.school.zone)
    values = {
        "word_lists": _word_lists(work),
        "countries": public_holidays.countries(),
        "country": country,
        "pasted": pasted,
        "error": error,
    }
    return frame.page(
        work, "school", "Bring in the calendar", values, template="school/calendar_import.html", status=status
    )


@router.post("/school/import")
@security.takes(size=calendar_csv.MOST_BYTES + security.FORM_BYTES)
def send(
    scope: Change,
    file: UploadFile | None = None,
    pasted: Annotated[str, Form()] = "",
    country: Annotated[str, Form()] = "",
    region: Annotated[str, Form()] = "",
) -> Response:
    """Take a file or a list, read it once to see that it can be, and show what it holds. Nothing of the calendar changes yet."""
    given = file is not None and bool(file.filename)
    try:
        name, body = forms.file(file) if given or not pasted.strip() else (PASTED, pasted.encode())
        with scope.open() as work:
            upload_id = uuid4()
            upload = Upload(upload_id, name, "", body)
            _read(work, upload, country, region)
            uploads.save(work.connection, work.context.school.id, upload_id, "calendar", name=name, body=body)
            return frame.go(work, "/school/import/preview", file=str(upload_id), country=country, region=region)
    except BadInput as error:
        with scope.open() as work:
            return _ask(work, pasted=pasted, error=error.message, status=422)


@router.get("/school/import/preview")
def preview(scope: Change, file: str = "", country: str = "", region: str = "") -> Response:
    with scope.open(only_looks=True) as work:
        upload = uploads.get(work.connection, forms.row_id(file), "calendar")
        reading = _read(work, upload, country, region)
        return _preview(work, upload, reading, reading.entries, country, region)


@router.post("/school/import/look")
@security.takes(size=4_000_000, fields=60_000)
def look(scope: Change, request: Request) -> Response:
    """The same page as the form says now: the picture follows every choice. Nothing is kept."""
    form = request.state.form
    with scope.open(only_looks=True) as work:
        upload, reading, country, region = _asked_for(work, form)
        error = ""
        try:
            entries: Sequence[CalendarEntry] = list(_typed(reading.entries, form))
        except BadInput as problem:
            entries, error = reading.entries, problem.message
        return _preview(work, upload, reading, entries, country, region, error=error)


@router.post("/school/import/save")
@security.takes(size=4_000_000, fields=60_000)
def save(scope: Change, request: Request) -> Response:
    """Write what the preview says now. What contradicts itself is shown again with the reason, nothing half-saved.

    It names no form fields: those would let the framework read the form first, with its own limit on their number.
    """
    form = request.state.form
    with scope.open(only_looks=True) as work:
        held, reading, country, region = _asked_for(work, form)
        entries = list(_typed(reading.entries, form))
        unsure = calendar_reading.asked_of_years(entries, {}, usual_school_year.days(country))
    try:
        with scope.open() as work:
            years = rules.assemble(entries)
            if unsure and not form.get("sure"):
                raise BadInput("school.look_before_keeping", field="sure")
            uploads.hold(work.connection, held.id, "calendar")
            commands.write_years(work.connection, work.context, years)
            shown = next((y for y in years if y.starts <= work.today <= y.ends), years[0])
            day = max(shown.starts, min(work.today, shown.ends))
            first = not work.context.years and not garden.beds(work.connection)
            done = (
                frame.address(work, "/beginning", step="classes")
                if first
                else frame.address(work, "/school", changed="yes", day=day.isoformat())
            )
            uploads.taken(work.connection, held.id, done)
            return frame.arrive(work, done)
    except BadInput as error:
        with scope.open() as work:
            return _preview(work, held, reading, entries, country, region, error=error.message, status=422)


def _asked_for(work: UnitOfWork, form: Mapping[str, Any]) -> tuple[Upload, CalendarReading, str, str]:
    """The file that a form of the preview speaks of, read anew."""
    upload = uploads.get(work.connection, forms.row_id(str(form.get("upload", ""))), "calendar")
    country, region = str(form.get("country", "")), str(form.get("region", ""))
    return upload, _read(work, upload, country, region), country, region


@router.post("/school/import/words")
def save_words(scope: Change, request: Request) -> Response:
    """The school's own words by which events are recognised; they go before the ones that are known anyway."""
    with scope.open() as work:
        own: dict[str, list[str]] = {}
        for kind in KINDS:
            text = str(request.state.form.get(f"words_{kind}", ""))
            phrases = list(dict.fromkeys(p for line in text.splitlines() if (p := " ".join(line.split()).casefold())))
            rules.check_words(kind, phrases)
            if phrases:
                own[kind] = phrases
        store.save_words(work.connection, work.context.school.id, own)
        return frame.go(work, "/school/import")


@router.get("/school/holidays")
def offered_holidays(scope: Change, country: str = "", region: str = "", year: str = "") -> Response:
    """Public holidays of a country and region to choose from; none is ticked."""
    with scope.open() as work:
        return _holidays_page(work, country, region, year)


@router.post("/school/holidays")
def take_holidays(scope: Change, request: Request) -> Response:
    """Add the ticked ones as closed days."""
    with scope.open() as work:
        chosen = []
        for value in request.state.form.getlist("take"):
            day, _, name = str(value).partition(" ")
            found = parse_day(day)
            chosen.append(Span(forms.name(name), found, found, "holiday"))
        if not chosen:
            raise BadInput("school.no_holiday_ticked")
        commands.add_closures(work.connection, work.context, chosen)
        return frame.go(work, "/school", changed="yes")


def _read(work: UnitOfWork, upload: Upload, country: str, region: str) -> CalendarReading:
    """A file as it is understood before anybody corrects it."""
    reading = calendar_file.read_calendar(
        upload.body,
        upload.name,
        zone=work.context.school.zone,
        country=country,
        region=region,
        start=work.today - timedelta(days=DAYS_BACK),
        end=work.today + timedelta(days=DAYS_AHEAD),
        own=store.words(work.connection),
        reader=confined(formats.read),
    )
    if not reading.entries:
        raise BadInput(
            "school.no_event_to_come",
            field="file",
            name=upload.name,
            since=work.today - timedelta(days=DAYS_BACK),
            year=work.today.year - 1,
        )
    return reading


def _word_lists(work: UnitOfWork) -> list[tuple[str, str]]:
    own = store.words(work.connection)
    return [(kind, "\n".join(own.get(kind, ()))) for kind in KINDS]


def _typed(entries: Sequence[CalendarEntry], form: Mapping[str, Any]) -> Iterator[CalendarEntry]:
    """The entries as the preview's fields say now."""
    for number, entry in enumerate(entries):
        kind = forms.one_of(str(form.get(f"kind_{number}", entry.kind)), KINDS, field=f"kind_{number}")
        spans, until = entry.spans, entry.until
        if len(spans) == 1 and f"starts_{number}" in form:
            first = parse_day(str(form[f"starts_{number}"]), field=f"starts_{number}")
            last = forms.optional_day(str(form.get(f"ends_{number}", "")), field=f"ends_{number}") or first
            rules.check_span(entry, first, last)
            spans = ((first, last),)
        if form.get(f"until_{number}"):
            until = forms.clock_time(str(form[f"until_{number}"]), field=f"until_{number}")
        name = " ".join(str(form.get(f"name_{number}", entry.name)).split())[:80] or entry.name
        yield replace(entry, kind=cast(EventKind, kind), name=name, spans=spans, until=until)


def _preview(
    work: UnitOfWork,
    upload: Upload,
    reading: CalendarReading,
    entries: Sequence[CalendarEntry],
    country: str,
    region: str,
    *,
    error: str = "",
    status: int = 200,
) -> Response:
    asked = [question for question in reading.questions if question.answers]
    places = {place for question in asked for place in question.entries}
    rows = [_row(number, entry, number in places) for number, entry in enumerate(entries)]
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
        years=[month_grid.draw(year, asked=open_days) for year in years],
        asked=[_asked(question, entries) for question in asked],
        wants_a_look=[str(question.asks) for question in wants],
        told=[
            *(str(phrase) for phrase in reading.told),
            *(f"{what} is a half day without school, and left out." for what in left_out),
            *(f"{what} lies outside the school years, and is left out." for what in outside),
        ],
        error=error,
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


def _row(number: int, entry: CalendarEntry, asked: bool) -> RowView:
    single = len(entry.spans) == 1
    return RowView(
        number,
        entry.kind,
        entry.name,
        entry.starts.isoformat(),
        entry.ends.isoformat(),
        f"{entry.until or rules.HALF_DAY_ENDS:%H:%M}" if entry.kind == "half day" else "",
        entry.where,
        words.span(entry.starts, entry.ends),
        ""
        if single
        else f"{words.count(len(entry.spans), 'time')}, {words.short_day(entry.starts)} to {words.short_day(entry.ends)}",
        asked,
    )


def _holidays_page(work: UnitOfWork, country: str, region: str, year: str) -> Response:
    regions = public_holidays.regions(country) if country else []
    shown = next((y for y in work.context.years if y.name == year), None) or next(
        (y for y in work.context.years if y.starts <= work.day <= y.ends),
        work.context.years[-1] if work.context.years else None,
    )
    offered: list[dict[str, str]] = []
    if country and shown is not None:
        calendar = work.context.calendar
        for day, name in public_holidays.between(country, region, shown.starts, shown.ends):
            closed = next((r.span.name for r in shown.closures if day in r.span), "")
            state = f"in {closed}" if closed else "" if calendar.in_session(day) else "no school day anyway"
            offered.append(
                {"value": f"{day.isoformat()} {name}", "day": words.weekday_day(day), "name": name, "state": state}
            )
    values = {
        "countries": public_holidays.countries(),
        "country": country,
        "regions": regions,
        "region": region,
        "offered": offered,
        "year_name": shown.name if shown else "",
        "year_names": [y.name for y in work.context.years],
    }
    return frame.page(work, "school", "Public holidays", values, template="school/public_holidays.html")
