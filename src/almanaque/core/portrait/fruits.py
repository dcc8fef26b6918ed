"""Fruits on paper: each drawn around its middle [mm], from unripe (0) to ripe (1)."""

import math

from almanaque.core.portrait.pen import Disc, Element, Line, Outline, Point
from almanaque.core.portrait.space import GOLDEN_DEG
from almanaque.core.portrait.strokes import petal, unit
from almanaque.core.portrait.traits import FruitTrait


def fruit(trait: FruitTrait, at: Point, detail: int, ripe: float, *, from_top: bool = False) -> list[Element]:
    """A fruit that hangs or lies at a point (its middle), by how ripe it is."""
    high = trait.mm * (0.55 + 0.45 * ripe)
    wide = high * trait.ratio
    colour = trait.colour if ripe > 0.75 else trait.unripe if ripe < 0.4 else _between(trait)
    rx, ry = wide / 2, high / 2
    shine = [Disc(at + complex(-rx * 0.38, ry * 0.42), rx * 0.16, ry * 0.2, "white", bare=True)] if detail else []
    match trait.form:
        case "globe":
            return [Disc(at, rx, ry, colour), *_calyx(at + ry * 0.86j, rx * 0.62), *shine]
        case "pear":
            points = [
                at + complex(x * rx, y * ry)
                for x, y in (
                    (0, 1),
                    (0.36, 0.6),
                    (0.62, 0.1),
                    (1, -0.42),
                    (0.5, -0.95),
                    (0, -1),
                    (-0.5, -0.95),
                    (-1, -0.42),
                    (-0.62, 0.1),
                    (-0.36, 0.6),
                    (0, 1),
                )
            ]
            return [Line((at + ry * 1j, at + ry * 1.3j), "bark", rx * 0.1), Outline(tuple(points), colour), *shine]
        case "heart":
            points = [
                at + complex(x * rx, y * ry)
                for x, y in (
                    (0, 0.8),
                    (0.5, 1),
                    (1, 0.5),
                    (0.6, -0.45),
                    (0, -1),
                    (-0.6, -0.45),
                    (-1, 0.5),
                    (-0.5, 1),
                    (0, 0.8),
                )
            ]
            return [
                Line((at + ry * 0.8j, at + ry * 1.2j), "bark", rx * 0.1),
                Outline(tuple(points), colour, corners=(0, 8)),
                *shine,
            ]
        case "apple":
            points = [at + complex(x * rx, y * ry) for x, y in APPLE]
            return [
                Line((at + ry * 0.7j, at + complex(rx * 0.1, ry * 1.25)), "bark", rx * 0.1),
                Outline(tuple(points), colour, corners=(0, 10)),
                *shine,
            ]
        case "long":
            lying = from_top
            turn = 1j if lying else 1
            points = [
                at + complex(x * rx, y * ry) * turn
                for x, y in (
                    (0.3, 1),
                    (0.8, 0.7),
                    (1, -0.2),
                    (0.7, -0.85),
                    (0, -1),
                    (-0.7, -0.85),
                    (-0.9, -0.2),
                    (-0.6, 0.6),
                    (-0.3, 1),
                    (0.3, 1),
                )
            ]
            return [Outline(tuple(points), colour, corners=(0, 8, 9)), *_calyx(at + ry * 0.98 * 1j * turn, rx * 0.7)]
        case "pumpkin":
            flat = 1.0
            found: list[Element] = [Line((at + ry * 0.7j, at + complex(rx * 0.12, ry * 1.25)), "moss", rx * 0.18)]
            found += [Disc(at + rx * side * 0.58, rx * 0.44, ry * 0.88 * flat, colour) for side in (-1, 1)]
            found += [Disc(at + rx * side * 0.3, rx * 0.42, ry * 0.96 * flat, colour) for side in (-1, 1)]
            return [*found, Disc(at, rx * 0.34, ry * flat, colour)]
        case "pod":
            return _pod(trait, at, high, detail, colour)
        case "ear":
            return _ear(at, high, wide, detail, ripe, colour)
        case "grain":
            points = [
                at + complex(x * wide / 2, y * ry)
                for x, y in ((0, -1), (0.8, -0.5), (1, 0.2), (0, 1), (-1, 0.2), (-0.8, -0.5), (0, -1))
            ]
            found = [
                Line(
                    (at + complex(wide * side * 0.3, ry * 0.5), at + complex(wide * side, ry * 1.6)),
                    colour,
                    wide * 0.06,
                )
                for side in (-0.7, 0, 0.7)
            ]
            found.append(Outline(tuple(points), colour, corners=(0, 3)))
            rows = (2, 3, 5)[detail]
            for k in range(rows):
                here = at + 1j * ry * (-0.6 + 1.3 * k / rows)
                found += [
                    Line((here, here + complex(wide * 0.34 * side, ry * 0.26)), "dark", wide * 0.05, vein=True)
                    for side in (-1, 1)
                ]
            return found
        case "strawberry":
            points = [
                at + complex(x * rx, y * ry)
                for x, y in (
                    (0, 0.9),
                    (0.75, 0.85),
                    (0.95, 0.2),
                    (0.45, -0.6),
                    (0, -1),
                    (-0.45, -0.6),
                    (-0.95, 0.2),
                    (-0.75, 0.85),
                    (0, 0.9),
                )
            ]
            seeds = [
                Disc(at + complex(x * rx, y * ry), rx * 0.07, ry * 0.08, "butter", bare=True)
                for x, y in ((-0.4, 0.3), (0.4, 0.3), (0, 0), (-0.3, -0.3), (0.3, -0.3), (0, 0.5))
            ]
            return [Outline(tuple(points), colour), *(seeds if detail else ()), *_calyx(at + ry * 0.9j, rx * 0.9)]
        case "bramble":
            spots = [(0, -0.55), (-0.4, -0.2), (0.4, -0.2), (0, -0.05), (-0.45, 0.3), (0.45, 0.3), (0, 0.45)]
            return [
                *(Disc(at + complex(x * rx, y * ry), rx * 0.4, ry * 0.36, colour) for x, y in spots),
                *_calyx(at + ry * 0.85j, rx * 0.8),
            ]
        case "berries":
            spots = [(0, 0.9), (-0.35, 0.5), (0.4, 0.35), (-0.25, 0), (0.3, -0.2), (-0.15, -0.5), (0.1, -0.85)]
            size = max(rx * 0.5, ry * 0.22)
            return [
                Line((at + ry * 1.1j, at - ry * 0.9j), "moss", size * 0.2),
                *(Disc(at + complex(x * rx, y * ry), size, size, colour) for x, y in spots[: (4, 6, 7)[detail]]),
            ]
        case "lantern":
            points = [
                at + complex(x * rx, y * ry)
                for x, y in (
                    (0, 1),
                    (0.85, 0.55),
                    (0.9, -0.2),
                    (0.35, -0.8),
                    (0, -1.1),
                    (-0.35, -0.8),
                    (-0.9, -0.2),
                    (-0.85, 0.55),
                    (0, 1),
                )
            ]
            ribs = [
                Line(
                    (at + ry * 0.95j, at + complex(x * rx, 0), at - ry * 1j),
                    "tan" if ripe > 0.75 else "leaf",
                    rx * 0.05,
                    vein=True,
                )
                for x in (-0.4, 0.4)
            ]
            return [Outline(tuple(points), colour, corners=(4,)), *(ribs if detail else ())]
        case "curd":
            spots = [
                (0, 0.35),
                (-0.5, 0.1),
                (0.5, 0.1),
                (-0.8, -0.3),
                (0.8, -0.3),
                (-0.28, -0.25),
                (0.3, -0.25),
                (0, 0),
            ]
            return [Disc(at + complex(x * rx, y * ry), rx * 0.38, ry * 0.42, colour) for x, y in spots]
        case "bud":
            return _scaly_bud(at, rx, ry, colour)
        case "seedhead":
            return [
                Disc(at, rx, ry, colour),
                *(
                    Disc(
                        at + unit(GOLDEN_DEG * k) * rx * 0.82 * math.sqrt(k / 14),
                        rx * 0.07,
                        rx * 0.07,
                        "dark",
                        bare=True,
                    )
                    for k in range((6, 10, 14)[detail])
                ),
            ]
        case "capsule":
            return [Disc(at, rx, ry, colour), Line((at + ry * 0.9j, at + ry * 1.35j), colour, rx * 0.2)]
        case _:
            return []


# Corners of an apple in half widths and half heights: our own drawing.
APPLE = (
    (0, 0.74),
    (0.45, 0.95),
    (0.95, 0.55),
    (0.95, -0.15),
    (0.55, -0.9),
    (0, -0.82),
    (-0.55, -0.9),
    (-0.95, -0.15),
    (-0.95, 0.55),
    (-0.45, 0.95),
    (0, 0.74),
)


def _between(trait: FruitTrait) -> str:
    """The colour of a fruit that turns."""
    return {"red": "orange", "orange": "marigold", "plum": "rose", "dark": "plum"}.get(trait.colour, trait.colour)


def _calyx(at: Point, width: float) -> list[Element]:
    """Five green tips on top of a fruit, as one star."""
    points: list[Point] = []
    for k in range(5):
        angle = 90 + 72 * k
        points += [at + unit(angle) * width * 0.62, at + unit(angle + 36) * width * 0.2]
    return [Outline((*points, points[0]), "leaf", sharp=True)]


def _pod(trait: FruitTrait, at: Point, high: float, detail: int, colour: str) -> list[Element]:
    wide = high * trait.ratio
    bend = wide * 0.5
    top, low = at + high / 2 * 1j, at - high / 2 * 1j
    left = [
        top,
        at + complex(-wide / 2 - bend * 0.4, high * 0.2),
        at + complex(-wide / 2 - bend * 0.5, -high * 0.2),
        low,
    ]
    right = [at + complex(wide / 2 - bend * 0.5, -high * 0.2), at + complex(wide / 2 - bend * 0.4, high * 0.2), top]
    found: list[Element] = [Outline((*left, *right), colour, corners=(0, 3, 6))]
    if detail:
        found += [
            Disc(at + complex(-bend * 0.35, high * y), wide * 0.24, wide * 0.22, colour) for y in (0.24, 0.02, -0.2)
        ]
    return found


def _ear(at: Point, high: float, wide: float, detail: int, ripe: float, colour: str) -> list[Element]:
    """An ear of corn in its husk, the grains seen where it is ripe."""
    husk = [
        at + complex(x * wide / 2, y * high / 2)
        for x, y in ((0, -1.05), (0.9, -0.4), (0.75, 0.5), (0, 1.1), (-0.75, 0.5), (-0.9, -0.4), (0, -1.05))
    ]
    found: list[Element] = [
        Line((at + high * 0.5j, at + complex(wide * x, high * 0.72)), "brick" if ripe > 0.7 else "butter", wide * 0.08)
        for x in (-0.4, 0, 0.4)
    ]
    found.append(Outline(tuple(husk), "moss", corners=(0, 3)))
    if ripe > 0.7:
        found.append(Disc(at + high * 0.08j, wide * 0.3, high * 0.36, colour))
        if detail:
            found += [
                Line(
                    (at + complex(wide * x, high * -0.2), at + complex(wide * x, high * 0.36)),
                    "orange",
                    wide * 0.04,
                    vein=True,
                )
                for x in (-0.12, 0.04, 0.18)
            ]
        found.append(
            Outline(
                (husk[0], at + complex(-wide * 0.5, -high * 0.1), at + complex(-wide * 0.14, high * 0.2), husk[0]),
                "meadow",
                corners=(0, 2, 3),
            )
        )
    return found


def _scaly_bud(at: Point, rx: float, ry: float, colour: str) -> list[Element]:
    found: list[Element] = []
    for row, (y, count, size) in enumerate(((0.55, 3, 0.5), (0.1, 4, 0.55), (-0.4, 3, 0.6))):
        for k in range(count):
            x = (2 * (k + 0.5) / count - 1) * (0.55 + 0.15 * row)
            found.append(petal(at + complex(x * rx, (y - 0.45) * ry), 1j, ry * size * 1.3, rx * 0.62, colour))
    return found
