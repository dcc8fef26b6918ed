"""A calendar file read with what is known of the school's country: its public holidays, and how many school days are usual."""

from collections.abc import Callable, Mapping, Sequence
from datetime import date

from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_reading
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_reading import CalendarReading
from almanaque.core.school.event_meaning import Holidays
from almanaque.data import public_holidays, usual_school_year
from almanaque.formats.school import calendar_file
from almanaque.formats.school.calendar_file import CalendarIn

MONTH_FIRST = {"US", "PH"}  # countries that write the month before the day: common practice, no source


def read_calendar(
    body: bytes,
    name: str,
    *,
    zone: str,
    country: str = "",
    region: str = "",
    start: date | None = None,
    end: date | None = None,
    own: Mapping[str, Sequence[str]] | None = None,
    reader: Callable[..., CalendarIn] = calendar_file.read,
) -> CalendarReading:
    """Read a file; events that repeat are looked at from `start` to `end`. `own` are the school's words by kind of event.

    Raises BadInput with file and line for what cannot be read, and for a country or region that is not known.
    """
    found = reader(
        body, name, zone=zone, start=start or date.min, end=end or date.max, us=not country or country in MONTH_FIRST
    )
    holidays = holidays_for(found.events, country, region)
    return calendar_reading.read(
        found.events,
        given=found.entries,
        holidays=holidays,
        usual_days=usual_school_year.days(country),
        own=own,
        national=holidays_for(found.events, country, ""),
        regional={} if region else _of_any_region(found.events, country),
    )


def _of_any_region(events: Sequence[Event], country: str) -> Holidays:
    """The public holidays of every part of a country, by day; none without a country."""
    if not country or not events:
        return {}
    first, last = min(event.starts for event in events), max(event.starts for event in events)
    return public_holidays.of_any_region(country, max(first.year, last.year - 4), last.year)


def holidays_for(events: Sequence[Event], country: str, region: str) -> Holidays:
    """The public holidays of the time that events lie in, by day; none without a country."""
    if not country or not events:
        return {}
    years = [event.starts.year for event in events]
    first, last = max(min(years), max(years) - 4), max(years)
    if country not in {code for _, code in public_holidays.countries()}:
        raise BadInput("school.no_holidays_of_country", field="country")
    known = region if region in public_holidays.regions(country) else ""
    return dict(public_holidays.between(country, known, date(first, 1, 1), date(last, 12, 31)))
