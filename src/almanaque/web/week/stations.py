"""Week: stations beside the beds, each with its routine, readings, how it is done, who looks after it, and its supplies."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Annotated, Any, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel
from starlette.datastructures import UploadFile

from almanaque.commands.journal import photos as photo_commands
from almanaque.commands.journal.photos import Sent
from almanaque.commands.week import stations as commands
from almanaque.commands.week.stations import Value
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.week.stations import Every, Routine, StationReading, asleep_in, check_limits
from almanaque.core.words import terms
from almanaque.data import station_kinds
from almanaque.formats.journal import photo as photo_format
from almanaque.store.garden import shed
from almanaque.store.garden.shed import Supply
from almanaque.store.journal import photos
from almanaque.store.week import stations, tasks
from almanaque.store.week.stations import Station, StationNote
from almanaque.web import forms, frame, links, security, seen, words
from almanaque.web.pictures import photo_strip
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Write = Annotated[RequestScope, Depends(may("note"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
SHOWN = 12  # readings of each kind on the page
ROUTINES = 6  # rows for routines in the form


@router.get("/week/stations")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _list(work)


@router.post("/week/stations")
def make(scope: Plan, kind: Annotated[str, Form()] = "", name: Annotated[str, Form()] = "") -> Response:
    """Make a station from its kind."""
    with scope.open() as work:
        station = commands.new(kind, forms.optional_name(name, field="name", most=60))
        commands.save(work.connection, work.context, station, today=work.today)
        return frame.go(work, f"/week/stations/{station.id}")


@router.get("/week/stations/{station_id}")
def one(scope: Look, station_id: UUID) -> Response:
    with scope.open() as work:
        return _page(work, stations.station(work.connection, station_id))


@router.post("/week/stations/{station_id}/readings")
def read(scope: Write, station_id: UUID) -> Response:
    """Note readings of one day."""
    form = {key: str(value) for key, value in scope.request.state.form.items()}
    try:
        with scope.open() as work:
            station = stations.station(work.connection, station_id)
            day = parse_day(form["day"]) if form.get("day") else work.today
            values = [
                v
                for n, reading in enumerate(station.readings)
                if (v := _value(reading, form.get(f"r{n}", ""))) is not None
            ]
            found = commands.read(
                work.connection,
                work.context,
                station_id,
                values,
                day=day,
                today=work.today,
                note=form.get("note", ""),
                by=scope.visitor.account_id,
            )
            return frame.go(work, f"/week/stations/{station_id}", **({"kept": "1"} if not found else {}))
    except BadInput as error:
        with scope.open() as work:
            return _page(work, stations.station(work.connection, station_id), error=error, form=form, status=422)


class StationPhotoForm(BaseModel):
    """What the form of a photo sends beside its file, as it was typed."""

    caption: str = ""
    people: str = ""


@router.post("/week/stations/{station_id}/photos")
@security.takes(size=photo_format.MOST_BYTES + security.FORM_BYTES)
def add_photo(scope: Write, station_id: UUID, form: Annotated[StationPhotoForm, Form()]) -> Response:
    """Keep a photo of the station, for a series that shows how it changes."""
    try:
        if form.people != "no":
            raise BadInput("week.station_photo_people", field="people")
        name, body = forms.file(scope.request.state.form.get("file"))
        made = photo_commands.read(body, name)
        with scope.open() as work:
            station = stations.station(work.connection, station_id)
            assert scope.visitor.account_id is not None
            sent = Sent(
                uuid4(),
                body,
                name,
                None,
                None,
                form.caption.strip() or station.name,
                work.today,
                scope.clock.now(),
                station_id=station_id,
            )
            photo_commands.keep(
                work.connection, work.context, sent, made, by=scope.visitor.account_id, today=work.today
            )
            return frame.go(work, f"/week/stations/{station_id}")
    except BadInput as error:
        with scope.open(only_looks=True) as work:
            return _page(work, stations.station(work.connection, station_id), error=error, status=422)


class StationAdoptionForm(BaseModel):
    """What the form sends, as it was typed."""

    group: str = ""
    from_day: str = ""
    to_day: str = ""
    end: str = ""


@router.post("/week/stations/{station_id}/adopt")
def adopt(scope: Plan, station_id: UUID, form: Annotated[StationAdoptionForm, Form()]) -> Response:
    """Give it to a class for some time, or end that."""
    with scope.open() as work:
        if form.end:
            commands.end_adoption(work.connection, work.context, station_id, forms.row_id(form.end), today=work.today)
        else:
            first, last = parse_day(form.from_day, field="from_day"), parse_day(form.to_day, field="to_day")
            commands.adopt(
                work.connection, work.context, station_id, forms.row_id(form.group), first, last, today=work.today
            )
        return frame.go(work, f"/week/stations/{station_id}")


@router.post("/week/stations/{station_id}")
@security.takes(size=photo_format.MOST_BYTES + security.FORM_BYTES)
def change(scope: Plan, station_id: UUID) -> Response:
    """Change words, routines and limits; close it or open it again; a picture of how it is done."""
    form = {key: value for key, value in scope.request.state.form.items() if isinstance(value, str)}
    sent = scope.request.state.form.get("file")
    name, body = forms.file(sent) if isinstance(sent, UploadFile) and sent.filename else ("", b"")
    made = photo_commands.read(body, name) if name else None  # before the station is held
    with scope.open() as work:
        stations.hold(work.connection, station_id)
        station = stations.station(work.connection, station_id)
        seen.still(form.get(seen.FIELD, ""), lambda: seen.fingerprint(station), f"“{station.name}”")
        closed = form.get("open") != "1"
        changed = replace(
            station,
            name=forms.name(form.get("name", ""), most=60),
            about=form.get("about", "").strip(),
            how_to=form.get("how_to", "").strip(),
            caution=form.get("caution", "").strip(),
            closed_on=(station.closed_on or work.today) if closed else None,
            asleep=tuple(n for n in range(1, 13) if form.get(f"asleep-{n}")),
            routines=tuple(enumerate(_routines(form), start=1)),
            readings=tuple(_limits(reading, n, form) for n, reading in enumerate(station.readings))
            + _new_reading(form),
        )
        if made is not None:
            assert scope.visitor.account_id is not None
            picture = Sent(
                uuid4(), body, name, None, None, f"How it is done: {changed.name}", work.today, scope.clock.now()
            )
            by = scope.visitor.account_id
            photo_commands.keep(work.connection, work.context, picture, made, by=by, today=work.today)
            changed = replace(changed, photo_id=picture.id)
        commands.save(work.connection, work.context, changed, today=work.today)
        return frame.go(work, f"/week/stations/{station_id}")


class StationSupplyForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    name: str = ""
    have: str = ""
    unit: str = ""
    low: str = ""
    told: str = ""


@router.post("/week/stations/{station_id}/supplies")
def supply(scope: Write, station_id: UUID, form: Annotated[StationSupplyForm, Form()]) -> Response:
    """How much of a supply is left, where its mark is, and who is told."""
    with scope.open() as work:
        stations.station(work.connection, station_id)
        amount = forms.number(form.have, field="have", what="how_much_left", within=(0, 1_000_000))
        mark = forms.number(form.low, field="low", what="mark", within=(0, 1_000_000))
        known = next((s for s in shed.supplies(work.connection) if str(s.id) == form.id), None)
        if known is None:
            known = Supply(
                uuid4(),
                "material",
                forms.name(form.name),
                forms.optional_name(form.unit, field="unit", most=30),
                0.0,
                None,
            )
        changed = replace(
            known,
            have=amount or 0.0,
            low=mark,
            told=forms.optional_name(form.told, field="told"),
            station_id=station_id,
        )
        shed.save(work.connection, work.context.school.id, changed)
        return frame.go(work, f"/week/stations/{station_id}")


def station_notes(work: UnitOfWork) -> list[Finding]:
    """What stations and supplies want somebody to do, for Week."""
    return commands.notes(work.connection, work.today)


def _value(reading: StationReading, text: str) -> Value | None:
    if not text.strip():
        return None
    if reading.choices:
        return Value(reading.name, None, text)
    return Value(reading.name, forms.number(text, field=reading.name, what="reading", of=reading.name))


def _routines(form: dict[str, str]) -> list[Routine]:
    found = []
    for n in range(1, ROUTINES + 1):
        what = form.get(f"what-{n}", "").strip()
        if what:
            every = cast(Every, forms.one_of(form.get(f"every-{n}", "week"), list(terms("every")), field=f"every-{n}"))
            minutes = forms.whole(
                form.get(f"minutes-{n}", "10"), field=f"minutes-{n}", least=1, most=240, what="minutes_of_routine"
            )
            found.append(Routine(what[:120], every, minutes, bool(form.get(f"resting-{n}"))))
    return found


def _limits(reading: StationReading, n: int, form: dict[str, str]) -> StationReading:
    if reading.choices:
        return reading
    least = forms.number(form.get(f"least-{n}", ""), field=f"least-{n}", what="lower_limit")
    most = forms.number(form.get(f"most-{n}", ""), field=f"most-{n}", what="upper_limit")
    limited = replace(reading, least=least, most=most)
    check_limits(limited, n)
    return limited


def _new_reading(form: dict[str, str]) -> tuple[StationReading, ...]:
    name = form.get("reading-new", "").strip()
    return (StationReading(name[:60], form.get("unit-new", "").strip()[:20] or "count"),) if name else ()


def _list(work: UnitOfWork) -> Response:
    noted = stations.readings(work.connection, until=work.today)
    adopted = stations.adoptions(work.connection)
    names = work.context.group_names(work.today)
    rows = []
    for station in stations.stations(work.connection):
        mine = [n for n in noted if n.station_id == station.id]
        whose = next(
            (
                names.get(str(a.class_group_id), "")
                for a in adopted
                if a.station_id == station.id and a.from_day <= work.today <= a.to_day
            ),
            "",
        )
        rows.append(
            {
                "id": str(station.id),
                "name": station.name,
                "about": station.about,
                "closed": station.closed_on is not None,
                "whose": whose,
                "state": "closed" if station.closed_on else "asleep" if _sleeps(work, station) else "",
                "routines": words.joined(
                    [
                        f"{r.what}, {terms('every')[r.every]}"
                        for _, r in station.routines
                        if r.resting == _sleeps(work, station)
                    ]
                ),
                "last": f"read {words.short_day(mine[-1].on_day)}" if mine else "not read yet",
                "findings": commands.findings(station, mine, work.today) if not station.closed_on else [],
            }
        )
    values = {
        "rows": rows,
        "kinds": [(k.key, k.name) for k in station_kinds().values()],
        "low": [f for f in commands.notes(work.connection, work.today) if f.code == "running_low"],
    }
    return frame.page(work, "week", "Stations", values, template="week/stations.html")


def _sleeps(work: UnitOfWork, station: Station) -> bool:
    return asleep_in(station.asleep, work.today, southern=work.context.school.southern)


def _page(
    work: UnitOfWork,
    station: Station,
    *,
    error: BadInput | None = None,
    form: dict[str, str] | None = None,
    status: int = 200,
) -> Response:
    noted = stations.readings(work.connection, until=work.day, station_id=station.id)
    pictures = photos.photos(work.connection, until=work.day, station_id=station.id, limit=200)
    names = work.context.group_names(work.today)
    step = commands.step_of(station)
    due = [
        t
        for t in tasks.tasks(work.connection, start=work.today - timedelta(days=7), end=work.today + timedelta(days=13))
        if t.step.startswith(step)
    ]
    blanks = [("", "week", "10", False)] * (ROUTINES - len(station.routines))
    values: dict[str, Any] = {
        "station": station,
        "seen": seen.fingerprint(station),
        "asleep_now": _sleeps(work, station),
        "findings": commands.findings(station, noted, work.today),
        "error": error.message if error else "",
        "error_field": error.field if error else "",
        "readings": [_reading(n, r, noted, (form or {}).get(f"r{n}", "")) for n, r in enumerate(station.readings)],
        "photos": photo_strip.strip(pictures, station.name),
        "one_photo": photo_strip.photo_view(pictures[0], station.name) if pictures else None,
        "form_note": (form or {}).get("note", ""),
        "jobs": [
            {
                "title": t.title,
                "when": words.weekday_day(t.on_day or t.from_day),
                "status": t.status,
                "id": str(t.id),
                "who": names.get(str(t.class_group_id), "")
                if t.class_group_id
                else "carers"
                if t.carer
                else "nobody yet",
            }
            for t in due
        ],
        "adoptions": [
            {
                "id": str(a.id),
                "who": names.get(str(a.class_group_id), "a class that has left"),
                "days": words.span(a.from_day, a.to_day),
            }
            for a in stations.adoptions(work.connection, station.id)
            if a.to_day >= work.today
        ],
        "groups": [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)],
        "until": _term_end(work).isoformat(),
        "supplies": [s for s in shed.supplies(work.connection) if s.station_id == station.id],
        "usual": station_kinds()[station.kind].supplies if station.kind in station_kinds() else (),
        "routine_rows": [(r.what, r.every, str(r.minutes), r.resting) for _, r in station.routines] + blanks,
        "every": list(terms("every").items()),
        "months": [(n, words.month_name(date(2027, n, 1)), n in station.asleep) for n in range(1, 13)],
        "weather": station.kind == "weather corner",
        "kept": work.scope.request.query_params.get("kept") == "1",
        "qr": links.qr_path(links.address(work.scope.request, f"/week/stations/{station.id}")),
    }
    return frame.page(work, "week", station.name, values, template="week/station.html", status=status)


def _term_end(work: UnitOfWork) -> date:
    year = work.context.calendar.year_of(work.today)
    return (
        next((t.ends for t in year.terms if t.starts <= work.today <= t.ends), work.today + timedelta(days=60))
        if year
        else work.today + timedelta(days=60)
    )


@dataclass(frozen=True)
class ReadingRowView(View):
    """A row of `StationReadingView`."""

    day: str
    value: str
    note: str


@dataclass(frozen=True)
class StationReadingView(View):
    """Filled by `_reading`, read by its template."""

    n: int
    name: str
    label: str
    unit: str
    choices: tuple[str, ...]
    limits: str
    typed: str
    least: str
    most: str
    rows: list[ReadingRowView]


def _reading(n: int, reading: StationReading, noted: list[StationNote], typed: str) -> StationReadingView:
    mine = [x for x in noted if x.name == reading.name][-SHOWN:]
    limits = ""
    if reading.least is not None or reading.most is not None:
        low = f"{reading.least:g}" if reading.least is not None else "…"
        limits = f"right: {low} to {f'{reading.most:g}' if reading.most is not None else '…'}"
    return StationReadingView(
        n=n,
        name=reading.name,
        label=f"{reading.name[:1].upper()}{reading.name[1:]}",
        unit="" if reading.unit == "count" else reading.unit,
        choices=reading.choices,
        limits=limits,
        typed=typed,
        least="" if reading.least is None else f"{reading.least:g}",
        most="" if reading.most is None else f"{reading.most:g}",
        rows=[
            ReadingRowView(day=words.short_day(x.on_day), value=x.choice or f"{x.value:g}", note=x.note)
            for x in reversed(mine)
        ],
    )
