import pytest

from almanaque.core.week.class_skills import able, least_age
from almanaque.data import catalogue

CROPS = catalogue()


@pytest.mark.parametrize(
    ("step", "crop", "age", "children", "not_handled", "can"),
    [
        ("support", "pea", 7, 24, (), False),
        ("support", "pea", 8, 24, (), True),
        ("support", "pea", None, 12, (), True),
        ("support", "pea", 10, 24, ("hammers",), False),
        ("keep moist", "pea", 5, 18, ("hammers",), True),
        ("prepare bed", "pea", 9, 5, (), False),
        ("prepare bed", "pea", 9, 6, (), True),
        ("prepare bed", "pea", 9, 24, ("Garden forks",), False),
        ("cut back", "pea", 8, 24, (), False),
        ("picking", "pea", 4, 2, (), True),
    ],
)
def test_a_class_can_do_what_it_is_old_and_many_enough_for_and_may_handle(
    step: str, crop: str, age: int | None, children: int, not_handled: tuple[str, ...], can: bool
) -> None:
    assert able(step, CROPS[crop], age=age, children=children, not_handled=not_handled) == can


def test_a_crop_for_older_hands_is_sown_by_them_but_watered_by_all() -> None:
    late = max(CROPS.crops.values(), key=lambda c: c.ages_from)
    assert least_age("sow", late) == late.ages_from >= 7
    assert least_age("keep moist", late) == 0
    assert least_age("support", None) == 8
