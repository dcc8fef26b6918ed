"""Small gardens for the planner's tests, in made-up climates."""

from dataclasses import replace
from datetime import date, time
from typing import Any

from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.rotation import Stood
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.weather_record import Record
from almanaque.core.planner.problem import PlanBed, PlanClass, PlanLimits, PlanProblem, PlanSpan, Wish
from almanaque.core.school.school_year import Calendar, Slot
from almanaque.data import catalogue
from tests import places

D = date.fromisoformat
CALENDAR = Calendar(places.YEARS, [Slot("two", 1, time(9, 40), 45), Slot("four", 3, time(9, 40), 45)]).carried_on
CLASSES = (PlanClass("two", "Grade 2", 24, 7), PlanClass("four", "Grade 4", 26, 9))
FOOT = 304.8


def bed(name: str, record: Record, *, feet: tuple[int, int] = (4, 4), group: str | None = None, **more: Any) -> PlanBed:
    grid = grid_of(feet[0] * FOOT, feet[1] * FOOT, FOOT)
    return PlanBed(
        name, f"Bed {name}", grid, frozenset(grid.cells), Setting(CALENDAR, record, "us"), group=group, **more
    )


def stood(key: str, until: str, one: PlanBed) -> Stood:
    crop = catalogue()[key]
    return Stood(crop.family, crop.name.en, one.cells, D(until))


def wish(key: str, *crops: str, **more: Any) -> Wish:
    return Wish(key, more.pop("text", f"wish {key}"), crops, **more)


def problem(beds: list[PlanBed], wishes: list[Wish], *, limits: PlanLimits | None = None, **more: Any) -> PlanProblem:
    span = more.pop("span", PlanSpan(D("2027-02-15"), D("2027-11-15")))
    made = PlanProblem(catalogue(), CALENDAR, D("2027-01-11"), span, tuple(beds), CLASSES, tuple(wishes))
    return replace(made, limits=limits or PlanLimits(), **more)
