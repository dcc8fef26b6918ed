"""Warmth to the picking against published requirements.

Sweet corn: base 50 °F (10 °C), some 1,400 to 1,700 degree-days (°F) from planting to harvest of early and middle kinds. Green
peas: base 40 °F (4.4 °C), some 1,100 to 1,600. Bases and ranges as extension and canning-crop guides give them, from memory.
Spring wheat: above 0 °C, 1,830 from emergence to ripe grain, as LINTUL3 has it in PCSE 6.0.13 (lintul3_springwheat.crop, TSUM1 and
TSUM2); with 60 to 150 until emergence that is 3,400 to 3,600 above 32 °F from sowing.
Reached on the open record of Champion, Nebraska (see data/README.md), counted apart from the code by plain sums.
"""

from datetime import date
from pathlib import Path

import numpy as np
import pytest

from almanaque.core.growth.weather_record import Record
from almanaque.data import catalogue
from tests.reference.test_open_weather import CHAMPION, load

CROPS = catalogue()
UPPER_F = 86  # temperatures above it count as this, as such sums are usually told
RECORD = Record(load(Path(CHAMPION), 40.4)[1])


@pytest.mark.parametrize(
    ("crop", "base_f", "least", "most", "month", "day"),
    [("sweet-corn", 50, 1400, 1700, 5, 20), ("pea", 40, 1100, 1600, 4, 10), ("spring-wheat", 32, 3400, 3600, 4, 5)],
)
def test_the_warmth_gathered_until_it_is_ready_is_the_published_one(
    crop: str, base_f: int, least: int, most: int, month: int, day: int
) -> None:
    runs = RECORD.runs(CROPS[crop], "direct", ready_by="warmth")
    climate, gathered = RECORD.climate, []
    for year in range(1983, 2018):
        at = (date(year, month, day) - climate.first_day).days
        if runs.outcome[at] == 0:
            low, high = (
                np.clip(t[at : at + int(runs.first[at])] * 1.8 + 32, base_f, UPPER_F)
                for t in (climate.tmin_c, climate.tmax_c)
            )
            gathered.append(float(((low + high) / 2 - base_f).sum()))
    assert len(gathered) >= 10  # in the other years heat spoils them
    # What passes until emergence is counted by soil temperature, not by degree-days, so single years differ.
    assert 0.85 * least <= np.median(gathered) <= 1.15 * most
