from datetime import date

import pytest

from almanaque.data import public_holidays
from tests.refuses import refuses

YEAR = (date(2026, 8, 1), date(2027, 7, 31))


def test_every_country_and_its_first_region_can_be_asked() -> None:
    assert len(public_holidays.countries()) > 100
    for name, code in public_holidays.countries():
        for region in ("", *public_holidays.regions(code)[:1]):
            found = public_holidays.between(code, region, *YEAR)
            assert all(YEAR[0] <= day <= YEAR[1] and words.strip() for day, words in found), (name, region)


@pytest.mark.parametrize(
    ("country", "region", "day", "name"),
    [
        ("NO", "", date(2027, 5, 17), "Constitution Day"),
        ("NZ", "", date(2027, 2, 6), "Waitangi Day"),
        ("US", "NY", date(2027, 5, 31), "Memorial Day"),
        ("DE", "BY", date(2026, 11, 1), "All Saints' Day"),
    ],
)
def test_well_known_days_are_among_them(country: str, region: str, day: date, name: str) -> None:
    """Dates from memory. A day may have two names at once."""
    assert name in dict(public_holidays.between(country, region, *YEAR))[day]


def test_unknown_countries_and_regions_are_refused() -> None:
    with refuses("school.no_holidays_of_country"):
        public_holidays.regions("XX")
    with refuses("school.region_of_other_country"):
        public_holidays.between("NO", "NY", *YEAR)
