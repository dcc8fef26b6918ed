"""Rebuilding a bed: how long its material lasts, and what a new wall takes in boards or bricks, soil and money."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix
from almanaque.core.units import Units


@dataclass(frozen=True)
class BedLife:
    """Usual years of a material in contact with soil, by a word in its name."""

    word: str
    least: int
    most: int
    source: str


PRACTICE, MEMORY = "practice", "memory_of_beds"
# The first row whose word is found in the material's name counts.
LIVES: tuple[BedLife, ...] = (
    BedLife("oak", 15, 20, MEMORY),
    BedLife("larch", 10, 15, MEMORY),
    BedLife("cedar", 10, 15, MEMORY),
    BedLife("robinia", 20, 30, MEMORY),
    BedLife("chestnut", 15, 20, MEMORY),
    BedLife("pine", 8, 10, PRACTICE),
    BedLife("spruce", 8, 10, PRACTICE),
    BedLife("fir", 8, 10, PRACTICE),
    BedLife("softwood", 8, 10, PRACTICE),
    BedLife("sleeper", 15, 20, MEMORY),
    BedLife("board", 8, 10, PRACTICE),
    BedLife("timber", 8, 10, PRACTICE),
    BedLife("brick", 40, 80, MEMORY),
    BedLife("stone", 50, 100, MEMORY),
    BedLife("block", 40, 80, MEMORY),
    BedLife("zinc", 20, 30, MEMORY),
    BedLife("galvan", 20, 30, MEMORY),
    BedLife("steel", 15, 30, MEMORY),
    BedLife("plastic", 15, 30, MEMORY),
    BedLife("fabric", 3, 6, MEMORY),
    BedLife("straw", 1, 2, PRACTICE),
)


@dataclass(frozen=True)
class Board:
    """A board as sold, dressed size [mm]; `stock_mm` are the lengths it comes in."""

    name: str
    high_mm: float
    thick_mm: float
    stock_mm: tuple[float, ...]
    source: str


@dataclass(frozen=True)
class Brick:
    """A brick with its joint [mm]: the length and height it takes in the wall."""

    name: str
    length_mm: float
    high_mm: float
    source: str


FT = 304.8  # mm in a foot, exact
BOARDS: dict[Units, tuple[Board, ...]] = {
    "us": tuple(
        Board(
            f"2 × {nominal} board",
            high * 25.4,
            1.5 * 25.4,
            tuple(n * FT for n in (8, 10, 12, 16)),
            "American Softwood Lumber Standard PS 20, dressed sizes, from memory",
        )
        for nominal, high in ((6, 5.5), (8, 7.25), (10, 9.25), (12, 11.25))
    ),
    "metric": tuple(
        Board(
            f"{high} × 45 mm board",
            float(high),
            45.0,
            (2400.0, 3000.0, 3600.0, 4800.0),
            "sizes as commonly sold, from memory",
        )
        for high in (145, 170, 195, 220)
    ),
}
BRICKS: dict[Units, Brick] = {
    "us": Brick(
        "modular brick", 8 * 25.4, 8 * 25.4 / 3, "modular brick with a 3/8 in joint, 3 courses to 8 in, from memory"
    ),
    "metric": Brick("215 × 65 mm brick", 225.0, 75.0, "215 × 102.5 × 65 mm with a 10 mm joint, from memory"),
}


def life(material: str) -> BedLife | None:
    """How long a material usually lasts; None when its name says nothing that is known."""
    plain = material.lower()
    return next((row for row in LIVES if row.word in plain), None)


def likely_end(material: str, built_year: int | None) -> tuple[int, int, BedLife] | None:
    """The years between which a bed will want rebuilding. **Source:** the row of `LIVES`."""
    found = life(material)
    if found is None or built_year is None:
        return None
    return built_year + found.least, built_year + found.most, found


def near_end(name: str, material: str, built_year: int | None, *, year: int, page: str) -> list[Finding]:
    """A note from the first year on in which a bed may want rebuilding, care from the last; `page` is where to plan it.

    **Source:** the row of `LIVES`.
    """
    end = likely_end(material, built_year)
    if end is None or year < end[0]:
        return []
    _, most, found = end
    return [
        Finding(
            "bed_end",
            "note" if year < most else "care",
            name,
            {
                "bed": name,
                "by": most,
                "material": material.capitalize(),
                "built": built_year,
                "least": found.least,
                "most": found.most,
            },
            found.source,
            (Fix("plan_the_rebuild", "page", page),),
        )
    ]


@dataclass(frozen=True)
class Cut:
    """Boards to buy: how many of which stock length, and what is left over [mm]."""

    board: Board
    courses: int
    bought: tuple[tuple[float, int], ...]
    waste_mm: float

    @property
    def boards(self) -> int:
        return sum(number for _, number in self.bought)


def boards(sides_mm: Sequence[float], depth_mm: float, board: Board) -> Cut:
    """Boards for walls with these inside side lengths and this height, bought in stock lengths with little waste.

    Two of the four sides run past the corners by a board's thickness at both ends. Sides longer than the longest stock are
    joined. Raises BadInput without a wall. Fewest boards are not promised: pieces are laid largest first.
    """
    if not sides_mm or not depth_mm > 0:
        raise BadInput("garden.wall_without_size")
    courses = max(1, math.ceil(depth_mm / board.high_mm - 0.02))
    longest = max(board.stock_mm)
    pieces: list[float] = []
    for number, side in enumerate(sides_mm):
        whole = side + (2 * board.thick_mm if number % 2 == 0 else 0.0)
        parts = math.ceil(whole / longest - 1e-9)
        pieces += [whole / parts] * (parts * courses)
    alike = [[piece for piece in pieces if piece == length] for length in set(pieces)]
    together, apart = _bought(pieces, board), [lot for group in alike for lot in _bought(group, board)]
    lots = min(together, apart, key=sum)
    counted = tuple((stock, lots.count(stock)) for stock in sorted(set(lots)))
    return Cut(board, courses, counted, sum(lots) - sum(pieces))


def _bought(pieces: Sequence[float], board: Board) -> list[float]:
    """Stock lengths to buy for these pieces: laid largest first into each stock, every board then as short as it may be."""
    tries = []
    for stock in board.stock_mm:
        if max(pieces) > stock + 1e-6:
            continue
        used: list[float] = []
        for piece in sorted(pieces, reverse=True):
            at = next((n for n, taken in enumerate(used) if taken + piece <= stock + 1e-6), None)
            if at is None:
                used.append(piece)
            else:
                used[at] += piece
        tries.append([min(length for length in board.stock_mm if length >= taken - 1e-6) for taken in used])
    return min(tries, key=sum)


def best_board(depth_mm: float, units: Units) -> Board:
    """The board whose courses come nearest to a depth from above."""
    return min(BOARDS[units], key=lambda b: (math.ceil(depth_mm / b.high_mm - 0.02) * b.high_mm - depth_mm, b.high_mm))


def bricks(wall_mm: float, depth_mm: float, units: Units, *, spare: float = 0.05) -> tuple[Brick, int]:
    """Bricks for a wall one brick thick along this length and height, 5 % to spare. **Source:** the brick's own row."""
    brick = BRICKS[units]
    courses = math.ceil(depth_mm / brick.high_mm - 0.02)
    return brick, math.ceil(math.ceil(wall_mm / brick.length_mm - 1e-9) * courses * (1 + spare) - 1e-9)


def sides(corners_mm: Sequence[tuple[float, float]]) -> list[float]:
    """Lengths of an outline's sides, in order."""
    return [math.dist(a, b) for a, b in zip(corners_mm, [*corners_mm[1:], corners_mm[0]], strict=True)]
