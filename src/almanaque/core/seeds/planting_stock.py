"""How much of a harvest to keep for planting again: one clove gives one bulb of so many cloves."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from math import ceil

from almanaque.core.errors import BadInput


@dataclass(frozen=True)
class Multiplies:
    """How a crop that is set in the ground multiplies: `pieces` are set, each `unit` harvested holds so many of them."""

    unit: str
    piece: str
    pieces: tuple[int, int]
    harvested: tuple[int, int] = (1, 1)
    """how many of the unit grow from one piece"""


@dataclass(frozen=True)
class Keep:
    """What to keep: pieces to set, and units to put aside for them."""

    pieces: int
    units: int
    per_unit: int


def keep(wanted: int, *, per_unit: int, survival: float) -> Keep:
    """Pieces to set so that `wanted` come up, and units to put aside for them, both rounded up.

    `per_unit` are the pieces in a unit as counted; `survival` is the share of pieces that grow. Raises BadInput.
    """
    if not 1 <= wanted <= 100_000:
        raise BadInput("seeds.plants_out_of_range", field="wanted")
    if not 1 <= per_unit <= 200:
        raise BadInput("seeds.pieces_out_of_range", field="per_unit")
    if not 0 < survival <= 1:
        raise BadInput("seeds.share_out_of_range", field="survival")
    pieces = ceil(Fraction(wanted) / Fraction(str(survival)))
    return Keep(pieces, ceil(Fraction(pieces, per_unit)), per_unit)


def from_pieces(pieces: int, multiplies: Mapping[str, Multiplies], crop: str) -> tuple[int, int] | None:
    """How many pieces to set again a crop gives from so many set, at least and most; None for one that does not multiply so."""
    found = multiplies.get(crop)
    if found is None:
        return None
    low, high = found.pieces
    return pieces * found.harvested[0] * low, pieces * found.harvested[1] * high
