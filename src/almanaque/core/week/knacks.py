"""How a thing is done by hand, as a strip of small pictures: which strip goes with a step, and the words under it."""

from collections.abc import Collection
from dataclasses import dataclass

MOST = 2  # strips on a page: our own choice


@dataclass(frozen=True)
class Knack:
    """A strip by its name, with its title and the words under each picture. **Source:** common practice, no source."""

    name: str
    title: str
    words: tuple[str, ...]
    steps: frozenset[str]
    groups: frozenset[str] = frozenset()

    def suits(self, steps: Collection[str], groups: Collection[str]) -> bool:
        """True for one of its steps, and of its groups of crops where it has some."""
        return bool(self.steps & set(steps)) and (not self.groups or bool(self.groups & set(groups)))


KNACKS: tuple[Knack, ...] = (
    Knack(
        "pollinate",
        "Pollen by hand",
        (
            "Left a male flower, right a female with a small fruit",
            "Fold the male’s petals back",
            "Touch the middle of the female",
        ),
        frozenset({"scout"}),
        frozenset({"gourds"}),
    ),
    Knack(
        "pick-leaves",
        "Pick so that it grows on",
        ("Take the outer leaves", "Cut low, leave the heart", "It grows again"),
        frozenset({"first picking", "picking"}),
        frozenset({"leaves"}),
    ),
    Knack(
        "sow",
        "Sow",
        ("A hole as deep as the packet says", "One seed", "Cover and pat", "Water gently"),
        frozenset({"sow"}),
    ),
    Knack("thin", "Thin", ("Too many", "Snip at the soil, do not pull", "Room for each"), frozenset({"thin"})),
    Knack(
        "set-out",
        "Set out",
        ("Dig the hole first", "Tip it out, hold the soil", "As deep as it stood, press", "Water it in"),
        frozenset({"transplant"}),
    ),
    Knack(
        "weed",
        "Weed with the root",
        ("Loosen beside it", "Hold it low and pull slowly", "Look: is the root whole?", "Shake the soil off"),
        frozenset({"weeding"}),
    ),
    Knack(
        "tie",
        "Tie",
        ("Stake first", "String in an eight around both", "A finger fits between"),
        frozenset({"support"}),
    ),
)


def of(steps: Collection[str], groups: Collection[str] = ()) -> list[Knack]:
    """Strips for some steps, those for fewer occasions first."""
    return [knack for knack in KNACKS if knack.suits(steps, groups)][:MOST]
