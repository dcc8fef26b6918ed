"""Gardens to begin with and to change: a sill and pots, one bed, six beds, a plot. Lengths are millimetres on the ground."""

from dataclasses import dataclass
from typing import Literal

from almanaque.core.garden.drawing import PATH_MM, round_top
from almanaque.core.garden.outline import Shape
from almanaque.core.units import Units

Key = Literal["pots", "one", "six", "plot"]
Kind = Literal["raised", "container", "sill", "plot"]


@dataclass(frozen=True)
class StartingBed:
    """A bed of a starting garden; a pot holds one place to plant."""

    name: str
    kind: Kind
    shape: Shape
    depth_mm: float
    cell_mm: float
    pockets: int | None = None


@dataclass(frozen=True)
class StartingGarden:
    key: Key
    beds: tuple[StartingBed, ...]


def starting_garden(key: Key, units: Units) -> StartingGarden:
    """A garden of usual sizes in whole feet, or metres and tenths; `pots` has a sill and four pots, `plot` a plot in the open ground."""
    ft = 304.8 if units == "us" else 300.0
    deep = 11 * 25.4 if units == "us" else 300.0
    match key:
        case "pots":
            side = 1.5 * ft
            pots = tuple(
                StartingBed(
                    f"Pot {n + 1}",
                    "container",
                    Shape((2 + 3 * n) * ft, 6 * ft, side, side, 0.0, round_top(side)),
                    deep,
                    ft,
                    1,
                )
                for n in range(4)
            )
            return StartingGarden(
                key, (StartingBed("Sill", "sill", Shape(2 * ft, 2 * ft, 6 * ft, ft), 100.0, ft), *pots)
            )
        case "one":
            bed = StartingBed("Bed 1", "raised", Shape(4 * ft, 4 * ft, 8 * ft, 4 * ft), deep, ft)
            return StartingGarden(key, (bed,))
        case "six":
            beds = tuple(
                StartingBed(
                    f"Bed {row * 3 + column + 1}",
                    "raised",
                    Shape((3 + column * 8) * ft + column * PATH_MM, 4 * ft + row * (4 * ft + PATH_MM), 8 * ft, 4 * ft),
                    deep,
                    ft,
                )
                for row in range(2)
                for column in range(3)
            )
            return StartingGarden(key, beds)
        case "plot":
            plot = StartingBed("Plot", "plot", Shape(4 * ft, 4 * ft, 24 * ft, 16 * ft), deep, ft)
            return StartingGarden(key, (plot,))
