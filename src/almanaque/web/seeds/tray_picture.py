"""A tray drawn cell by cell: what is in which cell, by the crop's code and its family's hatch."""

from dataclasses import dataclass

from almanaque.core.crops.catalogue import Catalogue
from almanaque.store.seeds.seed_box import Tray
from almanaque.web.pictures.families import Hatch, family

CELL, LARGE = 15.0, 30.0


@dataclass(frozen=True)
class Cell:
    """A cell with its number, its box, the middle of its writing and of its ring [px], and the code and hatch of what is in it."""

    number: int
    x: float
    y: float
    side: float
    label_x: float
    label_y: float
    text_x: float
    text_y: float
    ring_x: float
    ring_y: float
    ring: float
    code: str
    hatch: str
    home: bool


@dataclass(frozen=True)
class TrayPicture:
    width: float
    height: float
    written: bool
    cells: tuple[Cell, ...]
    hatches: tuple[Hatch, ...]
    words: str


def draw(tray: Tray, crops: Catalogue, *, large: bool = False) -> TrayPicture:
    """Cells row by row. Those that go home are the last ones of their sowing."""
    size = LARGE if large else CELL
    held: dict[int, tuple[str, str, bool]] = {}
    hatches: dict[str, Hatch] = {}
    said = []
    for sowing in tray.sowings:
        if sowing.gone_on is not None or sowing.crop not in crops:
            continue
        crop = crops[sowing.crop]
        hatches.setdefault(crop.family, family(crop.family))
        for cell in range(sowing.first_cell, sowing.last_cell + 1):
            held[cell] = (crop.code, hatches[crop.family].key, cell > sowing.last_cell - sowing.goes_home)
        said.append(f"{crop.name.en} in cells {sowing.first_cell} to {sowing.last_cell}")
    cells = tuple(
        _cell(n + 1, n % tray.columns * size, n // tray.columns * size, size, held.get(n + 1))
        for n in range(tray.cells)
    )
    return TrayPicture(
        tray.columns * size,
        tray.rows * size,
        large,
        cells,
        tuple(hatches.values()),
        "; ".join(said) or "All cells are empty",
    )


def _cell(number: int, x: float, y: float, size: float, held: tuple[str, str, bool] | None) -> Cell:
    code, hatch, home = held or ("", "", False)
    return Cell(
        number,
        x + 1,
        y + 1,
        size - 2,
        x + size / 2 - 9,
        y + size / 2 - 7,
        x + size / 2,
        y + size / 2 + 4,
        x + size - 5,
        y + 5,
        4.0 if size > CELL else 2.5,
        code,
        hatch,
        home,
    )
