"""What teams of a class count and measure at a bed: how it is entered, compared fairly, and told.

A *class count* is never mixed with what adults weighed or measured unless somebody asks for it.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal, get_args

from almanaque.core.errors import BadInput

CountKey = Literal["height", "seeds up", "fruits", "visitors", "worms", "weeds", "distance", "rain"]
COUNT_KEYS: tuple[CountKey, ...] = get_args(CountKey)
Measured = Literal["count", "length", "rain"]
MOST_COUNT = 10_000  # of one thing at once: our own rule
MOST_LENGTH_MM, MOST_RAIN_MM = 20_000.0, 500.0  # beyond which it is a slip: our own rule


@dataclass(frozen=True)
class CountKind:
    """Something to count or measure. `per` is what makes it fair between teams: so many `per_unit` at which it is compared.

    `of` asks how many there were in all or were looked at, `of_words` tells it; `adds_up` is false for what is measured anew each time.
    """

    key: CountKey
    name: str
    ask: str
    measured: Measured = "count"
    of: str = ""
    of_words: str = ""
    per: str = ""
    per_unit: float = 1.0
    adds_up: bool = True
    what: tuple[str, ...] = ()
    at: Literal["planting", "bed", ""] = "bed"
    tip: str = ""


KINDS: dict[CountKey, CountKind] = {
    kind.key: kind
    for kind in (
        CountKind(
            "height",
            "Height",
            "How tall is your plant, from the soil to its tip?",
            "length",
            adds_up=False,
            at="planting",
            tip="Hold the ruler on the soil, not in it.",
        ),
        CountKind(
            "seeds up",
            "Seeds up",
            "How many seedlings are up?",
            of="How many seeds did you sow?",
            per="of every 10 sown",
            per_unit=10.0,
            adds_up=False,
            at="planting",
        ),
        CountKind(
            "fruits",
            "Leaves, pods or fruits",
            "How many are there?",
            of="On how many plants?",
            of_words="on {:g} plants",
            per="on a plant",
            adds_up=False,
            at="planting",
        ),
        CountKind(
            "visitors",
            "Visitors",
            "How many came to the flowers?",
            of="For how many minutes did you watch?",
            of_words="in {:g} minutes",
            per="in 10 minutes",
            per_unit=10.0,
            what=("bees", "bumblebees", "hoverflies", "butterflies", "beetles", "birds", "others"),
            tip="Stand still, look at one place, and count only what sits down on a flower.",
        ),
        CountKind(
            "worms",
            "Worms",
            "How many worms did you find?",
            of="In how many spadefuls?",
            of_words="in {:g} spadefuls",
            per="in a spadeful",
            tip="Put them back, and cover them with soil.",
        ),
        CountKind(
            "weeds", "Weeds", "How many did you bring?", what=("barrows", "buckets"), tip="Roots out, before they seed."
        ),
        CountKind(
            "distance",
            "Distance between plants",
            "How far is it from one plant to the next?",
            "length",
            adds_up=False,
            at="planting",
        ),
        CountKind(
            "rain",
            "Rain",
            "How much is in the gauge?",
            "rain",
            adds_up=False,
            at="",
            tip="Read it at the height of your eyes.",
        ),
    )
}


@dataclass(frozen=True)
class ClassCount:
    """One count of a team: `amount` in pieces, or mm of length or rain; `of` how many were looked at, sown or how many minutes."""

    kind: CountKey
    team: str
    day: date
    amount: float
    of: float | None = None
    what: str = ""


def check(count: ClassCount) -> ClassCount:
    """Return it. Raises BadInput for what cannot be."""
    kind = KINDS[count.kind]
    most = {"count": MOST_COUNT, "length": MOST_LENGTH_MM, "rain": MOST_RAIN_MM}[kind.measured]
    if not 0 <= count.amount <= most or (kind.measured == "length" and count.amount == 0):
        raise BadInput(f"journal.class_{kind.measured}_out_of_range", field="amount")
    if kind.of and (count.of is None or not 0 < count.of <= MOST_COUNT):
        raise BadInput("journal.class_count_of_missing", field="of", ask=kind.of)
    if count.kind == "seeds up" and count.of is not None and count.amount > count.of:
        raise BadInput("journal.class_more_up_than_sown", field="amount")
    if kind.what and count.what not in kind.what:
        raise BadInput("journal.class_count_of_what", field="what", choices=", ".join(kind.what))
    return count


@dataclass(frozen=True)
class Standing:
    """Where a team stands: its `total`, or its last measure; the `fair` figure if there is one; its place, and whether it is shared."""

    team: str
    counts: int
    total: float
    fair: float | None
    place: int
    tied: bool

    @property
    def compared(self) -> float:
        """What the place goes by."""
        return self.total if self.fair is None else self.fair


def standings(kind: CountKind, counts: Sequence[ClassCount], teams: Sequence[str]) -> list[Standing]:
    """The board: teams that counted, best first, equal ones on one place, then those that have not."""
    found = []
    for team in teams:
        mine = [count for count in counts if count.team == team]
        if not mine:
            continue
        if not kind.adds_up:
            mine = mine[-1:]
        total, of = sum(count.amount for count in mine), sum(count.of or 0 for count in mine)
        found.append((team, len(mine), total, total / of * kind.per_unit if kind.per and of else None))
    values = [round(total if fair is None else fair, 6) for _, _, total, fair in found]
    placed = [
        Standing(team, n, total, fair, 1 + sum(other > value for other in values), values.count(value) > 1)
        for (team, n, total, fair), value in zip(found, values, strict=True)
    ]
    return sorted(placed, key=lambda one: one.place)


def watched(counts: Iterable[ClassCount]) -> list[ClassCount]:
    """Visitors of all kinds that a team counted in the same watch, as one count: bees and then butterflies in the same ten minutes
    are two lines of one watch, whose minutes count once."""
    found: dict[tuple[date, str, float | None], float] = {}
    for count in counts:
        key = (count.day, count.team, count.of)
        found[key] = found.get(key, 0.0) + count.amount
    return [ClassCount("visitors", team, day, amount, of) for (day, team, of), amount in found.items()]
