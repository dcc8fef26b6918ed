"""A sheet of sums about a real bed, for the class that tends it: questions, with answers and the way to them apart."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from almanaque.core.units import LITRES_PER_GALLON, Units, area_units, format_length

CROPS = 3  # crops that are asked about
COME_UP = (9, 10)  # seeds that come up, of how many, in the question about seed


@dataclass(frozen=True)
class BedCrop:
    """A crop in the bed: plants along a side and in a square (0 along: one plant over several squares), its squares and plants."""

    name: str
    along: int
    per_square: int
    squares: int
    plants: int
    apart_mm: float


@dataclass(frozen=True)
class SumQuestion:
    """A question with its answer and how one comes to it."""

    question: str
    answer: str
    way: str


def sums(
    length_mm: float,
    width_mm: float,
    cell_mm: float,
    columns: int,
    rows: int,
    usable: int,
    grown: Sequence[BedCrop],
    units: Units,
) -> list[SumQuestion]:
    """Questions from easy to hard. Raises ValueError for a bed without a square."""
    if columns < 1 or rows < 1 or usable < 1:
        raise ValueError("a bed without squares has no sums")
    long, wide, side = (format_length(mm, units) for mm in (length_mm, width_mm, cell_mm))
    area, word = (
        area_units(length_mm * width_mm / 1_000_000, units),
        "square feet" if units == "us" else "square metres",
    )
    found = [
        SumQuestion(
            f"The bed is {long} long and {wide} wide. How far is it once around?",
            format_length(2 * (length_mm + width_mm), units),
            f"{long} + {wide} + {long} + {wide}",
        ),
        SumQuestion("What is its area?", f"{_number(area)} {word}", f"{long} × {wide}"),
        SumQuestion(
            f"Strings make squares of {side}. How many squares lie along the bed, how many across, how many in all?",
            f"{columns} along, {rows} across, {columns * rows} in all",
            f"{columns} × {rows}",
        ),
    ]
    if usable < columns * rows:
        found.append(
            SumQuestion(
                f"{columns * rows - usable} squares are kept or cut off. How many are left to plant?",
                str(usable),
                f"{columns * rows} − {columns * rows - usable}",
            )
        )
    shown = list(grown)[:CROPS]
    for crop in shown:
        found += _of_crop(crop, cell_mm, units)
    taken = sum(crop.squares for crop in shown)
    for crop in shown:
        part = Fraction(crop.squares, usable)
        found.append(
            SumQuestion(
                f"What part of the {usable} squares is {crop.name.lower()}? Write it as a fraction, as simple as it can be.",
                _fraction(part),
                f"{crop.squares} of {usable}; both divided by {math.gcd(crop.squares, usable)}",
            )
        )
    if len(shown) > 1 and taken < usable:
        found.append(
            SumQuestion(
                "What part of the squares is left for other things?",
                _fraction(Fraction(usable - taken, usable)),
                f"{usable} − {taken} = {usable - taken} of {usable}",
            )
        )
    if shown:
        first = max(shown, key=lambda crop: crop.plants)
        seeds = math.ceil(first.plants * COME_UP[1] / COME_UP[0])
        found.append(
            SumQuestion(
                (
                    f"Of {COME_UP[1]} seeds {COME_UP[0]} come up. How many seeds "
                    f"does it take for {first.plants} plants of {first.name.lower()}?"
                ),
                str(seeds),
                f"{first.plants} ÷ {COME_UP[0]} × {COME_UP[1]}, rounded up",
            )
        )
    found.append(_water(area, units))
    return found


def _of_crop(crop: BedCrop, cell_mm: float, units: Units) -> list[SumQuestion]:
    name, squares = crop.name.lower(), f"{crop.squares} squares" if crop.squares != 1 else "1 square"
    if crop.along == 0:
        return (
            [
                SumQuestion(
                    f"{squares} hold {crop.plants} plants of {name}. How many squares has each?",
                    _number(crop.squares / crop.plants),
                    f"{crop.squares} ÷ {crop.plants}",
                )
            ]
            if crop.plants
            else []
        )
    side, apart = format_length(cell_mm, units, feet=False), format_length(crop.apart_mm, units, feet=False)
    found = []
    if crop.along * crop.along == crop.per_square:
        found.append(
            SumQuestion(
                (
                    f"{crop.name} stands {apart} apart each way. How many stand along "
                    f"one side of a square of {side}, and how many in the whole square?"
                ),
                f"{crop.along} along, {crop.per_square} in the square",
                f"{side} ÷ {apart} = {crop.along}; {crop.along} × {crop.along}",
            )
        )
    if crop.plants == crop.per_square * crop.squares:
        found.append(
            SumQuestion(
                f"{crop.per_square} plants of {name} stand in a square. How many in {squares}?",
                str(crop.plants),
                f"{crop.per_square} × {crop.squares}",
            )
        )
    return found


def _water(area: float, units: Units) -> SumQuestion:
    if units == "us":
        each = round(25.4 * 0.09290304 / float(LITRES_PER_GALLON), 2)
        return SumQuestion(
            f"An inch of rain on a square foot is {each:g} gallons. How many gallons fell on the whole bed?",
            f"{_number(area * each)} gallons",
            f"{_number(area)} × {each:g}",
        )
    return SumQuestion(
        "A millimetre of rain on a square metre is one litre. How many litres are 25 mm on the whole bed?",
        f"{_number(area * 25)} litres",
        f"{_number(area)} × 25",
    )


def _fraction(part: Fraction) -> str:
    return str(part) if part.denominator > 1 else str(part.numerator)


def _number(value: float) -> str:
    return f"{round(value, 2):g}"
