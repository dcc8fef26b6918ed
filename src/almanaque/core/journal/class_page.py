"""A page for a class without accounts: what it can do, its teams, and the code by which tablets come in.

The code is three words that a child can read and spell; it ends with the lesson.
"""

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Literal, get_args

from almanaque.core.errors import BadInput

Activity = Literal["draw", "vote", "count", "measure", "sort"]
ACTIVITIES: tuple[Activity, ...] = get_args(Activity)
WORDS_IN_CODE = 3  # of some 440: one of 87 million codes: our own choice
FEWEST_TEAMS, MOST_TEAMS = 1, 12  # six to eight is usual: our own rule
LONGEST_TEAM = 30  # letters: our own rule
USUAL_MINUTES = 45  # when no lesson says: our own choice
LONGEST_OPEN = timedelta(hours=24)  # for which a code lets in at a stretch: our own rule
FURTHEST_AHEAD = timedelta(days=14)  # that a page is made ready: our own rule
MADE_UP = (
    "The Wrens",
    "The Newts",
    "The Badgers",
    "The Swifts",
    "The Snails",
    "The Hares",
    "The Beetles",
    "The Robins",
    "The Toads",
    "The Finches",
    "The Otters",
    "The Ladybirds",
)
DREAM_SQUARES = (3, 16)  # along a side of an empty dream garden: our own rule


@dataclass(frozen=True)
class Dream:
    """An empty garden to dream in: squares along and down, each a foot or 30 cm."""

    columns: int
    rows: int


def code_words(drawn: int, words: Sequence[str]) -> str:
    """The code that a number stands for, `pea-drum-river`."""
    found = []
    for _ in range(WORDS_IN_CODE):
        drawn, at = divmod(drawn, len(words))
        found.append(words[at])
    return "-".join(found)


def plain_code(text: str) -> str:
    """A code as it was typed or read out, in the one form in which it is kept: `Pea Drum, river` is `pea-drum-river`."""
    return "-".join(re.findall(r"[a-z]+", text.lower()[:80]))


def check_activities(wanted: Collection[str]) -> tuple[Activity, ...]:
    """What the page can do, in the usual order. Raises BadInput for nothing."""
    chosen = tuple(one for one in ACTIVITIES if one in wanted)
    if not chosen:
        raise BadInput("journal.class_page_does_nothing", field="does")
    return chosen


def read_teams(text: str) -> tuple[str, ...]:
    """Names of teams, one a line or with commas between. Raises BadInput for none, too many, long ones and twins."""
    names = tuple(" ".join(name.split()) for name in re.split(r"[\n,;]+", text) if name.strip())
    if not FEWEST_TEAMS <= len(names) <= MOST_TEAMS:
        raise BadInput("journal.class_teams_how_many", field="teams", most=MOST_TEAMS)
    for name in names:
        if len(name) > LONGEST_TEAM:
            raise BadInput("journal.class_team_too_long", field="teams", name=name[:LONGEST_TEAM], most=LONGEST_TEAM)
    if len({name.casefold() for name in names}) < len(names):
        raise BadInput("journal.class_team_twice", field="teams")
    return names


def suggested_teams(of_class: Sequence[str], count: int = 6) -> list[str]:
    """The class's own teams, and made-up names for the rest."""
    mine = list(dict.fromkeys(of_class))[:MOST_TEAMS]
    return [*mine, *(name for name in MADE_UP if name not in mine)][: max(count, len(mine))]


def check_dream(columns: int, rows: int) -> Dream:
    """An empty garden of so many squares. Raises BadInput beyond its limits."""
    least, most = DREAM_SQUARES
    if not (least <= columns <= most and least <= rows <= most):
        raise BadInput("journal.dream_size", field="columns", least=least, most=most)
    return Dream(columns, rows)


def open_from_to(on_day: date, until: time, *, today: date, now: datetime) -> tuple[datetime, datetime]:
    """From when to when a code lets in: from the morning of the lesson's day, at once today, to the end of the lesson.

    `now` is the local time by the wall clock; days ahead count from `today`, the day the school has. Raises BadInput for a
    lesson that is over or too far ahead.
    """
    ahead = on_day - today
    if not timedelta(0) <= ahead <= FURTHEST_AHEAD:
        raise BadInput("journal.class_day_out_of_range", field="on_day", days=FURTHEST_AHEAD.days)
    day = now.date() + ahead
    ends = datetime.combine(day, until, tzinfo=now.tzinfo)
    opens = datetime.combine(day, time(0), tzinfo=now.tzinfo) if ahead else now
    if ends <= now:
        raise BadInput("journal.class_lesson_over", field="until")
    return opens, ends


def let_last(opens: datetime, ends: datetime, minutes: int, *, now: datetime) -> datetime:
    """When a lesson is over that lasts some minutes longer: counted from its end, or from `now` when it is over.

    Never earlier than it was to end, and never open for longer than a day at a stretch.
    """
    latest = max(ends, now)
    return max(latest, min(latest + timedelta(minutes=minutes), max(opens, now) + LONGEST_OPEN))
