"""Public holidays by the law of a country and region. **Source:** the library `holidays`; a school may work on any of them."""

from collections.abc import Mapping
from datetime import date
from functools import cache, lru_cache

from babel import Locale

from almanaque.core.errors import BadInput


@cache
def countries() -> list[tuple[str, str]]:
    """Countries whose holidays are known, as (name, code) by name."""
    names = Locale("en").territories
    return sorted((str(names[code]), code) for code in _supported() if code in names)


def regions(country: str) -> list[str]:
    """Codes of the regions that have holidays of their own; raises BadInput for a country that is not known."""
    if country not in _supported():
        raise BadInput("school.no_holidays_of_country", field="country")
    return _supported()[country]


def between(country: str, region: str, start: date, end: date) -> list[tuple[date, str]]:
    """Holidays from `start` to `end` with their names, in English where the library has them.

    Raises BadInput for a country that is not known and for a region that does not belong to it.
    """
    import holidays  # only here and below, since reading it takes longer than most pages

    if region and region not in regions(country):
        raise BadInput("school.region_of_other_country", field="region")
    years = list(range(start.year, end.year + 1))
    try:
        found = holidays.country_holidays(country, subdiv=region or None, years=years, language="en_US")
    except (NotImplementedError, KeyError):
        found = holidays.country_holidays(country, subdiv=region or None, years=years)
    return sorted((day, " ".join(name.split())[:80]) for day, name in found.items() if start <= day <= end)


@lru_cache(maxsize=64)
def of_any_region(country: str, first: int, last: int) -> Mapping[date, str]:
    """By day, the names of all holidays that some region of the country keeps from year `first` to year `last`."""
    found: dict[date, dict[str, None]] = {}
    for region in regions(country):
        for day, name in between(country, region, date(first, 1, 1), date(last, 12, 31)):
            found.setdefault(day, {})[name] = None
    return {day: "; ".join(names) for day, names in found.items()}


@cache
def _supported() -> dict[str, list[str]]:
    import holidays

    return dict(holidays.list_supported_countries(include_aliases=False))
