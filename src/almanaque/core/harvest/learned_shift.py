"""What a school's first pickings teach about its next ones, from the first season on: empirical Bayes over school, crop and bed.

Each first picking tells by what share of its time it came later or sooner than forecast. That share is thought of as the school's own,
plus the crop's (its variety), plus the bed's, plus chance; each is believed as far as there is evidence for it, so nothing jumps.
A picking that lies far off, such as that of a class that came late, counts less. **Source:** best linear unbiased prediction;
weights of Student's t with four degrees of freedom.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

# Standard deviations of shares of the time a crop grows, before anything is known: our own rule.
OF_SCHOOL, OF_CROP, OF_BED = 0.05, 0.09, 0.04
LEAST_NOISE = 0.03  # share; no picking is believed more exactly than this: our own rule
HEAVY_TAILS = 4.0  # degrees of freedom of chance
ROUNDS = 6  # of finding the weights anew

Floats = npt.NDArray[np.float64]


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


def learn(evidence: Sequence[Evidence], crop: str, bed: str = "") -> Shift:
    """What is to be expected of a crop in a bed; in no known bed without one."""
    known = OF_SCHOOL**2 + OF_CROP**2 + OF_BED**2
    if not evidence:
        return Shift(0.0, float(np.sqrt(known)))
    shares = np.array([one.share for one in evidence])
    noise = np.maximum([one.noise for one in evidence], LEAST_NOISE) ** 2
    among = _covariance([(o.crop, o.bed) for o in evidence], [(o.crop, o.bed) for o in evidence])
    towards = _covariance([(crop, bed)], [(o.crop, o.bed) for o in evidence])[0]
    weights = np.ones(len(evidence))
    for _ in range(ROUNDS):
        solved = np.linalg.solve(among + np.diag(noise / weights), shares)
        left = (noise / weights) * solved
        weights = (HEAVY_TAILS + 1) / (HEAVY_TAILS + left**2 / noise)
    taken = np.linalg.solve(among + np.diag(noise / weights), np.stack([shares, towards], axis=1))
    return Shift(float(towards @ taken[:, 0]), float(np.sqrt(max(0.0, known - towards @ taken[:, 1]))))


def _covariance(of: Sequence[tuple[str, str]], to: Sequence[tuple[str, str]]) -> Floats:
    return np.array(
        [[OF_SCHOOL**2 + OF_CROP**2 * (a == c) + OF_BED**2 * (bool(b) and b == d) for c, d in to] for a, b in of],
        dtype=np.float64,
    )
