"""Sorting crops into heaps by a question: which part we eat, cool or warm, whose kin. What is right is read from the catalogue.

**Source** of the parts: what botanists call the part that is eaten, common practice in schools, no source; a part that two answers
name well takes both.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from almanaque.core.crops.crop import Crop

SortBy = Literal["part", "season", "kin"]
SORTS: tuple[SortBy, ...] = get_args(SortBy)
QUESTIONS: dict[SortBy, str] = {
    "part": "Which part of it do we eat?",
    "season": "Does it like cool or warm weather?",
    "kin": "Which of them are kin?",
}
PARTS = ("root", "stem", "leaf", "flower", "fruit", "seed")
SEASONS = ("cool", "warm")
MOST_CARDS = 16  # that a team sorts: our own choice
FEWEST_KIN = 2  # crops of a family before it is a heap of its own: our own choice
# A crop's own answer where its part does not tell: the first is told as the answer.
OWN_PARTS: dict[str, tuple[str, ...]] = {
    "broccoli": ("flower",),
    "cauliflower": ("flower",),
    "artichoke": ("flower",),
    "asparagus": ("stem",),
    "kohlrabi": ("stem",),
    "leek": ("leaf", "stem"),
    "scallion": ("leaf", "stem"),
    "celery": ("stem", "leaf"),
    "rhubarb": ("stem", "leaf"),
    "okra": ("fruit",),
    "bush-bean": ("fruit", "seed"),
    "pole-bean": ("fruit", "seed"),
    "snow-pea": ("fruit", "seed"),
    "snap-pea": ("fruit", "seed"),
    "sweet-corn": ("seed", "fruit"),
    "popcorn": ("seed", "fruit"),
    "winter-wheat": ("seed", "fruit"),
    "spring-wheat": ("seed", "fruit"),
}
BY_PART: dict[str, tuple[str, ...]] = {
    "root": ("root",),
    "tuber": ("stem", "root"),  # a thick stem under the ground
    "bulb": ("leaf", "stem", "root"),  # thick leaves on a short stem, mostly under the ground
    "leaf": ("leaf",),
    "head": ("leaf",),
    "sprout": ("leaf",),
    "pod": ("seed", "fruit"),
    "nut": ("seed",),
    "fruit": ("fruit",),
    "seed": ("seed",),
    "flower": ("flower",),
}
# Flowers that are eaten; of all others children must not learn that they are: common practice, no source.
EATEN_FLOWERS = frozenset({"borage", "calendula", "chamomile", "cornflower", "lavender", "nasturtium", "viola"})
NOT_EATEN = ("not for eating", "cover, not for eating")


@dataclass(frozen=True)
class Card:
    """A crop to be sorted, and the heaps that are right for it, the one that is told first."""

    crop: str
    right: tuple[str, ...]


@dataclass(frozen=True)
class SortScore:
    """How a team's cards lie: sorted, and right."""

    sorted: int
    right: int
    of: int


def cards(by: SortBy, crops: Sequence[Crop]) -> tuple[Card, ...]:
    """Cards for the crops that have an answer, in their order."""
    if by == "season":
        found = [Card(crop.key, (crop.season,)) for crop in crops]
    elif by == "kin":
        known = heaps(by, crops)
        found = [Card(crop.key, (crop.family,)) for crop in crops if crop.family in known]
    else:
        eaten = [crop for crop in crops if crop.food_group not in NOT_EATEN]
        found = [Card(crop.key, right) for crop in eaten if (right := _parts(crop))]
    return tuple(found[:MOST_CARDS])


def _parts(crop: Crop) -> tuple[str, ...]:
    if crop.part == "flower" and crop.kind not in EATEN_FLOWERS:
        return ()
    return OWN_PARTS.get(crop.kind) or BY_PART.get(crop.part, ())


def heaps(by: SortBy, crops: Sequence[Crop]) -> tuple[str, ...]:
    """The heaps of a question; families with two crops or more."""
    if by == "part":
        return PARTS
    if by == "season":
        return SEASONS
    families = [crop.family for crop in crops]
    return tuple(sorted({family for family in families if families.count(family) >= FEWEST_KIN}))


def score(asked: Collection[Card], lying: Mapping[str, str]) -> SortScore:
    """How many cards were sorted, and how many of them rightly; `lying` is the heap by crop."""
    mine = [card for card in asked if card.crop in lying]
    return SortScore(len(mine), sum(lying[card.crop] in card.right for card in mine), len(asked))
