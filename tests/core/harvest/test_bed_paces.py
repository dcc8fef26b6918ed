"""How plants go in a bed against the others, by its own first pickings; tried on simulated schools whose truths are stated here."""

import math
from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from almanaque.core.harvest.forecast_error import LEAST_PACE, MOST_PACE, BedPace, ForecastOutcome, bed_paces
from almanaque.core.harvest.learned_shift import Learned
from tests.core.harvest.test_learned_shift import CHANCE_DAYS, CROPS, GROWS, crps, lesson

BEDS = ("warm", "plain", "cool", "wet")
SOWN = date(2027, 4, 1)


def picked(crop: str, bed: str, later: float, *, corrected: int = 0) -> ForecastOutcome:
    """A first picking by so many days later than forecast, less the three that people usually take to come."""
    forecast = SOWN + timedelta(days=GROWS[crop] + corrected)
    first = forecast + timedelta(days=round(later) + 3 - corrected)
    wide = timedelta(days=6)
    return ForecastOutcome(
        crop,
        f"Bed {bed}",
        "2026–27",
        "direct",
        SOWN,
        forecast - wide,
        forecast,
        forecast + wide,
        forecast + 5 * wide,
        first,
        first + 2 * wide,
        corrected,
        bed_id=bed,
    )


def season(cool: float) -> list[ForecastOutcome]:
    """Every crop twice in three beds alike and in one that goes its own way."""
    return [
        picked(crop, bed, (cool if bed == "cool" else 0) * GROWS[crop])
        for crop in CROPS
        for bed in BEDS
        for _ in range(2)
    ]


def test_a_bed_that_goes_its_own_way_is_told_with_its_number_of_pickings() -> None:
    found = bed_paces(season(0.12))
    assert found["cool"].plantings == 2 * len(CROPS)
    assert 1.04 <= found["cool"].pace <= 1.10
    assert all(one.pace < 1 for bed, one in found.items() if bed != "cool"), "the others go before the school's middle"
    assert bed_paces(season(-0.12))["cool"].pace < 0.96
    assert bed_paces(season(0.0)) == {}
    assert bed_paces([]) == {}


def test_what_is_in_use_already_does_not_count_twice() -> None:
    plain = season(0.12)
    corrected = [
        picked(f.crop, f.bed_id, f.error - 3, corrected=round(0.06 * GROWS[f.crop]) if f.bed_id == "cool" else 0)
        for f in plain
    ]
    assert bed_paces(corrected) == bed_paces(plain)


def test_one_picking_says_little_of_a_bed_and_none_of_an_unknown_one() -> None:
    others = [f for f in season(0.0) if f.bed_id != "cool"]
    once = bed_paces([*others, picked("pea", "cool", 8)])
    assert once.get("cool", BedPace(1.0, 1)).pace <= 1.02
    assert "" not in bed_paces([replace(f, bed_id="") for f in season(0.12)])


def test_a_pace_is_bounded() -> None:
    assert bed_paces(season(0.9) * 20)["cool"].pace == MOST_PACE
    assert min(one.pace for one in bed_paces(season(-0.9) * 20).values()) == LEAST_PACE


@pytest.mark.parametrize(("between_beds", "least_gain"), [(0.05, 0.02), (0.03, 0.005), (0.0, -0.005)])
def test_beds_of_their_own_forecast_better_where_they_differ_and_no_worse_where_they_do_not(
    between_beds: float, least_gain: float
) -> None:
    """By CRPS over 150 schools after two seasons, against what the school and the crop alone say."""
    rng = np.random.default_rng(77)
    with_beds = without = plain = 0.0
    for _ in range(150):
        own, kinds = rng.normal(0, 0.06), {crop: rng.normal(0, 0.10) for crop in CROPS}
        beds = {bed: rng.normal(0, between_beds) for bed in BEDS}

        def came(crop: str, bed: str, own=own, kinds=kinds, beds=beds) -> float:  # type: ignore[no-untyped-def]
            return float((own + kinds[crop] + beds[bed]) * GROWS[crop] + rng.normal(0, CHANCE_DAYS))

        rows = [(crop, str(bed)) for _ in range(2) for crop in CROPS for bed in rng.choice(BEDS, 2, replace=False)]
        days = [came(*row) for row in rows]
        learned = Learned([lesson(*row, later) for row, later in zip(rows, days, strict=True)])
        used = bed_paces([picked(*row, later) for row, later in zip(rows, days, strict=True)])
        for crop in CROPS:
            bed = str(rng.choice(BEDS))
            later, shift = came(crop, bed), learned.shift(crop)
            sd = math.hypot(shift.unsure * GROWS[crop], CHANCE_DAYS)
            of_bed = used[bed].pace - 1 if bed in used else 0.0
            with_beds += crps((shift.share + of_bed) * GROWS[crop], sd, later)
            without += crps(shift.share * GROWS[crop], sd, later)
            plain += crps(0.0, sd, later)
    assert (without - with_beds) / plain >= least_gain
