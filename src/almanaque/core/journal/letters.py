"""A letter to a class that is away: its beds, how they changed, what comes next, and a task; nobody is named in it."""

from dataclasses import asdict, dataclass, field
from datetime import date
from typing import Any

from almanaque.core.errors import BadInput

MOST_CHANGES = 12  # lines about one bed: our own rule
MOST_NEXT = 8  # things to come in a letter: our own rule
ALL = "everybody"  # whom a letter is for that is for no class alone
LONGEST = 2000  # characters of the part that is written by hand: our own rule
# Offered when no lesson of the class has a question that fits: for a class that cannot go and look.
TASKS = (
    "Draw how you think your bed looks today. Next time, lay the drawing beside the photo.",
    "Choose one crop of your bed. Which part of it do we eat: root, stem, leaf, flower, fruit or seed?",
    "Look for a plant near your home that is at the same stage. How do you know?",
    "Measure something at home that is as tall as the tallest plant in your bed.",
)


@dataclass(frozen=True)
class BedPart:
    """What the letter says of one bed. `photos` are ids, each with its words."""

    name: str
    grows: str
    changes: list[str] = field(default_factory=list)
    coming: list[str] = field(default_factory=list)
    photos: list[tuple[str, str]] = field(default_factory=list)


@dataclass(frozen=True)
class Letter:
    """A whole letter as it is kept."""

    school: str
    group: str
    dated: str
    since: str
    greeting: str
    task: str
    beds: list[BedPart]

    def out(self) -> dict[str, Any]:
        return asdict(self)


def read(kept: dict[str, Any]) -> Letter:
    """A letter as it was kept."""
    beds = [
        BedPart(b["name"], b["grows"], b["changes"], b["coming"], [(p[0], p[1]) for p in b["photos"]])
        for b in kept["beds"]
    ]
    return Letter(**{**kept, "beds": beds})


def check(greeting: str, task: str) -> None:
    """Raise BadInput for words that are too long."""
    for name, words in (("greeting", greeting), ("task", task)):
        if len(words) > LONGEST:
            raise BadInput("journal.letter_too_long", field=name, most=LONGEST)


def default_task(question: str, day: date) -> str:
    """A task for the class: the question of its lesson, else one of our own, another each week."""
    return question or TASKS[day.isocalendar().week % len(TASKS)]
