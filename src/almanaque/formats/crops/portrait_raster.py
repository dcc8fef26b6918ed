"""Portraits as pixels, for pictures that are no SVG: photos of the demo, and measuring how much two drawings differ."""

import math
from collections.abc import Callable

from PIL import ImageDraw

from almanaque.core.portrait.pen import COLOURS, INK, Disc, Element, Line, Outline

Place = Callable[[complex], tuple[float, float]]
THIN_PX = 2  # the ink around a shape [pixels]


def paint(pen: ImageDraw.ImageDraw, one: Element, at: Place, scale: float) -> None:
    """One element of a portrait on a picture: `at` says where a point of it [mm] lies, `scale` is pixels a millimetre."""
    colour = COLOURS[one.colour]
    if isinstance(one, Line):
        line = [at(point) for point in one.points]
        width = max(2, round(one.width * scale))
        if one.edged and not one.vein:
            pen.line(line, fill=COLOURS[INK], width=width + THIN_PX + 1, joint="curve")
        pen.line(line, fill=colour, width=1 if one.vein else width, joint="curve")
        return
    points = _round(one) if isinstance(one, Disc) else _smooth(one)
    edge = None if one.bare else COLOURS[INK]
    pen.polygon([at(point) for point in points], fill=colour, outline=edge, width=THIN_PX)


def _round(one: Disc) -> list[complex]:
    steps = [2 * math.pi * n / 24 for n in range(24)]
    return [one.middle + complex(one.across * math.cos(t), one.high * math.sin(t)) * one.turn for t in steps]


def _smooth(one: Outline) -> list[complex]:
    """The closed curve through its points, as a polygon; corners stay."""
    points, found = one.points, list[complex]()
    if one.sharp or len(points) < 3:
        return list(points)
    for n, here in enumerate(points):
        before, after, later = points[n - 1], points[(n + 1) % len(points)], points[(n + 2) % len(points)]
        if n in one.corners:
            before = here
        if (n + 1) % len(points) in one.corners:
            later = after
        for step in range(4):
            t = step / 4
            found.append(
                0.5
                * (
                    2 * here
                    + (after - before) * t
                    + (2 * before - 5 * here + 4 * after - later) * t * t
                    + (3 * here - before - 3 * after + later) * t * t * t
                )
            )
    return found
