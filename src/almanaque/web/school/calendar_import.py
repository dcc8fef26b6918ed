"""Bringing a school calendar in: a file or a pasted list, seen as a year before it is kept."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile

from almanaque.commands.school import calendar as commands
from almanaque.commands.school import calendar_file
from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school import calendar_reading
from almanaque.core.school.calendar_import import KINDS
from almanaque.core.school.calendar_reading import CalendarReading
from almanaque.data import public_holidays, usual_school_year, zones
from almanaque.formats.confined import confined
from almanaque.formats.school import calendar_csv
from almanaque.formats.school import calendar_file as formats
from almanaque.store.garden import garden
from almanaque.store.school import school as store
from almanaque.store.school import uploads
from almanaque.store.school.uploads import Upload
from almanaque.web import forms, frame, security
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.school import calendar_look

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]

DAYS_BACK, DAYS_AHEAD = 500, 900  # events further from today are not looked at


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
        name, body = forms.file(file) if given or not pasted.strip() else (calendar_look.PASTED, pasted.encode())
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
        return calendar_look.page(work, upload, reading, calendar_look.as_read(reading.entries), country, region)


@router.post("/school/import/look")
@security.takes(size=4_000_000, fields=60_000)
def look(scope: Change, request: Request) -> Response:
    """The same page as the form says now: the picture follows every choice. Nothing is kept."""
    form = request.state.form
    with scope.open(only_looks=True) as work:
        upload, reading, country, region = _asked_for(work, form)
        typed = calendar_look.as_typed(reading.entries, form)
        return calendar_look.page(work, upload, reading, typed, country, region)


@router.post("/school/import/save")
@security.takes(size=4_000_000, fields=60_000)
def save(scope: Change, request: Request) -> Response:
    """Write what the preview says now. What contradicts itself is shown again with the reason, nothing half-saved.

    It names no form fields: those would let the framework read the form first, with its own limit on their number.
    """
    form = request.state.form
    with scope.open(only_looks=True) as work:
        held, reading, country, region = _asked_for(work, form)
        typed = calendar_look.as_typed(reading.entries, form)
        if any(row.errors for row in typed):
            return calendar_look.page(work, held, reading, typed, country, region, status=422)
        entries = [row.entry for row in typed]
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
            return calendar_look.page(work, held, reading, typed, country, region, error=error.message, status=422)


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
