"""What the rules need to know of a school: its calendar, classes and climate, read once per transaction."""

import hashlib
import json
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property, lru_cache
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.kept_answers import KeptAnswers
from almanaque.core.crops import own_crops
from almanaque.core.crops.catalogue import Catalogue
from almanaque.core.crops.crop_names import CropNames
from almanaque.core.crops.native_range import Region, region_of
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.weather_record import Record
from almanaque.core.harvest.forecast_error import corrected
from almanaque.core.place.climate import Climate
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.school import classes
from almanaque.core.school.classes import FlagKind
from almanaque.core.school.school_year import Calendar, SchoolYear, Slot
from almanaque.data import catalogue, crop_names
from almanaque.store.crops import own_crops as own_store
from almanaque.store.garden import site_features
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.harvest import pickings
from almanaque.store.place import planting_chart, weather
from almanaque.store.school import school as school_store
from almanaque.store.school.school import Group, School, YearRow

_records: KeptAnswers[Record | None] = KeptAnswers(8)  # the schools seen last
_charts: KeptAnswers[Mapping[tuple[str, str], frozenset[int]]] = KeptAnswers(8)


@dataclass(frozen=True)
class Context:
    """A school as the rules see it."""

    school: School
    years: list[YearRow]
    groups: list[Group]
    record: Record | None
    crops: Catalogue
    typed: TypedFreezes | None = None
    chart: tuple[planting_chart.ChartEntry, ...] = ()
    over_beds: tuple[FeatureRow, ...] = ()
    corrections: tuple[tuple[str, int, int], ...] = ()

    @property
    def region(self) -> Region:
        """The region of the earth, for what is native there."""
        return region_of(self.school.latitude, self.school.longitude)

    @property
    def climate(self) -> Climate | None:
        return self.record.climate if self.record else None

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
    def setting(self) -> Setting:
        """What verdicts depend on, for plants in the open."""
        chart = _charts.of((self.crops_digest, self.chart), self._chart_by_crop) if self.chart else {}
        return Setting(
            self.calendar.carried_on,
            self.record,
            self.school.units,
            self.typed,
            chart,
            self.school.ready_by,
            self.school.leads,
        )

    @cached_property
    def crop_names(self) -> CropNames:
        """The school's crops by the names that people have for them."""
        return CropNames(self.crops, crop_names())

    def _chart_by_crop(self) -> Mapping[tuple[str, str], frozenset[int]]:
        """Months by a crop's name in small letters and what is done in them. A line for tomatoes holds for each kind without its own."""
        months: dict[tuple[str, str], set[int]] = {}
        for entry in self.chart:
            found = self.crop_names.find(entry.crop)
            name = (found.name.en if found else entry.crop).lower()
            months.setdefault((name, entry.what), set()).add(entry.month)
        said = {name for name, _ in months}
        for crop in self.crops:
            name = crop.name.en.lower()
            if crop.kind in self.crops and name not in said:
                kind_name = self.crops[crop.kind].name.en.lower()
                months |= {(name, what): found for (one, what), found in months.items() if one == kind_name}
        return {key: frozenset(found) for key, found in months.items()}

    def setting_for(
        self, *, covering: Covering | None = None, indoors_c: float | None = None, pace: float = 1.0
    ) -> Setting:
        """The same for plants under a cover or indoors, or where they take another share of their usual time."""
        return replace(self.setting, covering=covering, indoors_c=indoors_c, pace=pace)

    @cached_property
    def calendar_digest(self) -> str:
        """Changes when a term, break, half day, feast or slot does."""
        text = json.dumps([self.years, self.calendar.slots], default=vars_or_text)
        return hashlib.sha256(text.encode()).hexdigest()[:24]

    @cached_property
    def crops_digest(self) -> int:
        """Changes when a crop does."""
        return hash(tuple(crop.digest for crop in self.crops))

    @cached_property
    def weather_digest(self) -> str:
        """Changes when the weather that answers rest on does, or what stands in for it."""
        text = json.dumps(
            [
                self.school.weather_source,
                self.school.weather_digest,
                self.school.latitude,
                self.typed,
                self.chart,
                self.school.ready_by,
                self.school.leads,
            ],
            default=vars_or_text,
        )
        return hashlib.sha256(text.encode()).hexdigest()[:24]

    def judged_by(self, setting: Setting) -> Hashable:
        """All that verdicts on the school's crops in a setting of its own depend on, besides the day."""
        weather = (self.weather_digest, setting.record.name if setting.record else None)
        return self.school.id, self.crops_digest, self.calendar_digest, weather, setting.units, setting.felt

    def groups_on(self, day: date) -> list[Group]:
        """The groups that belong to the school on a day."""
        return [
            group
            for group in self.groups
            if classes.here_on(group.cohort, day, self.calendar, self.school.grades)
            and (group.closed_on is None or day <= group.closed_on)
        ]

    def corrected_by(self, crop: str) -> int:
        """Days by which the school's own seasons have moved this crop's dates."""
        kind = self.crops[crop].kind if crop in self.crops else crop
        return next((days for name, days, _ in self.corrections if name == kind), 0)

    def flags_of(self, group_id: UUID | None) -> list[tuple[FlagKind, str]]:
        """What a group may not handle, and what someone in it must not touch or eat."""
        group = next((g for g in self.groups if g.id == group_id), None)
        return [(flag.kind, flag.what) for flag in group.flags] if group else []

    def who_planted(self, group_id: UUID | None, planted: date, today: date) -> str:
        """Who planted it, in the words of today; empty for nobody by name."""
        group = next((g for g in self.groups if g.id == group_id), None)
        return classes.planted_by(group.cohort, planted, today, self.calendar, self.school.grades) if group else ""

    def crop_name(self, key: str) -> str:
        """What a crop is called; its key for one that is not on the list any more."""
        return self.crops[key].name.en if key in self.crops else key

    def group_names(self, day: date) -> dict[str, str]:
        """What each group is called on a day: graded ones by their grade then, others by their name."""
        return classes.labels([g.cohort for g in self.groups], day, self.calendar, self.school.grades)


def load(connection: Connection[Any]) -> Context:
    """Read the transaction's school. The weather record is kept in memory as long as the weather on file stays the same."""
    school = school_store.school(connection)
    corrections = tuple(pickings.corrections(connection))
    return Context(
        school=school,
        years=school_store.years(connection),
        groups=school_store.groups(connection),
        record=_record(connection, school),
        crops=_crops(
            tuple(
                (row.crop, row.based_on, json.dumps(row.figures, sort_keys=True)) for row in own_store.rows(connection)
            ),
            corrections,
        ),
        typed=planting_chart.typed_freezes(connection),
        chart=tuple(planting_chart.chart(connection)),
        over_beds=tuple(site_features.coverings(connection)),
        corrections=corrections,
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


@lru_cache(maxsize=64)
def _crops(own: tuple[tuple[str, str | None, str], ...], corrections: tuple[tuple[str, int, int], ...]) -> Catalogue:
    """The catalogue as a school sees it, with its own figures and corrections; the same ones give the same catalogue."""
    rows = [own_crops.OwnCrop(crop, based_on, json.loads(figures)) for crop, based_on, figures in own]
    found = own_crops.with_own(catalogue(), rows) if rows else catalogue()
    days = {crop: moved for crop, moved, _ in corrections}
    if not days:
        return found
    crops = {key: corrected(crop, days[crop.kind]) if crop.kind in days else crop for key, crop in found.crops.items()}
    return replace(found, crops=crops)


def _record(connection: Connection[Any], school: School) -> Record | None:
    """The weather record of a school, from memory while its weather stays the same."""
    if not school.weather_source:
        return None

    def read() -> Record | None:
        climate = weather.climate(connection, school.weather_source, latitude=school.latitude)
        return Record(climate) if climate is not None else None

    return _records.of((school.id, school.weather_source, school.weather_digest, school.latitude), read)


def vars_or_text(value: object) -> Any:
    """For digests: a dataclass as its fields, anything else as text."""
    return vars(value) if hasattr(value, "__dict__") else str(value)
