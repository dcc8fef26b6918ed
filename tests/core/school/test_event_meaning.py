"""What single titles of school calendars mean. The titles are common practice of school offices, no source."""

from datetime import date, time, timedelta

import pytest

from almanaque.core.school import event_words
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.event_meaning import EventMark, meaning

TUESDAY = date(2026, 11, 3)


def event(
    title: str, days: int = 1, *, begins: time | None = None, lasts: timedelta | None = None, notes: str = ""
) -> Event:
    return Event(title, TUESDAY, TUESDAY + timedelta(days=days - 1), "x.ics, line 3", begins, lasts, notes)


def marks(title: str, days: int = 1, **more: object) -> tuple[EventMark, ...]:
    return meaning(event(title, days, **more), holidays={}, own={})  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("title", "roles"),
    [
        ("No school – Founders' Day", "closed day"),
        ("NO SCHOOL: storm", "closed day"),
        ("First day of school", "first day"),
        ("Students' First Day", "first day"),
        ("Last Day for students", "last day"),
        ("First Day of Spring", "ignored"),
        ("Last day to order lunches", "ignored"),
        ("Back to School Night", "ignored"),
        ("Summer School begins", "ignored"),
        ("Spring Break — no school", "break"),
        ("First day of Winter break", "break begins"),
        ("Spring Recess Ends", "break ends"),
        ("Thanksgiving break begins at the end of the day", "break begins after"),
        ("Last day before Winter Break", "break begins after"),
        ("School breaks up for Easter holidays 1:30pm", "break begins after, half day"),
        ("Classes resume after Winter Break", "back"),
        ("Early release 12:30", "half day"),
        ("Last Day of School - Dismiss at 12:00", "half day, last day"),
        ("Semester 1 Ends - Early Release 12:15 PM", "half day, term ends"),
        ("Two-hour delay", "told"),
        ("Staff training day", "training day"),
        ("Teachers' first day", "training day"),
        ("Student Holiday/Teacher Workday", "training day"),
        ("Teacher appreciation day", "ignored"),
        ("PD Day - students attend", "told"),
        ("Soup day", "feast"),
        ("Garden day - no school", "closed day"),
        ("Autumn term starts", "term begins"),
        ("End of 2nd Quarter", "term ends"),
        ("End of marking period 3", "told"),
        ("Report cards go home", "told"),
        ("Semester exams", "ignored"),
        ("CANCELLED: Staff Development Day", "told"),
        ("Staff Development Day (moved from Oct 2)", "training day"),
        ("Snow make-up day (if needed)", "told"),
        ("Holiday concert", "ignored"),
        ("Breakfast club", "ignored"),
        ("Band practice", "ignored"),
        ("Terminal exam", "ignored"),
        ("Halloween", "ignored"),
        ("Herbstferien", "break"),
        ("Schulschluss um 11.30 Uhr", "half day"),
        ("Letzter Schultag vor den Weihnachtsferien", "break begins after"),
        ("Rentrée des enseignants", "training day"),
        ("Vacances de la Toussaint : fin des cours", "break begins after"),
        ("Fin del ciclo escolar", "last day"),
        ("Día no lectivo", "closed day"),
        ("Termine delle lezioni", "last day"),
        ("Studiedag, alle kinderen vrij", "training day"),
        ("Lovdag", "closed day"),
    ],
)
def test_a_title_has_its_roles(title: str, roles: str) -> None:
    assert ", ".join(mark.role for mark in marks(title)) == roles


def test_a_long_closed_day_is_a_break_and_a_long_span_of_a_terms_name_a_term() -> None:
    assert marks("No school", 5)[0].role == "break"
    assert marks("Second semester", 90)[0].role == "term"
    assert marks("Second semester")[0].role == "told"


@pytest.mark.parametrize(
    ("title", "begins", "notes", "until"),
    [
        ("Early release 1:15 pm", time(12, 0), "", time(13, 15)),
        ("Half day 8:00-11:45", None, "", time(11, 45)),
        ("Half day", time(12, 30), "", time(12, 30)),
        ("Half day", time(8, 0), "", None),
        ("Early dismissal", None, "Students are released at 11:30 a.m.", time(11, 30)),
        ("Noon dismissal", None, "", time(12, 0)),
    ],
)
def test_a_half_day_ends_as_its_words_say_or_when_its_event_begins(
    title: str, begins: time | None, notes: str, until: time | None
) -> None:
    lasts = timedelta(hours=2) if begins else None
    assert marks(title, begins=begins, lasts=lasts, notes=notes)[0].until == until


def test_an_hours_meeting_closes_no_school() -> None:
    short = {"begins": time(15, 0), "lasts": timedelta(hours=2)}
    assert marks("Staff development", **short)[0].role == "ignored"
    assert marks("Thanksgiving", **short)[0].role == "ignored"
    assert marks("No school: staff development", **short)[0].role == "training day"


def test_what_the_title_leaves_open_the_notes_say() -> None:
    assert marks("Regional convention", notes="No school for students.")[0].role == "closed day"
    assert marks("Book fair", notes="No school uniform needed")[0].role == "ignored"


def test_a_week_without_a_word_is_asked_about_by_likelihood() -> None:
    monday = date(2026, 10, 19)

    def likely(title: str) -> float:
        (mark,) = meaning(Event(title, monday, monday + timedelta(days=4), "x"), holidays={}, own={})
        return mark.closed if mark.role == "break" else 0.0

    assert likely("Harvest Week") > 0.5 > likely("Turnip Week") > likely("Spirit Week") == 0.0


def test_a_public_holiday_by_its_name_is_closed_and_one_on_which_many_work_is_asked_about() -> None:
    holidays = {TUESDAY: "Veterans Day", date(2026, 11, 26): "Thanksgiving Day"}
    (asked,) = meaning(event("Veterans Day"), holidays=holidays, own={})
    (sure,) = meaning(Event("Thanksgiving", date(2026, 11, 26), date(2026, 11, 26), "x"), holidays=holidays, own={})
    assert asked.closed < 0.9 < sure.closed


def test_a_schools_own_words_go_before_ours() -> None:
    own = {"closed day": ("moot",), "feast": ("pancake morning",)}
    assert [m.role for m in meaning(event("Moot"), holidays={}, own=own)] == ["closed day"]
    assert [m.role for m in meaning(event("Pancake morning"), holidays={}, own=own)] == ["feast"]
    assert [m.role for m in meaning(event("Smooth"), holidays={}, own=own)] == ["ignored"]


@pytest.mark.parametrize(
    ("title", "found"),
    [
        ("Dismissal at 12:30", time(12, 30)),
        ("Out at 1 pm", time(13, 0)),
        ("Out at 1:15 p.m.", time(13, 15)),
        ("Sortie à 11 h 30", time(11, 30)),
        ("Late start 10 a.m.", time(10, 0)),
        ("Room 31", None),
        ("Bus 25:10", None),
    ],
)
def test_a_time_in_a_title(title: str, found: time | None) -> None:
    assert event_words.time_in(title) == found
