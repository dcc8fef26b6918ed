import pytest

from almanaque.core.crops.own_crops import OwnCrop, with_own
from almanaque.core.school.class_flags import ALSO, SPEAKING, _single, flagged
from almanaque.core.school.classes import FlagKind
from almanaque.data import catalogue

CROPS = catalogue()


@pytest.mark.parametrize(
    ("flag", "speaks_of", "not_of"),
    [
        (("must not eat", "strawberries"), ("strawberry",), ("raspberry", "radish")),
        (("must not touch", "Tomato leaves"), ("tomato",), ("pepper", "lettuce", "spinach")),
        (("must not eat", "nuts"), ("peanut",), ("pea", "winter-squash")),
        (("must not eat", "gluten"), ("winter-wheat", "spring-wheat", "oats"), ("sweet-corn", "buckwheat")),
        (("must not eat", "berries"), ("raspberry", "strawberry"), ("tomato",)),
        (("must not eat", "nightshades"), ("tomato", "pepper", "potato"), ("carrot",)),
        (("must not eat", "peas or beans"), ("pea", "bush-bean"), ("sweet-corn",)),
        (("must not eat", "sweet corn"), ("sweet-corn",), ("sweet-potato",)),
        (("must not eat", "potatoes"), ("potato", "sweet-potato"), ("tomato",)),
        (("may not handle", "knives"), (), ("garlic", "chives")),
    ],
)
def test_a_flag_speaks_of_its_crop_and_of_no_other(
    flag: tuple[FlagKind, str], speaks_of: tuple[str, ...], not_of: tuple[str, ...]
) -> None:
    for key in speaks_of:
        assert [f.code for f in flagged(CROPS[key], [flag], "Grade 3")] == ["class_flag"], key
    for key in not_of:
        assert flagged(CROPS[key], [flag], "Grade 3") == [], key


def test_the_words_name_the_class_and_what_it_is_and_defer_to_the_school() -> None:
    flags: list[tuple[FlagKind, str]] = [("must not eat", "strawberries"), ("may not handle", "strawberry plants")]
    eat, handle = flagged(CROPS["strawberry"], flags, "Grade 3")
    assert eat.message == "Someone in Grade 3 must not eat strawberries."
    assert handle.message == "Someone in Grade 3 must not handle strawberry plants."
    assert eat.severity == "care"
    assert "school's own rules" in eat.reason


def test_a_variety_with_another_name_is_known_by_the_crop_it_comes_from() -> None:
    own = with_own(CROPS, [OwnCrop("little-red", "strawberry", {"name": "Little Red"})])
    assert flagged(own["little-red"], [("must not eat", "strawberries")], "Grade 3") != []


def test_the_words_that_speak_are_those_of_the_catalogue() -> None:
    assert set(ALSO) <= set(CROPS.crops)
    assert {crop.group for crop in CROPS} > SPEAKING


def test_a_short_word_in_ies_is_no_plural_of_one_in_y() -> None:
    assert _single("pies") == "pie"
    assert _single("berries") == "berry"
