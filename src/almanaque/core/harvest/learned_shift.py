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
class Shift:
    """By what share of its time a crop is expected later, and the standard deviation that is left of what is not known."""

    share: float
    unsure: float


class Learned:
    """What all pickings together say of the school, its crops and its beds.

    **Source:** the mixed model equations; they take one row for each effect, however many pickings there are.
    """

    def __init__(self, evidence: Sequence[Evidence]) -> None:
        keys = [SCHOOL, *dict.fromkeys(key for one in evidence for key in _effects(one.crop, one.bed)[1:])]
        self._at = {key: n for n, key in enumerate(keys)}
        effects = np.zeros((len(evidence), len(keys)))
        for row, one in enumerate(evidence):
            effects[row, [self._at[key] for key in _effects(one.crop, one.bed)]] = 1.0
        before = np.diag([1.0 / BEFORE[kind] ** 2 for kind, _ in keys])
        shares = np.array([one.share for one in evidence])
        noise = np.maximum([one.noise for one in evidence], LEAST_NOISE) ** 2
        weights = np.ones(len(evidence))
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


def learn(evidence: Sequence[Evidence], crop: str, bed: str = "") -> Shift:
    """What is to be expected of one crop in a bed, by all of these pickings."""
    return Learned(evidence).shift(crop, bed)


def _effects(crop: str, bed: str) -> list[tuple[str, str]]:
    """What a picking shares with others: its school, its crop, and its bed if one is known."""
    return [SCHOOL, ("crop", crop), *([("bed", bed)] if bed else [])]
