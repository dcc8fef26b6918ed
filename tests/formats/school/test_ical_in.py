"""Calendar files that are broken, hostile or merely odd: a sentence with file and line, before anything is expanded."""

import time
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.formats.school import ical_in
from tests.refuses import refuses

WINDOW = {"zone": "America/New_York", "start": date(2026, 1, 1), "end": date(2028, 12, 31)}
GOOD = "DTSTART;VALUE=DATE:20260902\r\n"


def calendar(*bodies: str) -> bytes:
    events = "".join(
        f"BEGIN:VEVENT\r\nUID:{n}\r\nSUMMARY:Event {n}\r\n{body}END:VEVENT\r\n" for n, body in enumerate(bodies)
    )
    return f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n{events}END:VCALENDAR\r\n".encode()


def read(body: bytes) -> list:
    return ical_in.read(body, "school.ics", **WINDOW)


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"", "files.file_empty"),
        (b"name,start\n", "school.not_a_calendar"),
        (b"\x89PNG\r\n\x1a\n\0\0", "files.not_utf8"),
        (calendar(GOOD).replace(b"Event 0", b"F\xeate"), "files.not_utf8"),
        (calendar(GOOD)[:-40], "school.ical_never_ends"),
        (calendar(GOOD).replace(b"END:VEVENT\r\n", b""), "school.ical_closes_nothing"),
        (calendar("DTSTART;VALUE=DATE:20270229\r\n"), "school.ical_value_unreadable"),
        (calendar("DTSTART:20260902T250000\r\n"), "school.ical_value_unreadable"),
        (calendar("SUMMARY:x\r\n"), "school.ical_without_first_day"),
        (
            calendar("DTSTART;VALUE=DATE:20260902\r\nDTEND;VALUE=DATE:20260801\r\n"),
            "school.ical_ends_before_start",
        ),
        (calendar("DTSTART;VALUE=DATE:20260902\r\nDTEND;VALUE=DATE:20290801\r\n"), "school.ical_too_long"),
        (calendar(GOOD, GOOD + "RRULE:FREQ=SECONDLY\r\n"), "school.ical_by_the_hour"),
        (calendar(GOOD + "RRULE:FREQ=MINUTELY;COUNT=3\r\n"), "school.ical_by_the_hour"),
        (calendar(GOOD + "RRULE:FREQ=DAILY;BYSECOND=1,2,3\r\n"), "school.ical_by_the_hour"),
        (
            calendar(GOOD + "RRULE:FREQ=DA\r\n ILY;BYHOUR=1\r\n"),
            "school.ical_by_the_hour",
        ),  # folded in the middle of the word
        (calendar(GOOD + "RRULE:FREQ=DAILY;INTERVAL=0\r\n"), "school.ical_every_0_days"),
        (calendar(GOOD + "RRULE:FREQ=NEVER\r\n"), "school.ical_value_unreadable"),
        (calendar("DTSTART;VALUE=DATE:00010101\r\nRRULE:FREQ=DAILY\r\n"), "school.too_many_repetitions"),
        (calendar(GOOD + "RDATE;VALUE=DATE:" + ",".join(["20260903"] * 5002) + "\r\n"), "school.ical_too_many_days"),
    ],
)
def test_what_is_broken_or_hostile_is_refused_with_file_and_line(body: bytes, says: str) -> None:
    with refuses(says):
        read(body)


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"BEGIN:VCALENDAR\r\n" + b"X-A:" + b"y" * 2_000_001, "files.file_too_large"),
        (calendar(*[GOOD] * 5001), "school.ical_line_too_many_events"),
        (calendar(*[GOOD + "RRULE:FREQ=DAILY\r\n"] * 60), "school.too_many_repetitions"),
        (
            calendar(*["DTSTART;VALUE=DATE:20260902\r\nRRULE:FREQ=YEARLY;BYDAY=MO,TU,WE,TH,FR,SA,SU\r\n"] * 40),
            "school.too_many_repetitions",
        ),
    ],
)
def test_what_is_too_large_is_refused_before_it_is_expanded(body: bytes, says: str) -> None:
    began = time.process_time()
    with refuses(says):
        read(body)
    assert time.process_time() - began < 10  # expanding the last of these takes far longer


def test_events_outside_the_window_are_not_looked_at() -> None:
    assert read(calendar("DTSTART;VALUE=DATE:20190902\r\n")) == []


def test_a_moved_or_cancelled_occurrence_is_as_its_calendar_says() -> None:
    series = "DTSTART;VALUE=DATE:20260902\r\nRRULE:FREQ=WEEKLY;COUNT=3\r\nEXDATE;VALUE=DATE:20260909\r\n"
    text = calendar(series).replace(
        b"END:VCALENDAR",
        (
            b"BEGIN:VEVENT\r\nUID:0\r\nSUMMARY:Event "
            b"0\r\nRECURRENCE-ID;VALUE=DATE:20260916\r\nDTSTART;VALUE=DATE:20260918\r\nEND:VEVENT\r\nEND:VCALENDAR"
        ),
    )
    assert [str(e.starts) for e in read(text)] == ["2026-09-02", "2026-09-18"]


def test_a_day_with_a_change_of_clocks_is_one_day() -> None:
    for stamp in ("20270314T020000", "20271107T013000"):  # a time that does not exist, and one that comes twice
        (event,) = read(calendar(f"DTSTART;TZID=America/New_York:{stamp}\r\nDURATION:PT1H\r\n"))
        assert (event.starts, event.ends) == (date(int(stamp[:4]), int(stamp[4:6]), int(stamp[6:8])),) * 2


def test_an_all_day_event_whose_end_is_its_last_day_lasts_that_day() -> None:
    (event,) = read(calendar("DTSTART;VALUE=DATE:20261219\r\nDTEND;VALUE=DATE:20261219\r\n"))
    assert (event.starts, event.ends) == (date(2026, 12, 19), date(2026, 12, 19))


def test_a_name_is_one_line_and_not_without_end() -> None:
    (event,) = read(calendar("DTSTART;VALUE=DATE:20260902\r\n").replace(b"Event 0", b"A\\n   B " + b"x" * 500))
    assert event.name.startswith("A B x")
    assert len(event.name) == 80


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_a_damaged_file_is_read_or_refused_never_a_fault(data: st.DataObject) -> None:
    body = bytearray(
        calendar(
            GOOD + "RRULE:FREQ=WEEKLY;COUNT=4\r\n",
            "DTSTART;TZID=Europe/Oslo:20260902T100000\r\nDTEND;TZID=Europe/Oslo:20260902T110000\r\n",
        )
    )
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(body) - 1))
        body[at] = data.draw(st.integers(1, 255))
    said = ""
    try:
        found = read(bytes(body))
    except BadInput as error:
        found, said = None, error.message
    assert isinstance(found, list) or "school.ics" in said
