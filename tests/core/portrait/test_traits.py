"""Seed leaves, leaves and flowers of forty crops, typed apart from the catalogue's rows.

Source: weed and vegetable seedling keys and floras as they are generally taught, from memory, not looked up: where a row of the
catalogue and one of these were both remembered wrongly in the same way, this does not tell.
"""

import pytest

from almanaque.core.portrait.traits import SeedTrait
from almanaque.data import catalogue, portraits

# crop: words that fit its seed leaves, whether they stay in the soil, a leaf made of leaflets, the colour family of its flower
TYPED = {
    "radish": ("heart", False, False, {"white", "pink"}),
    "turnip": ("heart", False, False, {"yellow"}),
    "cabbage": ("heart", False, False, {"yellow"}),
    "kale": ("heart", False, False, {"yellow"}),
    "arugula": ("heart", False, False, {"butter", "white"}),
    "carrot": ("narrow", False, True, {"white"}),
    "parsnip": ("narrow", False, True, {"yellow"}),
    "parsley": ("narrow", False, True, {"butter", "yellow"}),
    "cilantro": ("narrow", False, True, {"white", "pink"}),
    "dill": ("narrow", False, True, {"yellow"}),
    "beet": ("narrow", False, False, {"lime"}),
    "chard": ("narrow", False, False, {"lime"}),
    "spinach": ("narrow", False, False, {"lime"}),
    "lettuce": ("broad", False, False, {"yellow"}),
    "endive": ("broad", False, False, {"sky", "blue"}),
    "pea": ("none", True, True, {"white"}),
    "snow-pea": ("none", True, True, {"pink", "white", "violet"}),
    "broad-bean": ("none", True, True, {"white"}),
    "bush-bean": ("broad", False, True, {"white", "lilac"}),
    "pole-bean": ("broad", False, True, {"white", "red"}),
    "soybean": ("broad", False, True, {"lavender", "white"}),
    "peanut": ("broad", False, True, {"marigold", "yellow"}),
    "pumpkin": ("broad", False, False, {"marigold", "yellow"}),
    "zucchini": ("broad", False, False, {"marigold", "yellow"}),
    "cucumber": ("broad", False, False, {"yellow"}),
    "bottle-gourd": ("broad", False, False, {"white"}),
    "tomato": ("narrow", False, True, {"yellow"}),
    "pepper": ("narrow", False, False, {"white"}),
    "eggplant": ("narrow", False, False, {"lilac", "violet"}),
    "potato": ("none", True, True, {"lavender", "white"}),
    "sweet-corn": ("blade", False, False, {"straw"}),
    "winter-wheat": ("blade", False, False, {"lime"}),
    "onion": ("thread", False, False, {"white"}),
    "leek": ("thread", False, False, {"lavender", "lilac"}),
    "sunflower": ("broad", False, False, {"marigold", "yellow"}),
    "calendula": ("narrow", False, False, {"orange", "marigold"}),
    "nasturtium": ("none", True, False, {"orange"}),
    "borage": ("broad", False, False, {"blue"}),
    "buckwheat": ("kidney", False, False, {"white", "pink"}),
    "basil": ("half-moon", False, False, {"white"}),
    "cosmos": ("narrow", False, True, {"pink"}),
    "strawberry": ("broad", False, True, {"white"}),
}
FITS = {
    "heart": {"heart"},
    "narrow": {"needle", "lance"},
    "broad": {"oval", "round", "spoon"},
    "none": {"none"},
    "blade": {"blade"},
    "thread": {"thread"},
    "kidney": {"kidney"},
    "half-moon": {"square", "kidney"},
}
OF_LEAFLETS = {"pinnate", "trifoliate", "fingers", "fern", "thread"}


@pytest.mark.parametrize("key", TYPED)
def test_seedlings_leaves_and_flowers_are_as_typed_apart(key: str) -> None:
    words, below, leaflets, colours = TYPED[key]
    found = portraits()[key]
    assert found.seed_leaf.form in FITS[words]
    assert found.seed_leaf.below == below
    assert (found.leaf.form in OF_LEAFLETS) == leaflets
    assert found.flower.colour in colours


# Length of a seed [mm], from seed catalogues' counts and pictures, from memory: half to double is near enough to see them apart.
SEED_MM = {
    "radish": 3,
    "lettuce": 4,
    "carrot": 3,
    "pea": 8,
    "bush-bean": 13,
    "pumpkin": 20,
    "sweet-corn": 9,
    "onion": 3,
    "tomato": 3,
    "sunflower": 11,
    "beet": 4,
    "basil": 2,
}


@pytest.mark.parametrize("key", SEED_MM)
def test_seeds_are_about_as_large_as_typed_apart(key: str) -> None:
    assert SEED_MM[key] / 2 <= portraits()[key].seed.mm <= SEED_MM[key] * 2


def test_every_crop_has_a_row_and_says_how_its_seedling_is_known() -> None:
    for crop in catalogue():
        found = portraits()[crop.key]
        assert isinstance(found.seed, SeedTrait)
        if "tree" not in found.habit.form and found.habit.form not in ("shrub", "canes"):
            assert found.sign, crop.key
