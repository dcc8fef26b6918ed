"""A portrait: a plant at a stage, from the side or from above, with its measures."""

import math
import random
from typing import Literal, get_args

from almanaque.core.portrait import roots
from almanaque.core.portrait.flowers import flower
from almanaque.core.portrait.fruits import fruit as fruit_of
from almanaque.core.portrait.habits import HABITS, Grown, bolt
from almanaque.core.portrait.pen import Disc, Element, Point, bounds, moved
from almanaque.core.portrait.picture import Measures, Portrait
from almanaque.core.portrait.seedlings import seed, seedling
from almanaque.core.portrait.space import Place, Scene, View
from almanaque.core.portrait.traits import FlowerForm, FruitTrait, PlantTraits

Stage = Literal["seed", "seedling", "young", "grown", "flower", "unripe", "ripe", "gone to seed", "dead"]
STAGES: tuple[Stage, ...] = get_args(Stage)
NARROWEST, WIDEST = 0.72, 1.5  # widths of a plant seen from the side, in its heights: our own choice
YOUNG = 0.42  # share of height and width of a young plant: our own choice
SUNK = 0.7  # share of its height to which a dead plant has sunk: our own choice
BOLTS = 1.7  # height of a flower stalk in heights of its rosette: our own choice
ROUGH = {"rosette", "head"}  # habits that flower on a stalk of its own


def portrait(
    traits: PlantTraits,
    stage: Stage,
    view: View,
    *,
    height_mm: float,
    width_mm: float,
    detail: int = 2,
    number: int = 0,
) -> Portrait:
    """A plant at a stage. From the side it has the grown plant's height [mm] and is as wide as a drawing wants; from above it has its width.

    The same call draws the same; another `number` another plant of the kind. **Source:** our own drawing by rule over botanical traits.
    """
    if stage == "seed":
        elements = seed(traits.seed, detail)
        return Portrait(tuple(elements), Measures(traits.seed.mm, traits.seed.mm), view, ground=False, detail=detail)
    if stage == "seedling":
        return seedling(traits, view, detail)
    if view == "side":
        width_mm = min(max(width_mm, NARROWEST * height_mm), WIDEST * height_mm)
    measures = measures_of(traits, stage, height_mm, width_mm)
    stretch = (1.0, 1.0)
    for _ in range(2):  # once to measure what comes out, once stretched to what it should be
        plant = _grown(traits, stage, Scene(view, detail, *stretch), measures, height_mm, number)
        drawn = list(plant.scene.in_order())
        left, _, right, top = bounds(drawn)
        by_x = measures.width / max(right - left, 1e-6)
        by_y = by_x if view == "top" else measures.height / max(top, 1e-6)
        stretch = stretch[0] * by_x, stretch[1] * (by_y if view == "side" else 1.0)
    drawn = [moved(one, by_x, by_y) for one in drawn]
    front = _organs(traits, stage, plant, measures, (by_x, by_y))
    depth = 0.0
    if view == "side":
        below, depth = _below(traits, stage, measures, detail)
        drawn = [*roots.soil(measures.width, depth), *below, *drawn]
    return Portrait(
        tuple(drawn),
        Measures(measures.height, measures.width, depth),
        view,
        view == "side",
        detail,
        tuple(front),
        _is_fine(traits),
    )


def _is_fine(traits: PlantTraits) -> bool:
    return traits.leaf.form in THREADS or (traits.habit.form == "grass" and traits.habit.stems > 1)


THREADS = {"tube", "needle", "thread", "fern"}


def bolts(traits: PlantTraits, stage: Stage) -> bool:
    """Whether a rosette or a head flowers on a stalk of its own at this stage."""
    return (
        traits.habit.form in ROUGH
        and traits.flower.form not in ("none", "head")
        and stage in ("flower", "gone to seed")
    )


def measures_of(traits: PlantTraits, stage: Stage, height_mm: float, width_mm: float) -> Measures:
    """Height and width [mm] of a stage of a plant that grows so high and wide."""
    if stage == "young":
        return Measures(height_mm * YOUNG, width_mm * (YOUNG + 0.08))
    if stage == "dead" and traits.habit.form not in ("tree", "shrub", "canes", "grass"):
        return Measures(height_mm * SUNK, width_mm)
    return Measures(height_mm * (BOLTS if bolts(traits, stage) else 1.0), width_mm)


def _grown(traits: PlantTraits, stage: Stage, scene: Scene, measures: Measures, height_mm: float, number: int) -> Grown:
    dry = 1.0 if stage == "dead" else 0.5 if stage == "gone to seed" else 0.0
    leaves = _leaves(traits, stage, scene.detail)
    if stage == "dead" and traits.habit.form in ("tree", "shrub", "canes"):
        leaves = 0
    chance = random.Random(f"{number} {traits.habit.form} {traits.leaf.form}")  # noqa: S311  for looks only
    high = height_mm if bolts(traits, stage) else measures.height
    plant = Grown(traits, high, measures.width, leaves, scene, chance, dry)
    HABITS[traits.habit.form](plant)
    if bolts(traits, stage):
        plant.flowers.clear()
        bolt(plant, measures.height)
    return plant


MOST_LEAVES = (7, 10, 26)  # by detail
MOST_OF_PARTS = (4, 5, 13)  # of leaves that are made of several


def _leaves(traits: PlantTraits, stage: Stage, detail: int) -> int:
    most = (MOST_OF_PARTS if traits.leaf.form in MADE_OF_PARTS else MOST_LEAVES)[detail]
    return max(3, min(most, round(traits.leaf.many * (0.5 if stage == "young" else 1.0))))


MADE_OF_PARTS = {"pinnate", "trifoliate", "fingers", "fern", "thread"}
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


def _organs(
    traits: PlantTraits, stage: Stage, plant: Grown, measures: Measures, factors: tuple[float, float]
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
        for place in plant.flowers[: min(trait.many, MOST_ORGANS[scene.detail])]:
            found += flower(trait, at(place), scene.detail, size=size, from_top=from_top, gone=stage == "gone to seed")
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


CLOSER, MOST_ORGANS = (1.5, 1.25, 1.0), (3, 4, 40)  # by detail: small drawings show fewer and larger ones


def least_of(fruit: FruitTrait) -> float:
    """How large a fruit is drawn at the least, of the plant's size."""
    if fruit.form == "curd":
        return 2.2 * LEAST_FRUIT
    return LEAST_FRUIT if fruit.ratio > 0.4 else 1.7 * LEAST_FRUIT


def _sprouts(fruit: FruitTrait, measures: Measures, scene: Scene, stage: Stage) -> list[Element]:
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


BELOW: dict[Stage, float] = {
    "young": 0.4,
    "grown": 0.75,
    "flower": 0.8,
    "unripe": 0.8,
    "ripe": 1.0,
    "gone to seed": 0.8,
    "dead": 1.0,
}


def _below(traits: PlantTraits, stage: Stage, measures: Measures, detail: int) -> tuple[list[Element], float]:
    """What lies below, and how deep the soil is drawn [mm]."""
    fine = max(measures.height, measures.width) * 0.12
    drawn = roots.root(traits.root, fine, detail, BELOW[stage])
    _, low, _, _ = bounds(drawn)
    return drawn, max(fine, -low) * 1.08
