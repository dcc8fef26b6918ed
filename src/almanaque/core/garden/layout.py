"""How a planting stands in its part of a bed: in squares, rows or staggered, by the figure it follows, as many as are wanted.

The figure comes from the catalogue's square count, from its distances, from the packet, or from one's own hand; a count set by
hand wins over all. Lengths are millimetres, positions count from the bed's inside top-left corner.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import TOLERANCE, Cell, Grid, Rectangle
from almanaque.core.garden.outline import Point, inside
from almanaque.core.garden.rows_and_staggered import RowLayout, place_in_rows, place_staggered
from almanaque.core.garden.spacing import (
    SOURCE,
    Layout,
    SpacingReading,
    near_square,
    place_in_squares,
    read_square,
    reading_order,
)
from almanaque.core.units import MM_PER_FOOT, Units, format_length
from almanaque.core.words import terms

MOST_IN_A_SQUARE = 400  # own count of plants: our own rule
LONGEST_COUNT = 6  # digits of it as they are written: our own rule
Arrangement = Literal["squares", "rows", "staggered"]
Follows = Literal["count", "figures", "packet", "hand"]


@dataclass(frozen=True)
class LayoutWish:
    """What a planting asks for; distances are those of the packet, or of the hand, and None elsewhere."""

    arrangement: Arrangement = "squares"
    follows: Follows = "count"
    per_square: int | None = None
    in_row_mm: float | None = None
    row_mm: float | None = None
    sow_mm: float | None = None
    edge_mm: float | None = None
    wanted: int | None = None


@dataclass(frozen=True)
class Figures:
    """The distances that are followed, and the count in a square where one is."""

    in_row_mm: float
    row_mm: float
    per_square: int | None
    whose: str


def square_count(crop: Crop, cell_mm: float) -> int | None:
    """The published count of a crop where the square is the foot (or 30 cm) it was published for."""
    foot = float(MM_PER_FOOT)
    return crop.per_square if abs(cell_mm - foot) <= (TOLERANCE - 1) * foot else None


def by_hand(span_mm: float | None, spans: float | None) -> float:
    """A distance measured by spans of the hand [mm], one if their number is not said. Raises BadInput without a span."""
    if span_mm is None:
        raise BadInput("garden.hand_span_missing", field="follows")
    return span_mm * (spans or 1.0)


def own_count(text: str) -> int:
    """A school's own count of plants in a square, as it was written. Raises BadInput."""
    found = int(text) if text.isascii() and text.isdigit() and len(text) <= LONGEST_COUNT else 0
    if not 1 <= found <= MOST_IN_A_SQUARE:
        raise BadInput("garden.own_count_out_of_range", field="per_square")
    return found


def figures(crop: Crop, wish: LayoutWish, cell_mm: float) -> Figures:
    """Which distances a planting follows, and in whose name. Raises BadInput for a packet or hand without its distance."""
    if wish.follows in ("packet", "hand"):
        if wish.in_row_mm is None:
            raise BadInput(f"garden.{wish.follows}_distance_unsaid", field="in_row", crop=crop.name.en.lower())
        return Figures(wish.in_row_mm, wish.row_mm or wish.in_row_mm, wish.per_square, _whose(wish, wish.follows))
    count = square_count(crop, cell_mm) if wish.follows == "count" else None
    row = wish.row_mm or crop.row_mm
    if count is None and wish.follows == "count":
        return Figures(crop.in_row_mm, row, wish.per_square, _whose(wish, "figures"))
    return Figures(crop.in_row_mm, row, wish.per_square or count, _whose(wish, wish.follows))


def _whose(wish: LayoutWish, follows: Follows) -> str:
    return (
        terms("follows")["own_count"]
        if wish.per_square and wish.arrangement == "squares"
        else terms("follows")[follows]
    )


def lay_out(
    cells: Iterable[Cell],
    grid: Grid,
    crop: Crop,
    wish: LayoutWish,
    *,
    units: Units = "us",
    kept: Sequence[Rectangle] = (),
    outline_mm: Sequence[Point] = (),
) -> Layout:
    """Where the plants of one planting stand in its squares.

    In rows and staggered the plants keep `edge_mm`, half the in-row spacing if left out, from the sides of the part, and half
    the in-row spacing from what is kept, from squares that are not its own, and from a slanting edge of the bed. Of more
    places than `wanted` the first in reading order are taken. Raises BadInput for a spacing that is wider than the part.
    """
    chosen = set(cells)
    follow = figures(crop, wish, grid.cell_mm)
    if wish.arrangement == "squares":
        found = place_in_squares(chosen, grid, spacing_mm=follow.in_row_mm, per_square=follow.per_square)
    else:
        found = _in_rows(chosen, grid, follow, wish, units, kept, outline_mm)
    if wish.wanted is not None and wish.wanted < found.plants:
        found = replace(found, positions_mm=found.positions_mm[: wish.wanted])
    return found


def _in_rows(
    chosen: set[Cell],
    grid: Grid,
    follow: Figures,
    wish: LayoutWish,
    units: Units,
    kept: Sequence[Rectangle],
    outline_mm: Sequence[Point],
) -> Layout:
    reading = read_square(follow.in_row_mm, grid.cell_mm)
    if not chosen:
        return Layout((), reading, 0, ())
    first_c, last_c = min(c for c, _ in chosen), max(c for c, _ in chosen)
    first_r, last_r = min(r for _, r in chosen), max(r for _, r in chosen)
    left, top = first_c * grid.pitch_x_mm, first_r * grid.pitch_y_mm
    length, width = (last_c - first_c + 1) * grid.pitch_x_mm, (last_r - first_r + 1) * grid.pitch_y_mm
    if follow.in_row_mm > TOLERANCE * max(length, width):
        raise BadInput(
            "garden.plants_do_not_fit",
            field="in_row",
            apart=format_length(follow.in_row_mm, units, feet=False),
            length=format_length(length, units),
            width=format_length(width, units),
        )
    not_ours = [
        Rectangle((c - first_c) * grid.pitch_x_mm, (r - first_r) * grid.pitch_y_mm, grid.pitch_x_mm, grid.pitch_y_mm)
        for r in range(first_r, last_r + 1)
        for c in range(first_c, last_c + 1)
        if (c, r) not in chosen
    ]
    away = [*not_ours, *(replace(part, x_mm=part.x_mm - left, y_mm=part.y_mm - top) for part in kept)]
    rows: RowLayout
    if wish.arrangement == "rows":
        rows = place_in_rows(
            length, width, in_row_mm=follow.in_row_mm, row_mm=follow.row_mm, edge_mm=wish.edge_mm, kept=away
        )
    else:
        rows = place_staggered(length, width, spacing_mm=follow.in_row_mm, edge_mm=wish.edge_mm, kept=away)
    places = tuple((x + left, y + top) for x, y in rows.positions_mm)
    if outline_mm and places:
        free = inside(np.array(places), outline_mm, free_mm=follow.in_row_mm / 2 * (2 - TOLERANCE))
        places = tuple(place for place, there in zip(places, free, strict=True) if there)
    return Layout(places, reading, len(chosen), (), len(places), _rows_words(rows, follow, wish, units))


def _rows_words(rows: RowLayout, follow: Figures, wish: LayoutWish, units: Units) -> str:
    apart = format_length(follow.in_row_mm, units, feet=False)
    count = f"{rows.rows} row{'' if rows.rows == 1 else 's'}"
    if wish.arrangement == "staggered":
        return f"{count}, staggered, {apart} from plant to plant"
    return f"{count}, {format_length(follow.row_mm, units, feet=False)} apart, {apart} in the row"


def squares_needed(cells: Iterable[Cell], grid: Grid, crop: Crop, wish: LayoutWish) -> set[Cell]:
    """The first squares that hold the wanted number, so that the rest stay open; all where no number is wanted."""
    chosen = set(cells)
    if wish.wanted is None or wish.arrangement != "squares":
        return chosen
    full = lay_out(chosen, grid, crop, replace(wish, wanted=None))
    block = full.reading.block
    if block > 1:
        corners = [
            (round(x / grid.pitch_x_mm - block / 2), round(y / grid.pitch_y_mm - block / 2))
            for x, y in full.positions_mm[: wish.wanted]
        ]
        return {(c + i, r + j) for c, r in corners for i in range(block) for j in range(block)} or chosen
    needed = -(-wish.wanted // max(1, full.reading.per_square))
    return set(sorted(chosen, key=reading_order)[:needed])


def number_words(layout: Layout, wanted: int | None, *, per_head: str = "") -> str:
    """What became of a wanted number: all placed, the rest open, or how many are missing; empty without one."""
    if wanted is None:
        return ""
    whom = f" for {per_head}" if per_head else ""
    if layout.plants < wanted:
        missing = wanted - layout.plants
        return f"{layout.plants} of {wanted} places{whom}; {missing} {'is' if missing == 1 else 'are'} missing"
    left = f"; room for {layout.open_places} more stays open" if layout.open_places else ""
    return f"{wanted} places{whom}{left}"


def too_few_places(name: str, layout: Layout, wanted: int | None) -> list[Finding]:
    """Care where fewer stand than were wanted."""
    if wanted is None or layout.plants >= wanted:
        return []
    return [
        Finding(
            "no_place",
            "care",
            name,
            {"plants": layout.plants, "wanted": wanted, "missing": wanted - layout.plants},
            SOURCE,
            (Fix("more_squares"),),
        )
    ]


def other_readings(
    cells: Iterable[Cell], grid: Grid, crop: Crop, wish: LayoutWish, *, units: Units, hand_span_mm: float | None = None
) -> list[str]:
    """What the other figures would give in the same squares, so that nobody has to guess which was followed."""
    chosen, found = set(cells), []
    mine = figures(crop, wish, grid.cell_mm)
    tries: list[tuple[Follows, LayoutWish]] = [
        ("count", LayoutWish(wish.arrangement, "count")),
        ("figures", LayoutWish(wish.arrangement, "figures")),
    ]
    if hand_span_mm:
        tries.append(
            ("hand", LayoutWish(wish.arrangement, "hand", in_row_mm=spans(crop.in_row_mm, hand_span_mm) * hand_span_mm))
        )
    for follows, other in tries:
        if terms("follows")[follows] == mine.whose or (
            follows == "count" and (square_count(crop, grid.cell_mm) is None or wish.arrangement != "squares")
        ):
            continue
        try:
            layout = lay_out(chosen, grid, crop, other, units=units)
        except BadInput:
            continue  # that figure does not fit here at all
        apart = (
            f" ({format_length(figures(crop, other, grid.cell_mm).in_row_mm, units, feet=False)})"
            if follows != "count"
            else ""
        )
        found.append(f"{terms('follows')[follows].capitalize()}{apart}: {layout.plants} plants, {layout.words}.")
    return found


def spans(distance_mm: float, hand_span_mm: float) -> float:
    """A distance in spans of one's own hand, to the half span and at least a half."""
    return max(0.5, round(2 * distance_mm / hand_span_mm) / 2)


def beside(layout: Layout, others: Sequence[tuple[float, float]], pitch_x_mm: float, pitch_y_mm: float) -> Layout:
    """The same plants moved by half a pitch where that keeps them farther from those they grow among on purpose."""
    if not others or not layout.positions_mm:
        return layout
    theirs, mine = np.array(others), np.array(layout.positions_mm)

    def room(moved: tuple[float, float]) -> float:
        near = mine + np.array(moved)
        return float(min(np.hypot(*(theirs - place).T).min() for place in near))

    ways = [(0.0, 0.0), (pitch_x_mm / 2, 0.0), (0.0, pitch_y_mm / 2), (pitch_x_mm / 2, pitch_y_mm / 2)]
    best = max(ways, key=lambda way: (round(room(way), 3), -ways.index(way)))
    # At the far sides there is no room for half a pitch more: those move a quarter.
    right, down = mine.max(axis=0) + np.array([pitch_x_mm, pitch_y_mm]) / 4
    moved = tuple((float(min(x + best[0], right)), float(min(y + best[1], down))) for x, y in layout.positions_mm)
    return replace(layout, positions_mm=moved)


def pitch(layout: Layout, grid: Grid, follow: Figures) -> float:
    """Distance to the nearest neighbour as they are placed [mm]; a count may stand closer than the spacing."""
    reading: SpacingReading = layout.reading
    if layout.rows_words or reading.block > 1:
        return follow.in_row_mm
    return grid.cell_mm / max(near_square(max(reading.per_square, 1)))
