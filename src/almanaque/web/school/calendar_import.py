"""Bringing a school calendar in: a file with a preview that may be changed, or public holidays that are ticked one by one."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Annotated, Any, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Request, Response, UploadFile

from almanaque.commands.school import calendar as commands
from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school.calendar_import import KINDS, WORDS, CalendarEntry, EventKind, Words
from almanaque.core.school.school_year import Span
from almanaque.data import public_holidays
from almanaque.formats.confined import confined
from almanaque.formats.school import calendar_csv, ical_in
from almanaque.store.school import school as store
from almanaque.store.school import uploads
from almanaque.store.school.uploads import Upload
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]

DAYS_BACK, DAYS_AHEAD = 500, 900  # events further from today are not looked at


@dataclass(frozen=True)
class RowView:
    """An event in the preview. `times` says in words when it comes again; then its days cannot be changed."""

    number: int
    kind: str
    name: str
    starts: str
    ends: str
    until: str
    where: str
    days: str
    times: str


@router.get("/school/import")
def ask(scope: Change) -> Response:
    with scope.open() as work:
        return frame.page(
            work,
            "school",
            "Bring in the calendar",
            {"word_lists": _word_lists(work)},
            template="school/calendar_import.html",
        )


@router.post("/school/import")
@security.takes(size=calendar_csv.MOST_BYTES + security.FORM_BYTES)
def send(scope: Change, file: UploadFile | None = None) -> Response:
    """Take a file, read it once to see that it can be, and show what it holds. Nothing of the calendar changes yet."""
    name, body = forms.file(file)
    with scope.open() as work:
        upload_id = uuid4()
        _read(work, Upload(upload_id, name, "", body))
        uploads.save(work.connection, work.context.school.id, upload_id, "calendar", name=name, body=body)
        return frame.go(work, "/school/import/preview", file=str(upload_id))


@router.get("/school/import/preview")
def preview(scope: Change, file: str = "") -> Response:
    with scope.open(only_looks=True) as work:
        upload = uploads.get(work.connection, forms.row_id(file), "calendar")
        entries = _read(work, upload)
        return _preview(work, upload, entries)


@router.post("/school/import/save")
@security.takes(size=4_000_000, fields=60_000)
def save(scope: Change, request: Request) -> Response:
    """Write what the preview says now. What contradicts itself is shown again with the reason, nothing half-saved.

    It names no form fields: those would let the framework read the form first, with its own limit on their number.
    """
    with scope.open(only_looks=True) as work:
        held = uploads.get(work.connection, forms.row_id(str(request.state.form.get("upload", ""))), "calendar")
        entries = list(_typed(_read(work, held), request.state.form))
    try:
        with scope.open() as work:
            years = rules.assemble(entries)
            rules.check_all_inside(entries, years)
            uploads.hold(work.connection, held.id, "calendar")
            commands.write_years(work.connection, work.context, years)
            shown = next((y for y in years if y.starts <= work.today <= y.ends), years[0])
            day = max(shown.starts, min(work.today, shown.ends))
            done = frame.address(work, "/school", changed="yes", day=day.isoformat())
            uploads.taken(work.connection, held.id, done)
            return frame.arrive(work, done)
    except BadInput as error:
        with scope.open() as work:
            return _preview(work, held, entries, error=error.message, status=422)


@router.post("/school/import/words")
def save_words(scope: Change, request: Request) -> Response:
    """The school's own words by which events are recognised; an empty list means the usual ones."""
    with scope.open() as work:
        own: dict[str, list[str]] = {}
        for kind, usual in WORDS.items():
            text = str(request.state.form.get(f"words_{kind}", ""))
            phrases = list(dict.fromkeys(p for line in text.splitlines() if (p := " ".join(line.split()).casefold())))
            rules.check_words(kind, phrases)
            if phrases and set(phrases) != {word.casefold() for word in usual}:
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


def _read(work: UnitOfWork, upload: Upload) -> list[CalendarEntry]:
    """The entries of a file, calendar or table by its first line."""
    own = _words(work)
    if upload.body.lstrip(b"\xef\xbb\xbf \r\n\t")[:6].upper() == b"BEGIN:" or upload.name.lower().endswith(
        (".ics", ".ical")
    ):
        events = confined(ical_in.read)(
            upload.body,
            upload.name,
            zone=work.context.school.zone,
            start=work.today - timedelta(days=DAYS_BACK),
            end=work.today + timedelta(days=DAYS_AHEAD),
        )
        entries = rules.gather(events, words=own)
    else:
        entries = confined(calendar_csv.read)(upload.body, upload.name, words=own)
    if not entries:
        raise BadInput(
            "school.no_event_to_come",
            field="file",
            name=upload.name,
            since=work.today - timedelta(days=DAYS_BACK),
            year=work.today.year - 1,
        )
    return entries


def _words(work: UnitOfWork) -> Words:
    own = store.words(work.connection)
    return {kind: tuple(own.get(kind, usual)) for kind, usual in WORDS.items()}


def _word_lists(work: UnitOfWork) -> list[tuple[str, str]]:
    return [(kind, "\n".join(phrases)) for kind, phrases in _words(work).items()]


def _typed(entries: list[CalendarEntry], form: Mapping[str, Any]) -> Iterator[CalendarEntry]:
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
    work: UnitOfWork, upload: Upload, entries: list[CalendarEntry], *, error: str = "", status: int = 200
) -> Response:
    rows = [_row(number, entry) for number, entry in enumerate(entries)]
    ways: list[str] = []
    problem = ""
    try:
        for year in rules.assemble(entries):
            counted = f"{len(year.school_days)} school days"
            if year.programme_days:
                counted += f" and {len(year.programme_days)} of a summer programme"
            on_file = any(r.starts <= year.starts <= r.ends for r in work.context.years)
            ways.append(
                (
                    f"School year {year.name}: {words.long_day(year.starts)} to "
                    f"{words.long_day(year.ends)}, {words.count(len(year.terms), 'term')}, "
                    f"{words.count(len(year.closures), 'break or closed day', 'breaks and closed days')}, "
                    f"{words.count(len(year.half_days), 'half day')}; {counted}."
                )
                + (
                    " A year for this time is on file: its terms, breaks and half days are replaced; its dates to serve stay."
                    if on_file
                    else ""
                )
            )
    except BadInput as found:
        problem = found.message
    values = {
        "upload": str(upload.id),
        "file_name": upload.name,
        "kinds": KINDS,
        "years": ways,
        "error": error or problem,
        "rows": [row for row in rows if row.kind != "ignored"],
        "ignored": [row for row in rows if row.kind == "ignored"],
    }
    return frame.page(
        work, "school", "Look before it is kept", values, template="school/calendar_import_preview.html", status=status
    )


def _row(number: int, entry: CalendarEntry) -> RowView:
    single = len(entry.spans) == 1
    return RowView(
        number,
        entry.kind,
        entry.name,
        entry.starts.isoformat(),
        entry.ends.isoformat(),
        f"{entry.until:%H:%M}" if entry.until and entry.kind == "half day" else "",
        entry.where,
        words.span(entry.starts, entry.ends),
        ""
        if single
        else f"{words.count(len(entry.spans), 'time')}, {words.short_day(entry.starts)} to {words.short_day(entry.ends)}",
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
