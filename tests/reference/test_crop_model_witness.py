"""First pickings against a published crop model on the same weather: data/crop-model-witness.csv, by tools/crop_witness.py.

The model is DSSAT 4.8 (package DSSATTools 3.0.2). Its cultivars are not the packet's, so the length of a crop is one free figure
over all climates, and what is held is how it answers to cold and warm ones. The stage of the model that stands for our picking is
named beside each crop: a green pod begins to fill at the first seed, a soybean is green and full at the end of pod growth, corn
is in milk some days after grain filling begins, a new potato follows the first tuber, the rest are ripe.
"""

import csv
from collections import defaultdict
from datetime import date
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from almanaque.core.crops.crop import Method
from almanaque.core.growth.crop_runs import grow
from almanaque.data import catalogue
from tests.reference.climates import record

CROPS = catalogue()
STAGES: dict[str, tuple[Method, str]] = {
    "bush-bean": ("direct", "First Seed"),
    "soybean": ("direct", "End Pod"),
    "sunflower": ("direct", "Phys. Mat"),
    "sweet-corn": ("direct", "Beg Gr Fil"),
    "winter-wheat": ("direct", "End Gr Fil"),
    "potato": ("cloves", "Beg Tuber"),
    "tomato": ("starts", "First Seed"),
    "cabbage": ("starts", "Phys. Mat"),
}
MOST_DAYS = 7
LONGEST = 300  # what we have not ripe by then is not ripe that year


@cache
def pairs() -> dict[str, dict[str, list[tuple[int, int]]]]:
    """By crop and climate, days to the first picking and to the model's stage, of each sowing that both bring to it."""
    table: dict[tuple[str, str, str], dict[str, int]] = defaultdict(dict)
    with (Path(__file__).parent / "data/crop-model-witness.csv").open(encoding="utf-8") as file:
        for row in csv.DictReader(file):
            table[row["climate"], row["crop"], row["sown"]][row["stage"]] = int(row["days_after_sowing"])
    found: dict[str, dict[str, list[tuple[int, int]]]] = defaultdict(lambda: defaultdict(list))
    for (climate, crop, sown), stages in table.items():
        method, stage = STAGES[crop]
        if stage not in stages:
            continue
        place = record(climate)
        # Plants are set out when the model's seed is up; what either has behind it by then is not compared.
        begins = stages["Emergence"] if method == "starts" else 0
        at = (date.fromisoformat(sown) - place.climate.first_day).days + begins
        ours = int(first_pickings(crop, climate)[at])
        if ours <= LONGEST:
            found[crop][climate].append((ours, stages[stage] - begins))
    return found


@cache
def first_pickings(crop: str, climate: str) -> np.ndarray:
    return grow(CROPS[crop], STAGES[crop][0], record(climate).conditions(), ready_by="warmth").first


@pytest.mark.parametrize("crop", STAGES)
def test_a_crop_answers_to_each_climate_as_the_model_has_it(crop: str) -> None:
    climates = pairs()[crop]
    assert set(climates) == {"continental", "cool-maritime", "humid-subtropical"}
    length = np.mean([np.median([ours / theirs for ours, theirs in rows]) for rows in climates.values()])
    for climate, rows in climates.items():
        apart = np.array([ours / length - theirs for ours, theirs in rows])
        assert len(rows) >= 7
        assert abs(np.median(apart)) <= MOST_DAYS, (climate, np.median(apart))


@pytest.mark.parametrize("crop", ["bush-bean", "sweet-corn", "winter-wheat"])
def test_crops_of_the_same_length_are_ready_when_the_model_has_them(crop: str) -> None:
    for climate, rows in pairs()[crop].items():
        apart = np.median([ours - theirs for ours, theirs in rows])
        assert abs(apart) <= MOST_DAYS, (climate, apart)
