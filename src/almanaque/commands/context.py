"""What the rules need to know of a school: its calendar, classes and climate, read once per transaction."""

import hashlib
import json
import threading
from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property, lru_cache
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core import classes, fit
from almanaque.core.climate import Climate
from almanaque.core.crops import Catalogue
from almanaque.core.school_year import Calendar, SchoolYear, Slot
from almanaque.core.typed_freezes import TypedFreezes
from almanaque.data import catalogue
from almanaque.store import planting_chart, weather
from almanaque.store import school as school_store
from almanaque.store.school import Group, School, YearRow


@dataclass(frozen=True)
class Context:
    """A school as the rules see it."""

    school: School
    years: list[YearRow]
    groups: list[Group]
    climate: Climate | None
    crops: Catalogue
    typed: TypedFreezes | None = None
    chart: tuple[planting_chart.Entry, ...] = ()

    @cached_property
    def calendar(self) -> Calendar:
        years = tuple(year.core() for year in self.years)
        plain = _calendar(years, ())
        slots = [
            _bounded(slot, self._stay(group, plain)) for group in self.groups for slot in group.slots
        ]  # a class has lessons from entering to leaving
        return _calendar(years, tuple(slots))

    def _stay(self, group: Group, calendar: Calendar) -> tuple[date | None, date | None]:
        enters, leaves = classes.stay(group.cohort, calendar, self.school.grades)
        return enters, min((day for day in (leaves, group.closed_on) if day), default=None)

    @cached_property
    def setting(self) -> fit.Setting:
        months: dict[tuple[str, str], set[int]] = {}
        for entry in self.chart:
            months.setdefault((entry.crop.lower(), entry.what), set()).add(entry.month)
        chart = {key: frozenset(found) for key, found in months.items()}
        return fit.Setting(self.calendar, self.climate, self.school.units, self.typed, chart)

    @cached_property
    def calendar_digest(self) -> str:
        """Changes when a term, break, half day, feast or slot does."""
        text = json.dumps([self.years, self.calendar.slots], default=vars_or_text)
        return hashlib.sha256(text.encode()).hexdigest()[:24]

    @cached_property
    def weather_digest(self) -> str:
        """Changes when the weather that answers rest on does, or what stands in for it."""
        text = json.dumps([self.school.weather_source, self.school.weather_digest, self.school.latitude, self.typed, self.chart],
                          default=vars_or_text)  # fmt: skip
        return hashlib.sha256(text.encode()).hexdigest()[:24]

    def groups_on(self, day: date) -> list[Group]:
        """The groups that belong to the school on a day."""
        return [
            group for group in self.groups
            if classes.here_on(group.cohort, day, self.calendar, self.school.grades)
            and (group.closed_on is None or day <= group.closed_on)
        ]  # fmt: skip

    def who_planted(self, group_id: UUID | None, planted: date, today: date) -> str:
        """Who planted it, in the words of today; empty for nobody by name."""
        group = next((g for g in self.groups if g.id == group_id), None)
        return classes.planted_by(group.cohort, planted, today, self.calendar, self.school.grades) if group else ""

    def group_names(self, day: date) -> dict[str, str]:
        """What each group is called on a day: graded ones by their grade then, others by their name."""
        return classes.labels([g.cohort for g in self.groups], day, self.calendar, self.school.grades)


def load(connection: Connection[Any]) -> Context:
    """Read the transaction's school. The climate is kept in memory as long as the weather on file stays the same."""
    school = school_store.school(connection)
    return Context(
        school=school,
        years=school_store.years(connection),
        groups=school_store.groups(connection),
        climate=_climates.of(connection, school),
        crops=catalogue(),
        typed=planting_chart.typed_freezes(connection),
        chart=tuple(planting_chart.chart(connection)),
    )


@lru_cache(maxsize=64)
def _calendar(years: tuple[SchoolYear, ...], slots: tuple[Slot, ...]) -> Calendar:
    """The same years and slots give the same calendar, whose answers are computed once."""
    return Calendar(years, slots)


def _bounded(slot: Slot, stay: tuple[date | None, date | None]) -> Slot:
    """A slot within its group's time at the school."""
    first = max((day for day in (slot.from_day, stay[0]) if day), default=None)
    last = min((day for day in (slot.to_day, stay[1]) if day), default=None)
    return replace(slot, from_day=first, to_day=last)


class _Climates:
    """The climates of the schools seen last, by the digest of their weather."""

    SIZE = 16

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[UUID, str, str, float], Climate | None] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, connection: Connection[Any], school: School) -> Climate | None:
        if not school.weather_source:
            return None
        key = (school.id, school.weather_source, school.weather_digest, school.latitude)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        found = weather.climate(connection, school.weather_source, latitude=school.latitude)
        with self._lock:
            self._kept[key] = found
            while len(self._kept) > self.SIZE:
                self._kept.popitem(last=False)
        return found


_climates = _Climates()


def vars_or_text(value: object) -> Any:
    """For digests: a dataclass as its fields, anything else as text."""
    return vars(value) if hasattr(value, "__dict__") else str(value)
