from importlib.resources import files
from zoneinfo import ZoneInfo

import pytest

from almanaque.data import places, zones


def test_the_table_is_small_whole_and_on_earth() -> None:
    assert (files("almanaque.data") / "places.tsv.gz").stat().st_size < 3_000_000  # type: ignore[attr-defined]
    rows, keys, _ = places._table()
    assert len(rows) > 60_000
    assert keys == sorted(keys)
    assert all(-90 <= p.latitude <= 90 and -180 <= p.longitude <= 180 and p.name and len(p.country) == 2 for p in rows)
    for zone in places.zones():
        ZoneInfo(zone)


@pytest.mark.parametrize(
    ("asked", "name", "zone", "latitude"),
    [
        ("utica, new york", "Utica", "America/New_York", 43.1),
        ("Utica, United States", "Utica", "America/New_York", 43.1),
        ("sao paulo", "São Paulo", "America/Sao_Paulo", -23.5),
        ("Reykjavík", "Reykjavík", "Atlantic/Reykjavik", 64.1),
        ("christchurch, new z", "Christchurch", "Pacific/Auckland", -43.5),
    ],
)
def test_a_town_is_found_by_the_beginning_of_its_name(asked: str, name: str, zone: str, latitude: float) -> None:
    """Coordinates of well-known towns to a tenth of a degree, from memory."""
    found = places.find(asked)[0]
    assert (found.name, found.zone) == (name, zone)
    assert found.latitude == pytest.approx(latitude, abs=0.1)


def test_the_largest_comes_first_and_nonsense_finds_nothing() -> None:
    assert [p.country for p in places.find("London")][:1] == ["GB"]
    assert len(places.find("san")) == places.SHOWN
    assert places.find("x") == places.find("zzzzzz") == places.find("") == []


def test_weeks_begin_as_the_country_has_it_and_on_monday_where_none_is_known() -> None:
    assert zones.week_begins("America/New_York") == 6
    assert zones.week_begins("Europe/Oslo") == 0
    assert zones.week_begins("Nowhere/At all") == 0
    assert {zones.week_begins(zone) for zone in places.zones()} <= set(range(7))
