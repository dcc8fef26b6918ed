"""A school's own experience of neighbours: what was planted beside what on purpose, what came of it, in how many plantings.

It stands beside tradition and evidence and is never more than a hint while it is few. **Source:** our own rules.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from almanaque.core.garden.companions import Pair
from almanaque.core.words import Phrase

Outcome = Literal["helped", "did not", "cannot say"]
OUTCOMES: tuple[Outcome, ...] = ("helped", "did not", "cannot say")
FEW = 5  # plantings with and without, below which figures are called a hint: our own rule


@dataclass(frozen=True)
class NeighbourTrial:
    """A planting of `crop` with `beside` next to it on purpose, `against` a trouble or nothing said; None while not answered.

    Crops are keys of the catalogue.
    """

    planting: str
    crop: str
    beside: str
    against: str
    outcome: Outcome | None


@dataclass(frozen=True)
class LookedAt:
    """A planting that somebody looked at while it grew, and the troubles that were seen on it."""

    planting: str
    crop: str
    troubles: frozenset[str]


@dataclass(frozen=True)
class Experience:
    """What came of a pair: `n` trials, and of plantings looked at how many had the trouble, with the neighbour and without."""

    crop: str
    beside: str
    against: str
    n: int
    helped: int
    did_not: int
    unsaid: int
    seen_with: int
    with_n: int
    seen_without: int
    without_n: int

    @property
    def answered(self) -> int:
        return self.helped + self.did_not

    @property
    def few(self) -> bool:
        """True while it is too little to lean on."""
        return min(self.with_n, self.without_n) < FEW if self.against else self.answered < FEW


def experiences(trials: Iterable[NeighbourTrial], looked_at: Sequence[LookedAt]) -> list[Experience]:
    """Pair by pair and trouble by trouble, those tried most first.

    A planting counts without the neighbour when it is of the same crop and was in no trial of that pair. One that nobody looked at
    says nothing and is not counted.
    """
    groups: dict[tuple[str, str, str], list[NeighbourTrial]] = {}
    for trial in trials:
        groups.setdefault((trial.crop, trial.beside, _plain(trial.against)), []).append(trial)
    pairs: dict[tuple[str, str], set[str]] = {}
    for trial in (t for some in groups.values() for t in some):
        pairs.setdefault((trial.crop, trial.beside), set()).add(trial.planting)
    found = []
    for (crop, beside, against), some in groups.items():
        mine, tried = {t.planting for t in some}, pairs[crop, beside]
        own = [one for one in looked_at if one.planting in mine]
        others = [one for one in looked_at if one.crop == crop and one.planting not in tried]
        found.append(
            Experience(
                crop,
                beside,
                against,
                len(some),
                sum(t.outcome == "helped" for t in some),
                sum(t.outcome == "did not" for t in some),
                sum(t.outcome in (None, "cannot say") for t in some),
                sum(against in one.troubles for one in own) if against else 0,
                len(own) if against else 0,
                sum(against in one.troubles for one in others) if against else 0,
                len(others) if against else 0,
            )
        )
    return sorted(found, key=lambda e: (-e.n, e.crop, e.beside, e.against))


def _plain(text: str) -> str:
    return " ".join(text.lower().split())


def sentence(one: Experience) -> Phrase:
    """What a school's own plantings say of a pair, with their number."""
    outcome = "unanswered" if not one.answered else "answered"
    said = Phrase(
        f"garden.own_experience.{outcome}", {"helped": one.helped, "of": one.answered, "n": one.n, "unsaid": one.unsaid}
    )
    if not one.with_n or not one.without_n:
        return Phrase("garden.own_experience.alone", {"said": said, "few": _few(one)})
    return Phrase(
        "garden.own_experience.compared",
        {
            "said": said,
            "against": one.against,
            "seen_with": one.seen_with,
            "with_n": one.with_n,
            "seen_without": one.seen_without,
            "without_n": one.without_n,
            "few": _few(one),
        },
    )


def _few(one: Experience) -> Phrase | str:
    return Phrase("garden.own_experience.few") if one.few else ""


def with_experience(pairs: Sequence[Pair], own: Sequence[Experience], families: Mapping[str, str]) -> list[Pair]:
    """Pairs that are said of neighbours, each followed by what came of it here; and pairs of which only this school knows.

    A pair of one's own is a good one where it helped at least as often as not; one that did not help does no harm by that.
    `families` are the families of crops, for pairs of a whole family.
    """
    found, told = [], set()
    answered = [one for one in own if one.answered]
    for pair in pairs:
        mine = [one for one in answered if _is_of(one, pair, families)]
        told |= {(one.crop, one.beside) for one in mine}
        reasons = [pair.reason.rstrip("."), *(f"here: {sentence(one)}" for one in mine)]
        found.append(replace(pair, reason="; ".join(reasons)) if mine else pair)
    for one in answered:
        if (one.crop, one.beside) not in told and one.helped >= one.did_not:
            found.append(Pair(one.crop, one.beside, "good", "own", str(sentence(one)), "own_record"))
    return found


def _is_of(one: Experience, pair: Pair, families: Mapping[str, str]) -> bool:
    names = [{crop, f"family:{families.get(crop, '')}"} for crop in (one.crop, one.beside)]
    return (pair.a in names[0] and pair.b in names[1]) or (pair.b in names[0] and pair.a in names[1])
