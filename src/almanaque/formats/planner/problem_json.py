"""A season to plan as one JSON object: the days, the garden, the classes, what is wished for and what there is not more of.

docs/calc.md tells its keys. Lengths are written as people write them, days as 2027-04-14, times as 9:40; files are named from the
place of the JSON file.
"""

import json
from datetime import date, time
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, model_validator

from almanaque.core.errors import BadInput
from almanaque.core.planner.problem import AIMS, Aim, Kind, Weight
from almanaque.core.units import parse_length, parse_mass, parse_size
from almanaque.formats import text_file

MOST_BYTES = 2_000_000


def _length(value: Any) -> float:
    return float(_read(parse_length, value))


def _sides(value: Any) -> tuple[float, float]:
    length, width = _read(parse_size, value)
    return float(length), float(width)


def _grams(value: Any) -> float:
    return float(_read(lambda text: parse_mass(text, bare_unit="g"), value))


def _time(value: Any) -> time:
    hour, _, minute = str(value).partition(":")
    if not (hour.isdigit() and minute.isdigit()):
        raise ValueError("a time is written as 9:40")
    return time(int(hour), int(minute))


def _read(reader: Any, value: Any) -> Any:
    try:
        return reader(str(value))
    except BadInput as error:
        raise ValueError(error.message) from None


Length = Annotated[float, BeforeValidator(_length)]
Sides = Annotated[tuple[float, float], BeforeValidator(_sides)]
Grams = Annotated[float, BeforeValidator(_grams)]
Clock = Annotated[time, BeforeValidator(_time)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Weekday = Literal["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"]


class Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class SpanPart(Part):
    starts: date
    ends: date
    free_from: date | None = None


class LessonPart(Part):
    weekday: Weekday
    at: Clock
    minutes: int = Field(ge=5, le=600)


class ClassPart(Part):
    name: Name
    children: int = Field(default=0, ge=0, le=2000)
    age: int | None = Field(default=None, ge=2, le=20)
    minutes: int | None = Field(default=None, ge=0, le=5000)
    lessons: tuple[LessonPart, ...] = Field(default=(), max_length=40)
    must_not_eat: tuple[Name, ...] = ()
    must_not_touch: tuple[Name, ...] = ()


class StoodPart(Part):
    crop: Name
    until: date
    squares: Name | None = None


class TakenPart(Part):
    squares: Name
    starts: date
    ends: date
    what: str = ""


class ClosedPart(Part):
    starts: date
    ends: date
    why: Name


class PromisedPart(Part):
    from_day: date = Field(alias="from")
    what_for: Name = Field(alias="for")


class PlanBedPart(Part):
    name: Name
    size: Sides
    cell: Length = 304.8
    depth: Length = 1000.0
    sun_h: float | tuple[float | None, ...] | None = None
    group: Name | None = Field(default=None, alias="class")
    pot: bool = False
    stood: tuple[StoodPart, ...] = ()
    taken: tuple[TakenPart, ...] = ()
    closed: tuple[ClosedPart, ...] = ()
    promised: tuple[PromisedPart, ...] = ()
    lead: bool = False
    raw_manure: tuple[date, ...] = ()

    @model_validator(mode="after")
    def _whole_year(self) -> "PlanBedPart":
        if isinstance(self.sun_h, tuple) and len(self.sun_h) != 12:
            raise ValueError("sun_h is one number, or twelve, January first")
        return self


class WishPart(Part):
    text: str = Field(default="", max_length=200)
    crop: Name | tuple[Name, ...] = ()
    kind: Kind = "crop"
    theme: Name | None = None
    squares: int | None = None
    plants: int | None = None
    weight_of_it: Grams | None = Field(default=None, alias="amount")
    amount_a_week: Grams | None = None
    group: Name | None = Field(default=None, alias="class")
    ready_by: date | None = None
    ready_to: date | None = None
    weight: Weight = "would like"
    votes: int = Field(default=0, ge=0, le=10_000)
    beds: tuple[Name, ...] = ()
    kinds: int | None = Field(default=None, ge=1, le=60)
    fill: bool = False


class LimitsPart(Part):
    minutes: int | None = Field(default=None, ge=0)
    break_beds: int | None = Field(default=None, ge=0)
    watered_beds: int | None = Field(default=None, ge=0)
    sill_plants: int | None = Field(default=None, ge=0)
    row_covers: int = Field(default=0, ge=0)
    money: int | None = Field(default=None, ge=0)


class PlanFile(Part):
    """The whole file."""

    weather: Name
    calendar: Name
    latitude: float = Field(ge=-70, le=70)
    today: date
    span: SpanPart
    beds: tuple[PlanBedPart, ...]
    classes: tuple[ClassPart, ...] = ()
    wishes: tuple[WishPart, ...]
    limits: LimitsPart = LimitsPart()
    aims: tuple[Aim, ...] = AIMS
    rest_years: int = Field(default=3, ge=0, le=9)
    seed_at_hand: tuple[Name, ...] = ()
    old_seed: tuple[Name, ...] = ()
    prices: dict[str, int] = {}
    not_grown: tuple[Name, ...] = ()


def read(sent: bytes, name: str) -> PlanFile:
    """The file's content. Raises BadInput with the file and the place of the first thing that is wrong."""
    text = text_file.read(sent, name, most_bytes=MOST_BYTES)
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise BadInput("planner.not_json", name=name, line=getattr(error, "lineno", 1)) from None
    try:
        return PlanFile.model_validate(content)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"]) or "it"
        raise BadInput("planner.wrong_in_file", name=name, where=where[:80], what=first["msg"][:200]) from None
