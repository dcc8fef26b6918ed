"""The turn of the year: what stays in the ground, what a bed gave in a sentence, next year's calendar from this one, votes counted."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta

from almanaque.core.school.calendar_import import year_name
from almanaque.core.school.school_year import SUDDEN, HalfDay, SchoolYear, Span

STEPS = ("plantings", "beds", "seed", "book", "groups", "calendar", "map")
STATES = ("", "cleared", "cleared and covered", "kept as it stands")
WEEKS_ON = timedelta(weeks=52)


def next_year(year: SchoolYear) -> SchoolYear:
    """Next year's calendar to begin from: the same terms, planned breaks, half days and dates 52 weeks on, weekdays kept.

    It begins the day after this one ends when 52 weeks would leave a gap or overlap. **Source:** our own rule.
    """

    def spans(found: Iterable[Span]) -> tuple[Span, ...]:
        return tuple(replace(span, starts=span.starts + WEEKS_ON, ends=span.ends + WEEKS_ON) for span in found)

    starts = max(year.starts + WEEKS_ON, year.ends + timedelta(days=1))
    ends = max(year.ends + WEEKS_ON, starts + timedelta(days=1))
    terms = tuple(replace(t, starts=max(t.starts, starts)) for t in spans(year.terms) if t.ends >= starts)
    inside = [
        span
        for span in spans(c for c in year.closures if c.kind not in SUDDEN)
        if starts <= span.starts and span.ends <= ends
    ]
    halves = tuple(HalfDay(h.name, h.day + WEEKS_ON, h.until) for h in year.half_days if h.day + WEEKS_ON >= starts)
    feasts = tuple(f for f in spans(year.feasts) if f.starts >= starts)
    return SchoolYear(year_name(starts, ends), starts, ends, terms, tuple(inside), halves, feasts)


@dataclass(frozen=True)
class Tally:
    """Votes for a crop, class by class, and together."""

    crop: str
    by_class: Mapping[str, int]

    @property
    def total(self) -> int:
        return sum(self.by_class.values())


def tally(votes: Iterable[tuple[str, str, int]], crops: Iterable[str]) -> list[Tally]:
    """Votes (class, crop, count) added up, the most first, then by name; crops without a vote stay in."""
    found: dict[str, dict[str, int]] = {crop: {} for crop in crops}
    for group, crop, count in votes:
        if crop in found:
            found[crop][group] = found[crop].get(group, 0) + count
    return sorted((Tally(crop, by) for crop, by in found.items()), key=lambda t: (-t.total, t.crop))


def winners(tallies: Iterable[Tally]) -> list[Tally]:
    """The crops that got a vote, and each class's own favourite first of all, so that every class gets its wish if it can."""
    ordered = [t for t in tallies if t.total]
    favourites: list[str] = []
    for group in sorted({group for t in ordered for group in t.by_class}):
        best = max(ordered, key=lambda t: (t.by_class.get(group, 0), t.total), default=None)
        if best is not None and best.by_class.get(group, 0) and best.crop not in favourites:
            favourites.append(best.crop)
    return sorted(ordered, key=lambda t: (t.crop not in favourites, -t.total, t.crop))


def bed_sentence(name: str, given: Iterable[tuple[str, str]], standing: Iterable[str]) -> str:
    """A first sentence for a bed from what it gave (crop, weight) and what still stands, for a person to change."""
    gave = ", ".join(f"{weight} of {crop.lower()}" for crop, weight in given)
    stays = ", ".join(dict.fromkeys(crop.lower() for crop in standing))
    first = f"{name} gave {gave}." if gave else f"Nothing was picked from {name}."
    return f"{first} {stays.capitalize()} still stand{'' if ',' in stays else 's'}." if stays else first


def stays(dates_to: date, next_starts: date) -> bool:
    """True for what still holds its place when the next year begins: it is carried over by itself."""
    return dates_to >= next_starts
