"""Daily weather from a table: which column holds what, in which unit, and the readings that follow.

Columns and units are guessed from the header and shown; a person may say otherwise before anything is kept. A day stands
in one column, or in three: year, month and day.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from almanaque.core.errors import BadInput
from almanaque.core.place.readings import Reading
from almanaque.formats import table_in
from almanaque.formats.place.weather_columns import UNITS, Meaning, Unit, WeatherColumn, guess
from almanaque.formats.table_in import Order

MOST_BYTES = 8_000_000
MOST_LINES = 120_000

MISSING = frozenset(
    {"", "na", "nan", "n/a", "null", "none", "-", "--", "m", "-99", "-999", "-9999", "-99.9", "-999.9", "9999"}
)


@dataclass(frozen=True)
class WeatherTable:
    """A file split into cells; `first_line` is the number of the first row's line."""

    name: str
    columns: tuple[WeatherColumn, ...]
    order: Order
    ambiguous: bool
    rows: tuple[tuple[int, tuple[str, ...]], ...]

    def mapped(self, meanings: Mapping[int, Meaning], units: Mapping[int, Unit], order: Order | None) -> "WeatherTable":
        """The same table read as a person says. Raises BadInput when two columns are taken for the same."""
        columns = tuple(
            replace(
                c,
                meaning=meanings.get(n, c.meaning),
                unit=_unit_or_usual(meanings.get(n, c.meaning), units.get(n, c.unit)),
            )
            for n, c in enumerate(self.columns)
        )
        return replace(self, columns=columns, order=order or self.order)

    def readings(self) -> tuple[list[Reading], list[tuple[str, str]]]:
        """The readings line by line in °C, mm and m/s, and the lines whose day or number cannot be read, with the reason.

        Raises BadInput when a day or every temperature is missing from the columns.
        """
        at = self._places()
        found, unread = [], []
        for number, cells in self.rows:
            where = f"line {number}"
            try:
                day = _day(cells, at, self.order)
                values = {
                    meaning: _value(cells, at[meaning], self.columns[at[meaning]].unit)
                    for meaning in ("tmin", "tmax", "rain", "wind", "soil")
                    if meaning in at
                }
            except _Unread as error:
                unread.append((where, str(error)))
                continue
            found.append(
                Reading(
                    day,
                    values.get("tmin"),
                    values.get("tmax"),
                    values.get("rain"),
                    values.get("wind"),
                    values.get("soil"),
                    where,
                )
            )
        return found, unread

    def _places(self) -> dict[str, int]:
        at: dict[str, int] = {}
        for index, column in enumerate(self.columns):
            if column.meaning == "ignored":
                continue
            if column.meaning in at:
                raise BadInput(
                    "place.two_columns_for_one",
                    name=self.name,
                    meaning=column.meaning,
                    first=self.columns[at[column.meaning]].header,
                    second=column.header,
                )
            at[column.meaning] = index
        if "date" not in at and not {"year", "month", "day"} <= at.keys():
            raise BadInput("place.no_day_column", name=self.name)
        if not {"tmin", "tmax", "rain"} & at.keys():
            raise BadInput("place.no_value_column", name=self.name)
        return at


def split(body: bytes, name: str, *, us: bool) -> WeatherTable:
    """The file as cells with a guess for every column. `us` settles a date that can be read both ways as month/day.

    Raises BadInput with file and line for what is no such table or is too large.
    """
    table = table_in.read(
        body,
        name,
        most_bytes=MOST_BYTES,
        most_rows=MOST_LINES,
        too_many="place.export_daily_values",
        comments=True,
    )
    if not table.rows:
        raise BadInput("place.no_readings", name=name)
    columns = guess(table.header)
    if not any(c.meaning in ("date", "year") for c in columns):
        raise BadInput("place.weather_header", where=table.where(table.header_line))
    rows = table.rows
    columns = _settle_units(columns, rows)
    order, ambiguous = _order(columns, rows, us)
    return WeatherTable(name, tuple(columns), order, ambiguous, rows)


class _Unread(Exception):
    """A cell that is none of what it should be."""


def _settle_units(columns: Sequence[WeatherColumn], rows: Sequence[tuple[int, tuple[str, ...]]]) -> list[WeatherColumn]:
    """Units that no header names: a greatest temperature above 50 is °F, and rain then inches."""
    hottest = -math.inf
    for index, column in enumerate(columns):
        if column.meaning in ("tmin", "tmax"):
            hottest = max([hottest, *_numbers(cells[index] for _, cells in rows if index < len(cells))])
    stated = {c.unit for c in columns if c.stated}
    fahrenheit = "F" in stated or ("C" not in stated and hottest > 50)
    usual: dict[Meaning, Unit] = {
        "tmin": "F" if fahrenheit else "C",
        "tmax": "F" if fahrenheit else "C",
        "soil": "F" if fahrenheit else "C",
        "rain": "in" if fahrenheit else "mm",
        "wind": "mph" if fahrenheit else "ms",
    }
    return [c if c.unit else replace(c, unit=usual.get(c.meaning, "")) for c in columns]


def _numbers(cells: Iterable[str]) -> list[float]:
    found = []
    for cell in cells:
        try:
            found.append(_number(cell))
        except _Unread:
            continue
    return [value for value in found if value is not None]


def _order(
    columns: Sequence[WeatherColumn], rows: Sequence[tuple[int, tuple[str, ...]]], us: bool
) -> tuple[Order, bool]:
    """In which order a day is written, and whether the file leaves that open."""
    index = next((n for n, c in enumerate(columns) if c.meaning == "date"), None)
    if index is None:
        return "ymd", False
    return table_in.day_order((cells[index] for _, cells in rows if index < len(cells)), us=us)


def _day(cells: Sequence[str], at: Mapping[str, int], order: Order) -> date:
    try:
        if "date" not in at:
            return date(*(int(float(cells[at[part]])) for part in ("year", "month", "day")))
        return table_in.read_day(cells[at["date"]], order=order)
    except (ValueError, IndexError, OverflowError):
        shown = " ".join(cells[:3] if "date" not in at else cells[at["date"] : at["date"] + 1])[:30]
        raise _Unread(f"“{shown}” is not a day in the calendar") from None


def _value(cells: Sequence[str], index: int, unit: Unit) -> float | None:
    if index >= len(cells):
        return None
    value = _number(cells[index])
    if value is None:
        return None
    match unit:
        case "F":
            return round((value - 32) / 1.8, 3)
        case "in":
            return round(value * 25.4, 3)
        case "kmh":
            return round(value / 3.6, 3)
        case "mph":
            return round(value * 0.44704, 3)
    return value


def _number(cell: str) -> float | None:
    if cell.casefold() in MISSING:
        return None
    text = cell.replace(",", ".") if cell.count(",") == 1 and "." not in cell else cell
    if text.casefold() in ("t", "trace"):  # of rain: too little to measure
        return 0.0
    try:
        value = float(text)
    except ValueError:
        raise _Unread(f"“{cell[:20]}” is not a number") from None
    if not math.isfinite(value):
        raise _Unread(f"“{cell[:20]}” is not a number")
    return value


def _unit_or_usual(meaning: Meaning, unit: Unit) -> Unit:
    allowed = UNITS.get(meaning, ())
    return unit if unit in allowed else (allowed[0] if allowed else "")
