"""Examples of RFC 5545 (Desruisseaux, 2009): recurrence rules of section 3.8.5.3, folding of 3.1, all-day event of 3.6.1.

Rules and the dates they are to give as printed there, from memory of the text; every rule starts 2 September 1997, 9:00 in
New York, unless it says otherwise.
"""

from datetime import date

import pytest

from almanaque.formats.school import ical_in

HEAD = "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\nBEGIN:VEVENT\r\nUID:1\r\nSUMMARY:x\r\n"
FOOT = "END:VEVENT\r\nEND:VCALENDAR\r\n"


def days(body: str, start: str = "1997-01-01", end: str = "1999-12-31") -> list[str]:
    text = HEAD + body + FOOT
    window = {"start": date.fromisoformat(start), "end": date.fromisoformat(end)}
    return [str(event.starts) for event in ical_in.read(text.encode(), "x.ics", zone="America/New_York", **window)]


def rule(text: str, start: str = "19970902T090000", **window: str) -> list[str]:
    return days(f"DTSTART;TZID=America/New_York:{start}\r\nRRULE:{text}\r\n", **window)


def of(year_month: str, *numbers: int) -> list[str]:
    return [f"{year_month}-{number:02}" for number in numbers]


@pytest.mark.parametrize(
    ("text", "printed"),
    [
        ("FREQ=DAILY;COUNT=10", of("1997-09", *range(2, 12))),
        ("FREQ=DAILY;INTERVAL=10;COUNT=5", of("1997-09", 2, 12, 22) + of("1997-10", 2, 12)),
        ("FREQ=WEEKLY;COUNT=10", of("1997-09", 2, 9, 16, 23, 30) + of("1997-10", 7, 14, 21, 28) + of("1997-11", 4)),
        (
            "FREQ=WEEKLY;UNTIL=19971007T000000Z;WKST=SU;BYDAY=TU,TH",
            of("1997-09", 2, 4, 9, 11, 16, 18, 23, 25, 30) + of("1997-10", 2),
        ),
        (
            "FREQ=MONTHLY;COUNT=6;BYDAY=-2MO",
            of("1997-09", 22)
            + of("1997-10", 20)
            + of("1997-11", 17)
            + of("1997-12", 22)
            + of("1998-01", 19)
            + of("1998-02", 16),
        ),
        (
            "FREQ=MONTHLY;COUNT=10;BYMONTHDAY=2,15",
            [f"{m}-{d}" for m in ("1997-09", "1997-10", "1997-11", "1997-12", "1998-01") for d in ("02", "15")],
        ),
    ],
)
def test_a_rule_gives_the_printed_days(text: str, printed: list[str]) -> None:
    first = {"FREQ=MONTHLY;COUNT=6;BYDAY=-2MO": "19970922T090000"}.get(text, "19970902T090000")
    assert rule(text, first) == printed


def test_daily_until_december_24() -> None:
    found = rule("FREQ=DAILY;UNTIL=19971224T000000Z")
    assert (found[0], found[-1], len(found)) == ("1997-09-02", "1997-12-23", 113)


def test_the_first_friday_of_ten_months() -> None:
    printed = [
        "1997-09-05",
        "1997-10-03",
        "1997-11-07",
        "1997-12-05",
        "1998-01-02",
        "1998-02-06",
        "1998-03-06",
        "1998-04-03",
        "1998-05-01",
        "1998-06-05",
    ]
    assert rule("FREQ=MONTHLY;COUNT=10;BYDAY=1FR", "19970905T090000") == printed


def test_every_thursday_in_march() -> None:
    found = rule("FREQ=YEARLY;BYMONTH=3;BYDAY=TH", "19970313T090000", end="1998-12-31")
    assert found == of("1997-03", 13, 20, 27) + of("1998-03", 5, 12, 19, 26)


def test_every_friday_the_thirteenth() -> None:
    text = (
        "DTSTART;TZID=America/New_York:19970902T090000\r\nEXDATE;TZID=America/New_York:19970902T090000\r\n"
        "RRULE:FREQ=MONTHLY;BYDAY=FR;BYMONTHDAY=13\r\n"
    )
    assert days(text, end="2000-12-31") == ["1998-02-13", "1998-03-13", "1998-11-13", "1999-08-13", "2000-10-13"]


def test_an_all_day_event_ends_before_its_dtend() -> None:
    body = "DTSTART;VALUE=DATE:20070628\r\nDTEND;VALUE=DATE:20070709\r\n"
    (event,) = ical_in.read(
        (HEAD + body + FOOT).encode(), "x.ics", zone="America/New_York", start=date(2007, 1, 1), end=date(2007, 12, 31)
    )
    assert (event.starts, event.ends) == (date(2007, 6, 28), date(2007, 7, 8))


def test_a_folded_line_is_one_line() -> None:
    text = (
        HEAD.replace("SUMMARY:x", "SUMMARY:Spring bre\r\n ak begins\\, no\r\n\t school")
        + "DTSTART;VALUE=DATE:19970324\r\n"
        + FOOT
    )
    (event,) = ical_in.read(
        text.encode(), "x.ics", zone="America/New_York", start=date(1997, 1, 1), end=date(1997, 12, 31)
    )
    assert event.name == "Spring break begins, no school"


@pytest.mark.parametrize(
    ("stamp", "zone", "day"),
    [
        ("19980310T033000Z", "America/New_York", "1998-03-09"),  # the evening before, in the school's zone
        ("19980405T063000Z", "America/New_York", "1998-04-05"),  # 1:30, before the clocks go forward
        ("19980405T073000Z", "America/New_York", "1998-04-05"),  # 3:30, after
        ("19980310T113000Z", "Pacific/Auckland", "1998-03-11"),
    ],
)
def test_a_time_in_utc_falls_on_the_schools_own_day(stamp: str, zone: str, day: str) -> None:
    text = HEAD + f"DTSTART:{stamp}\r\n" + FOOT
    (event,) = ical_in.read(text.encode(), "x.ics", zone=zone, start=date(1998, 1, 1), end=date(1998, 12, 31))
    assert str(event.starts) == day
