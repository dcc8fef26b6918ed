"""Shapes on the ground: boxes, L-shapes and free outlines, at any angle; whether they lie apart, and how far.

A shape has a box whose top-left corner is (x, y) on the site, x to the right, y down; the box is turned clockwise about its
middle. Corners, where a shape has its own, lie in the box and count from its top-left corner. Lengths are millimetres.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
import numpy.typing as npt
import shapely

from almanaque.core.errors import BadInput
from almanaque.core.place.shade import MOST_CORNERS

Point = tuple[float, float]
Floats = npt.NDArray[np.float64]
TOUCH_MM = 0.01  # sums of feet are not exact in binary; nobody measures a hundredth of a millimetre
MOST_SITE_MM = 1_000_000  # a kilometre; more is a slip of the unit: our own rule
Corner = Literal["top left", "top right", "bottom right", "bottom left"]
CORNERS: tuple[Corner, ...] = ("top left", "top right", "bottom right", "bottom left")


@dataclass(frozen=True)
class Shape:
    """A box on the site, turned by `turn_deg` clockwise about its middle, or an outline within that box."""

    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    turn_deg: float = 0.0
    corners_mm: tuple[Point, ...] = ()
    label: str = ""

    @property
    def own_corners_mm(self) -> tuple[Point, ...]:
        """Corners in the box's own frame."""
        if self.corners_mm:
            return self.corners_mm
        return (0.0, 0.0), (self.length_mm, 0.0), (self.length_mm, self.width_mm), (0.0, self.width_mm)

    def to_site(self, points_mm: Sequence[Point] | Floats) -> Floats:
        """Points of the box's own frame as places on the site, array (points, 2)."""
        points = np.asarray(points_mm, dtype=np.float64).reshape(-1, 2)
        middle = np.array([self.length_mm / 2, self.width_mm / 2])
        turn = math.radians(self.turn_deg)
        across = np.array([[math.cos(turn), math.sin(turn)], [-math.sin(turn), math.cos(turn)]])
        return np.asarray((points - middle) @ across + middle + np.array([self.x_mm, self.y_mm]))

    @cached_property
    def on_site_mm(self) -> tuple[Point, ...]:
        """Corners as they lie on the site."""
        return tuple((float(x), float(y)) for x, y in self.to_site(self.own_corners_mm))

    @cached_property
    def polygon(self) -> Any:
        return shapely.Polygon(self.on_site_mm)

    @property
    def area_mm2(self) -> float:
        return float(shapely.Polygon(self.own_corners_mm).area)

    @property
    def around_mm(self) -> float:
        """Length of its outline."""
        return float(shapely.Polygon(self.own_corners_mm).length)

    @property
    def narrow_mm(self) -> float:
        """Its width where it is narrow: the shorter side of the smallest box around it."""
        corners = np.asarray(shapely.minimum_rotated_rectangle(self.polygon).exterior.coords)
        return float(min(np.hypot(*(corners[1] - corners[0])), np.hypot(*(corners[2] - corners[1]))))


def check_outline(corners_mm: Sequence[Point], length_mm: float, width_mm: float) -> None:
    """Raise BadInput for an outline that is none, crosses itself, or leaves its box."""
    if not 3 <= len(corners_mm) <= MOST_CORNERS:
        raise BadInput("garden.outline_corners", field="outline", most=MOST_CORNERS)
    polygon = shapely.Polygon(corners_mm)
    if polygon.convex_hull.area < 1:
        raise BadInput("garden.outline_on_a_line", field="outline")
    if not polygon.is_valid:
        raise BadInput("garden.outline_crosses_itself", field="outline")
    left, top, right, bottom = polygon.bounds
    if left < -TOUCH_MM or top < -TOUCH_MM or right > length_mm + TOUCH_MM or bottom > width_mm + TOUCH_MM:
        raise BadInput("garden.corner_outside_box", field="outline")


def l_shape(
    length_mm: float, width_mm: float, notch_length_mm: float, notch_width_mm: float, at: Corner
) -> tuple[Point, ...]:
    """Corners of a box without the notch at one corner. Raises BadInput for a notch that leaves no L."""
    if not (0 < notch_length_mm < length_mm and 0 < notch_width_mm < width_mm):
        raise BadInput("garden.notch_too_large", field="outline")
    a, b, m, n = length_mm, width_mm, notch_length_mm, notch_width_mm
    ways: dict[Corner, tuple[Point, ...]] = {
        "top left": ((m, 0), (a, 0), (a, b), (0, b), (0, n), (m, n)),
        "top right": ((0, 0), (a - m, 0), (a - m, n), (a, n), (a, b), (0, b)),
        "bottom right": ((0, 0), (a, 0), (a, b - n), (a - m, b - n), (a - m, b), (0, b)),
        "bottom left": ((0, 0), (a, 0), (a, b), (m, b), (m, b - n), (0, b - n)),
    }
    return ways[at]


def check_place(shape: Shape, others: Sequence[Shape], site_width_mm: float, site_depth_mm: float) -> None:
    """Raise BadInput when a bed would lie outside its site, or in another bed; touching is allowed."""
    left, top, right, bottom = shape.polygon.bounds
    if left < -TOUCH_MM or top < -TOUCH_MM or right > site_width_mm + TOUCH_MM or bottom > site_depth_mm + TOUCH_MM:
        raise BadInput("garden.outside_site", field="at", shape=shape.label)
    for other in others:
        if overlap(shape, other):
            raise BadInput("garden.lies_in_other", field="at", shape=shape.label, other=other.label)


def overlap(a: Shape, b: Shape) -> bool:
    """True when they share ground, more than sums of feet in binary explain."""
    shared = a.polygon.intersection(b.polygon)
    return bool(shared.area > TOUCH_MM * max(shared.length, TOUCH_MM) / 2)


def distance_mm(a: Shape, b: Shape) -> float:
    """Free width between two shapes; 0 where they touch or overlap."""
    return float(a.polygon.distance(b.polygon))


def reach_mm(from_mm: Point, shape: Shape) -> float:
    """Distance from a point to the farthest corner of a shape, as the crow flies."""
    return max(math.dist(from_mm, corner) for corner in shape.on_site_mm)


def check_site(width_mm: float, depth_mm: float) -> None:
    """Raise BadInput for a site of nothing, or of more than a kilometre."""
    if not (width_mm > 0 and depth_mm > 0):
        raise BadInput("garden.site_without_size", field="size")
    if max(width_mm, depth_mm) > MOST_SITE_MM:
        raise BadInput("garden.site_too_large", field="size")


def inside(points_mm: Floats, corners_mm: Sequence[Point], *, free_mm: float = 0.0) -> npt.NDArray[np.bool_]:
    """Which points (points, 2) lie within an outline and at least `free_mm` from its edge: array (points,)."""
    polygon = shapely.Polygon(corners_mm)
    dots = shapely.points(points_mm)
    within = shapely.covers(polygon, dots)
    if free_mm > 0:
        within &= shapely.distance(polygon.exterior, dots) >= free_mm - TOUCH_MM
    return np.asarray(within, dtype=bool)


def covered_shares(boxes_mm: Floats, corners_mm: Sequence[Point]) -> Floats:
    """Share of each box (boxes, 4: left, top, right, bottom) that lies within an outline: array (boxes,)."""
    polygon = shapely.Polygon(corners_mm)
    boxes = shapely.box(boxes_mm[:, 0], boxes_mm[:, 1], boxes_mm[:, 2], boxes_mm[:, 3])
    return np.asarray(shapely.area(shapely.intersection(boxes, polygon)) / shapely.area(boxes))


def convex_parts(corners_mm: Sequence[Point]) -> list[tuple[Point, ...]]:
    """An outline as convex pieces: itself, or the triangles it is made of."""
    polygon = shapely.Polygon(corners_mm)
    if abs(polygon.convex_hull.area - polygon.area) <= 1e-6 * polygon.area:
        return [tuple(corners_mm)]
    triangles = shapely.constrained_delaunay_triangles(polygon).geoms
    return [tuple((float(x), float(y)) for x, y in triangle.exterior.coords[:-1]) for triangle in triangles]
