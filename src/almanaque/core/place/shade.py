"""Hours of direct sun at points of a garden, with the shade of what stands around them.

A map has x to the right and y down, in millimetres; `north_deg` is where north lies on it, 0 for up, 90 for right. An
obstacle is an upright body over a circle or a convex outline, from `base_mm` (0 for a wall, the lower edge of a crown for a
tree) to `top_mm`; others are put together from several. Ground is level, and the shade of a body has a sharp edge.

Seen from a point, a body fills the directions in which a line on the map meets its outline, between two heights above the
horizon that follow from where the line enters and leaves it. That view is worked out once for every whole degree around; then
a moment is in shade when the sun stands in front of a body. So a year costs hardly more than a day.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt

from almanaque.core.errors import BadInput
from almanaque.core.place import sun

Floats = npt.NDArray[np.float64]
Bools = npt.NDArray[np.bool_]
Singles = npt.NDArray[np.float32]
Outline = Sequence[tuple[float, float]]

STEP_MINUTES = 10  # between two looks at the sun: our own rule
LOWEST_DEG = 0.5  # under it the sun is behind whatever the horizon has
FULL_SUN_H, PART_SUN_H = 6.0, 3.0  # common practice, no source
MOST_CORNERS = 64  # of an outline: our own rule
CIRCLE_CORNERS = 24  # of a circle whose shadow is drawn: our own choice


@dataclass(frozen=True)
class Obstacle:
    """A body that throws shade: over a circle (x, y, radius) or else a convex outline.

    `months_bare` are those in which it throws none, such as those without leaves.
    """

    top_mm: float
    base_mm: float = 0.0
    outline_mm: tuple[tuple[float, float], ...] = ()
    circle_mm: tuple[float, float, float] | None = None
    months_bare: frozenset[int] = frozenset()
    name: str = ""


def body(
    outline_mm: Outline,
    *,
    top_mm: float,
    base_mm: float = 0.0,
    months_bare: frozenset[int] = frozenset(),
    name: str = "",
) -> Obstacle:
    """A body over a convex outline, its corners put in order.

    Raises BadInput for an outline of less than three corners or none inside, and for a body that ends below its base.
    """
    if not 3 <= len(outline_mm) <= MOST_CORNERS:
        raise BadInput("place.outline_corners", field="outline", most=MOST_CORNERS)
    hull = _hull(outline_mm)
    if len(hull) < 3:
        raise BadInput("place.outline_on_a_line", field="outline")
    _check_heights(base_mm, top_mm)
    return Obstacle(top_mm, base_mm, tuple(hull), None, months_bare, name)


def round_body(
    x_mm: float,
    y_mm: float,
    radius_mm: float,
    *,
    top_mm: float,
    base_mm: float = 0.0,
    months_bare: frozenset[int] = frozenset(),
    name: str = "",
) -> Obstacle:
    """A tree's crown, a bush or a pole. Raises BadInput without a radius, and for one that ends below its base."""
    if not radius_mm > 0:
        raise BadInput("place.body_without_width", field="width")
    _check_heights(base_mm, top_mm)
    return Obstacle(top_mm, base_mm, (), (x_mm, y_mm, radius_mm), months_bare, name)


def hours_of_sun(
    points_mm: Floats,
    days: Sequence[date],
    obstacles: Sequence[Obstacle],
    *,
    latitude: float,
    north_deg: float = 0.0,
    height_mm: float = 0.0,
    step_minutes: int = STEP_MINUTES,
) -> Floats:
    """Hours of direct sun, array (days, points), at points (points, 2) at `height_mm` above the ground.

    The day is looked at every `step_minutes`, in the middle of each step. Raises BadInput for a latitude beyond the poles
    and for steps that are not 1 to 60 minutes.
    """
    if not 1 <= step_minutes <= 60:
        raise BadInput("place.shade_step_out_of_range", field="step")
    hours = (np.arange(24 * 60 // step_minutes) + 0.5) * step_minutes / 60
    moments = [_Moments(day, latitude, hours) for day in days]
    around = np.unique(np.concatenate([m.degrees for m in moments])) if moments else np.array([], dtype=int)
    place = {int(degree): row for row, degree in enumerate(around)}
    towards = _towards(around.astype(float), north_deg)
    views = [(b, *_view(b, points_mm, towards, height_mm)) for b in obstacles if b.top_mm > height_mm]
    found = np.zeros((len(days), len(points_mm)))
    for row, moment in enumerate(moments):
        at = np.array([place[int(degree)] for degree in moment.degrees], dtype=int)
        dark = np.zeros((len(at), len(points_mm)), dtype=bool)
        slope = moment.slope[:, None].astype(np.float32)
        wall = np.full((len(around), len(points_mm)), -np.inf, dtype=np.float32)
        for standing, low, high in views:
            if moment.day.month in standing.months_bare:
                continue
            if low is None:
                np.maximum(wall, high, out=wall)  # bodies that stand on the ground make one skyline
            else:
                dark |= (slope > low[at]) & (slope < high[at])
        found[row] = (~(dark | (slope < wall[at]))).sum(axis=0) * step_minutes / 60
    return found


def open_hours(day: date, *, latitude: float, step_minutes: int = STEP_MINUTES) -> float:
    """Hours of direct sun where nothing stands around."""
    return float(hours_of_sun(np.zeros((1, 2)), [day], [], latitude=latitude, step_minutes=step_minutes)[0, 0])


def in_shade(
    points_mm: Floats,
    altitude_deg: float,
    azimuth_deg: float,
    obstacles: Sequence[Obstacle],
    *,
    north_deg: float = 0.0,
    height_mm: float = 0.0,
) -> Bools:
    """Which points (points, 2) are in shade with the sun at one place [°] above the horizon: array (points,)."""
    towards, slope = _towards(np.array([azimuth_deg]), north_deg), np.tan(np.radians(altitude_deg))
    dark = np.zeros(len(points_mm), dtype=bool)
    for standing in obstacles:
        if standing.top_mm > height_mm:
            low, high = _view(standing, points_mm, towards, height_mm)
            dark |= (slope < high[0]) & (True if low is None else slope > low[0])
    return dark


def shadow(
    standing: Obstacle, altitude_deg: float, azimuth_deg: float, *, north_deg: float = 0.0
) -> list[tuple[float, float]]:
    """Corners of the shadow on level ground [mm] with the sun at one place [°] above the horizon, in one sense of turn."""
    towards = math.radians(north_deg + azimuth_deg)
    away = -math.sin(towards), math.cos(towards)
    long = 1 / math.tan(math.radians(altitude_deg))
    outline = standing.outline_mm
    if standing.circle_mm:
        x0, y0, r = standing.circle_mm
        turns = [2 * math.pi * k / CIRCLE_CORNERS for k in range(CIRCLE_CORNERS)]
        outline = tuple((x0 + r * math.cos(turn), y0 + r * math.sin(turn)) for turn in turns)
    return _hull(
        [
            (x + away[0] * height * long, y + away[1] * height * long)
            for height in (standing.base_mm, standing.top_mm)
            for x, y in outline
        ]
    )


def light_words(hours: float) -> str:
    """What growers call so many hours of direct sun in the growing season. **Source:** common practice, no source."""
    return "full sun" if hours >= FULL_SUN_H else "part sun" if hours >= PART_SUN_H else "shade"


@dataclass(frozen=True)
class _Moments:
    """The moments of a day on which the sun is up: whole degrees of azimuth, and the tangent of the altitude."""

    day: date
    degrees: npt.NDArray[np.int64]
    slope: Floats

    def __init__(self, day: date, latitude: float, hours: Floats) -> None:
        altitude, azimuth = sun.position(latitude, day, hours)
        up = altitude > LOWEST_DEG
        object.__setattr__(self, "day", day)
        object.__setattr__(self, "degrees", np.rint(azimuth[up]).astype(np.int64) % 360)
        object.__setattr__(self, "slope", np.tan(np.radians(altitude[up])))


def _towards(azimuth_deg: Floats, north_deg: float) -> Floats:
    """Unit vectors on the map, y down, in the directions (directions, 2)."""
    turn = np.radians(azimuth_deg + north_deg)
    return np.stack([np.sin(turn), -np.cos(turn)], axis=1)


def _view(standing: Obstacle, points_mm: Floats, towards: Floats, height_mm: float) -> tuple[Singles | None, Singles]:
    """Between which tangents of altitude a body stands before each point, arrays (directions, points).

    The lower one is None for a body that stands on the ground; where the body is not, the upper one is below everything.
    """
    enters, leaves = (
        _through_circle(standing.circle_mm, points_mm, towards)
        if standing.circle_mm
        else _through_outline(standing.outline_mm, points_mm, towards)
    )
    meets = (leaves > 0) & (enters < leaves)
    with np.errstate(divide="ignore", invalid="ignore"):
        high = np.where(enters > 0, (standing.top_mm - height_mm) / enters, np.inf)
        low = (standing.base_mm - height_mm) / leaves
    high = np.where(meets, high, -np.inf).astype(np.float32)
    return (None if standing.base_mm <= height_mm else low.astype(np.float32)), high


def _through_circle(circle: tuple[float, float, float], points_mm: Floats, towards: Floats) -> tuple[Floats, Floats]:
    """Distances [mm] at which a ray enters and leaves a circle; it enters after it leaves where it misses."""
    x, y, radius = circle
    to_centre = np.array([x, y]) - points_mm
    along = towards @ to_centre.T
    reach = radius**2 - ((to_centre**2).sum(axis=1)[None, :] - along**2)
    half = np.sqrt(np.maximum(reach, 0.0))
    return np.where(reach > 0, along - half, np.inf), np.where(reach > 0, along + half, -np.inf)


def _through_outline(outline: Outline, points_mm: Floats, towards: Floats) -> tuple[Floats, Floats]:
    """Distances [mm] at which a ray enters and leaves a convex outline; it enters after it leaves where it misses."""
    enters = np.full((len(towards), len(points_mm)), -np.inf)
    leaves = np.full((len(towards), len(points_mm)), np.inf)
    for normal, limit in _edges(outline):
        room = (limit - points_mm @ normal)[None, :]  # how far inside this edge a point is
        speed = (towards @ normal)[:, None]  # how fast the ray leaves it
        with np.errstate(divide="ignore", invalid="ignore"):
            at = room / speed
        outward, inward, along = speed[:, 0] > 0, speed[:, 0] < 0, speed[:, 0] == 0
        leaves[outward] = np.minimum(leaves[outward], at[outward])
        enters[inward] = np.maximum(enters[inward], at[inward])
        leaves[along] = np.where(room < 0, -np.inf, leaves[along])  # inside this edge all the way, or not at all
    return enters, leaves


def _edges(outline: Outline) -> Iterator[tuple[Floats, float]]:
    """Outward normals and limits of a convex outline in the sense of `_hull`: inside is n · p ≤ limit."""
    for (x1, y1), (x2, y2) in zip(outline, [*outline[1:], outline[0]], strict=True):
        normal = np.array([y2 - y1, x1 - x2], dtype=np.float64)
        yield normal, float(normal @ np.array([x1, y1]))


def _check_heights(base_mm: float, top_mm: float) -> None:
    if not top_mm > base_mm >= 0:
        raise BadInput("place.body_upside_down", field="height")


def _hull(corners: Outline) -> list[tuple[float, float]]:
    """Convex hull, corners in one sense of turn (Andrew's monotone chain)."""
    ordered = sorted({(float(x), float(y)) for x, y in corners})

    def chain(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
        found: list[tuple[float, float]] = []
        for p in points:
            while len(found) >= 2 and _turn(found[-2], found[-1], p) <= 0:
                found.pop()
            found.append(p)
        return found[:-1]

    return chain(ordered) + chain(ordered[::-1])


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
