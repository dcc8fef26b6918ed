"""A portrait: a plant at a stage, from the side or from above, with its measures."""

import random
from typing import get_args

from almanaque.core.portrait import roots
from almanaque.core.portrait.habits import HABITS, Grown, bolt
from almanaque.core.portrait.organs import organs_of
from almanaque.core.portrait.pen import Element, bounds, moved
from almanaque.core.portrait.picture import PlantMeasures, Portrait, Stage
from almanaque.core.portrait.seedlings import seed, seedling
from almanaque.core.portrait.space import Scene, View
from almanaque.core.portrait.traits import PlantTraits

STAGES: tuple[Stage, ...] = get_args(Stage)
NARROWEST, WIDEST = 0.72, 1.5  # widths of a plant seen from the side, in its heights: our own choice
YOUNG = 0.42  # share of height and width of a young plant: our own choice
SUNK = 0.7  # share of its height to which a dead plant has sunk: our own choice
BOLTS = 1.7  # height of a flower stalk in heights of its rosette: our own choice
BOLTING = {"rosette", "head"}  # habits that flower on a stalk of its own


def portrait(
    traits: PlantTraits,
    stage: Stage,
    view: View,
    *,
    height_mm: float,
    width_mm: float,
    detail: int = 2,
    number: int = 0,
    leafy: float = 1.0,
) -> Portrait:
    """A plant at a stage. From the side it has the grown plant's height [mm] and is as wide as a drawing wants; from above its width.

    The same call draws the same; another `number` another plant of the kind. `leafy` is the share of its leaves that are
    drawn. **Source:** our own drawing by rule over botanical traits.
    """
    if stage == "seed":
        elements = seed(traits.seed, detail)
        return Portrait(
            tuple(elements), PlantMeasures(traits.seed.mm, traits.seed.mm), view, ground=False, detail=detail
        )
    if stage == "seedling":
        return seedling(traits, view, detail)
    if view == "side":
        width_mm = min(max(width_mm, NARROWEST * height_mm), WIDEST * height_mm)
    measures = measures_of(traits, stage, height_mm, width_mm)
    stretch = (1.0, 1.0)
    for _ in range(2):  # once to measure what comes out, once stretched to what it should be
        plant = _grown(traits, stage, Scene(view, detail, *stretch), measures, height_mm, number, leafy)
        drawn = list(plant.scene.in_order())
        left, _, right, top = bounds(drawn)
        by_x = measures.width / max(right - left, 1e-6)
        by_y = by_x if view == "top" else measures.height / max(top, 1e-6)
        stretch = stretch[0] * by_x, stretch[1] * (by_y if view == "side" else 1.0)
    drawn = [moved(one, by_x, by_y) for one in drawn]
    front = organs_of(traits, stage, plant, measures, (by_x, by_y))
    depth = 0.0
    if view == "side":
        below, depth = _below(traits, stage, measures, detail)
        if traits.root.form == "swollen":  # it lies on the ground, before its leaves
            front, below = [*below, *front], []
        drawn = [*roots.soil(measures.width, depth), *below, *drawn]
    return Portrait(
        tuple(drawn),
        PlantMeasures(measures.height, measures.width, depth),
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
        traits.habit.form in BOLTING
        and traits.flower.form not in ("none", "head")
        and stage in ("flower", "gone to seed")
    )


def measures_of(traits: PlantTraits, stage: Stage, height_mm: float, width_mm: float) -> PlantMeasures:
    """Height and width [mm] of a stage of a plant that grows so high and wide."""
    if stage == "young":
        return PlantMeasures(height_mm * YOUNG, width_mm * (YOUNG + 0.08))
    if stage == "dead" and traits.habit.form not in ("tree", "shrub", "canes", "grass"):
        return PlantMeasures(height_mm * SUNK, width_mm)
    return PlantMeasures(height_mm * (BOLTS if bolts(traits, stage) else 1.0), width_mm)


def _grown(
    traits: PlantTraits,
    stage: Stage,
    scene: Scene,
    measures: PlantMeasures,
    height_mm: float,
    number: int,
    leafy: float,
) -> Grown:
    dry = 1.0 if stage == "dead" else 0.5 if stage == "gone to seed" else 0.0
    leaves = max(3, round(_leaves(traits, stage, scene.detail) * leafy))
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


BELOW: dict[Stage, float] = {
    "young": 0.4,
    "grown": 0.75,
    "flower": 0.8,
    "unripe": 0.8,
    "ripe": 1.0,
    "gone to seed": 0.8,
    "dead": 1.0,
}


def _below(traits: PlantTraits, stage: Stage, measures: PlantMeasures, detail: int) -> tuple[list[Element], float]:
    """What lies below, and how deep the soil is drawn [mm]."""
    fine = max(measures.height, measures.width) * 0.12
    drawn = roots.root(traits.root, fine, detail, BELOW[stage])
    _, low, _, _ = bounds(drawn)
    return drawn, max(fine, -low) * 1.08
