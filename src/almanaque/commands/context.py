"""What the rules need to know of a school: its calendar, classes and climate, read once per transaction."""

import hashlib
import json
import threading
from collections import OrderedDict
from dataclasses import dataclass
from datetime import date
from functools import cached_property, lru_cache
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core import fit
from almanaque.core.climate import Climate
from almanaque.core.crops import Catalogue
from almanaque.core.school_year import Calendar, SchoolYear, Slot, grade_in
from almanaque.data import catalogue
from almanaque.store import school as school_store
from almanaque.store import weather
from almanaque.store.school import Group, School, YearRow


@dataclass(frozen=True)
class Context:
    """A school as the rules see it."""

    school: School
    years: list[YearRow]
    groups: list[Group]
    climate: Climate | None
    crops: Catalogue

    @cached_property
    def calendar(self) -> Calendar:
        slots = [slot for group in self.groups for slot in group.slots]
        return _calendar(tuple(year.core() for year in self.years), tuple(slots))

    @cached_property
    def setting(self) -> fit.Setting:
        return fit.Setting(self.calendar, self.climate, self.school.units)

    @cached_property
    def calendar_digest(self) -> str:
        """Changes when a term, break, feast or slot does."""
        text = json.dumps([self.years, [g.slots for g in self.groups]], default=vars_or_text)
        return hashlib.sha256(text.encode()).hexdigest()[:24]

    def group_names(self, day: date) -> dict[str, str]:
        """What each class is called on a day: graded ones by their grade then, others by their name."""
        year = self.calendar.year_of(day)
        labels = {str(group.id): _label(group, year) for group in self.groups}
        doubled = [label for label in labels.values() if list(labels.values()).count(label) > 1]
        for group in self.groups:
            if labels[str(group.id)] in doubled:
                labels[str(group.id)] += f" ({group.name})"
        return labels


def load(connection: Connection[Any]) -> Context:
    """Read the transaction's school. The climate is kept in memory as long as the weather on file stays the same."""
    school = school_store.school(connection)
    return Context(
        school=school,
        years=school_store.years(connection),
        groups=school_store.groups(connection),
        climate=_climates.of(connection, school),
        crops=catalogue(),
    )


@lru_cache(maxsize=64)
def _calendar(years: tuple[SchoolYear, ...], slots: tuple[Slot, ...]) -> Calendar:
    """The same years and slots give the same calendar, whose answers are computed once."""
    return Calendar(years, slots)


class _Climates:
    """The climates of the schools seen last, by the digest of their weather."""

    SIZE = 16

    def __init__(self) -> None:
        self._kept: OrderedDict[tuple[UUID, str, str], Climate | None] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, connection: Connection[Any], school: School) -> Climate | None:
        if not school.weather_source:
            return None
        key = (school.id, school.weather_source, school.weather_digest)
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


def _label(group: Group, year: SchoolYear | None) -> str:
    if group.entry_year is None or year is None:
        return group.name
    grade = grade_in(group.entry_year, year)
    if grade < 0:
        return group.name
    return "Kindergarten" if grade == 0 else f"Grade {grade}"
