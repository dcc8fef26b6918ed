"""A page for pupils out of a lesson outline: its tasks with what this bed has in their places, a table, a graph's axes, the answers."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, fields

from almanaque.core.week.lesson_outlines import LessonOutline

FEWEST_ROWS = 3  # of a table for the crops of a bed: our own choice
MOST_CARDS = 6  # word cards with a portrait: our own choice
PLACE = re.compile(r"\{([a-z_]+)\}")


@dataclass(frozen=True)
class BedInWords:
    """What a bed fills into tasks and answers, each in the school's own units. `crop` is what most of it holds, in small letters."""

    bed: str
    length: str
    width: str
    around: str
    area: str
    squares: str
    crop: str
    plants: str
    per_square: str
    apart: str
    ready: str
    names: str
    parts: str
    sign: str
    inch_of_rain: str


PLACES = frozenset(field.name for field in fields(BedInWords))


@dataclass(frozen=True)
class PupilPage:
    """A page as it is printed. `table` are headings, `rows` the first words of its rows, empty ones to be filled in."""

    tasks: tuple[str, ...]
    answers: tuple[str, ...]
    table: tuple[str, ...]
    rows: tuple[str, ...]
    graph: tuple[str, ...]
    home: tuple[str, ...]


def page_of(lesson: LessonOutline, bed: BedInWords, crops: Sequence[str]) -> PupilPage:
    """The page of an outline for a bed with these crops. An outline without tasks of its own asks its question and its notebook page."""
    made = lesson.page
    tasks = made.tasks or tuple(text for text in (lesson.question, lesson.notebook) if text) or (lesson.aim,)
    if made.lines:
        rows: tuple[str, ...] = made.lines
    elif made.rows == "crops":
        rows = (*crops, *[""] * (FEWEST_ROWS - len(crops)))
    else:
        rows = ("",) * made.rows
    return PupilPage(
        tuple(filled(text, bed) for text in tasks),
        tuple(filled(text, bed) for text in made.answers),
        made.table,
        rows,
        tuple(made.graph),
        tuple(filled(text, bed) for text in made.home),
    )


def filled(text: str, bed: BedInWords) -> str:
    """A text with its places filled; what is no place of ours stays as it was written, since schools write their own."""
    return PLACE.sub(lambda found: getattr(bed, found[1]) if found[1] in PLACES else found[0], text)
