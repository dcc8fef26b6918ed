"""Usual yields against published tables for gardens, and weights of bushels against the statutes.

Yields: ranges as home-garden guides of state extension services give them for a 100 ft row with rows 3 ft apart, from memory: they
differ among each other by half. The check is of the order of magnitude: our range for the ground must overlap theirs widened by half on
either side, with the row's 300 sq ft less the path counted as 2 sq ft for each foot of row for large plants and 1 sq ft for small ones.

Bushels: US statutes give 60 lb of wheat and potatoes, 56 of shelled corn, rye and flax, 48 of barley and
buckwheat, 32 of oats, 60 of soybeans
(for wheat, corn, oats, rye, soybeans and flax also 7 CFR 810, US grain standards, as test weights and trade units), from memory.
"""

import pytest

from almanaque.core.units import GRAMS_PER_POUND, SQUARE_METRES_PER_SQUARE_FOOT
from almanaque.data import bushels_lb, catalogue

G_M2 = float(GRAMS_PER_POUND / SQUARE_METRES_PER_SQUARE_FOOT)
# crop: (pounds from 100 ft of row, least and most; square feet that a foot of row takes in a bed)
ROWS = {
    "bush-bean": (80, 120, 2.0),
    "beet": (100, 150, 1.5),
    "broccoli": (75, 100, 2.5),
    "cabbage": (125, 150, 2.0),
    "carrot": (100, 150, 1.5),
    "cucumber": (120, 150, 3.0),
    "garlic": (30, 50, 1.0),
    "kale": (75, 100, 2.0),
    "lettuce": (50, 75, 1.0),
    "onion": (75, 100, 1.0),
    "pea": (20, 40, 1.5),
    "pepper": (50, 80, 2.0),
    "potato": (100, 150, 2.5),
    "radish": (40, 100, 1.0),
    "spinach": (40, 50, 1.0),
    "tomato": (150, 400, 3.0),
    "turnip": (75, 150, 1.5),
    "zucchini": (150, 250, 4.0),
}


@pytest.mark.parametrize("crop", sorted(ROWS))
def test_usual_yields_are_of_the_order_that_guides_give(crop: str) -> None:
    least, most, feet = ROWS[crop]
    low, high = 0.5 * least / 100 / feet * G_M2, 1.5 * most / 100 / feet * G_M2
    ours = catalogue()[crop].yield_g_m2
    assert ours[0] <= high
    assert ours[1] >= low


@pytest.mark.parametrize(
    ("crop", "pounds"),
    [
        ("winter-wheat", 60),
        ("potato", 60),
        ("winter-rye", 56),
        ("flax", 56),
        ("oats", 32),
        ("buckwheat", 48),
        ("soybean", 60),
    ],
)
def test_bushels_weigh_what_the_statutes_say(crop: str, pounds: float) -> None:
    assert bushels_lb()[crop] == pounds


@pytest.mark.parametrize("crop", ["pea", "tomato"])
def test_the_catalogues_pints_and_the_bushel_are_of_one_order(crop: str) -> None:
    """A pint of shelled peas or whole tomatoes is heavier or lighter than its share of a bushel, but not by three times."""
    grams = catalogue()[crop].weights_g["pint"]
    assert 1 / 3 <= grams * 64 / (bushels_lb()[crop] * float(GRAMS_PER_POUND)) <= 3
