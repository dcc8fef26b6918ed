"""What fits here, and what to sow this month: every crop with its best way of starting, and the one reason against each that
does not fit.

A space is what the bed offers: sun, depth, what stood there, from when to when it is free, and who is to work in it.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import cached_property

import numpy as np

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import lead
from almanaque.core.garden import rotation
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.rotation import Stood
from almanaque.core.garden.site_suitability import DEPTH_ENOUGH
from almanaque.core.growth import school_fit
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import Verdict, Weighed, weigh_ways
from almanaque.core.school import class_flags
from almanaque.core.school.classes import FlagKind
from almanaque.core.units import Units, format_length
from almanaque.core.words.days import MONTH_NAMES, short_day

RANK: dict[Verdict, int] = {"fits": 0, "with care": 1, "misses": 2}
SUN_SLACK_H = 0.5  # hours of sun that may be missing: our own rule, as on the bed sheet


@dataclass(frozen=True)
class Space:
    """An empty space. `sun_h` are hours of direct sun by month (None: not known), `free_to` the last day on which it is free.

    `youngest` is the age of the class that works in it, with its `flags`; `history` is what stood in these `cells`.
    """

    name: str = ""
    sun_h: Sequence[float | None] = (None,) * 12
    depth_mm: float | None = None
    free_to: date | None = None
    history: Sequence[Stood] = ()
    cells: frozenset[Cell] = frozenset()
    rest_years: int = 3
    youngest: int | None = None
    group: str = ""
    flags: Sequence[tuple[FlagKind, str]] = ()
    narrow_mm: float | None = None
    family_names: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def by_family(self) -> Mapping[str, Sequence[Stood]]:
        """What stood there, by family, so that a long history is read once."""
        found: dict[str, list[Stood]] = {}
        for stood in self.history:
            found.setdefault(stood.family, []).append(stood)
        return found


@dataclass(frozen=True)
class Listed:
    """A crop in the list: its best way of starting, dates and verdict, and the one reason that speaks against it, if any."""

    fit: Fit
    verdict: Verdict
    against: str

    @property
    def crop(self) -> Crop:
        return self.fit.crop


def fits_here(crops: Iterable[Crop], start: date, setting: Setting, space: Space, units: Units) -> list[Listed]:
    """All crops for a space from a day on, the best first: those that fit by their first picking, then the others."""
    return for_space(judged_ways(crops, start, setting), space, units)


def judged_ways(crops: Iterable[Crop], start: date, setting: Setting) -> list[Fit]:
    """Every way of starting each crop on a day, whatever the space."""
    return school_fit.judge_ways([(crop, method) for crop in crops for method in crop.methods], start, setting)


def for_space(ways: Iterable[Fit], space: Space, units: Units) -> list[Listed]:
    """The same of ways that were judged before."""
    best: dict[str, Listed] = {}
    for judged in ways:
        listed, known = _listed(judged, space, units), best.get(judged.crop.key)
        if known is None or RANK[listed.verdict] < RANK[known.verdict]:
            best[judged.crop.key] = listed
    return sorted(
        best.values(), key=lambda listed: (RANK[listed.verdict], listed.fit.dates.first_pick, listed.crop.name.en)
    )


def _listed(judged: Fit, space: Space, units: Units) -> Listed:
    reason = _space_reason(judged, space, units)
    if reason:
        return Listed(judged, "misses", reason)
    of_class = _class_reason(judged.crop, space)
    if judged.verdict != "misses" and of_class:
        return Listed(judged, "with care", of_class)
    return Listed(judged, judged.verdict, lead(judged.findings))


def _class_reason(crop: Crop, space: Space) -> str:
    """What speaks against a crop for the class that works there; empty when nothing does. A flag goes before the age."""
    found = class_flags.flagged(crop, space.flags, space.group)
    if found:
        return found[0].message
    too_young = space.youngest is not None and crop.ages_from > space.youngest
    return f"Usually handled from age {crop.ages_from}." if too_young else ""


def _space_reason(judged: Fit, space: Space, units: Units) -> str:
    """The first thing about the space that speaks against a crop; empty when nothing does."""
    crop, dates = judged.crop, judged.dates
    needed = school_fit.stands_at_least_until(judged)
    if space.free_to is not None and needed > space.free_to and crop.life != "perennial":
        return f"Stands until {short_day(needed)} at least; the space is free until {short_day(space.free_to)}."
    if space.free_to is not None and crop.life == "perennial":
        return f"Stays for years; the space is free until {short_day(space.free_to)}."
    if space.depth_mm is not None and space.depth_mm < crop.soil_least_mm * DEPTH_ENOUGH:
        return (
            f"Wants {format_length(crop.soil_least_mm, units, feet=False)} of soil; "
            f"here are {format_length(space.depth_mm, units, feet=False)}."
        )
    middle = dates.bed_from + (max(dates.first_pick, dates.bed_from) - dates.bed_from) / 2
    sun = space.sun_h[middle.month - 1]
    if sun is not None and sun < crop.sun_least_h - SUN_SLACK_H:
        return f"Wants {crop.sun_least_h:g} h of sun; here are {sun:.1f} h in {MONTH_NAMES[middle.month - 1]}."
    if space.narrow_mm is not None and crop.in_row_mm > 2 * space.narrow_mm:
        return "Grows far wider than this space."
    rested = rotation.years_rested(
        crop.family, space.cells or None, dates.bed_from, space.by_family.get(crop.family, ())
    )
    if rested is not None and rested[0] < space.rest_years and crop.life != "perennial":
        kin = space.family_names.get(crop.family, crop.family).lower()
        return f"{kin.capitalize()} stood there {_ago(rested[0])}; they rest {space.rest_years} years."
    return ""


def _ago(years: int) -> str:
    return "less than a year ago" if years < 1 else "a year ago" if years == 1 else f"{years} years ago"


@dataclass(frozen=True)
class Sowable:
    """A crop that can be started in a time: the days of it that fit, or that need care, and what becomes of the first of them."""

    crop: Crop
    method: Method
    verdict: Verdict
    first: date
    last: date
    days: int
    fit: Fit


@dataclass(frozen=True)
class Places:
    """The beds that can take a crop, by name; without any, or where only the class speaks against it, the one reason."""

    names: tuple[str, ...]
    against: str = ""


def places_for(judged: Fit, spaces: Sequence[Space], units: Units) -> Places:
    """Where in the garden a crop finds sun, depth, time and rest, and a class that may work with it.

    Beds whose class it does not suit are named only where there is no other. When no bed takes it, the reason is that of the
    bed which is free longest.
    """
    reasons = [(space, _space_reason(judged, space, units)) for space in spaces]
    willing = [space for space, reason in reasons if not reason]
    suited = [space for space in willing if not _class_reason(judged.crop, space)]
    if suited:
        return Places(tuple(space.name for space in suited))
    if willing:
        return Places(tuple(space.name for space in willing), _class_reason(judged.crop, willing[0]))
    if not reasons:
        return Places((), "No bed has free squares.")
    nearest, reason = max(reasons, key=lambda pair: pair[0].free_to or date.max)
    return Places((), reason if len(reasons) == 1 else f"{nearest.name}: {reason}")


def not_to_sow(
    crops: Iterable[Crop], found: Sequence[Sowable], starts: date, ends: date, setting: Setting
) -> list[tuple[Crop, str]]:
    """The crops that miss on every day between two days, each with the one reason of its usual way in the middle of them."""
    there = {item.crop.key for item in found}
    middle = starts + (ends - starts) / 2
    day = setting.calendar.next_day_here(middle)
    when = day if day is not None and day <= ends else middle
    ways = [(crop, crop.methods[0]) for crop in crops if crop.key not in there]
    return [(judged.crop, lead(judged.findings)) for judged in school_fit.judge_ways(ways, when, setting)]


def to_sow(crops: Iterable[Crop], starts: date, ends: date, setting: Setting) -> list[Sowable]:
    """What can be started between two days, both included, on days on which children are here: best first.

    One line a crop: its way of starting with the best verdict, the usual way first. Those that miss on every day are left out.
    """
    span = (ends - starts).days + 1
    days = np.array(
        [d.toordinal() for d in (starts + timedelta(days=n) for n in range(span)) if setting.calendar.children_here(d)]
    )
    found: list[Sowable] = []
    if not len(days):
        return found
    ways = [(crop, method) for crop in crops for method in crop.methods]
    best: dict[str, tuple[int, Crop, Method, Weighed]] = {}
    for (crop, method), weighed in zip(ways, weigh_ways(ways, days, setting), strict=True):
        grade = int(weighed.verdict.min())
        if grade < RANK["misses"] and (crop.key not in best or grade < best[crop.key][0]):
            best[crop.key] = (grade, crop, method, weighed)
    for grade, crop, method, weighed in best.values():
        good = np.flatnonzero(weighed.verdict == grade)
        first, last = (date.fromordinal(int(days[good[at]])) for at in (0, -1))
        judged = school_fit.at(weighed, int(good[0]), crop, method, setting)
        found.append(Sowable(crop, method, judged.verdict, first, last, len(good), judged))
    return sorted(found, key=lambda s: (RANK[s.verdict], s.fit.dates.first_pick, s.crop.name.en))
