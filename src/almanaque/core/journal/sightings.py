"""What is seen on a tour: stages, heights, counts, pests and diseases, flowers, visitors; remedies, and whether they helped."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal, get_args

from almanaque.core.errors import BadInput
from almanaque.core.units import Units, format_length

Kind = Literal["stage", "height", "count", "pest", "disease", "damage", "flowers", "visitors", "nothing new"]
KINDS: tuple[Kind, ...] = get_args(Kind)
TROUBLE: frozenset[Kind] = frozenset({"pest", "disease", "damage"})
Stage = Literal[
    "not up",
    "coming up",
    "up",
    "true leaves",
    "in flower",
    "fruit set",
    "nearly ready",
    "ready",
    "bolted",
    "seed ripe",
    "dying back",
]
STAGES: tuple[Stage, ...] = get_args(Stage)
# What a stage makes of the planting: an event, from which dates and jobs follow.
EVENT_OF: dict[str, str] = {
    "up": "emerged",
    "true leaves": "emerged",
    "in flower": "in flower",
    "ready": "ready",
    "bolted": "bolted",
}
PARTS = ("leaf", "stem", "root", "flower", "fruit", "whole plant", "seedlings")
SEVERITY = {1: "a little", 2: "some", 3: "bad"}
VISITORS = (
    "bees",
    "bumblebees",
    "hoverflies",
    "butterflies",
    "caterpillars",
    "eggs",
    "ladybirds",
    "worms",
    "snails",
    "birds",
)
TROUBLES: dict[str, tuple[str, ...]] = {
    "pest": (
        "aphids",
        "flea beetles",
        "slugs and snails",
        "caterpillars",
        "whitefly",
        "leaf miners",
        "cutworms",
        "birds",
        "rabbits",
        "mice",
    ),
    "disease": ("powdery mildew", "downy mildew", "rust", "blight", "damping off", "leaf spot", "rot", "mosaic"),
    "damage": ("frost", "hail", "wind", "drought", "waterlogged", "trodden on", "sunburn", "dug up"),
}
COME_BACK_DAYS = 7  # an egg that is found is a caterpillar a week later: common practice, no source
ASK_AFTER_DAYS = 7  # how long a remedy is given before it is asked about: our own rule
MOST_HEIGHT_MM, MOST_COUNT = 20_000.0, 100_000  # beyond which an entry is a slip: our own rule
Outcome = Literal["helped", "did not", "cannot say"]
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)


@dataclass(frozen=True)
class Sighting:
    """One thing seen. `amount` is a height [mm], a count, male flowers or visitors; of trouble, how many of `of_amount` have it.

    `second` are female flowers. `severity` is 1 to 3. `follows` names the first sighting of the same trouble,
    `team` the group's team that measured.
    """

    id: str
    kind: Kind
    day: date
    bed: str = ""
    planting: str = ""
    what: str = ""
    part: str = ""
    severity: int | None = None
    amount: float | None = None
    second: float | None = None
    of_amount: float | None = None
    note: str = ""
    follows: str = ""
    come_back_on: date | None = None
    closed_on: date | None = None
    team: str = ""

    @property
    def root(self) -> str:
        """The sighting that began it."""
        return self.follows or self.id

    @property
    def open(self) -> bool:
        """True while somebody is to come back to it."""
        return self.come_back_on is not None and self.closed_on is None


def check(seen: Sighting) -> Sighting:
    """Return what was seen with the day to come back filled in. Raises BadInput for what cannot be."""
    if seen.kind not in KINDS:
        raise BadInput("journal.sighting_kind_unknown", field="kind")
    if seen.kind == "stage" and seen.what not in STAGES:
        raise BadInput("journal.stage_unknown", field="what", stages=", ".join(STAGES))
    if seen.kind in TROUBLE | {"visitors"} and not seen.what.strip():
        raise BadInput("journal.sighting_unnamed", field="what")
    if len(seen.what) > 60:
        raise BadInput("journal.sighting_too_long", field="what")
    if len(seen.team) > 60:
        raise BadInput("journal.team_too_long", field="team")
    if len(seen.note) > 1000:
        raise BadInput("journal.sighting_note_too_long", field="note")
    if seen.part and seen.part not in PARTS:
        raise BadInput("journal.part_unknown", field="part", parts=", ".join(PARTS))
    if seen.severity is not None and seen.severity not in SEVERITY:
        raise BadInput("journal.severity_out_of_range", field="severity")
    _check_amounts(seen)
    return seen


def _check_amounts(seen: Sighting) -> None:
    amounts = [a for a in (seen.amount, seen.second, seen.of_amount) if a is not None]
    if seen.kind == "height":
        if seen.amount is None or not 0 < seen.amount <= MOST_HEIGHT_MM:
            raise BadInput("journal.height_out_of_range", field="amount")
        return
    if seen.kind in ("count", "visitors") and seen.amount is None:
        raise BadInput("journal.count_missing", field="amount")
    if seen.kind == "flowers" and not amounts:
        raise BadInput("journal.flowers_missing", field="amount")
    if any(not 0 <= a <= MOST_COUNT or a != int(a) for a in amounts):
        raise BadInput("journal.count_out_of_range", field="amount", most=MOST_COUNT)
    if seen.of_amount is not None and (seen.amount is None or seen.amount > seen.of_amount):
        raise BadInput("journal.more_hit_than_looked_at", field="of_amount")


def say(seen: Sighting, units: Units) -> str:
    """What was seen in a few words, without where and when."""
    match seen.kind:
        case "stage":
            said = seen.what
        case "height":
            said = f"{format_length(seen.amount or 0, units, feet=False)} tall" + (
                f" ({seen.team})" if seen.team else ""
            )
        case "count":
            said = f"{seen.amount:g} plants stand" if seen.amount != 1 else "1 plant stands"
        case "flowers":
            said = _flowers(seen)
        case "visitors":
            said = f"{seen.amount:g} {seen.what}"
        case "nothing new":
            said = "nothing new"
        case _:
            said = _trouble(seen)
    return f"{said}. {seen.note}" if seen.note else said


def _flowers(seen: Sighting) -> str:
    if seen.second is None:
        return f"{seen.amount or 0:g} flowers open"
    return f"{seen.amount or 0:g} male and {seen.second:g} female flowers open"


def _trouble(seen: Sighting) -> str:
    if seen.closed_on is not None and seen.severity is None:
        return f"{seen.what} gone"
    found = [
        seen.what,
        f"on the {seen.part}" if seen.part and seen.part not in ("whole plant", "seedlings") else seen.part,
    ]
    if seen.amount is not None and seen.of_amount is not None:
        found.append(f"{seen.amount:g} of {seen.of_amount:g}")
    words = " ".join(word for word in found if word)
    return f"{words}, {SEVERITY[seen.severity]}" if seen.severity else words


@dataclass(frozen=True)
class Remedy:
    """What was done against something, when it is asked about, and what became of it."""

    id: str
    what: str
    against: str
    applied_on: date
    ask_on: date
    outcome: Outcome | None = None


@dataclass(frozen=True)
class RemedyCount:
    """How a remedy fared against one trouble: `n` times used, of which so many helped, did not, or cannot be told."""

    what: str
    against: str
    n: int
    helped: int
    did_not: int
    cannot_say: int

    @property
    def words(self) -> str:
        """`helped 3 of 4 times`, with the open ones named."""
        told = self.helped + self.did_not
        waiting = self.n - told - self.cannot_say
        said = f"helped {self.helped} of {told} times" if told else "nobody could tell yet"
        extra = [
            f"{count} {name}" for count, name in ((self.cannot_say, "unclear"), (waiting, "not asked yet")) if count
        ]
        return f"{said} ({', '.join(extra)})" if extra else said


def tally(remedies: Iterable[Remedy]) -> list[RemedyCount]:
    """Remedies by what they were for, those used most first. Names that differ in case or spaces are one."""
    found: dict[tuple[str, str], list[Remedy]] = {}
    for remedy in remedies:
        key = (" ".join(remedy.what.lower().split()), " ".join(remedy.against.lower().split()))
        found.setdefault(key, []).append(remedy)
    rows = [
        RemedyCount(
            same[0].what, same[0].against, len(same), *(sum(r.outcome == outcome for r in same) for outcome in OUTCOMES)
        )
        for same in found.values()
    ]
    return sorted(rows, key=lambda row: (row.against.lower(), -row.n, row.what.lower()))


def latest(seen: Sequence[Sighting]) -> list[Sighting]:
    """The last word on each trouble that is still open, oldest trouble first."""
    last: dict[str, Sighting] = {}
    for one in sorted(seen, key=lambda s: s.day):
        last[one.root] = one
    return [one for one in last.values() if one.open]


def next_look(day: date) -> date:
    """When to come back to what was found on a day."""
    return day + timedelta(days=COME_BACK_DAYS)
