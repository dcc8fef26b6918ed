"""Any calendar that a school office gives: an iCalendar file, a table, or a list as it stands on a web page, by what is in it."""

import re
from dataclasses import dataclass
from datetime import date, time, timedelta

from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import MOST_ROWS, CalendarEntry
from almanaque.core.school.written_days import ListReader, day_first
from almanaque.core.words.plain_words import plain
from almanaque.formats import table_in, text_file
from almanaque.formats.school import calendar_csv, ical_in
from almanaque.formats.table_in import TableIn

MOST_BYTES = calendar_csv.MOST_BYTES
LONGEST_LINE = 400  # signs of a line that are looked at; our own rule
_HEADINGS = {
    "name": (
        "name|event|title|subject|summary|holiday|occasion|event name|what|ereignis|bezeichnung|titel|"
        "anlass|evenement|evento|nombre|titre|descripcion|libelle|description|event title|"
        "event description|details|omschrijving|naam"
    ),
    "start": (
        "start|start date|starts|from|date|first day|begin|begins|begin date|day|datum|beginn|von|"
        "start datum|startdatum|debut|date de debut|du|inicio|fecha|fecha inicio|fecha de inicio|desde|"
        "inizio|data|dal|begindatum|van"
    ),
    "end": (
        "end|end date|ends|to|until|last day|through|ende|bis|end datum|enddatum|fin|date de fin|au|"
        "fecha fin|fecha de fin|hasta|termino|fine|al|einddatum|tot"
    ),
    "begins": "start time|time|startzeit|uhrzeit|heure|hora|ora|tijd|begins at",
    "ends": "end time|endzeit|heure de fin|hora fin|ends at",
    "notes": "notes|note|description|comment|comments|category|categories|type|status|bemerkung|details",
    "all_day": "all day|all day event|allday",
}
_COLUMNS = {part: tuple(headings.split("|")) for part, headings in _HEADINGS.items()}


@dataclass(frozen=True)
class CalendarIn:
    """What a file holds: entries whose kind it says itself, or events whose meaning is to be found."""

    entries: tuple[CalendarEntry, ...]
    events: tuple[Event, ...]


def read(body: bytes, name: str, *, zone: str, start: date, end: date, us: bool) -> CalendarIn:
    """Entries or events of a file, from `start` to `end` where they repeat. Days of two numbers are month first if `us`, unless the file
    shows otherwise.

    Raises BadInput with file and line for what cannot be read.
    """
    if is_ical(body, name):
        return CalendarIn((), tuple(ical_in.read(body, name, zone=zone, start=start, end=end)))
    text = text_file.read(body, name, most_bytes=MOST_BYTES).lstrip("\ufeff")
    lines = [(n, line[:LONGEST_LINE]) for n, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if len(lines) > MOST_ROWS:
        raise BadInput("school.too_many_events", most=MOST_ROWS)
    if any(mark in lines[0][1] for mark in ",;\t"):
        found = _table(body, name, us)
        if found is not None:
            return found
    return CalendarIn((), _list(lines, name, us))


def is_ical(body: bytes, name: str) -> bool:
    """By its first line, or its name."""
    return body.lstrip(b"\xef\xbb\xbf \r\n\t")[:6].upper() == b"BEGIN:" or name.lower().endswith((".ics", ".ical"))


def _table(body: bytes, name: str, us: bool) -> CalendarIn | None:
    """A table whose first line names its columns; None for one that does not."""
    table = table_in.read(
        body, name, most_bytes=MOST_BYTES, most_rows=MOST_ROWS, too_many="school.export_calendar_alone"
    )
    header = [cell.casefold() for cell in table.header]
    if "kind" in header and "start" in header and "name" in header:
        return _with_kinds(table)
    places = _places(table.header)
    if "name" not in places or "start" not in places:
        return None
    events = []
    order, _ = table_in.day_order((_cell(cells, places, "start") for _, cells in table.rows), us=us)
    reader = ListReader(day_first=order != "mdy", year=None)
    for number, cells in table.rows:
        event = _event(cells, places, table.where(number), order, reader)
        if event is not None:
            events.append(event)
    if table.rows and not events:
        return None
    return CalendarIn((), tuple(events))


def _with_kinds(table: TableIn) -> CalendarIn:
    """Our own table; lines without a kind are events."""
    entries = calendar_csv.entries(table)
    if all(kind for kind, _ in entries):
        return CalendarIn(tuple(entry for _, entry in entries), ())
    events = [Event(e.name, e.starts, e.ends, e.where) for kind, e in entries if not kind]
    return CalendarIn(tuple(entry for kind, entry in entries if kind), tuple(events))


def _places(header: tuple[str, ...]) -> dict[str, int]:
    names = [plain(table_in.plain_name(cell)) for cell in header]
    found: dict[str, int] = {}
    for meaning, others in _COLUMNS.items():
        at = next(
            (names.index(other) for other in others if other in names and names.index(other) not in found.values()),
            None,
        )
        if at is not None:
            found[meaning] = at
    return found


def _cell(cells: tuple[str, ...], places: dict[str, int], meaning: str) -> str:
    at = places.get(meaning)
    return cells[at] if at is not None and at < len(cells) else ""


def _event(
    cells: tuple[str, ...], places: dict[str, int], where: str, order: table_in.Order, reader: ListReader
) -> Event | None:
    name, first = _cell(cells, places, "name"), _cell(cells, places, "start")
    if not name or not first:
        return None
    notes = _cell(cells, places, "notes")
    try:
        starts = table_in.read_day(first, order=order)
        last = _cell(cells, places, "end")
        ends = table_in.read_day(last, order=order) if last else starts
    except (ValueError, TypeError):
        spans = reader.events(
            [(1, f"{first} - {last}  {name}" if (last := _cell(cells, places, "end")) else f"{first}  {name}")], where
        )
        if not spans:
            raise BadInput("school.entry_not_a_day", where=where, text=first[:20]) from None
        return Event(name[:80], spans[0].starts, spans[0].ends, where, notes=notes)
    if ends < starts:
        raise BadInput("school.entry_ends_before_start", where=where, name=name)
    begins, until = _clock(_cell(cells, places, "begins")), _clock(_cell(cells, places, "ends"))
    if _cell(cells, places, "all_day").casefold() in ("true", "yes", "1", "wahr"):
        begins = None
    lasts = None
    if begins is not None:
        lasts = timedelta(hours=1)
        if until is not None and until > begins:
            lasts = timedelta(hours=until.hour - begins.hour, minutes=until.minute - begins.minute)
    return Event(name[:80], starts, ends, where, begins, lasts, notes[:400])


def _clock(text: str) -> time | None:
    """A time of day in a cell; None for none."""
    parts = text.strip().lower().replace(".", "").split()
    if not parts:
        return None
    digits = parts[0].rstrip("apm").split(":")
    if not all(part.isdigit() for part in digits) or len(digits) < 2:
        return None
    hour, minute = int(digits[0]), int(digits[1])
    if text.strip().lower().replace(".", "").endswith("pm") and hour < 12:
        hour += 12
    elif text.strip().lower().replace(".", "").endswith("am") and hour == 12:
        hour = 0
    return time(hour, minute) if hour < 24 and minute < 60 else None


def _list(lines: list[tuple[int, str]], name: str, us: bool) -> tuple[Event, ...]:
    texts = [re.sub(r";(?! [a-z])", "  ", text, flags=re.I).replace("\t", "  ").replace('"', " ") for _, text in lines]
    reader = ListReader(day_first=day_first(texts, not us), year=None)
    numbered = [(number, text) for (number, _), text in zip(lines, texts, strict=True)]
    return tuple(reader.events(numbered, name))
