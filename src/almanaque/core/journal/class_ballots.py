"""Ballots that children fill in themselves: two dots each, and a wish for what is not on them. Nobody's is kept by name."""

from collections import Counter
from collections.abc import Collection, Iterable
from dataclasses import dataclass

from almanaque.core.errors import BadInput

DOTS = 2  # each child has so many: our own choice
LONGEST_WISH = 60  # letters: our own rule
SPARE = 5  # ballots more than a class has children, for guests and for slips: our own rule


@dataclass(frozen=True)
class ChildBallot:
    """One child's: its dots, each on another crop, and what it wishes for besides."""

    dots: tuple[str, ...]
    wish: str = ""


def read(dots: Iterable[str], wish: str, on_ballot: Collection[str]) -> ChildBallot:
    """A ballot as it was filled in. Raises BadInput for no dot and no wish, more dots than two, two on one crop, and
    what is not on it."""
    given, said = tuple(one for one in dots if one), " ".join(wish.split())
    if len(given) > DOTS:
        raise BadInput("journal.dots_too_many", field="dots", most=DOTS)
    if len(set(given)) < len(given):
        raise BadInput("journal.dots_on_one", field="dots")
    if set(given) - set(on_ballot):
        raise BadInput("school.not_on_ballot", field="dots")
    if len(said) > LONGEST_WISH:
        raise BadInput("journal.wish_too_long", field="wish", most=LONGEST_WISH)
    if not given and not said:
        raise BadInput("journal.ballot_empty", field="dots")
    return ChildBallot(given, said)


def dots(ballots: Iterable[ChildBallot]) -> dict[str, int]:
    """Dots by crop."""
    return dict(Counter(dot for ballot in ballots for dot in ballot.dots))


def room(cast: int, children: int) -> int:
    """How many ballots can still be put in: one for each child, and a few."""
    return max(0, children + SPARE - cast)
