"""What pickings teach, tried on simulated schools whose truths are stated here, by the continuous ranked probability score."""

import math
from itertools import pairwise

import numpy as np
import pytest

from almanaque.core.harvest.learned_shift import (
    HEAVY_TAILS,
    LEAST_NOISE,
    OF_BED,
    OF_CROP,
    OF_SCHOOL,
    ROUNDS,
    Evidence,
    Learned,
    Nearby,
    Shift,
    by_itself,
    learn,
    together,
)

CROPS, BEDS = ("radish", "pea", "kale", "tomato", "carrot", "potato"), ("1", "2", "3", "4")
GROWS = {"radish": 28, "pea": 65, "kale": 60, "tomato": 75, "carrot": 75, "potato": 90}
CHANCE_DAYS = 4.5  # weather of the year and the day somebody came


def crps(middle: float, sd: float, came: float) -> float:
    """Of a normal forecast; smaller is better. Gneiting & Raftery (2007), equation 21."""
    z = (came - middle) / sd
    density = math.exp(-z * z / 2) / math.sqrt(2 * math.pi)
    share = (1 + math.erf(z / math.sqrt(2))) / 2
    return sd * (z * (2 * share - 1) + 2 * density - 1 / math.sqrt(math.pi))


def school(rng: np.random.Generator, seasons: int) -> list[list[tuple[str, str, float]]]:
    """By season, (crop, bed, days later than forecast): the school's bias, each variety's, each bed's, and chance."""
    own = rng.normal(0, 0.06)
    kinds, beds = {c: rng.normal(0, 0.10) for c in CROPS}, {b: rng.normal(0, 0.03) for b in BEDS}
    found = []
    for _ in range(seasons):
        rows = []
        for crop in CROPS:
            bed = str(rng.choice(BEDS))
            late = 12.0 * (rng.random() < 0.05)  # a class that came late
            days = (own + kinds[crop] + beds[bed]) * GROWS[crop] + rng.normal(0, CHANCE_DAYS) + late
            rows.append((crop, bed, days))
        found.append(rows)
    return found


def lesson(crop: str, bed: str, days: float) -> Evidence:
    return Evidence(crop, bed, days / GROWS[crop], CHANCE_DAYS / GROWS[crop])


def score(shift: Shift, crop: str, came: float) -> float:
    sd = math.hypot(shift.unsure * GROWS[crop], CHANCE_DAYS)
    return crps(shift.share * GROWS[crop], sd, came)


def test_learning_is_never_worse_over_schools_and_a_fifth_better_after_three_seasons() -> None:
    rng = np.random.default_rng(414)
    better = []
    for seasons in (1, 2, 3):
        learned = plain = 0.0
        for _ in range(150):
            *before, last = school(rng, seasons + 1)
            lessons = [lesson(*row) for season in before for row in season]
            for crop, bed, came in last:
                learned += score(learn(lessons, crop, bed), crop, came)
                plain += score(learn([], crop, bed), crop, came)
        better.append(1 - learned / plain)
    assert better[0] > 0.05
    assert better == sorted(better)
    assert better[2] >= 0.20


def test_the_first_picking_moves_it_by_what_it_is_worth_and_the_next_ones_less_and_less() -> None:
    shifts = [learn([lesson("pea", "1", 8.0)] * n, "pea", "1") for n in range(5)]
    shares = [shift.share * GROWS["pea"] for shift in shifts]
    assert shares[0] == 0
    assert 0 < shares[1] < 8
    steps = np.diff(shares)
    assert (steps > 0).all()
    assert (np.diff(steps) < 0).all()
    assert all(a.unsure > b.unsure for a, b in pairwise(shifts))


def test_another_crop_learns_from_the_school_and_the_bed_and_less_than_the_crop_itself() -> None:
    lessons = [lesson("pea", "1", 8.0)]
    itself, in_the_bed, elsewhere = learn(lessons, "pea", "1"), learn(lessons, "kale", "1"), learn(lessons, "kale", "2")
    assert itself.share > in_the_bed.share > elsewhere.share > 0


def test_an_outlier_counts_less() -> None:
    steady = [lesson("pea", "1", 2.0)] * 3
    odd, twice_as_odd = (learn([*steady, lesson("pea", "1", days)], "pea", "1").share for days in (30.0, 60.0))
    assert odd < 2 * learn(steady, "pea", "1").share + 6 / GROWS["pea"]
    assert twice_as_odd < odd * 1.2


def test_nothing_known_is_no_shift_and_all_the_doubt() -> None:
    assert learn([], "pea", "1") == Shift(0.0, pytest.approx(math.sqrt(OF_SCHOOL**2 + OF_CROP**2 + OF_BED**2)))


def by_all_pairs(evidence: list[Evidence], crop: str, bed: str) -> Shift:
    """The same prediction from the covariance of every picking with every other: the textbook's way, for few pickings only."""

    def covariance(of: list[tuple[str, str]], to: list[tuple[str, str]]) -> np.ndarray:
        return np.array(
            [[OF_SCHOOL**2 + OF_CROP**2 * (a == c) + OF_BED**2 * (bool(b) and b == d) for c, d in to] for a, b in of]
        )

    places = [(one.crop, one.bed) for one in evidence]
    shares = np.array([one.share for one in evidence])
    noise = np.maximum([one.noise for one in evidence], LEAST_NOISE) ** 2
    among, towards = covariance(places, places), covariance([(crop, bed)], places)[0]
    weights = np.ones(len(evidence))
    for _ in range(ROUNDS):
        left = (noise / weights) * np.linalg.solve(among + np.diag(noise / weights), shares)
        weights = (HEAVY_TAILS + 1) / (HEAVY_TAILS + left**2 / noise)
    inverse = np.linalg.inv(among + np.diag(noise / weights))
    known = OF_SCHOOL**2 + OF_CROP**2 + OF_BED**2
    return Shift(float(towards @ inverse @ shares), float(np.sqrt(known - towards @ inverse @ towards)))


@pytest.mark.parametrize("seed", range(8))
def test_effects_say_what_all_pairs_of_pickings_say(seed: int) -> None:
    """**Source:** the best linear unbiased prediction from the full covariance; the identity is Henderson's (1975), from memory."""
    chance = np.random.default_rng(seed)
    evidence = [
        Evidence(
            f"crop {chance.integers(4)}",
            f"bed {chance.integers(3)}" if chance.random() < 0.8 else "",
            float(chance.normal(0.02, 0.15)),
            float(chance.uniform(0, 0.15)),
        )
        for _ in range(int(chance.integers(1, 40)))
    ]
    learned = Learned(evidence)
    for crop in ("crop 0", "crop 3", "another"):
        for bed in ("", "bed 1", "another"):
            wanted, found = by_all_pairs(evidence, crop, bed), learned.shift(crop, bed)
            assert found.share == pytest.approx(wanted.share, abs=1e-12)
            assert found.unsure == pytest.approx(wanted.unsure, abs=1e-12)


def test_ten_years_of_a_large_school_are_learned_from_in_one_go() -> None:
    """By all pairs this would take nine million numbers for each crop."""
    crops, beds = [f"crop {n}" for n in range(16)], [f"bed {n}" for n in range(60)]
    evidence = [Evidence(crops[n % 16], beds[n % 60], 0.1 if n % 16 == 3 else 0.0, 0.08) for n in range(3000)]
    learned = Learned(evidence)
    assert learned.shift("crop 3").share == pytest.approx(0.1, abs=0.01)
    assert learned.shift("crop 4").share == pytest.approx(0.0, abs=0.01)
    assert learned.shift("crop 3", "bed 3").unsure < 0.03


def test_schools_near_by_tell_of_their_crops_and_weigh_less_than_ones_own() -> None:
    theirs = Nearby("kale", 0.12, 0.04, 3)
    alone = Learned([], [theirs])
    assert 0 < alone.shift("kale").share < theirs.share
    assert alone.shift("kale").unsure < learn([], "kale").unsure
    assert alone.shift("radish") == learn([], "radish")
    mine = [Evidence("kale", "1", -0.02, 0.05)] * 4
    both = Learned(mine, [theirs]).shift("kale").share
    assert learn(mine, "kale").share < both < alone.shift("kale").share
    assert both < 0.03, "four seasons of one's own outweigh three schools"
    one, many = (Learned([], [together([Shift(0.12, 0.04)] * n, "kale")]).shift("kale").share for n in (1, 9))
    assert one < many < 0.12


def test_what_is_told_leaves_out_what_was_thought_before() -> None:
    shift = learn([Evidence("kale", "1", 0.1, 0.06)] * 3, "kale")
    told = by_itself(shift)
    assert told is not None
    assert told.share > shift.share
    assert told.unsure > shift.unsure
    assert by_itself(learn([], "kale")) is None


def test_a_first_season_with_schools_near_by_is_forecast_better_than_without() -> None:
    """Five schools of one valley share how a crop's variety does there; each has hands, beds and chance of its own."""
    rng = np.random.default_rng(20271129)
    alone, helped = [], []
    for _ in range(400):
        valley = {crop: rng.normal(0, 0.07) for crop in CROPS}

        def season(valley: dict[str, float] = valley) -> list[tuple[str, str, float]]:
            rows = school(rng, 1)[0]
            return [(c, b, days + valley[c] * GROWS[c]) for c, b, days in rows]

        others = [Learned([lesson(*row) for row in season()]) for _ in range(4)]
        nearby = []
        for crop in CROPS:
            told = [by_itself(one.shift(crop)) for one in others]
            nearby.append(together([shift for shift in told if shift], crop))
        without, with_them = Learned([]), Learned([], nearby)
        for crop, bed, days in season():
            alone.append(score(without.shift(crop, bed), crop, days))
            helped.append(score(with_them.shift(crop, bed), crop, days))
    assert np.mean(helped) < 0.98 * np.mean(alone), np.mean(helped) / np.mean(alone)
