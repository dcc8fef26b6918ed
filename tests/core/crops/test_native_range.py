import pytest

from almanaque.core.crops.native_range import REGIONS, read, region_of
from almanaque.core.crops.own_crops import OwnCrop, with_own
from almanaque.data import catalogue, native_range

CROPS = catalogue()
WILD = native_range()

# Towns by what anybody would call their region; on the edges, the line that is drawn. Common knowledge, no source.
PLACES = {
    "europe": [(51.5, 0.0), (38.7, -9.1), (64.1, -21.9), (37.9, 23.7), (35.3, 25.1), (60.2, 24.9), (55.8, 37.6)],
    "asia": [
        (39.9, 32.9),
        (31.8, 35.2),
        (41.7, 44.8),
        (28.6, 77.2),
        (35.7, 139.7),
        (-6.2, 106.8),
        (1.3, 103.8),
        (24.7, 46.7),
    ],
    "africa": [
        (36.8, 10.2),
        (33.9, -6.9),
        (30.0, 31.2),
        (-1.3, 36.8),
        (-33.9, 18.4),
        (9.0, 38.7),
        (6.5, 3.4),
        (36.75, 3.1),
    ],
    "north-america": [(42.3, -71.1), (19.4, -99.1), (9.9, -84.1), (61.2, -149.9), (18.5, -69.9), (64.2, -51.7)],
    "south-america": [(-33.4, -70.7), (4.7, -74.1), (-23.5, -46.6), (-12.0, -77.0)],
    "oceania": [(-33.9, 151.2), (-36.8, 174.8), (21.3, -157.9), (-9.4, 147.2), (-18.1, 178.4), (-31.9, 115.9)],
}


@pytest.mark.parametrize("region", REGIONS)
def test_a_town_lies_in_its_region(region: str) -> None:
    assert [place for place in PLACES[region] if region_of(*place) != region] == []


def test_every_crop_is_native_somewhere_and_fought_only_where_it_is_not() -> None:
    assert set(WILD.native) == set(CROPS.crops)
    assert set(WILD.invasive) <= set(CROPS.crops)
    assert all(WILD.native_to(crop) for crop in CROPS)
    both = {
        (crop.key, region)
        for crop in CROPS
        for region in REGIONS
        if WILD.fought(crop, region) and WILD.is_native(crop, region)
    }
    assert both == set()


@pytest.mark.parametrize(
    ("crop", "native", "not_native"),
    [
        ("tomato", "south-america", "europe"),
        ("sunflower", "north-america", "europe"),
        ("carrot", "europe", "north-america"),
        ("soybean", "asia", "south-america"),
        ("watermelon", "africa", "asia"),
        ("yarrow", "north-america", "oceania"),
    ],
)
def test_a_crop_is_native_where_it_comes_from(crop: str, native: str, not_native: str) -> None:
    assert WILD.is_native(CROPS[crop], native)  # type: ignore[arg-type]
    assert not WILD.is_native(CROPS[crop], not_native)  # type: ignore[arg-type]


def test_a_variety_of_the_schools_own_comes_from_where_its_kind_does() -> None:
    mine = with_own(CROPS, [OwnCrop("tall-sunchoke", "sunchoke", {"name": "Tall sunchoke"})])["tall-sunchoke"]
    assert WILD.native_to(mine) == ["north-america"]
    assert "rivers" in WILD.fought(mine, "europe")
    assert WILD.fought(mine, "asia") == ""


def test_a_region_that_is_none_is_a_mistake() -> None:
    with pytest.raises(ValueError, match="atlantis"):
        read('[native]\nkale = ["atlantis"]\n[invasive]\n')


# Each line that is drawn between two regions, a step on either side of it: latitude, longitude, region.
LINES = [
    (29.9, -140.1, "oceania"),
    (30.0, -140.1, "north-america"),
    (29.9, -140.0, "north-america"),
    (7.5, -80.0, "north-america"),
    (7.4, -80.0, "south-america"),
    (0.0, -30.1, "south-america"),
    (0.0, -30.0, "africa"),
    (-10.1, 110.1, "oceania"),
    (-10.0, 110.1, "asia"),
    (-10.1, 110.0, "asia"),
    (-0.1, 141.1, "oceania"),
    (0.0, 141.1, "asia"),
    (-0.1, 141.0, "asia"),
    (23.9, 150.1, "oceania"),
    (24.0, 150.1, "asia"),
    (23.9, 150.0, "asia"),
    (34.6, 19.1, "europe"),
    (34.5, 19.1, "africa"),
    (35.5, 19.0, "africa"),
    (35.9, -5.0, "africa"),
    (36.0, -5.0, "europe"),
    (37.3, -1.9, "africa"),
    (37.3, -2.0, "europe"),
    (37.4, 5.0, "europe"),
    (37.3, 11.4, "africa"),
    (37.3, 11.5, "europe"),
    (20.0, 34.4, "africa"),
    (20.0, 34.5, "asia"),
    (12.4, 51.9, "africa"),
    (12.5, 51.9, "asia"),
    (12.4, 52.0, "asia"),
    (52.0, 60.1, "asia"),
    (52.0, 60.0, "europe"),
    (41.4, 27.1, "asia"),
    (41.5, 27.1, "europe"),
    (41.4, 27.0, "europe"),
    (42.9, 40.1, "asia"),
    (43.0, 40.1, "europe"),
    (42.9, 40.0, "europe"),
    (49.9, 45.1, "asia"),
    (50.0, 45.1, "europe"),
    (49.9, 45.0, "europe"),
]


@pytest.mark.parametrize(("latitude", "longitude", "region"), LINES)
def test_either_side_of_a_line_lies_in_its_own_region(latitude: float, longitude: float, region: str) -> None:
    assert region_of(latitude, longitude) == region


def test_the_table_says_what_is_native_and_what_is_fought() -> None:
    found = read('[native]\nkale = ["asia", "europe"]\n[invasive.kale]\noceania = "in wet grass"\n')
    kale, radish = CROPS["kale"], CROPS["radish"]
    assert found.native == {"kale": frozenset({"europe", "asia"})}
    assert found.native_to(kale) == ["europe", "asia"]
    assert (found.is_native(kale, "asia"), found.is_native(kale, "africa")) == (True, False)
    assert (found.fought(kale, "oceania"), found.fought(kale, "asia")) == ("in wet grass", "")
    assert (found.native_to(radish), found.is_native(radish, "asia"), found.fought(radish, "asia")) == ([], False, "")
    with pytest.raises(ValueError, match="atlantis is no region"):
        read('[native]\nkale = ["asia"]\n[invasive.kale]\natlantis = "everywhere"\n')
