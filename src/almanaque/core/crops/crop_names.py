"""Crops by the names that people have for them: `Swiss chard`, `beans, pole`, `Tomatoes (cherry)`, `zuchini`."""

import difflib
import re
from collections.abc import Iterable, Mapping, Sequence

from almanaque.core.crops.crop import Crop
from almanaque.core.words.plain_words import plain

LIKE_ENOUGH = 0.75  # share of letters that a slip of the pen leaves alike: our own choice
MOST_NEAR = 3  # crops that are named for one that is not known: our own choice
MOST_ASKED = (
    60  # names that something near is looked for, which takes its time; of more of them nobody reads it: our own rule
)
LONGEST_NAME = 60  # letters: our own rule


class CropNames:
    """Crops by their own names, keys and other names, whatever the number, order and accents of the words."""

    def __init__(self, crops: Iterable[Crop], others: Mapping[str, Sequence[str]]) -> None:
        self._crops: dict[str, Crop] = {}
        self._near: dict[str, list[Crop]] = {}
        kept = list(crops)
        for crop in kept:
            for name in (crop.name.en, crop.key.replace("-", " "), crop.name.es):
                self._crops.setdefault(normal(name), crop)
        for crop in kept:
            for name in others.get(crop.key, ()):
                self._crops.setdefault(normal(name), crop)

    def find(self, text: str) -> Crop | None:
        """The crop of this name; None for none, and for a name that several have."""
        return self._crops.get(normal(text))

    def near(self, text: str) -> list[Crop]:
        """A few crops that may be meant: those written almost so, then those that share the last word. None once many were asked for."""
        name = normal(text[:LONGEST_NAME])
        if name not in self._near:
            if len(self._near) >= MOST_ASKED:
                return []
            self._near[name] = self._look_near(name)
        return self._near[name]

    def _look_near(self, name: str) -> list[Crop]:
        alike = difflib.get_close_matches(name, self._crops, n=MOST_NEAR, cutoff=LIKE_ENOUGH)
        kind = name.rpartition(" ")[2]
        kin = [other for other in self._crops if kind and kind in other.split()]
        found = {self._crops[other].key: self._crops[other] for other in (*alike, *kin)}
        return list(found.values())[:MOST_NEAR]


def normal(text: str) -> str:
    """A name in small letters without accents, one of each, the kind last.

    >>> normal("Beans, pole"), normal("Tomatoes (Cherry)"), normal("Brussels sprouts"), normal("Jalapeños")
    ('pole bean', 'cherry tomato', 'brussels sprout', 'jalapeno')
    """
    low = plain(text)
    inside = re.findall(r"\(([^()]*)\)", low)
    outside = re.sub(r"\([^()]*\)", " ", low)
    kind, *kept = re.split(r",| - ", outside)
    words = re.findall(r"[a-z0-9']+", " ".join([*kept, *inside, kind]))
    return " ".join([*words[:-1], *map(_one, words[-1:])])


def _one(word: str) -> str:
    """A word for one of what it names, by the rules of English; the same word may come of two."""
    for many, one in (("ies", "y"), ("oes", "o"), ("shes", "sh"), ("ches", "ch"), ("xes", "x")):
        if word.endswith(many) and len(word) > len(many) + 1:
            return word[: -len(many)] + one
    return word[:-1] if word.endswith("s") and not word.endswith(("ss", "us", "is")) else word
