"""Which flowers and fruits a plant carries at a stage, where on it, how ripe, and how large they must be to be seen."""

import math

from almanaque.core.portrait.flowers import flower
from almanaque.core.portrait.fruits import fruit as fruit_of
from almanaque.core.portrait.habits import Grown
from almanaque.core.portrait.pen import Disc, Element, Point
from almanaque.core.portrait.picture import PlantMeasures, Stage
from almanaque.core.portrait.space import Place, Scene
from almanaque.core.portrait.traits import FlowerForm, FruitForm, FruitTrait, PlantTraits

AT_TOP = {"grain", "seedhead", "capsule", "bud"}  # fruits that stand where the flowers stood
RIPENESS = (1.0, 1.0, 0.6, 1.0, 0.2, 1.0, 0.6)  # of fruits beside each other on a plant that is picked again and again
# How large organs are at the least, of the plant's size: smaller ones are drawn larger, or they would not be seen. Our own choice.
LEAST_FLOWER: dict[FlowerForm, float] = {
    "head": 0.15,
    "daisy": 0.15,
    "ball": 0.16,
    "tassel": 0.2,
    "trumpet": 0.16,
    "spike": 0.22,
    "plume": 0.24,
    "lip": 0.22,
    "umbel": 0.2,
}
LEAST_ALONE, LEAST_BLOOM, LEAST_FRUIT = 0.3, 0.11, 0.15  # of one head, of other flowers, of fruits


def organs_of(
    traits: PlantTraits, stage: Stage, plant: Grown, measures: PlantMeasures, factors: tuple[float, float]
) -> list[Element]:
    """Flowers and fruits of a stage, in front of the leaves."""
    scene = plant.scene
    from_top = scene.view == "top"
    whole = measures.width if from_top else max(measures.height, measures.width)

    def at(place: Place) -> Point:
        point = scene.see(place)[0]
        return complex(point.real * factors[0], point.imag * factors[1])

    found: list[Element] = []
    trait, fruit = traits.flower, traits.fruit
    blooms = stage == "flower" or (stage in ("unripe", "ripe") and trait.form == "head")
    if (blooms or stage == "gone to seed") and trait.form != "none":
        least = LEAST_ALONE if trait.form == "head" and trait.many == 1 else LEAST_FLOWER.get(trait.form, LEAST_BLOOM)
        size = max(1.0, least * whole / trait.mm)
        size *= CLOSER[scene.detail]
        petals = scene.detail if trait.many == 1 else min(1, scene.detail)  # of many small ones each would be all ink
        for place in plant.flowers[: min(trait.many, MOST_ORGANS[scene.detail])]:
            found += flower(trait, at(place), petals, size=size, from_top=from_top, gone=stage == "gone to seed")
    if stage in ("unripe", "ripe") and fruit.form != "none":
        larger = fruit.model_copy(update={"mm": max(fruit.mm, least_of(fruit) * whole * CLOSER[scene.detail])})
        if fruit.form == "sprouts":
            return [*found, *_sprouts(larger, measures, scene, stage)]
        above = fruit.form in AT_TOP or (fruit.form == "curd" and traits.habit.form == "stem")
        places = (plant.flowers if above else plant.fruits) or [Place(0, 0, measures.height * 0.5)]
        for number, place in enumerate(places[: min(fruit.many, MOST_ORGANS[scene.detail])]):
            ripe = 0.25 if stage == "unripe" else RIPENESS[number % len(RIPENESS)] if fruit.many > 1 else 1.0
            where = at(place)
            if not from_top:  # nothing that is picked hangs into the ground
                where = complex(where.real, max(where.imag, larger.mm * (0.25 + 0.25 * ripe)))
            found += fruit_of(larger, where, scene.detail, ripe, from_top=from_top)
    return found


OTHER_LEAST: dict[FruitForm, float] = {"curd": 0.33, "capsule": 0.055, "bramble": 0.085}
CLOSER, MOST_ORGANS = (1.5, 1.25, 1.0), (3, 4, 40)  # by detail: small drawings show fewer and larger ones


def least_of(fruit: FruitTrait) -> float:
    """How large a fruit is drawn at the least, of the plant's size."""
    if fruit.form in OTHER_LEAST:
        return OTHER_LEAST[fruit.form]
    return LEAST_FRUIT if fruit.ratio > 0.4 else 1.7 * LEAST_FRUIT


def _sprouts(fruit: FruitTrait, measures: PlantMeasures, scene: Scene, stage: Stage) -> list[Element]:
    """Little heads up a stem."""
    r = fruit.mm / 2 * (0.6 if stage == "unripe" else 1.0)
    rows = 7
    if scene.view == "top":
        return [Disc(r * 1.6 * complex(math.cos(k * 1.05), math.sin(k * 1.05)), r, r, fruit.colour) for k in range(6)]
    return [
        Disc(complex(side * r * 1.05, measures.height * (0.12 + 0.55 * row / rows)), r, r, fruit.colour)
        for row in range(rows)
        for side in (-1, 1)
    ]
