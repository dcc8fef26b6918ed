"""What a school's first pickings teach about its next ones, from the first season on: empirical Bayes over school, crop and bed.

Each first picking tells by what share of its time it came later or sooner than forecast. That share is thought of as the school's own,
plus the crop's (its variety), plus the bed's, plus chance; each is believed as far as there is evidence for it, so nothing jumps.
A picking that lies far off, such as that of a class that came late, counts less. **Source:** best linear unbiased prediction;
weights of Student's t with four degrees of freedom.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

# Standard deviations of shares of the time a crop grows, before anything is known: our own rule.
OF_SCHOOL, OF_CROP, OF_BED = 0.05, 0.09, 0.04
BEFORE = {"school": OF_SCHOOL, "crop": OF_CROP, "bed": OF_BED}
SCHOOL, NO_BED = ("school", ""), ("bed", "")
OF_NEIGHBOURS = 0.08  # between schools near by, of one crop: other varieties, other hands: our own rule
LEAST_NOISE = 0.03  # share; no picking is believed more exactly than this: our own rule
HEAVY_TAILS = 4.0  # degrees of freedom of chance
ROUNDS = 6  # of finding the weights anew


@dataclass(frozen=True)
class Evidence:
    """A first picking: crop and bed, the share of its time by which it came later (below 0: sooner), and the share that chance is."""

    crop: str
    bed: str
    share: float
    noise: float


@dataclass(frozen=True)
class Nearby:
    """What schools near by found of a crop together: the share by which it came later, how unsure that mean is, how many they are."""

    crop: str
    share: float
    unsure: float
    schools: int


@dataclass(frozen=True)
class Shift:
    """By what share of its time a crop is expected later, and the standard deviation that is left of what is not known."""

    share: float
    unsure: float


class Learned:
    """What all pickings together say of the school, its crops and its beds; others near by tell of the crops alone, and less.

    **Source:** the mixed model equations; they take one row for each effect, however many pickings there are.
    """

    def __init__(self, evidence: Sequence[Evidence], nearby: Sequence[Nearby] = ()) -> None:
        told = [_effects(one.crop, one.bed) for one in evidence] + [[("crop", one.crop)] for one in nearby]
        keys = list(dict.fromkeys([SCHOOL, *(key for row in told for key in row)]))
        self._at = {key: n for n, key in enumerate(keys)}
        effects = np.zeros((len(told), len(keys)))
        for row, its_effects in enumerate(told):
            effects[row, [self._at[key] for key in its_effects]] = 1.0
        before = np.diag([1.0 / BEFORE[kind] ** 2 for kind, _ in keys])
        shares = np.array([one.share for one in evidence] + [one.share for one in nearby])
        others = [np.hypot(one.unsure, OF_NEIGHBOURS) for one in nearby]
        noise = np.maximum([*(one.noise for one in evidence), *others], LEAST_NOISE) ** 2
        weights = np.ones(len(told))
        for round_ in range(ROUNDS + 1):
            exact = effects * (weights / noise)[:, None]
            known = before + effects.T @ exact
            self._share = np.linalg.solve(known, exact.T @ shares)
            if round_ < ROUNDS:
                left = shares - effects @ self._share
                weights = (HEAVY_TAILS + 1) / (HEAVY_TAILS + left**2 / noise)
        self._unsure = np.linalg.inv(known)

    def shift(self, crop: str, bed: str = "") -> Shift:
        """What is to be expected of a crop in a bed; in no known bed without one."""
        wanted = [SCHOOL, ("crop", crop), ("bed", bed)]
        at = [self._at[key] for key in wanted if key in self._at and key != NO_BED]
        new = sum(BEFORE[key[0]] ** 2 for key in wanted if key not in self._at or key == NO_BED)
        return Shift(float(self._share[at].sum()), float(np.sqrt(new + self._unsure[np.ix_(at, at)].sum())))

    def of_bed(self, bed: str) -> float:
        """By what share of its time things come later in a bed than in the school's others."""
        return float(self._share[self._at["bed", bed]]) if ("bed", bed) in self._at else 0.0


def by_itself(shift: Shift) -> Shift | None:
    """What the pickings behind a crop's shift say without what was thought before them, so that others may weigh it anew.

    None where they say nothing.
    """
    before = OF_SCHOOL**2 + OF_CROP**2 + OF_BED**2
    exact = 1 / shift.unsure**2 - 1 / before
    return Shift(shift.share / shift.unsure**2 / exact, float(exact**-0.5)) if exact > 1e-6 else None


def together(told: Sequence[Shift], crop: str) -> Nearby:
    """Schools' lessons of a crop as one; each weighs by how sure it is. Raises ZeroDivisionError for none."""
    weights = [1 / (one.unsure**2 + OF_NEIGHBOURS**2) for one in told]
    share = sum(weight * one.share for weight, one in zip(weights, told, strict=True)) / sum(weights)
    return Nearby(crop, share, sum(weights) ** -0.5, len(told))


def learn(evidence: Sequence[Evidence], crop: str, bed: str = "") -> Shift:
    """What is to be expected of one crop in a bed, by all of these pickings."""
    return Learned(evidence).shift(crop, bed)


def _effects(crop: str, bed: str) -> list[tuple[str, str]]:
    """What a picking shares with others: its school, its crop, and its bed if one is known."""
    return [SCHOOL, ("crop", crop), *([("bed", bed)] if bed else [])]
