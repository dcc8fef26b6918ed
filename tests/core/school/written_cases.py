"""Titles of calendar events and calendars of a few lines, kept as text; what each is read as stands in `tests/core/answers`.

A title or a calendar is written for a rule, and what came out was read by eye before it was kept.
"""

import re
from collections.abc import Iterator
from datetime import date, datetime, time
from pathlib import Path

from almanaque.commands.school import calendar_file
from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import CalendarEntry
from almanaque.core.school.calendar_reading import CalendarQuestion
from almanaque.core.school.event_meaning import EventMark, meaning

HERE = Path(__file__).parent
HOLIDAYS = {
    date(2026, 10, 12): "Columbus Day",
    date(2026, 11, 26): "Thanksgiving Day",
    date(2026, 12, 25): "Christmas Day",
}
REGIONAL = {date(2026, 11, 2): "All Souls' Day"}
OWN = {"closed day": ["Canyon day"], "half day": ["chestnut"], "feast": ["old fair"]}
TITLE = re.compile(r"(\S+?)(?:\.\.(\S+))? (?:(\d\d:\d\d)-(\d\d:\d\d) )?(.*?)(?: // (.*))?")


def titles() -> Iterator[str]:
    """Each title with the roles that it has."""
    for line in (HERE / "event_titles.txt").read_text(encoding="utf-8").splitlines():
        if not line.startswith("#"):
            found = meaning(_event(line), holidays=HOLIDAYS, own=OWN, regional=REGIONAL)
            yield f"{line} -> {' + '.join(map(_role, found))}"


def _event(line: str) -> Event:
    got = TITLE.fullmatch(line)
    assert got is not None, line
    first = date.fromisoformat(got[1])
    begins, lasts = None, None
    if got[3]:
        begins, ends = (time.fromisoformat(got[part]) for part in (3, 4))
        lasts = datetime.combine(first, ends) - datetime.combine(first, begins)
    return Event(got[5], first, date.fromisoformat(got[2] or got[1]), "list", begins, lasts, got[6] or "")


def _role(mark: EventMark) -> str:
    parts = [
        mark.role,
        f"of {mark.term.unit} {mark.term.number or '?'}" if mark.term else "",
        f"for {mark.audience}" if mark.audience != "all" else "",
        f"until {mark.until:%H:%M}" if mark.until else "",
        f"closed {mark.closed:g}" if mark.closed < 1 else "",
        f"told {mark.why}" if mark.why else "",
        "summer" if mark.summer else "",
    ]
    return ", ".join(part for part in parts if part)


def calendars() -> Iterator[str]:
    """Each calendar with its entries, what is asked of it and what is told."""
    for block in (HERE / "small_calendars.txt").read_text(encoding="utf-8").split("\n== ")[1:]:
        head, _, body = block.partition("\n")
        name, _, country = head.partition(" [")
        yield name
        try:
            reading = calendar_file.read_calendar(
                f"{body.strip()}\n".encode(),
                "list.txt",
                zone="UTC",
                country=country.rstrip("]"),
                start=date(2026, 1, 1),
                end=date(2029, 1, 1),
            )
        except BadInput as error:
            yield f"  refused: {error.message}"
            continue
        yield from (f"  {_entry(entry)}" for entry in reading.entries)
        yield from (f"  asked {_question(asked)}" for asked in reading.questions)
        yield from (f"  told: {told}" for told in reading.told)


def _entry(entry: CalendarEntry) -> str:
    spans = ", ".join(f"{starts}" if starts == ends else f"{starts} to {ends}" for starts, ends in entry.spans)
    return f"{entry.kind}: {entry.name}, {spans}" + (f", until {entry.until:%H:%M}" if entry.until else "")


def _question(asked: CalendarQuestion) -> str:
    of = f"of {asked.about or 'it'}{', of years' if asked.of_years else ''}"
    answers = "".join(f" {answer.says}: {answer.kind}, {answer.school_days} days." for answer in asked.answers)
    return f"{of}: {asked.asks}{answers}"
