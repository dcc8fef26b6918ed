"""Small things that flowers and fruits are made of: directions, petals, what is seen flat from the side."""

import math
from collections.abc import Sequence

from almanaque.core.portrait.pen import Disc, Element, Line, Outline, Point


def unit(degrees: float) -> Point:
    """A direction by degrees: 0 to the right, 90 up."""
    return complex(math.cos(math.radians(degrees)), math.sin(math.radians(degrees)))


def petal(middle: Point, way: Point, length: float, width: float, colour: str, *, notch: bool = False) -> Outline:
    """A petal from the middle outward."""
    across = way * 1j * width / 2
    tip = middle + way * length
    points = [middle, middle + way * length * 0.5 + across * 0.9, middle + way * length * 0.9 + across * 0.8]
    points.append(tip - way * length * 0.14 if notch else tip)
    points += [middle + way * length * 0.9 - across * 0.8, middle + way * length * 0.5 - across * 0.9, middle]
    return Outline(tuple(points), colour, corners=(0, len(points) - 1) if not notch else (0, 3, len(points) - 1))


def squashed(elements: Sequence[Element], middle: Point, by: float) -> list[Element]:
    """The same, flatter around a middle: a flat flower seen from the side."""

    def at(point: Point) -> Point:
        return complex(point.real, middle.imag + (point.imag - middle.imag) * by)

    found: list[Element] = []
    for one in elements:
        if isinstance(one, Disc):
            found.append(Disc(at(one.middle), one.across, one.high * by, one.colour, one.turn, one.bare))
        elif isinstance(one, Outline):
            found.append(Outline(tuple(at(p) for p in one.points), one.colour, one.corners, one.sharp, one.bare))
        else:
            found.append(Line(tuple(at(p) for p in one.points), one.colour, one.width, one.edged, one.vein, one.sharp))
    return found
