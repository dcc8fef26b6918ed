"""Flowers on paper: each drawn around a point [mm], upright, in the size its trait says."""

import math

from almanaque.core.portrait.pen import Disc, Element, Line, Outline, Point
from almanaque.core.portrait.space import GOLDEN_DEG
from almanaque.core.portrait.strokes import petal, squashed, unit
from almanaque.core.portrait.traits import FlowerTrait


def flower(
    trait: FlowerTrait, at: Point, detail: int, *, size: float = 1.0, from_top: bool = False, gone: bool = False
) -> list[Element]:
    """A flower at a point, `size` times as large as its trait says; one that is `gone` has dry colours and no petals."""
    r = trait.mm / 2 * size
    colour, middle = ("tan", "brown") if gone else (trait.colour, trait.middle)
    rays = max(5, min(trait.petals, (7, 9, 14)[detail]))
    found: list[Element]
    if trait.form in ("daisy", "head"):
        inner = 0.34 if trait.form == "daisy" else 0.5
        found = []
        if not gone and detail < 2:
            rim = [at + unit(90 + 180 * k / rays) * r * (1.0 if k % 2 else 0.7) for k in range(2 * rays)]
            found = [Outline((*rim, rim[0]), colour)]
        elif not gone:
            wide = 2 * math.pi * r * 0.62 / rays * 1.15
            found = [
                petal(
                    at + unit(90 + 360 * k / rays) * r * inner * 0.8,
                    unit(90 + 360 * k / rays),
                    r * (1 - inner * 0.8),
                    wide,
                    colour,
                )
                for k in range(rays)
            ]
        found.append(Disc(at, r * inner * 1.1, r * inner * 1.1, middle if not gone else "brown"))
        if detail:
            found += [
                Disc(
                    at + unit(GOLDEN_DEG * k) * r * inner * 0.85 * math.sqrt(k / 9),
                    r * 0.045,
                    r * 0.045,
                    "dark",
                    bare=True,
                )
                for k in range(9)
            ]
        return found if from_top else squashed(found, at, 0.82)
    if gone:
        return _gone(trait, at, r, detail)
    if trait.form in ("cross", "five", "star"):
        number = 4 if trait.form == "cross" else trait.petals
        wide = r * (0.95 if number == 4 else 0.82 if trait.form == "five" else 0.42)
        found = [
            petal(at, unit(45 + 360 * k / number if number == 4 else 90 + 360 * k / number), r, wide, colour)
            for k in range(number)
        ]
        found.append(Disc(at, r * 0.24, r * 0.24, middle))
        return found if from_top else squashed(found, at, 0.86)
    if trait.form == "face":
        found = [petal(at, unit(angle), r, r * 1.05, colour) for angle in (60, 120)]
        found += [petal(at, unit(angle), r * 0.92, r * 0.9, trait.middle) for angle in (-5, 185)]
        found.append(petal(at, unit(-90), r, r * 1.25, trait.middle, notch=True))
        found.append(Disc(at, r * 0.16, r * 0.16, "yellow"))
        return found
    if trait.form == "pea":
        found = [petal(at - r * 0.3j, unit(angle), r * 1.25, r * 1.2, colour) for angle in (125, 55)]
        found.append(petal(at + r * 0.1j, unit(-90), r * 0.9, r * 0.7, trait.middle))
        return found
    if trait.form in ("trumpet", "bell"):
        down = -1 if trait.form == "bell" else 1
        mouth = at + r * 0.75j * down
        foot = at - r * 0.8j * down
        points = [
            foot,
            at - r * 0.25,
            mouth - r * 0.95,
            mouth - r * 0.5 + r * 0.3j * down,
            mouth + r * 0.12j * down,
            mouth + r * 0.5 + r * 0.3j * down,
            mouth + r * 0.95,
            at + r * 0.25,
            foot,
        ]
        if from_top:
            petals = [petal(at, unit(90 + 72 * k), r, r * 0.9, colour) for k in range(5)]
            return [*petals, Disc(at, r * 0.25, r * 0.25, middle)]
        return [Outline(tuple(points), colour, corners=(0, 2, 6, 8)), Disc(mouth, r * 0.3, r * 0.16, middle, bare=True)]
    if trait.form == "umbel":
        spokes = (5, 5, 7)[detail]
        if from_top:
            spots = [at + unit(360 * k / (spokes - 1)) * r * 0.72 for k in range(spokes - 1)] + [at]
            return [Disc(spot, r * 0.3, r * 0.3, colour) for spot in spots]
        spots = [
            at + r * complex(0.95 * (2 * k / (spokes - 1) - 1), 0.28 * (1 - (2 * k / (spokes - 1) - 1) ** 2))
            for k in range(spokes)
        ]
        found = [Line((at - r * 0.7j, spot), "leaf", r * 0.06, vein=True) for spot in spots]
        return found + [Disc(spot, r * 0.27, r * 0.2, colour) for spot in spots]
    if trait.form in ("spike", "plume", "lip"):
        if from_top:
            around = [Disc(at + unit(60 * k) * r * 0.25, r * 0.3, r * 0.3, colour) for k in range(6)]
            return [*around, Disc(at, r * 0.25, r * 0.25, colour)]
        whorls = (3, 5, 6)[detail]
        found = [Line((at - r * 0.9j, at + r * 0.9j), "moss", r * 0.1)]
        for k in range(whorls):
            here = at + r * 1j * (-0.7 + 1.6 * k / (whorls - 1))
            wide = r * (0.42 - 0.24 * k / whorls) * (1.5 if trait.form == "plume" else 1.0)
            sides = (-0.7, 0.7) if trait.form != "lip" else (-0.9, 0.9)
            found += [
                Disc(here + wide * side, wide * 0.62, wide * (0.62 if trait.form != "lip" else 0.45), colour)
                for side in sides
            ]
        found.append(Disc(at + r * 0.95j, r * 0.13, r * 0.15, colour))
        return found
    if trait.form == "ball":
        found = [Disc(at, r, r * 0.92, colour)]
        if detail:
            found += [
                Line((at + unit(40 * k) * r * 0.45, at + unit(40 * k) * r * 0.8), trait.middle, r * 0.06, vein=True)
                for k in range(9)
            ]
        return found
    if trait.form == "tassel":
        ends = [unit(90 + angle) for angle in (-58, -30, 0, 30, 58)]
        start = at - r * 0.6j
        return [
            Line((start, start + end * r * 0.8, start + end * r * 1.5 - r * 0.12j), colour, r * 0.1) for end in ends
        ]
    return []


def _gone(trait: FlowerTrait, at: Point, r: float, detail: int) -> list[Element]:
    """What is left of a flower: dry umbels, spikes of capsules, a ball of seed."""
    if trait.form == "umbel":
        spots = [at + r * complex(x, 0.28 * (1 - x * x)) for x in (-0.9, -0.45, 0, 0.45, 0.9)]
        return [
            *(Line((at - r * 0.7j, spot), "tan", r * 0.06) for spot in spots),
            *(Disc(spot, r * 0.13, r * 0.13, "brown") for spot in spots),
        ]
    if trait.form in ("spike", "plume", "lip", "tassel"):
        return [
            Line((at - r * 0.9j, at + r * 0.9j), "tan", r * 0.1),
            *(Disc(at + r * 1j * y + r * x, r * 0.16, r * 0.2, "tan") for y in (-0.5, 0, 0.5) for x in (-0.18, 0.18)),
        ]
    return [Disc(at, r * 0.4, r * 0.46, "tan"), Line((at + r * 0.4j, at + r * 0.7j), "brown", r * 0.1)]
