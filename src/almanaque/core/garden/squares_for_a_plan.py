"""Which free squares of a bed a plan gets when nobody chose them: together, where its family has rested."""

from collections.abc import Iterable, Sequence

from almanaque.core.garden.bed import Cell


def pick_squares(free: Iterable[Cell], *, wanted: int, side: int = 1, unrested: Iterable[Cell] = ()) -> list[Cell]:
    """Free squares for a plan, row by row: `wanted` of them, or fewer when no more lie together; empty for a full bed.

    A crop that takes `side` × `side` squares for one plant gets whole blocks of them. The largest connected block of
    free squares is tried first; in it the squares form a rectangle, as nearly square as can be, and only where no
    rectangle holds them all do others join along its edge. `unrested` are squares in which the crop's family stood too
    short a time ago: they are taken only when nothing else is free. **Source:** our own rule.

    >>> pick_squares([(0, 0), (2, 0), (3, 0), (2, 1), (3, 1)], wanted=4)
    [(2, 0), (3, 0), (2, 1), (3, 1)]
    """
    every = set(free)
    tired = set(unrested)
    for among in (every - tired, every):
        best: list[Cell] = []
        for block in connected(among):
            found = _within(block, max(wanted, side * side), side)
            if len(found) > len(best):
                best = found
        if best:
            return _by_rows(best)
    return []


def connected(cells: Iterable[Cell]) -> list[set[Cell]]:
    """Sets of squares that touch along an edge, the largest first; of two alike the one nearer the first corner."""
    left = set(cells)
    found: list[set[Cell]] = []
    while left:
        block = {left.pop()}
        edge = list(block)
        while edge:
            for cell in _beside(edge.pop()):
                if cell in left:
                    left.remove(cell)
                    block.add(cell)
                    edge.append(cell)
        found.append(block)
    return sorted(found, key=lambda block: (-len(block), min(_row_first(cell) for cell in block)))


def _within(block: set[Cell], wanted: int, side: int) -> list[Cell]:
    """The best squares of one connected block: a rectangle, with squares along its edge while more are wanted."""
    for width, height in _shapes(block, wanted, side):
        for column, row in _by_rows(block):
            rectangle = [(column + x, row + y) for y in range(height) for x in range(width)]
            if block.issuperset(rectangle):
                return rectangle if side > 1 else _grown(rectangle, block, wanted)
    return []


def _shapes(block: set[Cell], wanted: int, side: int) -> Sequence[tuple[int, int]]:
    """Widths and heights in whole blocks of the crop: the most squares first, then the most nearly square."""
    columns = max(c for c, _ in block) - min(c for c, _ in block) + 1
    rows = max(r for _, r in block) - min(r for _, r in block) + 1
    shapes = [
        (width, height)
        for width in range(side, columns + 1, side)
        for height in range(side, rows + 1, side)
        if width * height <= wanted and _compact(width, height, side)
    ]
    return sorted(shapes, key=lambda shape: (-shape[0] * shape[1], abs(shape[0] - shape[1]), -shape[0]))


def _compact(width: int, height: int, side: int) -> bool:
    """No strip of more than three single squares: squares along a rectangle's edge serve a plan better."""
    return side > 1 or min(width, height) > 1 or max(width, height) <= 3


def _grown(rectangle: list[Cell], block: set[Cell], wanted: int) -> list[Cell]:
    chosen = list(rectangle)
    while len(chosen) < wanted:
        touching = {cell for one in chosen for cell in _beside(one)} & block - set(chosen)
        if not touching:
            break
        # The square that touches most of those already chosen keeps the whole together.
        chosen.append(min(touching, key=lambda c: (-len(set(_beside(c)) & set(chosen)), _row_first(c))))
    return chosen


def _beside(cell: Cell) -> list[Cell]:
    column, row = cell
    return [(column + 1, row), (column - 1, row), (column, row + 1), (column, row - 1)]


def _row_first(cell: Cell) -> tuple[int, int]:
    return cell[1], cell[0]


def _by_rows(cells: Iterable[Cell]) -> list[Cell]:
    return sorted(cells, key=_row_first)
