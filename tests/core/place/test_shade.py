"""Shade of single bodies against geometry by hand, and against walking along the ray step by step."""

import math
from datetime import date, timedelta

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.place import shade, sun
from almanaque.core.place.shade import body, hours_of_sun, in_shade, light_words, open_hours, round_body, shadow
from tests.refuses import refuses

HERE = np.array([[0.0, 0.0]])
WALL_SOUTH = body([(-50_000, 1000), (50_000, 1000), (50_000, 1100), (-50_000, 1100)], top_mm=2000)
NOON_SOUTH = 180.0
EQUINOX, JUNE, DECEMBER = date(2027, 3, 20), date(2027, 6, 21), date(2027, 12, 21)


@pytest.mark.parametrize(
    ("distance", "top", "altitude", "dark"),
    [
        (1000, 2000, 63.0, True),
        (1000, 2000, 64.0, False),
        (2000, 2000, 44.9, True),
        (2000, 2000, 45.1, False),
        (500, 866.1, 60.0, True),
        (500, 865.9, 60.0, False),
    ],
)
def test_a_walls_shade_reaches_its_height_over_the_suns_tangent(
    distance: float, top: float, altitude: float, dark: bool
) -> None:
    """By hand: shaded while tan(altitude) < height / distance."""
    wall = body([(-9000, distance), (9000, distance), (9000, distance + 100), (-9000, distance + 100)], top_mm=top)
    assert in_shade(HERE, altitude, NOON_SOUTH, [wall])[0] == dark


@pytest.mark.parametrize(
    ("azimuth", "dark"),
    [(180, True), (174.4, True), (174.2, False), (185.6, True), (185.8, False), (0, False), (90, False)],
)
def test_a_poles_shade_is_as_wide_as_the_pole(azimuth: float, dark: bool) -> None:
    """By hand: a pole of radius 100 at 1,000 hides asin(0.1) = 5.74° to either side."""
    assert in_shade(HERE, 30.0, azimuth, [round_body(0, 1000, 100, top_mm=2000)])[0] == dark


def test_the_sun_shines_under_a_crown() -> None:
    crown = round_body(0, 3000, 1000, top_mm=6000, base_mm=2500)
    # By hand: from 2,000 to 4,000 away; below atan(2,500 / 4,000) = 32.0° and above atan(6,000 / 2,000) = 71.6° it is lit.
    assert [bool(in_shade(HERE, a, NOON_SOUTH, [crown])[0]) for a in (31.9, 32.1, 71.5, 71.7)] == [
        False,
        True,
        True,
        False,
    ]
    assert in_shade(HERE, 20.0, NOON_SOUTH, [crown], height_mm=2000.0)[0]  # a plant on a high bed stands in it


def test_who_stands_inside_a_body_or_beside_an_edge_is_told_right() -> None:
    assert in_shade(HERE, 80.0, 45.0, [round_body(0, 0, 500, top_mm=3000)])[0]
    beside = body([(-10, -500), (-10, 500), (-900, 500), (-900, -500)], top_mm=3000)
    assert not in_shade(HERE, 10.0, 180.0, [beside])[0]  # the ray runs along its edge, outside
    assert in_shade(HERE, 10.0, 270.0, [beside])[0]


def test_bare_months_let_the_sun_through_and_north_may_lie_anywhere_on_the_map() -> None:
    tree = round_body(0, 3000, 2500, top_mm=9000, months_bare=frozenset({12, 1, 2}))
    (winter, summer) = hours_of_sun(HERE, [DECEMBER, JUNE], [tree], latitude=42.4)[:, 0]
    assert winter == open_hours(DECEMBER, latitude=42.4)
    assert summer < open_hours(JUNE, latitude=42.4)
    turned = body(
        [(-1000, -50_000), (-1000, 50_000), (-1100, 50_000), (-1100, -50_000)], top_mm=2000
    )  # the wall, with south to the left
    plain = hours_of_sun(HERE, [EQUINOX], [WALL_SOUTH], latitude=42.4)
    assert hours_of_sun(HERE, [EQUINOX], [turned], latitude=42.4, north_deg=90) == pytest.approx(plain)


def test_north_and_south_swap_south_of_the_equator() -> None:
    north_wall = body([(-50_000, -1000), (50_000, -1000), (50_000, -1100), (-50_000, -1100)], top_mm=2000)
    assert hours_of_sun(HERE, [EQUINOX], [north_wall], latitude=-42.4)[0, 0] < 3
    assert hours_of_sun(HERE, [EQUINOX], [WALL_SOUTH], latitude=-42.4)[0, 0] > 10


@pytest.mark.parametrize(("hours", "words"), [(6, "full sun"), (5.9, "part sun"), (3, "part sun"), (2.9, "shade")])
def test_hours_have_the_growers_words(hours: float, words: str) -> None:
    assert light_words(hours) == words


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: body([(0, 0), (1, 1)], top_mm=10), "place.outline_corners"),
        (lambda: body([(0, 0), (1, 1), (2, 2)], top_mm=10), "place.outline_on_a_line"),
        (lambda: body([(0, 0), (1, 0), (0, 1)], top_mm=1, base_mm=2), "place.body_upside_down"),
        (lambda: round_body(0, 0, 0, top_mm=1), "place.body_without_width"),
        (lambda: hours_of_sun(HERE, [JUNE], [], latitude=91), "place.latitude_out_of_range"),
        (lambda: hours_of_sun(HERE, [JUNE], [], latitude=0, step_minutes=0), "place.shade_step_out_of_range"),
        (lambda: hours_of_sun(HERE, [JUNE], [], latitude=0, step_minutes=61), "place.shade_step_out_of_range"),
    ],
)
def test_what_cannot_be_is_refused(make, says: str) -> None:
    with refuses(says):
        make()


corners = st.lists(st.tuples(st.integers(-4000, 4000), st.integers(-4000, 4000)), min_size=3, max_size=7, unique=True)


@given(corners, st.integers(200, 5000), st.integers(0, 150), st.floats(3, 85), st.floats(0, 360))
def test_it_agrees_with_walking_along_the_ray(
    outline: list[tuple[int, int]], top: int, base: int, altitude: float, azimuth: float
) -> None:
    try:
        standing = body(outline, top_mm=top, base_mm=base)
    except BadInput:
        return
    slope = math.tan(math.radians(altitude))
    east, south = math.sin(math.radians(azimuth)), -math.cos(math.radians(azimuth))
    hull = np.array(standing.outline_mm)
    edges = np.roll(hull, -1, axis=0) - hull

    def depth(t: float) -> float:
        """How deep inside the body the ray is after t: above 0 inside it, in all three directions."""
        rel = np.array([t * east, t * south]) - hull
        inside = (edges[:, 0] * rel[:, 1] - edges[:, 1] * rel[:, 0]) / np.hypot(edges[:, 0], edges[:, 1])
        return float(min(inside.min(), top - t * slope, t * slope - base))

    deepest = max(depth(t) for t in np.arange(0.5, 13_000, 5.0))
    found = bool(in_shade(HERE, altitude, azimuth, [standing])[0])
    if deepest > 8:
        assert found
    elif deepest < -8:
        assert not found


@given(
    st.lists(
        st.tuples(st.floats(-8000, 8000), st.floats(-8000, 8000), st.floats(100, 2000), st.floats(300, 9000)),
        max_size=5,
    ),
    st.floats(-60, 60),
    st.integers(0, 364),
)
def test_more_bodies_never_give_more_sun_and_order_does_not_matter(
    rows: list[tuple[float, float, float, float]], latitude: float, day: int
) -> None:
    when = [date(2027, 1, 1) + timedelta(days=day)]
    bodies = [round_body(x, y, r, top_mm=top, base_mm=top / 4) for x, y, r, top in rows]
    points = np.array([[0.0, 0.0], [2500.0, -1500.0]])
    all_of_them = hours_of_sun(points, when, bodies, latitude=latitude)
    assert (all_of_them <= hours_of_sun(points, when, bodies[:-1], latitude=latitude) + 1e-9).all()
    assert (all_of_them == hours_of_sun(points, when, bodies[::-1], latitude=latitude)).all()
    assert (all_of_them <= sun.daylength(latitude, when[0]) + 0.2).all()


def test_twelve_beds_a_year_and_ten_bodies_give_the_same_as_single_days() -> None:
    random = np.random.default_rng(5)
    points = random.uniform(0, 15_000, (40, 2))
    bodies = [round_body(*random.uniform(0, 15_000, 2), 1200, top_mm=5000, base_mm=800) for _ in range(5)]
    bodies += [
        body([(x, y), (x + 3000, y), (x + 3000, y + 900)], top_mm=2600) for x, y in random.uniform(0, 15_000, (5, 2))
    ]
    days = [date(2027, month, 15) for month in range(1, 13)]
    year = hours_of_sun(points, days, bodies, latitude=42.4)
    assert year.shape == (12, 40)
    for row, day in enumerate(days):
        assert (hours_of_sun(points, [day], bodies, latitude=42.4) == year[row]).all()
    assert shade.light_words(float(year[5].max())) == "full sun"


@pytest.mark.parametrize("step_minutes", [1, 60])
def test_the_finest_and_the_coarsest_step_are_taken(step_minutes: int) -> None:
    assert float(hours_of_sun(HERE, [JUNE], [], latitude=0, step_minutes=step_minutes)[0, 0]) == pytest.approx(
        12, abs=1
    )


@pytest.mark.parametrize("seed", range(40))
def test_a_drawn_shadow_is_where_points_are_in_shade(seed: int) -> None:
    """Two ways to the same ground: the outline that is drawn, and the view from a point that the hours are counted by."""
    random = np.random.default_rng(seed)
    base = float(random.choice([0.0, 1500.0]))
    top = base + float(random.uniform(500, 6000))
    if seed % 2:
        standing = round_body(0, 0, float(random.uniform(400, 3000)), top_mm=top, base_mm=base)
    else:
        corners = [(float(x), float(y)) for x, y in random.uniform(-3000, 3000, size=(6, 2))]
        standing = body(corners, top_mm=top, base_mm=base)
    altitude, azimuth, north = (
        float(random.uniform(12, 70)),
        float(random.uniform(0, 360)),
        float(random.uniform(0, 360)),
    )
    outline = shapely.Polygon(shadow(standing, altitude, azimuth, north_deg=north))
    reach = 3000 + top / np.tan(np.radians(altitude))
    points = random.uniform(-reach, reach, size=(400, 2))
    dark = in_shade(points, altitude, azimuth, [standing], north_deg=north)
    inside = shapely.contains_xy(outline, points[:, 0], points[:, 1])
    edge = (
        shapely.distance(outline.exterior, shapely.points(points)) < 60
    )  # a circle is drawn with 24 corners, views by whole degrees
    assert (dark == inside)[~edge].all()
    assert dark.any() == inside.any() or edge.any()
