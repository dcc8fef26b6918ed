"""School: daily weather by source, from a file with a preview, and by hand from thermometer, rain gauge and vane."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated, Any, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile
from pydantic import BaseModel

from almanaque.commands.place import readings as commands
from almanaque.core.errors import BadInput
from almanaque.core.place import readings as rules
from almanaque.core.place.readings import Checked, Reading
from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.formats.confined import confined
from almanaque.formats.place import weather_csv
from almanaque.formats.place.weather_columns import MEANINGS, UNITS, Meaning, Unit
from almanaque.formats.place.weather_csv import WeatherTable
from almanaque.formats.table_in import Order
from almanaque.standins.weather import SOURCE_NAME
from almanaque.store import queue
from almanaque.store.place import weather
from almanaque.store.place.weather import SourceKind
from almanaque.store.school import uploads
from almanaque.store.school.uploads import Upload
from almanaque.web import forms, frame, security, table_preview, words
from almanaque.web.place.weather_stations import device_values
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.table_preview import TableColumnView
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Note = Annotated[RequestScope, Depends(may("note"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]

SHOWN_PROBLEMS, SHOWN_ROWS, SHOWN_GAPS = 40, 6, 20
WIND_FROM = (
    "",
    "N",
    "NNE",
    "NE",
    "ENE",
    "E",
    "ESE",
    "SE",
    "SSE",
    "S",
    "SSW",
    "SW",
    "WSW",
    "W",
    "WNW",
    "NW",
    "NNW",
    "calm",
)
MEANING_WORDS: dict[Meaning, str] = {
    "date": "day",
    "year": "year",
    "month": "month",
    "day": "day of the month",
    "tmin": "least temperature",
    "tmax": "greatest temperature",
    "rain": "rain",
    "wind": "wind",
    "soil": "soil temperature",
    "ignored": "left out",
}
UNIT_WORDS: dict[Unit, str] = {
    "C": "°C",
    "F": "°F",
    "mm": "mm",
    "in": "inches",
    "ms": "m/s",
    "kmh": "km/h",
    "mph": "mph",
    "": "",
}
ORDER_WORDS: dict[Order, str] = {"ymd": "year, month, day", "dmy": "day, month, year", "mdy": "month, day, year"}


@dataclass(frozen=True)
class Mapped:
    """A file read by a mapping: its table, what could be, and everything that was left out with the reason."""

    table: WeatherTable
    checked: Checked
    problems: list[tuple[str, str]]


@router.get("/school/weather")
def sources(scope: Look, saved: str = "") -> Response:
    with scope.open() as work:
        return _page(work, saved=saved)


@router.post("/school/weather/import")
@security.takes(size=weather_csv.MOST_BYTES + security.FORM_BYTES)
def send(scope: Plan, file: UploadFile | None = None, source: Annotated[str, Form()] = "") -> Response:
    """Take a file and show how it would be read. Nothing is kept of the weather yet."""
    name, body = forms.file(file)
    with scope.open() as work:
        kept_as = forms.name(source or name.rsplit(".", 1)[0], field="source", most=60)
        upload_id = uuid4()
        confined(weather_csv.split)(body, name, us=work.context.school.units == "us")
        uploads.save(
            work.connection, work.context.school.id, upload_id, "weather", name=name, body=body, source=kept_as
        )
        return frame.go(work, "/school/weather/preview", file=str(upload_id))


@router.get("/school/weather/preview")
def preview(scope: Plan, request: Request, file: str = "") -> Response:
    """How the file is read with the columns and units chosen; choose others and look again."""
    with scope.open() as work:
        upload = uploads.get(work.connection, forms.row_id(file), "weather")
        return _preview(work, upload, request.query_params)


@router.post("/school/weather/save")
def save(
    scope: Plan,
    request: Request,
    upload: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "region",
    use: Annotated[str, Form()] = "",
) -> Response:
    """Store the readings that can be, in one transaction, and let the school's answers rest on them if wanted."""
    with scope.open() as work:
        held = uploads.hold(work.connection, forms.row_id(upload), "weather")
        read = _read(work, held, request.state.form)
        as_kind = cast(SourceKind, forms.one_of(kind, ("garden", "region"), field="kind"))
        commands.keep_file(work.connection, work.context, held.source, read.checked, kind=as_kind, name=read.table.name)
        if use == "yes" or not work.context.school.weather_source:
            weather.choose(work.connection, held.source)
        queue.recompute_school(work.connection, work.context.school.id)
        done = frame.address(work, "/school/weather", saved=held.source)
        uploads.taken(work.connection, held.id, done)
        return frame.arrive(work, done)


class HandReadingForm(BaseModel):
    """What the form sends, as it was typed."""

    day: str = ""
    tmin: str = ""
    tmax: str = ""
    rain: str = ""
    wind: str = ""
    wind_from: str = ""
    soil: str = ""


@router.post("/school/weather/by-hand")
def by_hand(scope: Note, sent: Annotated[HandReadingForm, Form()]) -> Response:
    """One day read at the garden's own thermometer, rain gauge and vane."""
    with scope.open() as work:
        us = work.context.school.units == "us"
        low, high, ground = (
            _celsius(forms.number(text, field=field, what=what), us)
            for text, field, what in (
                (sent.tmin, "tmin", "least_temperature"),
                (sent.tmax, "tmax", "greatest_temperature"),
                (sent.soil, "soil", "soil_temperature"),
            )
        )
        fell = forms.number(sent.rain, field="rain", what="rain")
        speed = forms.number(sent.wind, field="wind", what="wind")
        reading = Reading(
            parse_day(sent.day),
            low,
            high,
            None if fell is None else fell * (25.4 if us else 1),
            None if speed is None else round(speed * (0.44704 if us else 1 / 3.6), 2),
            ground,
            "the form",
        )
        vane = forms.one_of(sent.wind_from, WIND_FROM, field="wind_from") or None
        source = commands.keep_by_hand(work.connection, work.context, reading, wind_from=vane, today=work.today)
        return frame.go(work, "/school/weather", saved=source)


@router.post("/school/weather/station")
def station(scope: Plan) -> Response:
    """Take readings from the simulated station, up to yesterday; in the demo only, where nobody takes them for real."""
    if scope.clock.demo_day is None:
        raise BadInput("place.no_station")
    with scope.open() as work:
        commands.from_simulated_station(work.connection, work.context, today=work.today)
        return frame.go(work, "/school/weather", saved=SOURCE_NAME)


@router.post("/school/weather/use")
def use(scope: Plan, source: Annotated[str, Form()] = "") -> Response:
    """Let the school's answers rest on another source."""
    with scope.open() as work:
        forms.one_of(source, [s.name for s in weather.sources(work.connection)], field="source")
        weather.choose(work.connection, source)
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/weather")


@router.post("/school/weather/delete")
def delete(scope: Plan, source: Annotated[str, Form()] = "", sure: Annotated[str, Form()] = "") -> Response:
    """Take a source out with its readings; the one that answers rest on is kept until another is chosen."""
    with scope.open() as work:
        commands.delete_source(work.connection, work.context, source, sure=sure == "yes")
        return frame.go(work, "/school/weather")


def _read(work: UnitOfWork, upload: Upload, given: Mapping[str, Any]) -> Mapped:
    """The file by the mapping in a form or an address."""
    table = confined(weather_csv.split)(upload.body, upload.name, us=work.context.school.units == "us")
    meanings: dict[int, Meaning] = {}
    units: dict[int, Unit] = {}
    for index in range(len(table.columns)):
        if f"column_{index}" in given:
            meanings[index] = cast(
                Meaning, forms.one_of(str(given[f"column_{index}"]), MEANINGS, field=f"column_{index}")
            )
        if f"unit_{index}" in given:
            units[index] = cast(Unit, forms.one_of(str(given[f"unit_{index}"]), [*UNIT_WORDS], field=f"unit_{index}"))
    order = (
        cast(Order, forms.one_of(str(given["order"]), [*ORDER_WORDS], field="order")) if given.get("order") else None
    )
    table = table.mapped(meanings, units, order)
    found, unread = table.readings()
    checked = rules.check(found, today=work.today)
    problems = sorted(
        [*unread, *((p.where, p.message) for p in checked.problems)], key=lambda row: int(row[0].split()[-1])
    )
    return Mapped(table, checked, problems)


def _preview(work: UnitOfWork, upload: Upload, given: Mapping[str, Any]) -> Response:
    error = ""
    read: Mapped | None = None
    try:
        read = _read(work, upload, given)
        table = read.table
    except BadInput as problem:
        error = problem.message
        table = confined(weather_csv.split)(upload.body, upload.name, us=work.context.school.units == "us")
    if read and read.checked.swapped:
        error = (
            "On most days the least temperature is above the greatest: "
            "the two columns look swapped. Choose for each what it is taken for."
        )
    known = next((s for s in weather.sources(work.connection) if s.name == upload.source), None)
    columns = [
        TableColumnView(
            index=i,
            header=column.header,
            meaning=column.meaning,
            sample=table_preview.sample(table.rows, i),
            unit=column.unit,
            units=[(unit, UNIT_WORDS[unit]) for unit in UNITS.get(column.meaning, ())],
            stated=column.stated,
        )
        for i, column in enumerate(table.columns)
    ]
    values = {
        "upload": str(upload.id),
        "file_name": upload.name,
        "source": upload.source,
        "columns": columns,
        "meanings": [(m, MEANING_WORDS[m]) for m in MEANINGS],
        "orders": list(ORDER_WORDS.items()),
        "order": table.order,
        "ambiguous": table.ambiguous,
        "has_dates": any(c.meaning == "date" for c in table.columns),
        "error": error,
        "result": _result(read, work.context.school.units) if read else None,
        "can_keep": read is not None and not read.checked.swapped and bool(read.checked.readings),
        "known": known,
        "first": not work.context.school.weather_source,
    }
    return frame.page(work, "school", "How the file is read", values, template="place/weather_preview.html", status=200)


@dataclass(frozen=True)
class WeatherResultView(View):
    """Filled by `_result`, read by its template."""

    summary: str
    rows: list[tuple[str, ...]]
    problems: list[tuple[str, str]]
    problem_count: str
    more_problems: int
    gaps: list[str]
    more_gaps: int
    gap_count: str


def _result(read: Mapped, units: Units) -> WeatherResultView:
    """What would be kept, and what would not, in words."""
    kept = read.checked.readings
    gaps = read.checked.gaps
    years = (kept[-1].day - kept[0].day).days / 365.25 if kept else 0
    return WeatherResultView(
        summary=(
            f"{words.count(len(kept), 'day')} can be kept, "
            f"{words.long_day(kept[0].day)} to {words.long_day(kept[-1].day)} ({years:.1f} years)."
        )
        if kept
        else "No day can be kept.",
        rows=[
            (
                words.long_day(r.day),
                *(format_temperature(v, units) if v is not None else "–" for v in (r.tmin_c, r.tmax_c)),
                format_rain(r.rain_mm, units) if r.rain_mm is not None else "–",
            )
            for r in kept[:SHOWN_ROWS]
        ],
        problems=read.problems[:SHOWN_PROBLEMS],
        problem_count=words.count(len(read.problems), "line is left out", "lines are left out"),
        more_problems=max(0, len(read.problems) - SHOWN_PROBLEMS),
        gaps=[_gap(start, end) for start, end in gaps[:SHOWN_GAPS]],
        more_gaps=max(0, len(gaps) - SHOWN_GAPS),
        gap_count=f"{words.count(len(gaps), 'gap')}, {words.count(read.checked.missing_days, 'day')} in all; a gap stays a gap"
        if gaps
        else "",
    )


def _gap(start: Any, end: Any) -> str:
    return words.long_day(start) if start == end else f"{words.long_day(start)} to {words.long_day(end)}"


def _celsius(value: float | None, us: bool) -> float | None:
    return None if value is None else round((value - 32) / 1.8, 2) if us else value


def _page(work: UnitOfWork, *, saved: str) -> Response:
    school = work.context.school
    found = weather.sources(work.connection)
    us = school.units == "us"
    values = {
        "sources": [
            {
                "name": s.name,
                "kind": {"garden": "the garden's own", "region": "regional record", "simulated": "made up from a seed"}[
                    s.kind
                ],
                "about": s.about,
                "days": words.count(s.days, "day"),
                "span": f"{words.long_day(s.first_day)} to {words.long_day(s.last_day)}"
                if s.first_day and s.last_day
                else "",
                "missing": words.count(s.missing, "day missing", "days missing") if s.missing else "",
                "used": s.name == school.weather_source,
                "gaps": [_gap(*gap) for gap in weather.gaps(work.connection, s.name)[:SHOWN_GAPS]] if s.missing else [],
                "by_hand": words.count(s.by_hand, "day by hand", "days by hand") if s.by_hand else "",
            }
            for s in found
        ],
        "wind_unit": "mph" if us else "km/h",
        "degree": "°F" if us else "°C",
        "rain_unit": "in" if us else "mm",
        "winds": WIND_FROM,
        "today_text": work.today.isoformat(),
        "saved": saved if saved in {s.name for s in found} else "",
        "recent": _side_by_side(work, found),
        "typed": work.context.typed,
        **device_values(work),
    }
    return frame.page(work, "school", "Weather", values, template="place/weather.html")


@dataclass(frozen=True)
class SideBySideView(View):
    """Filled by `_side_by_side`, read by its template."""

    names: list[str]
    lines: list[tuple[str, list[str]]]


def _side_by_side(work: UnitOfWork, found: list[weather.Source]) -> SideBySideView:
    """The last seven days of every source beside each other."""
    units, start = work.context.school.units, work.day - timedelta(days=6)
    names = [s.name for s in found if s.days]
    by_day: dict[Any, dict[str, weather.WeatherDay]] = {}
    for name in names:
        for row in weather.days(work.connection, name, start, work.day):
            by_day.setdefault(row.day, {})[name] = row
    lines = []
    for day in sorted(by_day, reverse=True):
        cells = []
        for name in names:
            found_row = by_day[day].get(name)
            shown = (
                []
                if found_row is None
                else [
                    f"{format_temperature(found_row.tmin_c, units)} to {format_temperature(found_row.tmax_c, units)}"
                    if found_row.tmin_c is not None and found_row.tmax_c is not None
                    else "",
                    f"{format_rain(found_row.rain_mm, units)} rain" if found_row.rain_mm else "",
                    f"wind {found_row.wind_from}" if found_row.wind_from else "",
                ]
            )
            cells.append(words.joined(shown) or "–")
        lines.append((words.weekday_day(day), cells))
    return SideBySideView(names=names, lines=lines)
