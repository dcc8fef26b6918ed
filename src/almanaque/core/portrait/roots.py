"""What lies below a plant, around where it leaves the ground [mm], and the soil around it."""

from almanaque.core.portrait.pen import Disc, Element, Line, Outline
from almanaque.core.portrait.strokes import unit
from almanaque.core.portrait.traits import RootTrait

FIBROUS = RootTrait(form="fibrous")


def root(trait: RootTrait, depth: float, detail: int, size: float) -> list[Element]:
    """What lies under a plant at the origin, grown to `size` (0 to 1) of itself; `depth` [mm] is how far fine roots are drawn."""
    long = trait.mm * size
    wide = long * trait.ratio
    fine = _fine(0, -0.02 * depth, depth, max(depth * 0.5, 1.0))
    match trait.form:
        case "taper":
            top = wide * 0.08 * 1j
            points = [
                top - wide / 2,
                -wide / 2 - long * 0.12j,
                complex(-wide * 0.34, -long * 0.5),
                complex(-wide * 0.06, -long * 0.94),
                complex(0, -long),
                complex(wide * 0.08, -long * 0.9),
                complex(wide * 0.36, -long * 0.45),
                wide / 2 - long * 0.12j,
                top + wide / 2,
                top - wide / 2,
            ]
            marks = [
                Line(
                    (complex(-wide * a, -long * y), complex(-wide * a + wide * 0.22, -long * y)),
                    "brown",
                    wide * 0.03,
                    vein=True,
                )
                for a, y in ((0.4, 0.22), (0.1, 0.4), (0.3, 0.55))
            ]
            tail = Line((complex(0, -long), complex(wide * 0.1, -long * 1.15)), trait.colour, wide * 0.05)
            return [tail, Outline(tuple(points), trait.colour, corners=(0, 8, 9)), *(marks if detail else ())]
        case "globe":
            middle = -1j * long * 0.36
            tail = Line(
                (middle - long * 0.4j, middle - long * 0.72j, middle + complex(long * 0.06, -long)),
                trait.colour,
                long * 0.05,
            )
            shine = (
                [Disc(middle + complex(-wide * 0.2, long * 0.16), wide * 0.09, long * 0.07, "white", bare=True)]
                if detail
                else []
            )
            return [tail, Disc(middle, wide / 2, long * 0.45, trait.colour), *shine]
        case "bulb" | "cloves":
            points = [
                complex(x * wide / 2, y * long)
                for x, y in (
                    (0.16, 0.3),
                    (0.5, 0),
                    (1, -0.4),
                    (0.7, -0.8),
                    (0, -0.92),
                    (-0.7, -0.8),
                    (-1, -0.4),
                    (-0.5, 0),
                    (-0.16, 0.3),
                    (0.16, 0.3),
                )
            ]
            lines = [
                Line(
                    (
                        complex(x * wide * 0.18, long * 0.1),
                        complex(x * wide * 0.42, -long * 0.4),
                        complex(x * wide * 0.2, -long * 0.86),
                    ),
                    "tan",
                    wide * 0.03,
                    vein=True,
                )
                for x in (-1, 0.1, 1)
            ]
            hair = [
                Line(
                    (complex(x * wide * 0.12, -long * 0.9), complex(x * wide * 0.3, -long * 1.25)),
                    "cream",
                    wide * 0.03,
                    edged=False,
                    vein=True,
                )
                for x in (-1, 0, 1)
            ]
            return [
                *hair,
                Outline(tuple(points), trait.colour, corners=(0, 8, 9)),
                *(lines if detail or trait.form == "cloves" else ()),
            ]
        case "swollen":
            return [*fine, Disc(1j * long * 0.5, wide / 2, long * 0.5, trait.colour)]
        case "tubers" | "nuts":
            found: list[Element] = [*fine]
            spots = ((-1.35, -0.95), (1.25, -0.8), (-0.35, -1.5), (0.85, -1.75), (-1.75, -1.75), (1.9, -1.6))[
                : max(2, trait.many)
            ]
            for number, (x, y) in enumerate(spots):
                place = complex(x * wide * 0.95, y * wide * 0.9)
                found.append(Line((0j, complex(place.real * 0.5, place.imag * 0.35), place), "cream", wide * 0.06))
                across = long / 2 * (0.85 + 0.15 * (number % 2))
                found.append(Disc(place, across, wide / 2, trait.colour, turn=unit(18 * (number % 3 - 1))))
                if detail:
                    found += [
                        Disc(place + complex(across * a, wide * 0.1 * b), wide * 0.05, wide * 0.04, "dark", bare=True)
                        for a, b in ((-0.4, 1), (0.35, -1))
                    ]
            return found
        case "crown":
            return [*fine, Disc(-1j * wide * 0.15, wide * 0.7, wide * 0.45, trait.colour)]
        case "stem":
            points = [
                complex(-wide / 2, long * 0.12),
                complex(-wide / 2, -long * 0.7),
                complex(0, -long * 0.78),
                complex(wide / 2, -long * 0.7),
                complex(wide / 2, long * 0.12),
                complex(-wide / 2, long * 0.12),
            ]
            hair = [
                Line(
                    (complex(x * wide * 0.2, -long * 0.74), complex(x * wide * 0.9, -long)),
                    "cream",
                    wide * 0.06,
                    edged=False,
                    vein=True,
                )
                for x in (-1, -0.3, 0.4, 1)
            ]
            return [*hair, Outline(tuple(points), trait.colour, corners=(0, 1, 3, 4, 5))]
        case _:
            return fine


def _fine(x: float, y: float, depth: float, spread: float) -> list[Element]:
    start = complex(x, y)
    ends = ((-0.9, -0.55), (-0.45, -0.9), (0.05, -1.0), (0.5, -0.85), (0.9, -0.5))
    return [
        Line(
            (start, start + complex(a * spread * 0.5, b * depth * 0.4), start + complex(a * spread, b * depth)),
            "cream",
            depth * 0.02,
            edged=False,
            vein=True,
        )
        for a, b in ends
    ]


def soil(width: float, depth: float) -> list[Element]:
    """A clod of soil under a plant, with a few crumbs."""
    half = max(width * 0.46, depth * 0.7)
    edge = (
        (-half * 1.04, 0),
        (-half, -depth * 0.72),
        (-half * 0.8, -depth),
        (half * 0.8, -depth),
        (half, -depth * 0.72),
        (half * 1.04, 0),
    )
    points = [complex(x, y) for x, y in edge]
    crumbs = [
        Disc(complex(x * half, y * depth), depth * 0.018, depth * 0.012, "deep soil", bare=True) for x, y in CRUMBS
    ]
    return [
        Outline((*points, points[0]), "soil", corners=(0, 5, 6), bare=True),
        *crumbs,
        Line((points[0], points[5]), "ink", 0.0),
    ]


# Where crumbs lie in a clod, in half widths and depths: our own drawing.
CRUMBS = ((-0.8, -0.25), (-0.5, -0.6), (-0.2, -0.85), (0.3, -0.75), (0.55, -0.3), (0.75, -0.6), (-0.65, -0.85))
