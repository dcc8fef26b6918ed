"""Whatever somebody types, reading it takes no longer than its length: twice as much takes about twice as long, never four times."""

import time
from collections.abc import Callable
from contextlib import suppress
from datetime import date

import pytest
from fastapi.testclient import TestClient

from almanaque.commands.school import history_import
from almanaque.core.crops import crop_fields, crop_form
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import grid_of, parse_cells
from almanaque.core.harvest import money, picking
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.event_meaning import meaning
from almanaque.core.school.written_days import ListReader
from almanaque.core.units import parse_length, parse_mass, parse_size, parse_temperature
from almanaque.formats import table_in
from almanaque.formats.place import weather_columns
from almanaque.formats.school import calendar_file
from almanaque.web import forms
from tests.web.pages import post

DAY = date(2026, 9, 1)
GRID = grid_of(2400, 1200, 300, (), ())
READERS: dict[str, Callable[[str], object]] = {
    "length": parse_length,
    "mass": parse_mass,
    "size": parse_size,
    "temperature": parse_temperature,
    "squares": lambda text: parse_cells(text, GRID),
    "money": lambda text: money.parse(text, "USD"),
    "amount of a picking": lambda text: picking.parse_amount(text, "lb"),
    "amount of earlier years": lambda text: history_import._amount({"amount": text}),
    "volume": lambda text: forms.volume(text, "us", field="volume"),
    "outline": lambda text: forms.outline(text, "us", 2400, 1200, field="outline"),
    "column of weather": weather_columns.guessed,
    "name of a column": table_in.plain_name,
    "day of a table": lambda text: table_in.read_day(text, order="dmy"),
    "line of a table": table_in._delimiter,
    "whole number": lambda text: forms.whole(text, field="x", least=0, most=9, what="x"),
    "number": lambda text: forms.number(text, field="x", what="x"),
    "title of an event": lambda text: meaning(Event(text[:80], DAY, DAY, "x", notes=text[:400]), holidays={}, own={}),
    "line of a pasted list": lambda text: ListReader(day_first=True, year=2026).events(
        [(1, text[: calendar_file.LONGEST_LINE])], "x"
    ),
} | {
    f"crop: {entry.kind}": lambda text, entry=entry: crop_form.read(entry, text, "us", ["direct"])  # type: ignore[misc]
    for entry in crop_fields.ENTRIES.values()
}
# What made patterns go back and forth: runs of what two parts of a pattern both take, and an end that neither does.
SPOILED = [
    "1" + " " * 7,
    " ",
    "1 ",
    "(",
    "[",
    "-",
    " - ",
    "1/",
    "a",
    "a.",
    "1,",
    "9",
    "A1 - ",
    "x ",
    "by ",
    "'",
    "é",
    "1:",
    "no school ",
    "staff pd ",
    "december 1",
    "grades 1, ",
]


def seconds(reader: Callable[[str], object], text: str) -> float:
    """CPU that reading takes, the best of three [s]."""
    best = float("inf")
    for _ in range(3):
        began = time.process_time()
        with suppress(BadInput, ValueError, OverflowError):
            reader(text)
        best = min(best, time.process_time() - began)
    return best


@pytest.mark.parametrize("name", READERS)
def test_reading_takes_time_in_proportion(name: str) -> None:
    reader = READERS[name]
    for part in SPOILED:
        for end in ("", "!"):
            short, long = (part * (length // len(part)) + end for length in (4_000, 32_000))
            took, longer = seconds(reader, short), seconds(reader, long)
            # Eight times as much: eight times as long by length, sixty-four by its square. What is too short to tell is quick enough.
            assert longer < 0.02 or longer < 24 * max(took, 1e-4), (part, end, took, longer)


def test_a_value_of_ten_thousand_characters_in_a_line_is_refused_at_once(coordinator: TestClient) -> None:
    page = post(coordinator, "/school/partners", name="x" * 10_001)
    assert (page.status, "longer than 10,000 characters" in page.text) == (422, True)
