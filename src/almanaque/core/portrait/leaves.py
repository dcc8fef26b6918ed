"""Leaves: outlines along a midrib, compound ones of several, ferns as strokes."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

from almanaque.core.portrait.pen import Line, Outline, Point
from almanaque.core.portrait.space import Place, Scene, arc
from almanaque.core.portrait.traits import LeafTrait, Tone

# Half of an outline from the stalk to the tip: share of the length, share of half the width. Lobes lie behind the stalk below 0.
HALVES: dict[str, tuple[tuple[float, float], ...]] = {
    "oval": ((0, 0), (0.14, 0.62), (0.42, 1), (0.76, 0.7), (1, 0)),
    "round": ((0, 0), (0.06, 0.6), (0.4, 1), (0.82, 0.82), (1, 0)),
    "lance": ((0, 0), (0.2, 0.75), (0.4, 1), (0.7, 0.66), (1, 0)),
    "spoon": ((0, 0.16), (0.3, 0.24), (0.62, 0.95), (0.86, 0.9), (1, 0)),
    "heart": ((0, 0), (-0.13, 0.42), (0.04, 0.92), (0.34, 1), (0.72, 0.56), (1, 0)),
    "arrow": ((0, 0), (-0.16, 0.72), (0.06, 0.98), (0.34, 0.66), (0.72, 0.5), (1, 0)),
    "lyre": ((0, 0.1), (0.16, 0.42), (0.24, 0.16), (0.36, 0.66), (0.46, 0.28), (0.62, 0.96), (0.84, 0.9), (1, 0)),
    "cut": (
        (0, 0.08),
        (0.16, 0.55),
        (0.22, 0.16),
        (0.38, 0.95),
        (0.44, 0.22),
        (0.6, 1),
        (0.68, 0.26),
        (0.82, 0.72),
        (0.88, 0.3),
        (1, 0),
    ),
    "oak": ((0, 0.1), (0.2, 0.62), (0.3, 0.42), (0.48, 0.95), (0.6, 0.66), (0.76, 0.9), (0.88, 0.5), (1, 0)),
    "hand": ((0, 0), (-0.14, 0.5), (0.06, 0.98), (0.2, 0.56), (0.5, 1), (0.58, 0.46), (0.86, 0.42), (1, 0)),
    "strap": ((0, 0.8), (0.3, 1), (0.65, 0.82), (1, 0)),
    "blade": ((0, 0.7), (0.22, 1), (0.6, 0.8), (1, 0)),
    "needle": ((0, 0.6), (0.5, 1), (1, 0)),
    "tube": ((0, 0.8), (0.4, 1), (0.75, 0.8), (1, 0)),
    "leaflet": ((0, 0), (0.42, 1), (1, 0)),
    "notched": ((0, 0), (0.1, 0.42), (0.55, 1), (0.92, 0.86), (1.02, 0.42), (0.9, 0)),
    "square": ((0, 0), (0.08, 0.55), (0.5, 1), (0.94, 0.92), (0.9, 0)),
    "kidney": ((0, 0), (-0.12, 0.6), (0.3, 1), (0.75, 0.85), (1, 0.3), (1.02, 0)),
}
CUT_IN = {"lyre", "cut", "oak", "hand"}  # outlines that say all of their margin themselves
TONES: dict[Tone, tuple[str, str, str]] = {
    "dark": ("pine", "fir", "leaf"),
    "mid": ("fir", "leaf", "meadow"),
    "pale": ("meadow", "moss", "lime"),
    "blue": ("sea", "lagoon", "mist"),
    "grey": ("slate green", "sage", "silver"),
    "purple": ("plum", "mauve", "lilac"),
}
TEETH = (3, 4, 6)  # along half a leaf, by detail
LEAST_SEEN = 0.55  # share of a leaf's width that is drawn however it is turned: our own choice


def along(midrib: Sequence[Point], share: float) -> tuple[Point, Point]:
    """The point at a share of the midrib and the direction there (a unit number); before 0 and beyond 1 it goes on straight."""
    steps = len(midrib) - 1
    at = min(max(share, 0.0), 1.0) * steps
    number = min(int(at), steps - 1)
    first, second = midrib[number], midrib[number + 1]
    way = second - first
    way = way / abs(way) if abs(way) > 1e-9 else 1j
    here = first + (second - first) * (at - number)
    if 0 <= share <= 1:
        return here, way
    beyond = share if share < 0 else share - 1
    return here + way * beyond * sum(abs(b - a) for a, b in itertools.pairwise(midrib)), way


def half_points(form: str, margin: str, detail: int) -> list[tuple[float, float]]:
    """Half an outline with its margin: teeth, waves or ruffles between the points of its form."""
    half = list(HALVES[form])
    if margin == "smooth" or form in CUT_IN:
        return half
    number = TEETH[detail] + (2 if margin == "ruffled" else 0)
    out, inside = {"toothed": (1.06, 0.84), "wavy": (1.04, 0.86), "ruffled": (1.12, 0.82)}[margin]
    made = [half[0]]
    first = half[1] if half[1][0] < 0 else half[0]
    if first is not half[0]:
        made.append(first)
    for tooth in range(number):
        share = (tooth + 0.6) / (number + 0.35)
        made.append((share, _wide(half, share) * out))
        valley = (tooth + 1.0) / (number + 0.35)
        if valley < 0.97:
            made.append((valley - (0.02 if margin == "toothed" else 0.0), _wide(half, valley) * inside))
    return [*made, half[-1]]


def _wide(half: Sequence[tuple[float, float]], share: float) -> float:
    for (t0, w0), (t1, w1) in itertools.pairwise(half):
        if t0 <= share <= t1 and t1 > t0:
            part = (share - t0) / (t1 - t0)
            part = (1 - math.cos(math.pi * part)) / 2 * 0.5 + part * 0.5
            return w0 + (w1 - w0) * part
    return 0.0


def outline(midrib: Sequence[Point], width: float, form: str, margin: str, detail: int, colour: str) -> Outline:
    """A blade along its midrib: one half up, the other back, sharp at stalk and tip."""
    half = half_points(form, margin, detail)
    left, right = [], []
    for share, wide in half:
        here, way = along(midrib, share)
        across = way * 1j * wide * width / 2
        left.append(here + across)
        right.append(here - across)
    tip = len(left) - 1
    back = right[::-1]
    if half[-1][1] == 0:
        back = back[1:]
    if half[0][1] == 0:
        back = back[:-1]
    points = [*left, *back, left[0]]
    return Outline(
        tuple(points), colour, corners=(0, tip, len(points) - 1), sharp=margin == "toothed" and form not in CUT_IN
    )


def shaded_half(whole: Outline, midrib: Sequence[Point], colour: str) -> Outline:
    """The lower half of a blade in a darker colour."""
    middle = len(whole.points) // 2
    half = (
        whole.points[middle:]
        if _lower(whole.points[middle:]) <= _lower(whole.points[: middle + 1])
        else whole.points[: middle + 1]
    )
    rib = [along(midrib, share)[0] for share in (0.66, 0.33)]
    ordered = [*half, *rib[::-1]] if half[0] != whole.points[0] else [*half, *rib]
    corners = (0, len(half) - 1)
    return Outline((*ordered, ordered[0]), colour, corners=corners, sharp=whole.sharp, bare=True)


def _lower(points: Sequence[Point]) -> float:
    """How low and how far right points lie."""
    return sum(point.imag - 0.6 * point.real for point in points) / len(points)


def tone_of(leaf: LeafTrait, shade: float, dry: float = 0.0) -> str:
    """The colour of a leaf from the far or dark (-1) to the near or light ones (1); straw where it is dry."""
    if dry >= 1:
        return ("brown", "tan", "straw")[_step(shade)]
    if dry > 0:
        return ("moss", "lime", "straw")[_step(shade)]
    return TONES[leaf.tone][_step(shade)]


def _step(shade: float) -> int:
    return 0 if shade < -0.33 else 2 if shade > 0.33 else 1


def add_leaf(
    scene: Scene,
    base: Place,
    azimuth: float,
    elevation: float,
    length: float,
    leaf: LeafTrait,
    *,
    droop: float = 30.0,
    shade: float = 0.0,
    dry: float = 0.0,
    stem: str = "moss",
    nearer: float = 0.0,
) -> None:
    """Put a leaf of a whole length [mm] into a scene, with its stalk."""
    path = arc(base, azimuth, elevation, length, droop)
    seen = [scene.see(place) for place in path]
    midrib = [point for point, _ in seen]
    near = sum(depth for _, depth in seen) / len(seen) + nearer
    colour = tone_of(leaf, shade, dry)
    darker = tone_of(leaf, shade - 0.7, dry)
    ruler = abs(math.sin(math.radians(azimuth))) if scene.view == "side" else 1.0
    seen_width = LEAST_SEEN + (1 - LEAST_SEEN) * (0.55 + 0.45 * ruler)
    if leaf.form in ("fern", "thread"):
        scene.add(near, *_fern(midrib, length, leaf, scene.detail, colour))
        return
    stalk, blade = _parts(midrib, leaf.stalk)
    blade_length = sum(abs(b - a) for a, b in itertools.pairwise(blade))
    true_length = length * (1 - leaf.stalk)
    width = max(true_length, blade_length) * leaf.ratio * seen_width * (0.7 if dry >= 1 else 1.0)
    drawn: list[Outline | Line] = []
    if len(stalk) > 1 and leaf.stalk > 0.04 and leaf.form not in ("strap", "blade", "tube", "needle"):
        wide = max(length * 0.035, 0.4)
        drawn.append(Line(tuple(stalk), stem if dry < 1 else "tan", wide))
    if leaf.form == "shield":
        middle = blade[len(blade) // 2]
        rim = [
            middle + (width / 2) * complex(math.cos(a), math.sin(a) * 0.8) for a in (k * math.pi / 4 for k in range(8))
        ]
        drawn.append(Outline((*rim, rim[0]), colour, corners=()))
        drawn += [
            Line((middle, middle + (point - middle) * 0.75), leaf.rib, width * 0.03, vein=True) for point in rim[::2]
        ]
    elif leaf.form in ("pinnate", "trifoliate", "fingers"):
        drawn += _compound(stalk[-1] if stalk else midrib[0], blade, width, leaf, scene.detail, colour, darker)
    else:
        drawn += _simple(blade, width, leaf, scene.detail, colour, darker)
    scene.add(near, *drawn)


def _parts(midrib: Sequence[Point], stalk: float) -> tuple[list[Point], list[Point]]:
    """The stalk's and the blade's part of a midrib."""
    if stalk <= 0:
        return [], list(midrib)
    shares = [stalk + (1 - stalk) * step / 3 for step in range(4)]
    return [midrib[0], along(midrib, stalk / 2)[0], along(midrib, stalk)[0]], [
        along(midrib, share)[0] for share in shares
    ]


def _simple(
    blade: Sequence[Point], width: float, leaf: LeafTrait, detail: int, colour: str, darker: str
) -> list[Outline | Line]:
    whole = outline(blade, width, leaf.form, leaf.margin, detail, colour)
    drawn: list[Outline | Line] = [whole]
    thin = leaf.form in ("needle", "tube")
    if detail == 1 and not thin:
        start, end = along(blade, 0.04)[0], along(blade, 0.8)[0]
        drawn[0] = replace(whole, ribs=((start, end),))
    if detail == 2 and not thin:
        if leaf.form not in ("strap", "blade"):
            drawn.append(shaded_half(whole, blade, darker))
        rib = tuple(along(blade, share)[0] for share in (0.02, 0.45, 0.86))
        drawn.append(Line(rib, leaf.rib, width * 0.05, vein=True))
        if width > 0 and leaf.form not in ("strap", "blade", "cut"):
            for share, side in ((0.28, 1), (0.28, -1), (0.52, 1), (0.52, -1)):
                here, way = along(blade, share)
                out = here + (way * 0.5 + way * 1j * side * 0.9) * width * 0.28
                drawn.append(Line((here, out), leaf.rib, width * 0.02, vein=True))
    return drawn


def _compound(
    start: Point, blade: Sequence[Point], width: float, leaf: LeafTrait, detail: int, colour: str, darker: str
) -> list[Outline | Line]:
    """Leaflets along a rachis, three at the end of a stalk, or fingers from one point."""
    length = sum(abs(b - a) for a, b in itertools.pairwise(blade))
    way = along(blade, 0.5)[1]
    placed: list[tuple[Point, Point, float]] = []
    if leaf.form == "pinnate":
        pairs = max(1, (leaf.leaflets - 1) // 2)
        pairs = min(pairs, (1, 2, 9)[detail])
        size = min(length * 0.62, width * 0.62) if pairs < 4 else min(length * 1.5 / pairs, width * 0.55)
        for pair in range(pairs):
            here, direction = along(blade, (pair + 0.35) / (pairs + 0.5))
            for side in (1, -1):
                turn = complex(math.cos(math.radians(58)), side * math.sin(math.radians(58)))
                placed.append((here, direction * turn, size * (0.78 + 0.22 * pair / pairs)))
        here, direction = along(blade, 0.86 if pairs > 1 else 0.5)
        placed.append((here, direction, size * 1.12))
    else:
        number = 3 if leaf.form == "trifoliate" else leaf.leaflets
        spread = 78 if number == 3 else 120
        for finger in range(number):
            angle = math.radians(spread * (2 * finger / (number - 1) - 1))
            turn = complex(math.cos(angle), math.sin(angle))
            placed.append((blade[0], way * turn, length * (0.95 if finger == number // 2 else 0.86)))
        placed.sort(key=lambda one: abs(one[1] - way), reverse=True)
    each_ratio = {"pinnate": 0.5, "trifoliate": 0.72, "fingers": 0.36}[leaf.form]
    if leaf.form != "pinnate":
        each_ratio = min(each_ratio, max(0.2, leaf.ratio))
    form = "oval" if leaf.form != "fingers" else "lance"
    if detail < 2 and (leaf.form == "pinnate" or leaf.margin == "smooth"):
        form = "leaflet"
    drawn: list[Outline | Line] = []
    if leaf.form == "pinnate":
        drawn.append(Line(tuple(along(blade, share)[0] for share in (0, 0.5, 0.95)), "moss", max(length * 0.03, 0.4)))
    for here, direction, size in placed:
        rib = [here, here + direction * size / 2, here + direction * size]
        margin = leaf.margin if form != "leaflet" else "smooth"
        whole = outline(rib, size * each_ratio, form, margin, max(0, detail - 1), colour)
        drawn.append(replace(whole, ribs=((rib[0], here + direction * size * 0.75),)) if detail else whole)
        if detail == 2:
            drawn.append(shaded_half(whole, rib, darker))
    return drawn


def _fern(midrib: Sequence[Point], length: float, leaf: LeafTrait, detail: int, colour: str) -> list[Outline | Line]:
    """A leaf cut into threads: strokes on both sides of a rachis, shorter towards the tip."""
    pairs = (3, 4, 5)[detail]
    thick = length * (0.06 if leaf.form == "fern" else 0.026)
    lines = [tuple(along(midrib, share)[0] for share in (0, 0.33, 0.66, 1))]
    for pair in range(pairs):
        share = leaf.stalk + (1 - leaf.stalk) * (pair + 0.2) / pairs
        here, way = along(midrib, share)
        long = length * leaf.ratio * 0.5 * (1.05 - share) / (1.05 - leaf.stalk)
        for side in (1, -1):
            turn = complex(math.cos(math.radians(48)), side * math.sin(math.radians(48)))
            end = here + way * turn * long
            lines.append((here, end))
            if detail == 2 and leaf.form == "fern" and long > thick * 2.2:
                middle = here + way * turn * long * 0.55
                for twig in (0.9, -0.9):
                    lines.append((middle, middle + way * turn * complex(math.cos(twig), math.sin(twig)) * long * 0.42))
    edge = [Line(line, "ink", thick, edged=False) for line in lines]
    return [*edge, *(Line(line, colour, thick, edged=False) for line in lines)]
