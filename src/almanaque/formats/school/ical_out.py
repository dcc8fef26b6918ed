"""The school calendar and the garden's plan as an iCalendar file (RFC 5545): all-day events with steady ids."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

PRODUCT = "-//Almanaque//School garden calendar//EN"


@dataclass(frozen=True)
class DayEvent:
    """An all-day event; `key` stays the same as long as the row it comes from."""

    key: str
    name: str
    starts: date
    ends: date
    about: str = ""
    category: str = ""


def write(name: str, events: Iterable[DayEvent], *, stamp: datetime, address: str = "") -> bytes:
    """The file. `stamp` is the instant (UTC) it speaks for; `address` leads back to the page it comes from."""
    import icalendar  # only for those who read a calendar

    calendar = icalendar.Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    calendar.add("x-wr-calname", icalendar.vText(name))
    for given in events:
        event = icalendar.Event()
        event.add("uid", f"{given.key}@almanaque")
        event.add("dtstamp", stamp)
        event.add("summary", given.name)
        event.add("dtstart", given.starts)
        event.add("dtend", given.ends + timedelta(days=1))
        event.add("transp", "TRANSPARENT")
        if given.category:
            event.add("categories", [given.category])
        if given.about:
            event.add("description", given.about)
        if address:
            event.add("url", address)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
