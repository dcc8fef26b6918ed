import itertools
from datetime import date

import numpy as np
import pytest

from almanaque.core.garden.outline import Shape, l_shape
from almanaque.core.garden.site import (
    KINDS,
    Feature,
    TallPlants,
    bodies,
    clearances,
    hose_words,
    month_days,
    plant_bodies,
)
from almanaque.core.place.shade import in_shade
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.core.school.seasons import around, map_day, seasons

FT = 304.8


def feature(kind: str, x: float, y: float, length: float, width: float, **rest: object) -> Feature:
    shape = Shape(
        x * FT,
        y * FT,
        length * FT,
        width * FT,
        float(rest.pop("turn", 0)),
        tuple(rest.pop("corners", ())),
        str(rest.get("name", kind)),
    )  # type: ignore[arg-type]
    return Feature(kind, str(rest.pop("name", kind)), shape, **rest)  # type: ignore[arg-type]


def bed(name: str, x: float, y: float, length: float = 8, width: float = 4) -> Shape:
    return Shape(x * FT, y * FT, length * FT, width * FT, 0, (), name)


def test_narrow_ways_are_one_note_and_one_care_that_name_every_place() -> None:
    beds = [bed("Bed 1", 0, 0), bed("Bed 2", 10, 0), bed("Bed 3", 0, 7.5), bed("Bed 4", 30, 0)]
    paths = [feature("path", 0, 20, 40, 3.5, name="Main path")]
    found = {f.code: f for f in clearances(beds, paths, units="us")}
    assert found["path_narrow"].message == "Too narrow to pass with a barrow: between Bed 1 and Bed 2 (2 ft)."
    assert found["path_no_wheelchair"].message == (
        "Too narrow for a wheelchair: between Bed 1 and Bed 3, Main path (3 ft 6 in)."
    )
    assert found["path_narrow"].severity == "care"
    assert found["path_no_wheelchair"].severity == "note"


def test_beds_that_touch_or_have_room_between_them_are_not_named() -> None:
    assert clearances([bed("Bed 1", 0, 0), bed("Bed 2", 8, 0), bed("Bed 3", 0, 8)], [], units="us") == []


def test_a_turned_path_is_measured_across() -> None:
    (found,) = clearances([], [feature("path", 10, 10, 30, 2, turn=37, name="Slant")], units="us")
    assert found.message == "Too narrow to pass with a barrow: Slant (2 ft)."


def test_a_bed_beyond_every_hose_is_named_with_the_nearest_tap() -> None:
    taps = [feature("tap", 0, 0, 1, 1, name="Tap", hose_mm=20 * FT), feature("rain barrel", 60, 0, 2, 2, name="Barrel")]
    (found,) = clearances([bed("Near", 5, 5), bed("Far", 30, 5)], taps, units="us")
    assert (found.code, found.subject) == ("tap_far", "Far")
    assert "Tap does not reach the far end of Far" in found.message
    assert hose_words(bed("Near", 5, 5), taps, "us") == "16 ft from Tap"
    assert hose_words(bed("Near", 5, 5), [], "us") == ""


def test_what_lies_flat_or_over_a_bed_throws_no_shade() -> None:
    for kind in ("path", "gate", "tap", "bench", "tunnel", "cover", "frame", "fence", "other"):
        assert bodies(feature(kind, 0, 0, 4, 4)) == (), kind
    assert bodies(feature("fence", 0, 0, 20, 0.2, height_mm=6 * FT))[0].top_mm == 6 * FT


def test_a_tree_is_round_and_a_tall_building_of_any_shape_falls_into_convex_bodies() -> None:
    (crown,) = bodies(feature("tree", 0, 0, 10, 12, height_mm=30 * FT, base_mm=8 * FT, months_bare=frozenset({1, 2})))
    assert crown.circle_mm == pytest.approx((5 * FT, 6 * FT, 5.5 * FT))
    assert (crown.base_mm, crown.months_bare) == (8 * FT, frozenset({1, 2}))
    wing = bodies(
        feature(
            "building", 0, 0, 20, 20, height_mm=4000, corners=l_shape(20 * FT, 20 * FT, 10 * FT, 10 * FT, "top right")
        )
    )
    assert len(wing) > 1
    court, house = np.array([[15 * FT, 5 * FT]]), np.array([[5 * FT, 5 * FT]])
    assert not in_shade(court, 80, 0, wing)[0]  # the notch is open to a sun that stands high in the north
    assert in_shade(house, 80, 0, wing)[0]


def test_only_tall_plants_shade_others() -> None:
    low, high = (TallPlants("p", ((0.0, 0.0), (500.0, 0.0)), height, 300) for height in (500, 2000))
    assert plant_bodies([low]) == []
    assert [o.circle_mm for o in plant_bodies([high])] == [(0, 0, 150), (500, 0, 150)]


def test_every_kind_has_words() -> None:
    assert all(kind.words for kind in KINDS.values())


def test_months_are_judged_by_their_21st() -> None:
    assert [day.isoformat()[5:] for day in month_days(2027)][5] == "06-21"


YEARS = (
    SchoolYear(
        "2026–27",
        date(2026, 8, 26),
        date(2027, 8, 24),
        (
            Span("Autumn term", date(2026, 8, 26), date(2026, 12, 18)),
            Span("Winter term", date(2027, 1, 4), date(2027, 3, 19)),
            Span("Spring term", date(2027, 3, 29), date(2027, 6, 16)),
        ),
        (),
        (),
        (),
    ),
    SchoolYear(
        "2027–28",
        date(2027, 8, 25),
        date(2028, 8, 22),
        (Span("Autumn term", date(2027, 8, 25), date(2027, 12, 17)),),
        (),
        (),
        (),
    ),
)


def test_seasons_have_no_gaps_and_the_summer_is_one_of_them() -> None:
    found = seasons(Calendar(YEARS))
    assert [season.name for season in found][:4] == [
        "Autumn term 2026–27",
        "Winter term 2027",
        "Spring term 2027",
        "Summer 2027",
    ]
    for one, two in itertools.pairwise(found):
        assert (two.starts - one.ends).days == 1
    before, now, after = around(found, date(2027, 4, 14))
    assert (before.name, now.name, after.name) == ("Winter term 2027", "Spring term 2027", "Summer 2027")  # type: ignore[union-attr]
    assert map_day(now, date(2027, 4, 14)) == date(2027, 4, 14)  # type: ignore[arg-type]
    assert map_day(after, date(2027, 4, 14)) in after  # type: ignore[arg-type,operator]
    assert around(found, date(2030, 1, 1)) == (None, None, None)


def test_a_rain_barrel_is_water_as_a_tap_is() -> None:
    bed = feature("shed", 10, 0, 4, 4).shape
    barrel, tap = feature("rain barrel", 6, 2, 1, 1, name="the barrel"), feature("tap", 40, 2, 1, 1, name="the tap")
    assert hose_words(bed, [tap, barrel], "us").endswith("from the barrel")
    assert hose_words(bed, [feature("tree", 6, 2, 1, 1)], "us") == ""
