"""A plan of stages for a new garden or project: when each stage can be done, by the school calendar and the freezes."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from almanaque.core.school.school_year import Calendar, week_of

WEEK = timedelta(days=7)
Anchor = Literal["", "last freeze", "first freeze"]
ItemKind = Literal["to do", "material", "tool", "person"]
State = Literal["done", "late", "now", "to come"]
MOST_WEEKS = 200  # that a stage is looked for ahead: our own rule


class Stage(BaseModel):
    """One stage of a template: how many school weeks it takes, and what it needs.

    `anchor` with `weeks_after` holds it back until so many weeks after the median last or first freeze (below 0: before).
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str
    weeks: int = Field(ge=1, le=30)
    in_holidays: bool = False
    anchor: Anchor = ""
    weeks_after: int = 0
    to_do: tuple[str, ...] = ()
    materials: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    people: tuple[str, ...] = ()
    caution: str = ""


class Template(BaseModel):
    """A plan to begin from. **Source:** common practice, no source."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    key: str
    name: str
    about: str
    stages: tuple[Stage, ...] = Field(min_length=1)


@dataclass(frozen=True)
class DatedStage:
    """A stage with its days. `reaches` is false when the calendar ends before the stage does: then weeks are counted on."""

    starts: date
    ends: date
    reaches: bool


def schedule(
    stages: Sequence[Stage], start: date, calendar: Calendar, *, last_freeze: date | None, first_freeze: date | None
) -> list[DatedStage]:
    """Dates one stage after the other from `start` on; only weeks with children here count, unless a stage is for holidays.

    `last_freeze` and `first_freeze` are the median days of the season to come, None without weather: then anchors wait
    for nothing.
    """
    anchors = {"last freeze": last_freeze, "first freeze": first_freeze, "": None}
    at = start
    dated = []
    for stage in stages:
        anchor = anchors[stage.anchor]
        if anchor is not None:
            at = max(at, anchor + stage.weeks_after * WEEK)
        begins, ends, reaches = _weeks(at, stage, calendar)
        dated.append(DatedStage(begins, ends, reaches))
        at = ends + timedelta(days=1)
    return dated


def state(starts: date, ends: date, *, done: int, to_do: int, day: date) -> State:
    """Where a stage stands on a day: done with all its to-dos, late after its last day, now from its first, or to come."""
    if to_do and done == to_do:
        return "done"
    return "late" if ends < day else "now" if starts <= day else "to come"


def _weeks(start: date, stage: Stage, calendar: Calendar) -> tuple[date, date, bool]:
    """First and last day of a stage that begins on `start` or the next day that suits it."""
    reaches = calendar.reaches(start)
    begins = start if stage.in_holidays else (calendar.next_day_here(start) or start)
    counted, monday = 0, week_of(begins)[0]
    for _ in range(MOST_WEEKS):
        known = calendar.reaches(monday)
        reaches = reaches and known
        if (
            stage.in_holidays
            or not known
            or calendar.days_here_between(max(monday, begins), monday + 6 * timedelta(days=1))
        ):
            counted += 1
        if counted == stage.weeks:
            break
        monday += WEEK
    return begins, max(begins, monday + timedelta(days=4)), reaches
