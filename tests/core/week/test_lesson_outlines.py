"""Lesson outlines: those that ship are whole, and are offered for what is due and for the season."""

import pytest

from almanaque.core.errors import BadInput
from almanaque.core.week import lesson_outlines
from almanaque.core.week.lesson_outlines import BECAUSE, Due, LessonOutline
from almanaque.data import catalogue
from almanaque.data import lessons as shipped
from tests.refuses import refuses

ALL = shipped()


def offered(
    *due: Due,
    month: int = 4,
    minutes: int = 45,
    youngest: int | None = 9,
    southern: bool = False,
    held: tuple[str, ...] = (),
) -> list[str]:
    found = lesson_outlines.offers(
        ALL.values(), due, month=month, southern=southern, youngest=youngest, minutes=minutes, held=held
    )
    return [offer.lesson.key for offer in found]


def test_at_least_25_outlines_ship_and_each_says_all_a_teacher_needs() -> None:
    assert len(ALL) >= 25
    assert len({lesson.title for lesson in ALL.values()}) == len(ALL)
    for lesson in ALL.values():
        assert lesson.question.endswith("?"), lesson.key
        assert 3 <= len(lesson.words) <= 8, lesson.key
        assert 3 <= len(lesson.doing) <= 6, lesson.key
        assert all((lesson.notebook, lesson.materials, lesson.subject)), lesson.key
        assert lesson.steps or lesson.months, lesson.key
        assert all(line.endswith((".", "?")) for line in (lesson.aim, *lesson.doing, lesson.notebook)), lesson.key


def test_every_step_that_a_lesson_waits_for_has_words_and_every_word_a_lesson() -> None:
    tied = {step for lesson in ALL.values() for step in lesson.steps}
    assert tied <= set(BECAUSE)
    assert set(BECAUSE) == tied
    groups = {group for lesson in ALL.values() for group in lesson.groups}
    assert groups <= {crop.group for crop in catalogue()}


def test_every_month_of_the_school_year_has_something_to_offer() -> None:
    for month in (9, 10, 11, 1, 2, 3, 4, 5, 6):
        assert offered(month=month), month


def test_what_is_due_comes_before_what_is_only_in_season() -> None:
    found = offered(Due("thin", "carrot", "Carrot", "roots"))
    assert set(found[:2]) == {"thinning", "thinning-is-sharing"}
    first = lesson_outlines.offers(
        ALL.values(),
        [Due("first picking", "radish", "Radish", "roots")],
        month=5,
        southern=False,
        youngest=9,
        minutes=45,
    )
    assert first[0].why == "radish is ready"


def test_a_lesson_on_squash_flowers_wants_a_gourd() -> None:
    assert "male-and-female-flowers" in offered(Due("scout", "zucchini", "Courgette", "gourds"), month=7)
    assert "male-and-female-flowers" not in offered(Due("scout", "carrot", "Carrot", "roots"), month=7)


def test_a_lesson_on_one_crop_is_not_offered_for_another() -> None:
    assert "garlic-in-autumn" in offered(Due("sow", "garlic", "Garlic", "onions"), month=10)
    assert "garlic-in-autumn" not in offered(Due("sow", "radish", "Radish", "roots"), month=10)


def test_the_season_turns_round_in_the_south() -> None:
    assert "from-one-seed" in offered(month=9)
    assert "from-one-seed" in offered(month=3, southern=True)
    assert "from-one-seed" not in offered(month=9, southern=True)


def test_what_was_held_what_is_too_long_and_what_is_for_older_children_is_left_out() -> None:
    due = Due("prepare bed")
    assert "measuring-a-bed" in offered(due)
    assert "measuring-a-bed" not in offered(due, held=("measuring-a-bed",))
    assert "measuring-a-bed" not in offered(due, minutes=30)
    assert "measuring-a-bed" not in offered(due, youngest=5)
    assert len(offered(due, youngest=None)) <= lesson_outlines.OFFERED


def test_a_routine_offers_its_lesson_too() -> None:
    assert offered(Due("weeding"), month=2)[0] == "what-a-weed-is"
    assert offered(Due("compost"), month=5)[0] == "compost"


def test_a_school_s_own_version_goes_before_the_one_that_ships() -> None:
    own = ALL["compost"].model_copy(update={"title": "Our heap"})
    found = lesson_outlines.with_own(ALL, [own])
    assert (found["compost"].title, found["compost"].own) == ("Our heap", True)
    assert not ALL["compost"].own
    assert len(found) == len(ALL)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"title": "x"}, "title"),
        ({"aim": ""}, "aim"),
        ({"doing": []}, "doing"),
        ({"minutes": 3}, "minutes"),
        ({"months": [13]}, "months"),
        ({"steps": ["dance"]}, "steps"),
        ({"colour": "red"}, "colour"),
        ({"words": ["w" * 41]}, "words"),
        ({"doing": ["y" * 301]}, "doing"),
        ({"key": "../x"}, "key"),
    ],
)
def test_what_an_outline_cannot_be_is_refused_with_its_field(change: dict, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        lesson_outlines.checked({**ALL["compost"].model_dump(exclude={"own"}), **change})
    assert refused.value.field == field


def test_a_file_that_cannot_be_read_or_holds_a_wrong_lesson_says_which() -> None:
    with refuses("week.lessons_unreadable"):
        lesson_outlines.read("[a")
    with refuses("week.lesson_field"):
        lesson_outlines.read('[heap]\ntitle = "Heap"\ndoing = ["Turn it."]')


@pytest.mark.parametrize(
    ("title", "key"), [("Über uns!", "ber-uns"), ("?", "lesson"), ("x", "x-1"), ("a" * 90, "a" * 50)]
)
def test_a_title_makes_a_key(title: str, key: str) -> None:
    assert lesson_outlines.key_of(title, set()) == key
    assert LessonOutline.model_validate({"key": key, "title": "abc", "aim": "abc", "doing": ["abc"]})
