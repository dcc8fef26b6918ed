"""Days as the rules write them in English."""

from datetime import date, timedelta

MONTH_NAMES = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)

FOR_YEARS = timedelta(days=3 * 365)  # what stands longer stays for years, in words


def day_of(value: date | str) -> date:
    """A day, also as a stored finding writes it: 2027-04-14."""
    return value if isinstance(value, date) else date.fromisoformat(value)


def short_day(day: date) -> str:
    """A day as findings write it: `14 Apr`."""
    return f"{day.day} {MONTH_NAMES[day.month - 1][:3]}"


def span(start: date, end: date) -> str:
    """`2 – 9 Jun`, `28 May – 9 Jun`"""
    if start == end:
        return short_day(start)
    if (start.year, start.month) == (end.year, end.month):
        return f"{start.day} – {short_day(end)}"
    return f"{short_day(start)} – {short_day(end)}"


def until(day: date, since: date) -> str:
    """How long something stands that came on a day: `until 14 Apr`, or `for years`."""
    return "for years" if day - since > FOR_YEARS else f"until {short_day(day)}"
