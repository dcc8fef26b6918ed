"""What a portrait is made of: outlines and lines on paper [mm, up is positive imaginary], and how they become SVG."""

import cmath
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

Point = complex
INK = "ink"

# Our palette. Names say what a colour is for the hand, not for a plant.
COLOURS = {
    INK: "#1d2b26",
    "pine": "#1f5d48",
    "fir": "#2c6d4c",
    "leaf": "#3f7f4f",
    "meadow": "#5c9350",
    "moss": "#7ba863",
    "lime": "#a3c483",
    "cream green": "#d3e2c1",
    "sea": "#2f6a63",
    "lagoon": "#4f8779",
    "mist": "#86b2a2",
    "slate green": "#6a8878",
    "sage": "#93ab9c",
    "silver": "#bccbc0",
    "plum": "#54375a",
    "mauve": "#7a5678",
    "lilac": "#a58ab4",
    "lavender": "#b9a9d6",
    "violet": "#6f52a0",
    "blue": "#4a72b4",
    "sky": "#8fb0dc",
    "pink": "#dc94ac",
    "rose": "#c4567a",
    "red": "#b23a34",
    "brick": "#8e3a2c",
    "coral": "#de7359",
    "orange": "#d5792a",
    "marigold": "#e8a43a",
    "yellow": "#f1cf56",
    "butter": "#f5e6a6",
    "white": "#fbfaf4",
    "cream": "#efe3c8",
    "straw": "#d4ba80",
    "tan": "#c19a6b",
    "brown": "#8d6040",
    "bark": "#6d4c38",
    "dark": "#3a2c2a",
    "soil": "#cdbfb1",
    "deep soil": "#b6a494",
}


@dataclass(frozen=True)
class Outline:
    """A filled shape through its points: smooth between them, sharp at the numbers in `corners`; a `bare` one has no outline of its own."""

    points: tuple[Point, ...]
    colour: str
    corners: tuple[int, ...] = ()
    sharp: bool = False
    bare: bool = False
    ribs: tuple[tuple[Point, Point], ...] = ()


@dataclass(frozen=True)
class Disc:
    """An ellipse: middle, half axes [mm], turned by `turn` (a unit number)."""

    middle: Point
    across: float
    high: float
    colour: str
    turn: Point = 1 + 0j
    bare: bool = False


@dataclass(frozen=True)
class Line:
    """A line of a width [mm], with an ink edge where it is `edged`; a `vein` is thin, and ink in a line drawing."""

    points: tuple[Point, ...]
    colour: str
    width: float
    edged: bool = True
    vein: bool = False
    sharp: bool = False


Element = Outline | Disc | Line


def moved(one: Element, scale_x: float, scale_y: float) -> Element:
    """The same element drawn wider and higher by these factors, from the origin."""

    def at(point: Point) -> Point:
        return complex(point.real * scale_x, point.imag * scale_y)

    if isinstance(one, Disc):
        return replace(one, middle=at(one.middle), across=one.across * scale_x, high=one.high * scale_y)
    if isinstance(one, Outline):
        ribs = tuple((at(start), at(end)) for start, end in one.ribs)
        return replace(one, points=tuple(at(point) for point in one.points), ribs=ribs)
    return replace(one, points=tuple(at(point) for point in one.points))


def shifted(one: Element, by: Point) -> Element:
    """The same element somewhere else."""
    if isinstance(one, Disc):
        return Disc(one.middle + by, one.across, one.high, one.colour, one.turn, one.bare)
    if isinstance(one, Outline):
        return Outline(tuple(point + by for point in one.points), one.colour, one.corners, one.sharp, one.bare)
    return Line(tuple(point + by for point in one.points), one.colour, one.width, one.edged, one.vein, one.sharp)


def bounds(elements: Iterable[Element]) -> tuple[float, float, float, float]:
    """Left, bottom, right and top [mm] of what is drawn, without the width of the ink."""
    xs, ys = [], []
    for one in elements:
        if isinstance(one, Disc):
            xs += [one.middle.real - one.across, one.middle.real + one.across]
            ys += [one.middle.imag - one.high, one.middle.imag + one.high]
        else:
            half = one.width / 2 if isinstance(one, Line) and not one.vein else 0.0
            xs += [point.real - half for point in one.points] + [point.real + half for point in one.points]
            ys += [point.imag - half for point in one.points] + [point.imag + half for point in one.points]
    if not xs:
        return 0.0, 0.0, 0.0, 0.0
    return min(xs), min(ys), max(xs), max(ys)


@dataclass(frozen=True)
class Sheet:
    """Where on paper things go: `scale` units a millimetre, and the place of the origin in units, down positive."""

    scale: float
    x: float
    y: float

    def put(self, point: Point) -> Point:
        return complex(self.x + point.real * self.scale, self.y - point.imag * self.scale)


Form = Literal["colour", "line"]
THIN, VEIN, LEAST_LINE, LEAST_STEM = (
    2.0,
    1.8,
    3.0,
    3.4,
)  # widths of ink, of the thinnest line and stem, in units of the paper: our own choice


def svg_body(
    elements: Sequence[Element], sheet: Sheet, name: str, form: Form, *, heavy: float, plain: bool = False
) -> str:
    """The elements as SVG: first all outlines as one heavy contour, then each with a thin line. `name` is an id of its own;
    in a `plain` drawing stems and small shapes are straight from point to point."""
    inner = _Writer(sheet, form, heavy, plain).all(elements)
    return (
        f'<defs><g id="{name}" stroke-linejoin="round" stroke-linecap="round">{inner}</g></defs>'
        f'<g stroke="{COLOURS[INK]}"><use href="#{name}" stroke-width="{_n(2 * heavy)}"/>'
        f'<use href="#{name}" stroke-width="{_n(THIN)}"/></g>'
    )


@dataclass(frozen=True)
class _Writer:
    """Writes elements on a sheet; what is drawn alike one after another becomes one path."""

    sheet: Sheet
    form: Form
    heavy: float
    plain: bool

    def all(self, elements: Sequence[Element]) -> str:
        said: list[str] = []
        style, paths = "", ""
        for one in elements:
            here, path = self.written(one)
            if here != style and paths:
                said.append(f'<path d="{paths}"{style}/>')
                paths = ""
            style = here
            paths += path
        if paths:
            said.append(f'<path d="{paths}"{style}/>')
        return "".join(said)

    def written(self, one: Element) -> tuple[str, str]:
        """How an element is painted, and its path; alike fills are joined only where they have no outline."""
        colour = COLOURS[one.colour] if self.form == "colour" or one.colour == INK else "#fff"
        if isinstance(one, Line):
            return self.line(one, colour)
        if one.bare:
            if self.form == "line":
                return "", ""
            if isinstance(one, Disc) and one.across * self.sheet.scale < 4:
                middle = self.sheet.put(one.middle)
                width = max(2, round(2 * one.across * self.sheet.scale))
                return f' stroke="{colour}" stroke-width="{width}"', f"M{_pair(middle)}h0"
        bare = ' stroke="none"' if one.bare else ""
        path = self.disc(one) if isinstance(one, Disc) else self.outline(one)
        return f' fill="{colour}"{bare}', path

    def outline(self, one: Outline) -> str:
        points = [self.sheet.put(point) for point in one.points]
        rib = "".join(f"M{_pair(self.sheet.put(a))}L{_pair(self.sheet.put(b))}" for a, b in one.ribs)
        sharp = one.sharp or (self.plain and _is_small(points))
        return f"{_path(points, one.corners, sharp)}z{rib}"

    def disc(self, one: Disc) -> str:
        middle = self.sheet.put(one.middle)
        across, high = one.across * self.sheet.scale, one.high * self.sheet.scale
        way = complex(one.turn.real, -one.turn.imag) * across
        turn = f"{math.degrees(cmath.phase(one.turn)):.0f}" if abs(one.turn.imag) > 0.01 else "0"
        turn = turn if turn == "0" else _n(-float(turn))
        radii = f"{_n(max(1, across))} {_n(max(1, high))} {turn} 1 0"
        return f"M{_pair(middle - way)}a{radii} {_pair(2 * way)}a{radii} {_pair(-2 * way)}z"

    def line(self, one: Line, colour: str) -> tuple[str, str]:
        points = [self.sheet.put(point) for point in one.points]
        width = max(one.width * self.sheet.scale, LEAST_LINE)
        if one.vein:
            shade = COLOURS[INK] if self.form == "line" else colour
            return f' fill="none" stroke="{shade}" stroke-width="{_n(VEIN)}"', _path(points, (), one.sharp)
        if one.edged:
            width = max(width, LEAST_STEM)
            left, right = _beside(points, width / 2)
            return (
                f' fill="{colour}"',
                f"{_path([*left, *right[::-1], left[0]], (0, len(left) - 1, len(left), 2 * len(left) - 1), one.sharp or self.plain)}z",
            )
        if one.colour == INK:
            width += 2 * self.heavy
        return f' fill="none" stroke="{colour}" stroke-width="{_n(width)}"', _path(points, (), one.sharp)


SMALL = 110.0  # units of the paper: smaller shapes in a plain drawing are straight from point to point: our own choice


def _is_small(points: Sequence[Point]) -> bool:
    return all(abs(point - points[0]) < SMALL for point in points)


def _beside(points: Sequence[Point], by: float) -> tuple[list[Point], list[Point]]:
    """The points to the left and right of a line."""
    left, right = [], []
    for number, here in enumerate(points):
        way = points[min(number + 1, len(points) - 1)] - points[max(number - 1, 0)]
        across = way / abs(way) * 1j * by if abs(way) > 1e-9 else by * 1j
        left.append(here + across)
        right.append(here - across)
    return left, right


def _path(points: Sequence[Point], corners: Sequence[int], sharp: bool) -> str:
    """A path through points, relative: straight, or smooth by the tangents of the neighbours with breaks at the corners."""
    at = complex(round(points[0].real), round(points[0].imag))
    said = [f"M{_pair(at)}"]
    stops = set(corners)
    last = len(points) - 1
    closed = last > 2 and points[0] == points[last] and 0 not in stops and last not in stops
    for number in range(1, len(points)):
        before, here = points[number - 1], points[number]
        end = complex(round(here.real), round(here.imag))
        if sharp or len(points) == 2:
            said.append(f"l{_pair(end - at)}")
        else:
            back = points[number - 2] if number > 1 and number - 1 not in stops else before
            after = points[number + 1] if number < last and number not in stops else here
            if closed:  # round where it meets itself, too
                back = points[last - 1] if number == 1 else back
                after = points[1] if number == last else after
            first, second = before + (here - back) / 6, here - (after - before) / 6
            said.append(f"c{_pair(first - at)}{_more(second - at)}{_more(end - at)}")
        at = end
    return "".join(said)


def _pair(point: Point) -> str:
    y = _n(point.imag)
    return f"{_n(point.real)}{y if y[0] == '-' else ' ' + y}"


def _more(point: Point) -> str:
    text = _pair(point)
    return text if text[0] == "-" else " " + text


def _n(value: float) -> str:
    """A whole number; the paper has units enough."""
    return str(round(value))
