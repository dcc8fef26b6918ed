"""Where on earth a crop grows wild, where it is brought in, and where it is fought: by regions, coarse on purpose.

In comes a table of regions by crop; out comes what a crop is in the region of a school. A local list goes before.
"""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, cast, get_args

from almanaque.core.crops.crop import Crop

Region = Literal["europe", "asia", "africa", "north-america", "south-america", "oceania"]
REGIONS: tuple[Region, ...] = get_args(Region)


@dataclass(frozen=True)
class NativeRange:
    """Regions in which each crop is native, and those in which it is fought, with a few words on how."""

    native: Mapping[str, frozenset[Region]]
    invasive: Mapping[str, Mapping[Region, str]]

    def native_to(self, crop: Crop) -> list[Region]:
        """Regions in the order of the table; of a variety those of its kind. Empty where nobody said."""
        known = self.native.get(crop.kind, frozenset())
        return [region for region in REGIONS if region in known]

    def is_native(self, crop: Crop, region: Region) -> bool:
        return region in self.native.get(crop.kind, frozenset())

    def fought(self, crop: Crop, region: Region) -> str:
        """How it runs wild in a region where it is fought; empty where it is not."""
        return self.invasive.get(crop.kind, {}).get(region, "")


def read(text: str) -> NativeRange:
    """The table from its TOML. Raises ValueError for a region that is none."""
    raw = tomllib.loads(text)
    named = {region for regions in (*raw["native"].values(), *raw["invasive"].values()) for region in regions}
    if strange := named - set(REGIONS):
        raise ValueError(f"{min(strange)} is no region")
    return NativeRange({crop: frozenset(regions) for crop, regions in raw["native"].items()}, raw["invasive"])


def region_of(latitude: float, longitude: float) -> Region:
    """The region of a place by straight lines along the seas; on islands between two of them it may be the other one.

    >>> region_of(42.3, -71.1), region_of(-33.4, -70.7), region_of(51.5, 0), region_of(-1.3, 36.8)
    ('north-america', 'south-america', 'europe', 'africa')
    """
    if longitude < -30:
        if longitude < -140 and latitude < 30:
            return "oceania"
        return "north-america" if latitude >= 7.5 else "south-america"
    if (
        (longitude > 110 and latitude < -10)
        or (longitude > 141 and latitude < 0)
        or (longitude > 150 and latitude < 24)
    ):
        return "oceania"
    return cast(Region, _old_world(latitude, longitude))


def _old_world(latitude: float, longitude: float) -> str:
    if longitude < 34.5:
        aegean = latitude > 34.5 and longitude > 19
        barbary = latitude < 37.4 and -2 < longitude < 11.5
        if not aegean and (latitude < 36 or barbary):
            return "africa"
    elif latitude < 12.5 and longitude < 52:
        return "africa"
    if (
        longitude > 60
        or (longitude > 27 and latitude < 41.5)
        or (longitude > 40 and latitude < 43)
        or (longitude > 45 and latitude < 50)
    ):
        return "asia"
    return "europe"
