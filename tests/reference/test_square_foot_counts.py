"""Plants per square foot and in four by three feet, as gardeners' charts give them. Common practice, no source."""

import pytest

from almanaque.core.garden.spacing import count_in_bed, read_square
from almanaque.data import catalogue

FT, IN = 304.8, 25.4
# Crop, plants in a 12 in square.
PER_SQUARE = [
    ("radish", 16),
    ("carrot", 16),
    ("beet", 9),
    ("chard", 1),
    ("cabbage", 1),
    ("cauliflower", 1),
    ("spinach", 9),
    ("garlic", 9),
    ("onion", 9),
    ("lettuce", 4),
    ("bush-bean", 9),
    ("pea", 8),
    ("pepper", 1),
    ("broccoli", 1),
    ("celery", 1),
    ("sweet-corn", 1),
    ("cucumber", 1),
    ("sunflower", 1),
    ("potato", 1),
    ("strawberry", 1),
    ("winter-wheat", 16),
    ("pole-bean", 4),
]
# Crops for which charts give one plant to so many squares: 24 in takes 2 × 2, 36 in takes 3 × 3.
PER_BLOCK = [("kale", 2), ("tomato", 2), ("zucchini", 3), ("rhubarb", 3)]
# Spacing [in], plants in 4 ft × 3 ft.
FOUR_BY_THREE = [(12, 12), (4, 108), (3, 192), (24, 2), (6, 48), (2, 432)]


@pytest.mark.parametrize(("key", "count"), PER_SQUARE)
def test_the_catalogue_gives_the_usual_count(key: str, count: int) -> None:
    crop = catalogue()[key]
    assert (crop.per_square or read_square(crop.spacing_mm, FT).per_square) == count


@pytest.mark.parametrize(("key", "block"), PER_BLOCK)
def test_large_plants_take_whole_blocks(key: str, block: int) -> None:
    assert read_square(catalogue()[key].spacing_mm, FT).block == block


def test_at_least_twenty_five_crops_are_held_to_the_charts() -> None:
    assert len({key for key, _ in PER_SQUARE + PER_BLOCK}) >= 25


@pytest.mark.parametrize(("spacing_in", "plants"), FOUR_BY_THREE)
def test_four_by_three_feet_hold_the_usual_number(spacing_in: int, plants: int) -> None:
    assert count_in_bed(4 * FT, 3 * FT, spacing_mm=spacing_in * IN, cell_mm=FT).plants == plants


def test_kale_at_two_feet_leaves_one_row_of_squares() -> None:
    left = count_in_bed(4 * FT, 3 * FT, spacing_mm=24 * IN, cell_mm=FT).left_over
    assert left == ((0, 2), (1, 2), (2, 2), (3, 2))


def test_carrots_in_32_squares_are_512() -> None:
    assert count_in_bed(8 * FT, 4 * FT, spacing_mm=3 * IN, cell_mm=FT).plants == 512
