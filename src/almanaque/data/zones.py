"""The time zone of a country or region, by the largest town in it. Regions of the United States follow from the table of towns, those of
Canada and Australia are from memory."""

from functools import cache

from babel import Locale, UnknownLocaleError

from almanaque.data import places

MONDAY = 0
_BY_REGION = {
    ("CA", "BC"): "America/Vancouver",
    ("CA", "AB"): "America/Edmonton",
    ("CA", "SK"): "America/Regina",
    ("CA", "MB"): "America/Winnipeg",
    ("CA", "NS"): "America/Halifax",
    ("CA", "NB"): "America/Halifax",
    ("CA", "PE"): "America/Halifax",
    ("CA", "NL"): "America/St_Johns",
    ("AU", "QLD"): "Australia/Brisbane",
    ("AU", "VIC"): "Australia/Melbourne",
    ("AU", "SA"): "Australia/Adelaide",
    ("AU", "WA"): "Australia/Perth",
    ("AU", "TAS"): "Australia/Hobart",
    ("AU", "NT"): "Australia/Darwin",
}


@cache
def of(country: str, region: str = "") -> str:
    """An IANA time zone; UTC for a country that the table of towns does not have."""
    if (country, region) in _BY_REGION:
        return _BY_REGION[(country, region)]
    name = _state_name(region) if country == "US" and region else ""
    return next(
        (town.zone for town in places.by_size() if town.country == country and (not name or town.region == name)),
        "UTC",
    )


@cache
def country_of(zone: str) -> str:
    """The country in which a time zone's largest town lies; empty for one that the table of towns does not have."""
    return next((town.country for town in places.by_size() if town.zone == zone), "")


def _state_name(code: str) -> str:
    import holidays

    names: dict[str, str] = holidays.country_holidays("US").subdivisions_aliases
    return next((name for name, known in names.items() if known == code), "")


@cache
def week_begins(zone: str) -> int:
    """The weekday on which calendars of the zone's country begin a week, 0 for Monday. **Source:** CLDR, by the library Babel."""
    try:
        return Locale.parse(f"und_{country_of(zone)}").first_week_day
    except (UnknownLocaleError, ValueError):  # no country, or one where nobody lives
        return MONDAY
