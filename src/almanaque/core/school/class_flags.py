"""Flags of a class against a crop: what someone in it must not touch or eat, said where the crop is planned. Never a name."""

import re
from collections.abc import Iterable

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix
from almanaque.core.school.classes import FlagKind

SOURCE = "class_flag"
# Kinds of the catalogue that name what somebody may be allergic to; “leaves” or “roots” are parts, and say nothing of a crop.
SPEAKING = frozenset({"cabbages", "onions", "legumes", "gourds", "nightshades", "grains", "berries"})
# Other words for what is in a crop, by its key: common practice, no source.
ALSO = {
    "peanut": ("nut",),
    "winter-wheat": ("gluten", "cereal"),
    "spring-wheat": ("gluten", "cereal"),
    "winter-rye": ("gluten", "cereal"),
    "oats": ("gluten", "cereal"),
    "soybean": ("soy", "soya"),
    "sweet-corn": ("maize",),
    "popcorn": ("maize", "corn"),
}

CASES: dict[FlagKind, str] = {
    "may not handle": "must_not_handle",
    "must not touch": "must_not_touch",
    "must not eat": "must_not_eat",
}


def flagged(crop: Crop, flags: Iterable[tuple[FlagKind, str]], group: str) -> list[Finding]:
    """Care for each flag that speaks of the crop, by its name, the kind it is a variety of, its group, or what is in it.

    Words are compared one by one without their plural, and of a crop's name the last one counts: “strawberries” speaks of the
    June strawberry, “sweet corn” not of the sweet potato. **Source:** our own rule; it warns too often rather than too seldom.
    """
    flags = tuple(flags)
    if not flags:
        return []
    names = (crop.name.en.lower().split()[-1], crop.kind.split("-")[-1], *ALSO.get(crop.kind, ()))
    mine = {_single(name) for name in (*names, *({crop.group} & SPEAKING))}
    return [
        Finding(
            "class_flag",
            "care",
            crop.name.en,
            {"group": group, "what": what},
            SOURCE,
            (Fix("other_class"),),
            case=CASES[kind],
        )
        for kind, what in flags
        if mine & {_single(word) for word in re.findall(r"[^\W\d_]+", what.lower())}
    ]


def _single(word: str) -> str:
    """A word without its plural.

    >>> [_single(w) for w in ("strawberries", "tomatoes", "peas", "radishes", "grass", "leaves")]
    ['strawberry', 'tomato', 'pea', 'radish', 'grass', 'leave']
    """
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("oes", "shes", "ches")):
        return word[:-2]
    return word[:-1] if word.endswith("s") and not word.endswith("ss") else word
