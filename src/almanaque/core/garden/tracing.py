"""A picture laid under the map: set to scale by two points a known length apart, and turned until its north is the map's. Lengths are
millimetres on the site, turns degrees clockwise."""

import math
from dataclasses import dataclass, replace

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import MOST_SITE_MM, Point

LEAST_APART_MM = 50.0  # two points that are nearer, as they lie now, set no scale: our own rule


@dataclass(frozen=True)
class Underlay:
    """Where a picture lies: its top-left corner, how many millimetres a pixel is, and its turn about that corner."""

    x_mm: float
    y_mm: float
    mm_per_px: float
    turn_deg: float
    width_px: int
    height_px: int

    @property
    def middle_mm(self) -> Point:
        return self._at(self.width_px / 2, self.height_px / 2)

    def _at(self, x_px: float, y_px: float) -> Point:
        angle = math.radians(self.turn_deg)
        x, y = x_px * self.mm_per_px, y_px * self.mm_per_px
        return (
            self.x_mm + x * math.cos(angle) - y * math.sin(angle),
            self.y_mm + x * math.sin(angle) + y * math.cos(angle),
        )


def fitted(width_px: int, height_px: int, site_width_mm: float, site_depth_mm: float) -> Underlay:
    """A picture as it first lies: as large as the ground takes it, in the ground's middle."""
    scale = min(site_width_mm / width_px, site_depth_mm / height_px)
    return Underlay(
        (site_width_mm - width_px * scale) / 2,
        (site_depth_mm - height_px * scale) / 2,
        scale,
        0.0,
        width_px,
        height_px,
    )


def set_to_scale(picture: Underlay, a_mm: Point, b_mm: Point, true_mm: float) -> Underlay:
    """The picture so large that A and B, given as they lie now, are `true_mm` apart; A stays where it is.

    Raises BadInput for points that are too near each other, and for a length of nothing or beyond a kilometre.
    """
    now = math.dist(a_mm, b_mm)
    if now < LEAST_APART_MM:
        raise BadInput("garden.points_too_near", field="true")
    if not 0 < true_mm <= MOST_SITE_MM:
        raise BadInput("garden.true_length_out_of_range", field="true")
    by = true_mm / now
    return replace(
        picture,
        x_mm=a_mm[0] + (picture.x_mm - a_mm[0]) * by,
        y_mm=a_mm[1] + (picture.y_mm - a_mm[1]) * by,
        mm_per_px=picture.mm_per_px * by,
    )


def set_to_north(picture: Underlay, arrow_deg: float, north_deg: float) -> Underlay:
    """The picture turned about its middle until what the arrow shows, clockwise from the map's upper edge, is the map's north."""
    middle = picture.middle_mm
    turned = replace(picture, turn_deg=(picture.turn_deg + north_deg - arrow_deg) % 360)
    now = turned.middle_mm
    return replace(turned, x_mm=turned.x_mm + middle[0] - now[0], y_mm=turned.y_mm + middle[1] - now[1])
