"""Children's ballots are read and counted; cards have right heaps, and more than one where the trade has two names."""

import pytest

from almanaque.core.journal import class_ballots
from almanaque.core.journal.class_ballots import ChildBallot, dots, read, room
from almanaque.core.journal.class_sorting import Card, cards, heaps, score
from almanaque.data import catalogue
from tests.refuses import refuses

ON = ("kale", "pea", "radish")


def test_two_dots_on_two_crops_and_a_wish() -> None:
    assert read(["kale", "pea"], "  a  palm tree ", ON) == ChildBallot(("kale", "pea"), "a palm tree")
    assert read([], "chocolate", ON) == ChildBallot((), "chocolate")


@pytest.mark.parametrize(
    ("given", "wish", "code"),
    [
        (["kale", "pea", "radish"], "", "journal.dots_too_many"),
        (["kale", "kale"], "", "journal.dots_on_one"),
        (["palm"], "", "school.not_on_ballot"),
        ([], "", "journal.ballot_empty"),
        (["kale"], "x" * 61, "journal.wish_too_long"),
    ],
)
def test_a_ballot_that_cannot_be_is_refused(given: list[str], wish: str, code: str) -> None:
    with refuses(code):
        read(given, wish, ON)


def test_dots_add_up_and_there_is_room_for_the_class_and_a_few() -> None:
    assert dots([ChildBallot(("kale", "pea")), ChildBallot(("kale",))]) == {"kale": 2, "pea": 1}
    assert room(0, 20) == 20 + class_ballots.SPARE
    assert room(25, 20) == 0


# Which part is eaten, as it stands in books for schools; common practice, no source.
@pytest.mark.parametrize(
    ("crop", "part"),
    [
        ("carrot", "root"),
        ("radish", "root"),
        ("kohlrabi", "stem"),
        ("asparagus", "stem"),
        ("potato", "stem"),
        ("lettuce", "leaf"),
        ("cabbage", "leaf"),
        ("onion", "leaf"),
        ("broccoli", "flower"),
        ("cauliflower", "flower"),
        ("nasturtium", "flower"),
        ("tomato", "fruit"),
        ("cucumber", "fruit"),
        ("pumpkin", "fruit"),
        ("bush-bean", "fruit"),
        ("pea", "seed"),
        ("sweet-corn", "seed"),
        ("sunflower", "seed"),
    ],
)
def test_the_part_that_is_eaten(crop: str, part: str) -> None:
    (card,) = cards("part", [catalogue()[crop]])
    assert card.right[0] == part


def test_what_is_not_eaten_is_no_card_and_kin_want_company() -> None:
    crops = [catalogue()[key] for key in ("marigold", "winter-rye", "kale", "radish", "pea")]
    assert [card.crop for card in cards("part", crops)] == ["kale", "radish", "pea"]
    assert heaps("kin", crops) == ("Brassicaceae",)
    assert [card.crop for card in cards("kin", crops)] == ["kale", "radish"]
    assert {card.right for card in cards("season", crops[2:])} == {("cool",)}


def test_every_eaten_crop_of_the_catalogue_has_its_heap() -> None:
    eaten = [crop for crop in catalogue() if crop.food_group not in ("not for eating", "cover, not for eating")]
    without = {crop.key for crop in eaten if not cards("part", [crop])}
    assert without == {
        "snapdragon",
        "marigold",
        "zinnia",
        "cosmos",
        "bee-balm",
        "alyssum",
    }  # flowers that are not for eating


def test_cards_are_scored_when_they_lie_right() -> None:
    asked = [Card("kale", ("leaf",)), Card("potato", ("stem", "root")), Card("pea", ("seed",))]
    found = score(asked, {"kale": "leaf", "potato": "root", "tulip": "leaf"})
    assert (found.sorted, found.right, found.of) == (2, 2, 3)
