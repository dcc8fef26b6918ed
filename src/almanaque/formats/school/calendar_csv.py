"""The school calendar as a table `kind,name,start,end`, in and out."""

from collections.abc import Iterable
from dataclasses import replace
from datetime import date

from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import KINDS, MOST_ROWS, CalendarEntry, EventKind
from almanaque.core.school.event_meaning import meaning
from almanaque.core.school.school_year import SchoolYear
from almanaque.formats import csv_table, table_in
from almanaque.formats.table_in import TableIn

MOST_BYTES = 2_000_000
COLUMNS = ("kind", "name", "start", "end")
# Other words for the kinds, as offices write them.
_ALSO: dict[str, EventKind] = {
    "closure": "closed day",
    "closed": "closed day",
    "holiday": "closed day",
    "no school": "closed day",
    "vacation": "break",
    "half-day": "half day",
    "summer program": "summer programme",
    "semester": "term",
    "ignore": "ignored",
}
_KIND_OF_CLOSURE = {"break": "break", "holiday": "closed day", "training day": "training day"}


def read(body: bytes, name: str) -> list[CalendarEntry]:
    """Entries in the order of the file. An empty or unknown kind is told by the name.

    Raises BadInput with file and line for missing columns, days that are none, and more than 5,000 lines.
    """
    table = table_in.read(
        body, name, most_bytes=MOST_BYTES, most_rows=MOST_ROWS, too_many="school.export_calendar_alone"
    )
    return [entry if kind else replace(entry, kind=_by_name(entry)) for kind, entry in entries(table)]


def entries(table: TableIn) -> list[tuple[EventKind | None, CalendarEntry]]:
    """Each line with the kind it says; None where it says none that is known, and the entry is ignored then."""
    header = [cell.lower() for cell in table.header]
    missing = [column for column in COLUMNS[1:3] if column not in header]
    if missing:
        raise BadInput(
            "school.calendar_column_missing", name=table.name, missing=tuple(missing), columns=",".join(COLUMNS)
        )
    found = []
    for line, cells in table.rows:
        row = dict(zip(header, cells, strict=False))
        kind = _kind(row.get("kind", ""))
        found.append((kind, _entry(row, table.where(line), kind or "ignored")))
    return found


def write(year: SchoolYear) -> str:
    """A school year as a table that `read` takes back."""
    rows: list[tuple[str, str, date, date]] = [
        *((term.kind or "term", term.name, term.starts, term.ends) for term in year.terms),
        *((_KIND_OF_CLOSURE.get(c.kind, "closed day"), c.name, c.starts, c.ends) for c in year.closures),
        *(("half day", half.name, half.day, half.day) for half in year.half_days),
        *(("feast", feast.name, feast.starts, feast.ends) for feast in year.feasts),
    ]
    return csv_table.write(COLUMNS, sorted(rows, key=lambda row: (row[2], row[0])))


def _entry(cells: dict[str, str], where: str, kind: EventKind) -> CalendarEntry:
    name = " ".join(cells.get("name", "").split())[:80]
    if not name:
        raise BadInput("school.calendar_name_missing", where=where)
    starts = _day(cells.get("start", ""), where)
    ends = _day(cells.get("end", "") or cells["start"], where)
    if ends < starts:
        raise BadInput("school.entry_ends_before_start", where=where, name=name)
    return CalendarEntry(kind, name, ((starts, ends),), where)


def _by_name(entry: CalendarEntry) -> EventKind:
    found = meaning(Event(entry.name, entry.starts, entry.ends, entry.where), holidays={}, own={})[0].role
    return next((kind for kind in KINDS if kind == found), "ignored")


def _kind(given: str) -> EventKind | None:
    said = given.strip().lower()
    same: Iterable[EventKind] = (kind for kind in KINDS if kind == said)
    return next(iter(same), None) or _ALSO.get(said)


def _day(text: str, where: str) -> date:
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise BadInput("school.entry_not_a_day", where=where, text=text.strip()[:20]) from None
