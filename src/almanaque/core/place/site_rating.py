"""Rating places for a garden: weighted criteria, several raters, a ranking, and how it turns when a weight changes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from almanaque.core.errors import BadInput

BEST_SCORE = 5  # scores run from 0 to 5
MOST_WEIGHT = 10  # of a criterion: our own rule

# The criteria a new rating begins with: name, weight, how to find the evidence. Common practice, no source.
CRITERIA: tuple[tuple[str, int, str], ...] = (
    ("Hours of sun", 5, "Count the hours of direct sun on a clear day, or take the computed ones."),
    ("Water near by", 4, "Pace the way from the tap to the place, and measure the hose."),
    ("Near the door", 3, "Count the paces from the classroom door."),
    ("Soil and drainage", 3, "Dig a hole a foot deep, fill it with water twice, and time the second filling."),
    ("Fence and safety", 4, "Walk the edge: road, gate, dogs, balls, what lies under the ground."),
    ("Room to work", 3, "Lay out a bed with string and stand the whole class around it."),
    ("Seen from windows", 1, "Count the windows from which someone sees the place."),
)


@dataclass(frozen=True)
class Criterion:
    id: str
    name: str
    weight: float


@dataclass(frozen=True)
class Score:
    """One rater's score (0 to 5) of a place by a criterion, with the evidence behind it."""

    place: str
    criterion: str
    rater: str
    score: float
    evidence: str = ""


@dataclass(frozen=True)
class RankedSite:
    """A place in the ranking. `mean` is 0 to 5; `scored` and `of` say how much of it is known; None without any score."""

    place: str
    mean: float | None
    scored: int
    of: int
    by_criterion: Mapping[str, float]


@dataclass(frozen=True)
class Turning:
    """At this weight of a criterion two places tie; above it, or below it, `then` leads instead of `now`."""

    criterion: str
    weight: float
    above: bool
    now: str
    then: str


def check_score(score: float, evidence: str) -> None:
    """Raise BadInput for a score that is not 0 to 5, or one without the evidence behind it."""
    if not 0 <= score <= BEST_SCORE:
        raise BadInput("place.score_out_of_range", field="score", most=BEST_SCORE)
    if not evidence.strip():
        raise BadInput("place.evidence_missing", field="evidence")


def check_unscored(criterion: str, evidence: str) -> None:
    """Raise BadInput for evidence that no score rests on."""
    if evidence.strip():
        raise BadInput("place.evidence_without_score", criterion=criterion, most=BEST_SCORE)


def ranking(places: Sequence[str], criteria: Sequence[Criterion], scores: Sequence[Score]) -> list[RankedSite]:
    """Places from best to worst by the weighted mean over criteria of the mean over raters.

    A criterion that nobody scored for a place is left out of that place's mean, and `scored` tells so; places without any
    score come last. Weights of 0 leave a criterion out.
    """
    standings = [_standing(place, criteria, scores) for place in places]
    return sorted(standings, key=lambda s: (s.mean is None, -(s.mean or 0.0)))


def turnings(places: Sequence[str], criteria: Sequence[Criterion], scores: Sequence[Score]) -> list[Turning]:
    """For each criterion the nearest weight, from 0 to 10, at which another place takes the lead, nearest first.

    Places are compared on the criteria that both have scores for in full; others are not drawn in.
    """
    wanted = {c.id for c in criteria if c.weight > 0}
    full = [s for s in ranking(places, criteria, scores) if wanted and wanted <= s.by_criterion.keys()]
    if len(full) < 2:
        return []
    leader, others = full[0], full[1:]
    found = []
    for criterion in criteria:
        if criterion.id not in leader.by_criterion:
            continue
        nearest: Turning | None = None
        for other in others:
            if criterion.id not in other.by_criterion:
                continue
            lead = sum(
                c.weight * (leader.by_criterion[c.id] - other.by_criterion[c.id])
                for c in criteria
                if c.weight > 0 and c.id != criterion.id
            )
            slope = leader.by_criterion[criterion.id] - other.by_criterion[criterion.id]
            if slope == 0:
                continue
            weight = -lead / slope
            if not 0 <= weight <= MOST_WEIGHT or (weight - criterion.weight) * slope > 0:
                continue
            if nearest is None or abs(weight - criterion.weight) < abs(nearest.weight - criterion.weight):
                nearest = Turning(criterion.id, weight, slope < 0, leader.place, other.place)
        if nearest is not None:
            found.append(nearest)
    weights = {c.id: c.weight for c in criteria}
    return sorted(found, key=lambda turning: abs(turning.weight - weights[turning.criterion]))


def _standing(place: str, criteria: Sequence[Criterion], scores: Sequence[Score]) -> RankedSite:
    means: dict[str, float] = {}
    for criterion in criteria:
        mine = [s.score for s in scores if s.place == place and s.criterion == criterion.id]
        if mine:
            means[criterion.id] = sum(mine) / len(mine)
    counted = [c for c in criteria if c.weight > 0]
    known = [c for c in counted if c.id in means]
    total = sum(c.weight for c in known)
    mean = sum(c.weight * means[c.id] for c in known) / total if total else None
    return RankedSite(place, mean, len(known), len(counted), means)
