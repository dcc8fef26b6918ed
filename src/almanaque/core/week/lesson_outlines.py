"""Lesson outlines, and which of them to offer a class in a week: those whose step is due for it, then those of the season."""

import re
import tomllib
from collections import Counter
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from almanaque.core.crops.crop import turned
from almanaque.core.errors import BadInput
from almanaque.core.words.days import MONTH_NAMES

OFFERED = 3  # outlines for a lesson: our own rule
SEASON = 2  # the rank of what is only in season
Line = Annotated[str, Field(min_length=2, max_length=300)]
Word = Annotated[str, Field(min_length=2, max_length=40)]
# What a step, or a routine, is called when a lesson is offered because of it.
BECAUSE: dict[str, str] = {
    "start indoors": "sowing indoors is due",
    "harden off": "hardening off is due",
    "prepare bed": "a bed is to be prepared",
    "sow": "something is to be sown",
    "transplant": "plants are to be set out",
    "keep moist": "a seedbed is to be kept moist",
    "thin": "thinning is due",
    "support": "supports go up",
    "mulch": "mulching is due",
    "scout": "plants want looking under",
    "first picking": "something is ready",
    "picking": "picking goes on",
    "clear": "a bed is to be cleared",
    "weeding": "weeding is due",
    "thread": "shoots are to be led in",
    "pollinate": "female flowers wait for pollen",
    "leaf cover": "a cover for the winter is due",
    "bare ground": "bare ground is to be covered",
    "compost": "the compost is to be turned",
    "weather corner": "the weather is to be read",
}


class PupilTasks(BaseModel):
    """A page for pupils: tasks and their answers, a table with `lines` or so many `rows`, a graph's axes, and a version for home.

    Tasks and answers may hold places such as `{bed}`, which a bed fills (`core/week/pupil_pages.py`).
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    tasks: tuple[Line, ...] = Field(default=(), max_length=6)
    answers: tuple[Line, ...] = Field(default=(), max_length=6)
    table: tuple[Annotated[str, Field(max_length=60)], ...] = Field(default=(), max_length=6)
    lines: tuple[Word, ...] | tuple[Annotated[str, Field(min_length=1, max_length=2)], ...] = Field(
        default=(), max_length=12
    )
    rows: Literal["crops"] | Annotated[int, Field(ge=0, le=12)] = 0
    graph: tuple[Word, Word] | tuple[()] = ()
    home: tuple[Line, ...] = Field(default=(), max_length=6)


class LessonOutline(BaseModel):
    """An outline. `steps`, `months` (north of the equator), `crops` and `groups` of crops say when it is due."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    key: str = Field(pattern=r"^[a-z0-9-]{2,60}$")
    title: str = Field(min_length=3, max_length=80)
    aim: Line
    words: tuple[Word, ...] = Field(default=(), max_length=12)
    question: str = Field(default="", max_length=300)
    doing: tuple[Line, ...] = Field(min_length=1, max_length=12)
    notebook: str = Field(default="", max_length=300)
    materials: tuple[Word, ...] = Field(default=(), max_length=20)
    minutes: int = Field(default=40, ge=5, le=180)
    ages_from: int = Field(default=5, ge=3, le=18)
    subject: str = Field(default="", max_length=120)
    curriculum: str = Field(default="", max_length=400)
    caution: str = Field(default="", max_length=300)
    steps: tuple[str, ...] = ()
    months: tuple[Annotated[int, Field(ge=1, le=12)], ...] = ()
    crops: tuple[str, ...] = ()
    groups: tuple[str, ...] = ()
    page: PupilTasks = PupilTasks()
    own: bool = False


@dataclass(frozen=True)
class Due:
    """A step that is due for a class, with its crop (key and name) and the group that crop belongs to."""

    step: str
    crop: str = ""
    name: str = ""
    group: str = ""


@dataclass(frozen=True)
class Offer:
    """An outline for a class, and why now."""

    lesson: LessonOutline
    why: str


def read(text: str, pages: str = "") -> dict[str, LessonOutline]:
    """The outlines of a file by key, with their `pages` for pupils of another.

    Raises BadInput that names the outline and what is wrong with it.
    """
    try:
        tables, for_pupils = tomllib.loads(text), tomllib.loads(pages)
    except tomllib.TOMLDecodeError as error:
        raise BadInput("week.lessons_unreadable", problem=error) from None
    return {
        key: checked({"key": key, **values, **({"page": for_pupils[key]} if key in for_pupils else {})})
        for key, values in tables.items()
    }


def checked(values: Mapping[str, object]) -> LessonOutline:
    """An outline from plain values. Raises BadInput with the field that cannot be kept."""
    try:
        lesson = LessonOutline.model_validate(dict(values))
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else "lesson"
        raise BadInput(
            "week.lesson_field",
            field=field,
            lesson=values.get("key", ""),
            field_name=field,
            problem=first["msg"].lower(),
        ) from None
    strange = sorted(set(lesson.steps) - set(BECAUSE))
    if strange:
        raise BadInput(
            "week.lesson_step_unknown", field="steps", lesson=lesson.key, step=strange[0], steps=", ".join(BECAUSE)
        )
    return lesson


def with_own(known: Mapping[str, LessonOutline], own: Iterable[LessonOutline]) -> dict[str, LessonOutline]:
    """The outlines with a school's own, which go before those of the same key."""
    return {**known, **{lesson.key: lesson.model_copy(update={"own": True}) for lesson in own}}


def offers(
    lessons: Iterable[LessonOutline],
    due: Iterable[Due],
    *,
    month: int,
    southern: bool,
    youngest: int | None,
    minutes: int,
    held: Collection[str] = (),
) -> list[Offer]:
    """At most three outlines for a lesson: for a step that is due first, then for the season; those held this year are left out.

    An outline tied to crops or groups of crops wants a due step of one of them, or, without steps, only its season. Outlines
    for older children, and those longer than the lesson by more than a quarter, come last or not at all.
    **Source:** our own rule.
    """
    wanted = list(due)
    found: list[tuple[int, int, str, Offer]] = []
    for lesson in lessons:
        if (
            lesson.key in held
            or (youngest is not None and lesson.ages_from > youngest + 1)
            or lesson.minutes > minutes * 1.25
        ):
            continue
        meets = [d for d in wanted if d.step in lesson.steps and _of_its_crops(lesson, d)]
        season = month in turned(lesson.months, southern=southern)
        if meets:
            rank = 0 if season or not lesson.months else 1
            name = meets[0].name.lower()
            why = BECAUSE[meets[0].step].replace("something", name) if name else BECAUSE[meets[0].step]
        elif season and not (lesson.crops or (lesson.groups and lesson.steps)):
            rank, why = SEASON, f"it belongs to {MONTH_NAMES[month - 1]}"
        else:
            continue
        # Of those alike, the one that is for fewer occasions is the more telling.
        found.append((rank, len(lesson.steps) + len(lesson.months), lesson.title, Offer(lesson, why)))
    ordered = sorted(found, key=lambda item: item[:3])
    # Each reason once before any a second time, so that what else is due is not crowded out; what is due before what is in season.
    turns, seen = [], Counter[str]()
    for n, (rank, _, _, offer) in enumerate(ordered):
        turns.append((rank == SEASON, seen[offer.why], n))
        seen[offer.why] += 1
    return [ordered[n][3] for *_, n in sorted(turns)[:OFFERED]]


def _of_its_crops(lesson: LessonOutline, due: Due) -> bool:
    if not (lesson.crops or lesson.groups):
        return True
    return due.crop in lesson.crops or due.group in lesson.groups


def key_of(title: str, taken: Collection[str]) -> str:
    """A key for a lesson's title that nobody has yet.

    >>> key_of("What is a weed?", {"what-is-a-weed"})
    'what-is-a-weed-2'
    """
    plain = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:50] or "lesson"
    plain = plain if len(plain) > 1 else f"{plain}-1"
    number, key = 2, plain
    while key in taken:
        key, number = f"{plain}-{number}", number + 1
    return key
