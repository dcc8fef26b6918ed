"""What a team draws on a copy of a bed, or of an empty garden: marks in squares, what they come to, and how plans compare.

A mark gives a square a crop, or clears it. Marks are only ever added; taking a stroke back sets it aside. What a square holds is
the latest mark that was not taken back, so that two tablets cannot lose each other's marks, whatever their order.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from almanaque.core.findings import Finding
from almanaque.core.garden.bed import Cell
from almanaque.core.words import Phrase

CLEARED = ""
MOST_MARKS_AT_ONCE = 400  # of one tablet: our own rule
MOST_MARKS = 30_000  # of a team in a lesson: our own rule
MOST_NOTES = 4  # that a team is told at a time: our own choice
# What a dream garden can hold besides plants.
THINGS: dict[str, str] = {
    "thing:path": "path",
    "thing:bench": "bench",
    "thing:pond": "little pond",
    "thing:compost": "compost heap",
    "thing:barrel": "rain barrel",
    "thing:bees": "bee house",
}


@dataclass(frozen=True)
class DrawnMark:
    """A square and what it was given; `stroke` names the drag it was part of, which is taken back as one."""

    cell: Cell
    what: str
    stroke: str
    taken_back: bool = False


def standing(marks: Iterable[DrawnMark]) -> dict[Cell, str]:
    """What each square holds, from marks in the order in which they came."""
    found: dict[Cell, str] = {}
    for mark in marks:
        if not mark.taken_back:
            found[mark.cell] = mark.what
    return {cell: what for cell, what in found.items() if what != CLEARED}


def by_crop(plan: Mapping[Cell, str]) -> dict[str, frozenset[Cell]]:
    """The squares of each crop; things are left out."""
    found: dict[str, set[Cell]] = {}
    for cell, what in plan.items():
        if what not in THINGS:
            found.setdefault(what, set()).add(cell)
    return {crop: frozenset(cells) for crop, cells in sorted(found.items())}


# What a team is told, in this order; of the rest of a bed's findings children cannot change anything by drawing.
GENTLE = (
    "squares_left_over",
    "shaded_by_plant",
    "bad_neighbours",
    "family_back_soon",
    "crowded",
    "runs_out",
    "spreads",
    "needs_support",
    "little_sun",
    "soil_shallow",
    "good_neighbours",
)


LIGHTLY = frozenset({"shaded_by_plant", "little_sun"})  # told only where they ask for care


def gentle_notes(findings: Sequence[Finding], *, flowers: bool) -> list[Phrase]:
    """What the rules say of a plan, as one would say it to a child: what asks for a change first, at most one of a kind and crop.

    `flowers` says that something in it flowers for bees.
    """
    found: dict[tuple[str, frozenset[str]], Phrase] = {}
    for code in GENTLE:
        for finding in findings:
            # One tall plant shades many low ones: it is moved, not they. A little shade is no worry.
            # What is said of two neighbours is said once, not of either.
            about = frozenset({str(finding.params.get("tall", finding.subject)), str(finding.params.get("other", ""))})
            light = code in LIGHTLY and finding.severity == "note"
            if finding.code == code and not light and (code, about) not in found:
                found[(code, about)] = _gentle(finding)
    notes = list({str(phrase): phrase for phrase in found.values()}.values())
    if not flowers:
        notes.append(Phrase("journal.gentle.no_flowers", {}))
    return notes[:MOST_NOTES]


def is_praise(note: Phrase) -> bool:
    """True for what is well as it is."""
    return note.code == "journal.gentle.good_neighbours"


def _gentle(finding: Finding) -> Phrase:
    params = {
        key: value.lower() if isinstance(value, str) else value
        for key, value in finding.params.items()
        if key in ("other", "tall", "block", "count")
    }
    return Phrase(f"journal.gentle.{finding.code}", {"crop": finding.subject.lower(), **params})


@dataclass(frozen=True)
class PlanFigures:
    """A team's plan in figures: plants, kinds, squares used of those there are, what flowers for bees, worries, and what is picked
    while children are here."""

    plants: int
    kinds: int
    used: int
    squares: int
    for_bees: int
    worries: int
    picked_at_school: int

    @property
    def share_used(self) -> float:
        return self.used / self.squares if self.squares else 0.0


def leading(figures: Mapping[str, PlanFigures]) -> dict[str, list[str]]:
    """By figure the teams that lead, ties together: the most, of worries the fewest. None where all are alike."""
    drawn = {team: found for team, found in figures.items() if found.used}
    best: dict[str, list[str]] = {}
    for name, sign in (("kinds", 1), ("plants", 1), ("for_bees", 1), ("picked_at_school", 1), ("worries", -1)):
        values = {team: sign * int(getattr(found, name)) for team, found in drawn.items()}
        if len(set(values.values())) > 1:
            best[name] = [team for team, value in values.items() if value == max(values.values())]
    return best
