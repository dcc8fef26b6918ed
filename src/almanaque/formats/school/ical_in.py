"""Read an iCalendar file (RFC 5545): events as days of the school's zone, repetitions expanded within a window.

What could make a small file large is refused before anything is expanded: too many bytes or events, rules finer than
daily, and rules that would repeat too often.
"""

import contextlib
import re
from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo, available_timezones

from almanaque.core.errors import BadInput
from almanaque.core.school.calendar_event import Event
from almanaque.formats import text_file

MOST_BYTES = 2_000_000
MOST_EVENTS = 5_000
MOST_REPETITIONS = 20_000  # of all rules together, counted from each first occurrence to the window's end
LONGEST_DAYS = 400  # an event longer than that is no event of a school calendar
_FINE = re.compile(r"(?:FREQ=(?:SECONDLY|MINUTELY|HOURLY)|BY(?:SECOND|MINUTE|HOUR)=)", re.I)
_PERIOD_DAYS = {"DAILY": 1, "WEEKLY": 7, "MONTHLY": 28, "YEARLY": 365}
_PER_PERIOD = {"DAILY": 1, "WEEKLY": 7, "MONTHLY": 31, "YEARLY": 366}


def read(body: bytes, name: str, *, zone: str, start: date, end: date) -> list[Event]:
    """Events that touch the days from `start` to `end`, in order.

    All-day events keep their days, others are taken in the school's `zone`. Raises BadInput with file and line for what
    is broken, too large, or would repeat too often.
    """
    import icalendar  # both of them only for those who bring a file in
    import recurring_ical_events

    text = text_file.read(body, name, most_bytes=MOST_BYTES)
    lines = text.splitlines()
    _refuse_hostile(lines, name)
    try:
        calendars = icalendar.Calendar.from_ical(text, multiple=True)
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as error:
        raise BadInput("school.not_a_readable_calendar", name=name, line=_line_of(lines, error)) from error
    where = _places(lines, name)
    local = ZoneInfo(zone)
    found: list[Event] = []
    repetitions = 0
    for calendar in calendars:
        if getattr(calendar, "name", "") != "VCALENDAR":
            raise BadInput("school.not_a_calendar", name=name)
        for component in calendar.walk("VEVENT"):
            place = where.get(str(component.get("UID", "")), name)
            _check(component, place)
            repetitions += _repetitions(component, end, place)
            if repetitions > MOST_REPETITIONS:
                raise BadInput("school.too_many_repetitions", place=place, most=MOST_REPETITIONS)
        _drop_older_versions(calendar)
        inclusive = _writes_last_days(calendar)
        try:
            for event in recurring_ical_events.of(calendar).between(start, end + timedelta(days=1)):
                found.append(_event(event, local, where.get(str(event.get("UID", "")), name), inclusive=inclusive))
                if len(found) > MOST_EVENTS:
                    raise BadInput("school.ical_too_many_events", name=name, most=MOST_EVENTS)
        except BadInput:
            raise
        except (
            Exception
        ) as error:  # the libraries below raise many kinds for rules and zones that contradict themselves
            raise BadInput("school.ical_contradiction", name=name) from error
    return sorted(found, key=lambda event: (event.starts, event.name))


def said_zone(body: bytes) -> str:
    """The time zone a file names for itself; empty if it names none that is known."""
    text = body.decode("utf-8", "replace")
    for pattern in (r"^X-WR-TIMEZONE:(.+)$", r"TZID=\"?([^:;\"]+)", r"^TZID:(.+)$"):
        found = re.search(pattern, text, re.M | re.I)
        if found and found[1].strip() in available_timezones():
            return found[1].strip()
    return ""


def days_named(body: bytes) -> tuple[date, date] | None:
    """The first and the last day on which an event of a file begins, by its first occurrence; None without any."""
    days = []
    for found in re.findall(rb"^DTSTART[^:\r\n]*:(\d{4})(\d{2})(\d{2})", body, re.M | re.I):
        with contextlib.suppress(ValueError):
            days.append(date(*(int(part) for part in found)))
    return (min(days), max(days)) if days else None


def _refuse_hostile(lines: list[str], name: str) -> None:
    """Everything that can be seen without parsing or expanding."""
    first = next((line for line in lines if line.strip()), "")
    if first.strip().upper() != "BEGIN:VCALENDAR":
        raise BadInput("school.not_a_calendar", name=name)
    events = 0
    opened: list[tuple[str, int]] = []
    for number, line in _unfolded(lines):
        upper = line.upper().strip()
        if upper.startswith("BEGIN:"):
            opened.append((upper[6:], number))
        elif upper.startswith("END:"):
            if not opened or opened[-1][0] != upper[4:]:
                raise BadInput("school.ical_closes_nothing", name=name, number=number, what=upper[:40])
            opened.pop()
        if upper.startswith("BEGIN:VEVENT"):
            events += 1
            if events > MOST_EVENTS:
                raise BadInput("school.ical_line_too_many_events", name=name, number=number, most=MOST_EVENTS)
        if upper.startswith(("RRULE", "EXRULE")):
            if _FINE.search(line):
                raise BadInput("school.ical_by_the_hour", name=name, number=number)
            if re.search(r"INTERVAL=0*(?:;|$)", upper):
                raise BadInput("school.ical_every_0_days", name=name, number=number)
        elif upper.startswith(("RDATE", "EXDATE")) and line.count(",") > MOST_EVENTS:
            raise BadInput("school.ical_too_many_days", name=name, number=number, most=MOST_EVENTS)
    if opened:
        what, number = opened[-1]
        raise BadInput("school.ical_never_ends", name=name, number=number, what=what[:40])


def _unfolded(lines: list[str]) -> Iterator[tuple[int, str]]:
    """Logical lines with the number of their first line (RFC 5545, 3.1)."""
    number, held = 1, ""
    for at, line in enumerate(lines, start=1):
        if line[:1] in (" ", "\t"):
            held += line[1:]
            continue
        if held:
            yield number, held
        number, held = at, line
    if held:
        yield number, held


def _places(lines: list[str], name: str) -> dict[str, str]:
    """File and line of each event, by its UID."""
    found: dict[str, str] = {}
    began = 1
    for number, line in _unfolded(lines):
        if line.upper().startswith("BEGIN:VEVENT"):
            began = number
        elif line.upper().startswith("UID"):
            found.setdefault(line.partition(":")[2].strip(), f"{name}, line {began}")
    return found


def _line_of(lines: list[str], error: Exception) -> int:
    """The line an error of the parser speaks of: it quotes the text but does not count."""
    quoted = re.findall(r"'([^']{3,})'|\"([^\"]{3,})\"", str(error))
    wanted = [part.strip() for pair in quoted for part in pair if part]
    return next((n for n, line in enumerate(lines, start=1) for part in wanted if part[:60] in line), len(lines))


def _check(component: Any, place: str) -> None:
    if component.errors:
        what, why = component.errors[0]
        raise BadInput("school.ical_value_unreadable", place=place, what=what or "content", why=str(why)[:120])
    starts = component.get("DTSTART")
    if starts is None:
        raise BadInput("school.ical_without_first_day", place=place)
    first, last = _as_instant(starts.dt), _as_instant(component["DTEND"].dt) if "DTEND" in component else None
    if last is not None and last < first:
        raise BadInput("school.ical_ends_before_start", place=place)
    if last is not None and (last - first).days > LONGEST_DAYS:
        raise BadInput("school.ical_too_long", place=place, most=LONGEST_DAYS)


def _repetitions(component: Any, end: date, place: str) -> int:
    """The most an event can repeat from its first day to the window's end, by its rule alone."""
    rules = component.get("RRULE")
    total = 1
    for rule in rules if isinstance(rules, list) else [rules] if rules else []:
        freq = str((rule.get("FREQ") or ["?"])[0])
        if freq not in _PERIOD_DAYS:
            raise BadInput("school.ical_repeats_unknown", place=place, freq=freq[:20])
        interval = max(1, int((rule.get("INTERVAL") or [1])[0]))
        days = max(0, (end - _day(component["DTSTART"].dt)).days)
        several = any(str(key).startswith("BY") for key in rule)
        bound = (days // (_PERIOD_DAYS[freq] * interval) + 1) * (_PER_PERIOD[freq] if several else 1)
        if rule.get("COUNT"):
            bound = min(bound, int(rule["COUNT"][0]))
        total += bound
    return total


def _event(event: Any, local: ZoneInfo, place: str, *, inclusive: bool) -> Event:
    """One occurrence as local days: an end at midnight belongs to the day before."""
    name = " ".join(str(event.get("SUMMARY", "")).split())[:80] or "Without a name"
    cancelled = str(event.get("STATUS", "")).upper() == "CANCELLED"
    notes = " ".join(f"{event.get('DESCRIPTION', '')} {_categories(event)}".split())[:400]
    starts = event["DTSTART"].dt
    ends = event["DTEND"].dt if "DTEND" in event else starts
    if isinstance(starts, datetime):
        if _whole_days(event, starts, ends):
            first, last = starts.date(), max(starts.date(), (ends - timedelta(days=1)).date())
            return Event(name, first, last, place, notes=notes, cancelled=cancelled)
        from_, until = (_in_zone(moment, local) for moment in (starts, ends))
        begins, lasts = from_.time().replace(second=0, microsecond=0), until - from_
        if until > from_ and until.time() == time(0):
            until -= timedelta(seconds=1)
        return Event(name, from_.date(), until.date(), place, begins, lasts, notes, cancelled)
    # The last day of an all-day event is the first on which it is over; some programs write the last day itself.
    last = ends if inclusive else ends - timedelta(days=1)
    return Event(name, starts, max(starts, last), place, notes=notes, cancelled=cancelled)


def _categories(event: Any) -> str:
    found = event.get("CATEGORIES")
    parts = found if isinstance(found, list) else [found] if found else []
    return " ".join(part.to_ical().decode("utf-8", "replace") for part in parts)


def _whole_days(event: Any, starts: datetime, ends: datetime) -> bool:
    """Whole days written as times: marked so by the program, or from midnight to midnight where they are written."""
    if str(event.get("X-MICROSOFT-CDO-ALLDAYEVENT", "")).upper() == "TRUE":
        return True
    return starts.time() == ends.time() == time(0) and ends > starts


def _drop_older_versions(calendar: Any) -> None:
    """Of an event given several times under one UID the latest counts (RFC 5545, 3.8.7.4)."""
    best: dict[tuple[str, str], Any] = {}
    for component in list(calendar.walk("VEVENT")):
        uid = str(component.get("UID", ""))
        if not uid:
            continue
        key = (uid, str(getattr(component.get("RECURRENCE-ID"), "dt", "")))
        before = best.get(key)
        if before is None:
            best[key] = component
            continue
        older, newer = sorted((before, component), key=_version)
        best[key] = newer
        if _version(older) != _version(newer):
            calendar.subcomponents.remove(older)


def _version(component: Any) -> tuple[int, str]:
    stamp = component.get("LAST-MODIFIED") or component.get("DTSTAMP")
    return int(component.get("SEQUENCE", 0) or 0), str(getattr(stamp, "dt", ""))


def _writes_last_days(calendar: Any) -> bool:
    """True for a program that writes the last day of an all-day event as its end: then some end on the day they start, none on the next."""
    same = next_day = 0
    for component in calendar.walk("VEVENT"):
        starts, ends = component.get("DTSTART"), component.get("DTEND")
        if starts is None or ends is None or isinstance(starts.dt, datetime):
            continue
        same += ends.dt == starts.dt
        next_day += ends.dt - starts.dt == timedelta(days=1)
    return same > 0 and next_day == 0


def _in_zone(moment: date, local: ZoneInfo) -> datetime:
    if not isinstance(moment, datetime):
        return datetime.combine(moment, time(0), local)
    return moment.replace(tzinfo=local) if moment.tzinfo is None else moment.astimezone(local)


def _day(moment: date) -> date:
    return moment.date() if isinstance(moment, datetime) else moment


def _as_instant(moment: date) -> datetime:
    if isinstance(moment, datetime):
        return moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    return datetime.combine(moment, time(0), UTC)
