"""Week: what is still to be done before the next break. Last calls for quick crops, and beds that must be clear."""

from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache

from almanaque.commands.context import Context
from almanaque.core.growth import nearest_fit
from almanaque.core.words import terms
from almanaque.core.year.bed_promises import Promised, last_day_to_clear
from almanaque.store.garden import garden
from almanaque.store.year import promises_and_themes
from almanaque.web import words
from almanaque.web.request_scope import UnitOfWork

QUICK_DAYS = 60  # crops that ripen within so many packet days are named as last calls
MOST_CALLS = 4


@dataclass(frozen=True)
class Clear:
    """A bed to clear by a day, and what for."""

    bed_id: str
    bed: str
    by: str
    what: str


@dataclass(frozen=True)
class BeforeBreak:
    title: str
    facts: str
    calls: list[tuple[str, str]]
    clear: list[Clear]


def before_break(work: UnitOfWork) -> BeforeBreak | None:
    context, day = work.context, work.day
    gap = context.calendar.next_break(day)
    if gap is None:
        return None
    if day in gap:
        return BeforeBreak(
            f"{gap.name} until {words.short_day(gap.ends)}",
            "Carers look after the beds.",
            [],
            _to_clear(work, gap.ends),
        )
    last = gap.starts - timedelta(days=1)
    school_days = context.calendar.school_days_between(day, last)
    groups = [
        len(context.calendar.lessons(day, last, group_id=str(group.id)))
        for group in context.groups_on(day)
        if group.slots
    ]
    most = max(groups, default=0)
    each = f", {min(groups)} to {most} garden lessons a class" if most else ""
    facts = f"{words.count(school_days, 'school day')} until {gap.name.lower()} on {words.short_day(gap.starts)}{each}."
    calls = list(_calls(_CallsFor(context), day, last))
    return BeforeBreak(f"Before the {gap.name.lower()}", facts, calls, _to_clear(work, last))


def _to_clear(work: UnitOfWork, last: date) -> list[Clear]:
    """Beds that are promised for something else, with the last day to clear them and what still stands there then."""
    found = []
    beds = {bed.id: bed.name for bed in garden.beds(work.connection)}
    for promise in promises_and_themes.promises(work.connection):
        by = last_day_to_clear(Promised(promise.from_day, promise.what_for))
        if not work.day <= by <= last:
            continue
        standing = [
            work.context.crops[p.crop].name.en.lower()
            for p in garden.plantings(work.connection, bed_id=promise.bed_id, since=promise.from_day)
            if p.status in ("planned", "in the ground")
            and p.bed_from < promise.from_day
            and p.bed_to(work.today) >= promise.from_day
            and work.context.crops[p.crop].life != "perennial"
        ]
        still = f"; {' and '.join(standing)} would still stand there" if standing else ""
        found.append(
            Clear(str(promise.bed_id), beds[promise.bed_id], words.weekday_day(by), f"for {promise.what_for}{still}")
        )
    return found


@dataclass(frozen=True)
class _CallsFor:
    """A context that can be a key: the same calendar, weather and crops give the same last calls."""

    context: Context

    def __hash__(self) -> int:
        crops = tuple(crop.digest for crop in self.context.crops)
        return hash((self.context.school.id, self.context.weather_digest, self.context.calendar_digest, crops))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _CallsFor) and hash(self) == hash(other)


@lru_cache(maxsize=256)
def _calls(key: _CallsFor, day: date, last: date) -> tuple[tuple[str, str], ...]:
    """The last day on which each quick crop can still be sown or set out and picked before the break."""
    context = key.context
    found: list[tuple[date, str, str]] = []
    for crop in context.crops:
        method = crop.methods[0]
        if crop.days[method][1] > QUICK_DAYS or method == "indoors":
            continue
        latest = nearest_fit.latest_fit(crop, method, context.setting, not_before=day, picked_by=last)
        if latest is not None:
            found.append((latest, crop.name.en, terms("method")[method]))
    found.sort()
    return tuple((words.short_day(latest), f"{name.lower()}, {method}") for latest, name, method in found[:MOST_CALLS])
