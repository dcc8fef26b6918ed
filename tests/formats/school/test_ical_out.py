"""What is written is read back by a parser of other make (vobject) and by our own import."""

from datetime import UTC, date, datetime

import vobject

from almanaque.formats.school import ical_in, ical_out
from almanaque.formats.school.ical_out import DayEvent

STAMP = datetime(2027, 4, 14, 9, 30, tzinfo=UTC)
EVENTS = [
    DayEvent("a", "No school: Winter break; snow, ice", date(2026, 12, 19), date(2027, 1, 3), "break", "no school"),
    DayEvent("b", "Soup day — 140 bowls " + "of kale and beans " * 6, date(2026, 11, 18), date(2026, 11, 18)),
]


def test_an_independent_parser_reads_the_same_events() -> None:
    text = ical_out.write(
        "Brindlecombe, calendar", EVENTS, stamp=STAMP, address="https://garden.example/school"
    ).decode()
    calendar = vobject.readOne(text)
    found = {e.uid.value: e for e in calendar.vevent_list}
    assert set(found) == {"a@almanaque", "b@almanaque"}
    assert found["a@almanaque"].summary.value == EVENTS[0].name
    assert found["a@almanaque"].dtstart.value == date(2026, 12, 19)
    assert found["a@almanaque"].dtend.value == date(2027, 1, 4)  # the first day on which it is over
    assert found["b@almanaque"].summary.value == EVENTS[1].name
    assert calendar.contents["x-wr-calname"][0].value == "Brindlecombe, calendar"
    assert all(len(line.encode()) <= 75 for line in text.splitlines())
    assert "\n" not in text.replace("\r\n", "")


def test_our_own_import_reads_the_same_days() -> None:
    body = ical_out.write("x", EVENTS, stamp=STAMP)
    found = ical_in.read(body, "x.ics", zone="America/New_York", start=date(2026, 1, 1), end=date(2027, 12, 31))
    assert [(e.starts, e.ends) for e in found] == [
        (date(2026, 11, 18), date(2026, 11, 18)),
        (date(2026, 12, 19), date(2027, 1, 3)),
    ]


def test_the_same_events_give_the_same_bytes() -> None:
    assert ical_out.write("x", EVENTS, stamp=STAMP) == ical_out.write("x", EVENTS, stamp=STAMP)
