"""Crops are found by the names that people have for them; what is not known is asked about by what is near it."""

import pytest

from almanaque.core.crops import crop_names as crop_names_module
from almanaque.core.crops.crop_names import CropNames, normal
from almanaque.data import catalogue, crop_names

CROPS = catalogue()
NAMES = CropNames(CROPS, crop_names())
FOUND = {
    "bush-bean": "Green beans|string bean|Beans, snap|Bean (dry)|BUSH BEANS",
    "pole-bean": "Beans, pole|pole bean|Beans - pole",
    "zucchini": "Zucchini|Courgettes|Squash, summer|calabacín",
    "winter-squash": "Butternut squash|Winter squashes|squash (winter)",
    "sweet-corn": "Corn|maize|Corn, sweet|sweet-corn",
    "chard": "Swiss chard|Silverbeet|Rainbow Chard",
    "pepper": "Bell peppers|Peppers - bell|capsicum",
    "hot-pepper": "Jalapeños|chilies|Chile pepper",
    "scallion": "Green onions|Onions, spring|scallions",
    "pak-choi": "Bok choy|Pak Choi",
    "collards": "Collard greens|collard",
    "cherry-tomato": "Tomatoes (cherry)|Cherry tomatoes|grape tomato",
    "tomato": "tomatoes|Roma tomatoes|Tomatoes, paste",
    "potato": "Potatoes|new potatoes|Irish potato",
    "sweet-potato": "Potatoes, sweet|Sweet potatos",
    "eggplant": "Aubergines|eggplants",
    "beet": "Beetroot|beets",
    "swede": "Rutabagas",
    "arugula": "Rocket",
    "apple": "Apples|apple tree",
    "brussels-sprouts": "Brussels sprouts|brussels sprout",
    "strawberry": "Strawberries",
    "chives": "chives|chive",
}


@pytest.mark.parametrize(("key", "name"), [(key, name) for key, names in FOUND.items() for name in names.split("|")])
def test_a_crop_is_found_by_what_people_call_it(key: str, name: str) -> None:
    found = NAMES.find(name)
    assert found is not None
    assert found.key == key


@pytest.mark.parametrize(
    ("written", "near"),
    [
        ("Zuchini", ["zucchini"]),
        ("brocolli", ["broccoli"]),
        ("Cabages", ["cabbage"]),
        ("Brussel sprouts", ["brussels-sprouts"]),
        ("Beans", ["bush-bean", "pole-bean", "broad-bean"]),
        ("Squash", ["winter-squash", "zucchini"]),
        ("Herbs", []),
        ("", []),
        (", ()", []),
    ],
)
def test_what_is_no_name_or_that_of_several_is_asked_about(written: str, near: list[str]) -> None:
    assert NAMES.find(written) is None
    assert [crop.key for crop in NAMES.near(written)] == near


def test_of_very_many_unknown_names_something_near_is_looked_for_the_first_few_only() -> None:
    names = CropNames(CROPS, crop_names())
    first = [[crop.key for crop in names.near(f"carot{n}")] for n in range(crop_names_module.MOST_ASKED)]
    assert first[0] == ["carrot"]
    assert names.near("Cabages") == []
    assert [crop.key for crop in names.near("CAROT0")] == ["carrot"]


def test_no_other_name_is_that_of_two_crops() -> None:
    of: dict[str, set[str]] = {}
    for crop in CROPS:
        for name in (crop.name.en, crop.key.replace("-", " "), *crop_names().get(crop.key, ())):
            of.setdefault(normal(name), set()).add(crop.key)
    assert {name: keys for name, keys in of.items() if len(keys) > 1} == {}


def test_a_schools_own_crop_goes_by_its_own_name() -> None:
    own = CROPS["tomato"].model_copy(
        update={"key": "our-black", "name": CROPS["tomato"].name.model_copy(update={"en": "Black plum tomato"})}
    )
    names = CropNames([*CROPS, own], crop_names())
    for name, key in (("black plum tomatoes", "our-black"), ("plum tomatoes", "tomato")):
        found = names.find(name)
        assert found is not None
        assert found.key == key
