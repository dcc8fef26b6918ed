"""One part of a plant that stands for it where no plant can be told: at 24 pixels."""

from typing import Literal

from almanaque.core.portrait.flowers import flower
from almanaque.core.portrait.fruits import fruit
from almanaque.core.portrait.leaves import add_leaf
from almanaque.core.portrait.pen import Element, bounds, shifted
from almanaque.core.portrait.picture import PlantMeasures, Portrait
from almanaque.core.portrait.roots import root
from almanaque.core.portrait.space import Place, Scene
from almanaque.core.portrait.traits import PlantTraits

Emblem = Literal["root", "fruit", "flower", "leaf"]


# What a crop is known by in the smallest size, by the part that is picked; leaves for all others.
KNOWN_BY: dict[str, Emblem] = {
    **dict.fromkeys(("root", "tuber", "bulb", "nut"), "root"),
    **dict.fromkeys(("fruit", "pod", "ear", "grain", "head", "sprout", "bud"), "fruit"),
    **dict.fromkeys(("flower", "seed"), "flower"),
}


def emblem_of(part: str) -> Emblem:
    """The part of a plant that stands for a crop of which this part is picked."""
    return KNOWN_BY.get(part, "leaf")


def emblem(traits: PlantTraits, what: Emblem) -> Portrait:
    """One part of a plant that fills the paper, for sizes at which no plant can be told: what is picked of it, or what it is known by."""
    drawn: list[Element] = []
    if what == "root" and traits.root.form in ("taper", "globe", "bulb", "cloves", "tubers", "nuts", "swollen", "stem"):
        drawn = root(traits.root, traits.root.mm * 0.4, 0, 1.0)
        tops = Scene("side", 0)
        length = traits.root.mm * (0.5 if traits.root.form != "globe" else 0.8)
        for azimuth, elevation in ((0.0, 52.0), (180.0, 52.0), (0.0, 88.0)):
            add_leaf(
                tops,
                Place(0, 0, 0),
                azimuth,
                elevation,
                length,
                traits.leaf,
                droop=10,
                shade=0.0 if elevation < 80 else 0.8,
            )
        drawn = [*tops.in_order(), *drawn]
    elif what == "fruit" and traits.fruit.form not in ("none", "sprouts"):
        drawn = fruit(traits.fruit, 0j, 1, 1.0)
    elif what == "flower" and traits.flower.form != "none":
        drawn = flower(traits.flower, 0j, 1, from_top=traits.flower.form in ("daisy", "head", "five", "cross", "star"))
    if not drawn:
        scene = Scene("top", 1)
        add_leaf(scene, Place(0, 0, 0), 62, 0, 100.0, traits.leaf, droop=0, shade=0.0)
        drawn = list(scene.in_order())
    left, low, right, top = bounds(drawn)
    middle = complex((left + right) / 2, (low + top) / 2)
    drawn = [shifted(one, -middle) for one in drawn]
    return Portrait(tuple(drawn), PlantMeasures(top - low, right - left), "side", ground=False, detail=0)
