import pytest

from almanaque.core.crops import Crop, parse
from almanaque.core.errors import BadInput
from almanaque.data import catalogue

CROPS = catalogue()
TEXT = """
[sources]
memory = "from memory"
[kale]
code = "Ka"
name = { en = "Kale", es = "Col" }
botanical = "Brassica oleracea"
family = "Brassicaceae"
life = "biennial"
season = "cool"
bears_c = -12
heat_c = 32
germination_least_c = 5
methods = ["direct"]
emerges = [5, 10]
days = { direct = [55, 65] }
picking_days = 110
picked = "many"
part = "leaf"
ready_sign = "leaves as long as a hand"
how_to_pick = "lowest first"
depth_mm = "1/2 in"
in_row_mm = "24 in"
row_mm = "24 in"
height_mm = "24 in"
width_mm = "24 in"
sun_least_h = 5
soil_least_mm = "12 in"
ph = [6.0, 7.5]
feeding = "middling"
germination = 0.85
weights_g = { bunch = 250 }
yield_g_m2 = [1500, 4500]
sources = { default = "memory" }
"""


def test_the_catalogue_has_twenty_crops_with_codes_of_their_own() -> None:
    assert len(CROPS) >= 20
    assert len({crop.code for crop in CROPS}) == len(CROPS)


@pytest.mark.parametrize("crop", list(CROPS), ids=lambda crop: crop.key)
def test_every_value_has_a_source_and_stands_in_a_sane_range(crop: Crop) -> None:
    for field in type(crop).model_fields:
        assert CROPS.sources[crop.source_of(field)]
    assert set(crop.sources) - {"default"} <= set(type(crop).model_fields)
    assert 3 <= crop.depth_mm <= 150
    assert 50 <= crop.in_row_mm <= crop.row_mm <= 2500
    assert all(20 <= least <= most <= 400 for least, most in crop.days.values())
    assert crop.per_square is None or crop.per_square in (1, 4, 8, 9, 16)
    assert crop.weights_g
    assert crop.botanical.split()[0].istitle()
    assert 3 <= crop.sun_least_h <= 6
    assert 150 <= crop.soil_least_mm <= 450
    assert 4.5 <= crop.ph[0] < crop.ph[1] <= 8
    assert crop.seeds_per_gram is None or 1 <= crop.seeds_per_gram <= 4000


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ('in_row_mm = "24 in"', 'in_row_mm = "24 inchs"', "in_row_mm.*not a unit"),
        ('in_row_mm = "24 in"', "in_row_mm = 24", "in_row_mm.*with its unit"),
        ("emerges = [5, 10]", "emerges = [10, 5]", "emerges must be two whole numbers in order"),
        ('methods = ["direct"]', 'methods = ["direct", "starts"]', "no range for “starts”"),
        ('methods = ["direct"]', 'methods = ["cloves"]', "days has no range|stock"),
        ("germination = 0.85", "germination = 85", "germination"),
        ('default = "memory"', 'default = "hearsay"', "names the source “hearsay”"),
        ('code = "Ka"', 'code = "kale"', "code"),
        ('family = "Brassicaceae"', 'family = "Brassicaceae"\ncolour = "green"', "colour"),
        ("yield_g_m2 = [1500, 4500]", "yield_g_m2 = [0, 4500]", "yield_g_m2"),
        ("[kale]", "[kale", "not TOML"),
    ],
)
def test_a_wrong_value_is_refused_with_crop_and_field(old: str, new: str, says: str) -> None:
    assert old in TEXT
    with pytest.raises(BadInput, match=says):
        parse(TEXT.replace(old, new))


def test_a_crop_that_is_not_there_is_refused_in_words() -> None:
    assert parse(TEXT)["kale"].spacing_mm == pytest.approx(609.6)
    with pytest.raises(BadInput, match="no crop “moonflower”"):
        CROPS["moonflower"]


def test_two_crops_cannot_share_a_code() -> None:
    twice = TEXT + TEXT.split("[sources]")[1].split('"from memory"')[1].replace("[kale]", "[collard]")
    with pytest.raises(BadInput, match="share the code"):
        parse(twice)


def test_months_without_leaves_turn_round_south_of_the_equator() -> None:
    apple = CROPS["apple"]
    assert apple.bare_in(southern=False) == {11, 12, 1, 2, 3}
    assert apple.bare_in(southern=True) == {5, 6, 7, 8, 9}
