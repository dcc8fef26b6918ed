"""Tasks for home: what a child can do without a garden, with a cup, a sill or a jar, and what may come back of it.

**Sources:** common practice, no source; which of them suits a bed is our own rule.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.units import plain_number

Asks = Literal["count", "vote", "nothing more"]
LONGEST_LINE = 300  # characters of a line that comes back: our own rule
LONGEST_VOTE = 60  # characters of what is voted for: our own rule
MOST_COUNTED = 100_000.0  # beyond which a count is a slip: our own rule


@dataclass(frozen=True)
class HomeTask:
    """A task: what is needed, how it is done, what is asked back. `counts` says what is counted, with its unit."""

    key: str
    title: str
    needs: str
    how: str
    asks: Asks = "nothing more"
    counts: str = ""
    caution: str = ""


TASKS: tuple[HomeTask, ...] = (
    HomeTask(
        "cup",
        "A seed in a cup",
        "a clear cup, wet paper, three large seeds such as beans, peas or sunflower",
        "Line the cup with wet paper and put the seeds between paper and cup, where you can see them. Keep the paper wet.",
        "count",
        "days until the first root shows",
        "Raw beans are not eaten: they make ill. Wash your hands afterwards.",
    ),
    HomeTask(
        "sill",
        "A stump on the sill",
        "the root end of a scallion, lettuce or celery from the kitchen, a glass, water",
        "Stand the stump in a finger of water by the window. Change the water every other day, and measure the new leaves.",
        "count",
        "finger widths of new leaf after a week",
        "A grown-up does the cutting.",
    ),
    HomeTask(
        "rain jar",
        "A rain jar",
        "a jar with straight sides, a ruler",
        "Stand the jar in the open, away from trees and roofs. Look every morning, and pour it out after reading it.",
        "count",
        "millimetres of rain in a week",
        "Empty it when you have read it: gnats like still water. Bring it in before a frost: ice breaks glass.",
    ),
    HomeTask(
        "shadow",
        "The sun goes round",
        "a stick, or yourself; chalk or pebbles",
        "Mark the tip of the shadow in the morning, at noon and in the afternoon. Which way did it go, and when was it shortest?",
        "count",
        "steps from morning mark to afternoon mark",
        "Never look into the sun.",
    ),
    HomeTask(
        "window visitors",
        "Five minutes of visitors",
        "a flower, at home or on the way, and a clock",
        "Watch one flower for five minutes without moving. Count everything that lands on it.",
        "count",
        "visitors in five minutes",
        "Look, do not touch: bees are left in peace.",
    ),
    HomeTask(
        "plate",
        "Plant parts on the plate",
        "one meal",
        "Say of everything on the plate that was a plant: was it root, stem, leaf, flower, fruit or seed?",
        "count",
        "different parts of plants in one meal",
    ),
    HomeTask(
        "draw",
        "Draw how it looks today",
        "paper, pencil",
        "Draw how you think this bed looks today. Lay the drawing beside the bed when you are back.",
    ),
    HomeTask(
        "vote",
        "What next?",
        "nothing",
        "What should grow in this bed next time? Say it at home, and say why.",
        "vote",
    ),
)
BY_KEY = {task.key: task for task in TASKS}
NOT_IN_FROST = frozenset({"rain jar", "window visitors"})
STUMPS = ("leaf", "stalk", "stem", "head")  # parts that grow again from a stump


def task_named(key: str) -> HomeTask:
    """A task by its key; of one that is no longer given only that name is known, so that answers to it are not lost."""
    return BY_KEY.get(key, HomeTask(key, key, "", "", counts="counted"))


def task_of(key: str) -> HomeTask | None:
    """A task by its key; None for one that is no longer given."""
    return BY_KEY.get(key)


def suggested(beds: Sequence[Sequence[Crop]], *, freezes: bool = False) -> list[HomeTask]:
    """For each bed a task that suits the crops there: of those that suit, the one given least so far.

    While it may freeze at night nothing is asked that wants flowers, or a glass left out of doors.
    """
    given = dict.fromkeys(BY_KEY, 0)
    found = []
    for crops in beds:
        fitting = (task for task in TASKS if _suits(task, crops) and not (freezes and task.key in NOT_IN_FROST))
        task = min(fitting, key=lambda task: given[task.key])
        given[task.key] += 1
        found.append(task)
    return found


def _suits(task: HomeTask, crops: Sequence[Crop]) -> bool:
    if task.key == "cup":
        return any(crop.group == "legumes" for crop in crops)
    if task.key == "sill":
        return any(crop.part in STUMPS and crop.life != "perennial" for crop in crops)
    if task.key == "window visitors":
        return any(crop.for_guests or crop.part in ("fruit", "pod") for crop in crops)
    if task.key == "plate":
        return any(not crop.for_guests for crop in crops)
    return True


@dataclass(frozen=True)
class HomeAnswer:
    """What somebody did: that it is done, a number, a vote, a line. A photo comes beside it."""

    done: bool = False
    counted: float | None = None
    vote: str = ""
    line: str = ""


def read_answer(task: HomeTask, *, done: bool, counted: str, vote: str, line: str, photo: bool) -> HomeAnswer:
    """An answer from what was typed. Raises BadInput for nothing at all, for what is no number, and for too much."""
    line, vote = " ".join(line.split()), " ".join(vote.split())
    if len(line) > LONGEST_LINE:
        raise BadInput("journal.home_line_too_long", field="line", most=LONGEST_LINE)
    if len(vote) > LONGEST_VOTE:
        raise BadInput("journal.home_vote_too_long", field="vote", most=LONGEST_VOTE)
    number = _number(counted) if task.asks == "count" else None
    found = HomeAnswer(done, number, vote if task.asks == "vote" else "", line)
    if not (photo or found.done or found.counted is not None or found.vote or found.line):
        raise BadInput("journal.home_nothing_said", field="done")
    return found


def _number(typed: str) -> float | None:
    text = plain_number(typed)
    if not text:
        return None
    try:
        number = float(text)
    except ValueError:
        raise BadInput("journal.home_no_number", field="counted") from None
    if not 0 <= number <= MOST_COUNTED:
        raise BadInput("journal.home_count_out_of_range", field="counted", most=int(MOST_COUNTED))
    return round(number, 2)


def told(task: HomeTask, answers: Sequence[HomeAnswer]) -> list[str]:
    """Answers of several homes in sentences, for the journal: how many, what was counted, votes, and what was written."""
    found = [f"{len(answers)} {'home' if len(answers) == 1 else 'homes'} did “{task.title}”."]
    counted = sorted(a.counted for a in answers if a.counted is not None)
    if counted:
        middle = (counted[(len(counted) - 1) // 2] + counted[len(counted) // 2]) / 2
        many = "" if len(counted) == 1 else f", from {counted[0]:g} to {counted[-1]:g}, in the middle {middle:g}"
        found.append(f"{task.counts[:1].upper()}{task.counts[1:]}: {_listed(counted)}{many}.")
    votes: dict[str, int] = {}
    for one in answers:
        if one.vote:
            votes[one.vote.lower()] = votes.get(one.vote.lower(), 0) + 1
    if votes:
        ranked = sorted(votes.items(), key=lambda pair: (-pair[1], pair[0]))
        found.append(f"Votes: {', '.join(f'{name} {count}' for name, count in ranked)}.")
    found += [f"“{one.line}”" for one in answers if one.line]
    return found


def notes_of(words: Sequence[str], longest: int) -> list[str]:
    """Sentences put together into as few notes as hold them all, each of at most so many characters."""
    found = [""]
    for one in words:
        if found[-1] and len(found[-1]) + 1 + len(one) > longest:
            found.append("")
        found[-1] = f"{found[-1]} {one}".strip()[:longest]
    return found


def _listed(numbers: Sequence[float]) -> str:
    return ", ".join(f"{number:g}" for number in numbers)
