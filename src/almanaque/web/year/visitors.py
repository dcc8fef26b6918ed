"""Visitors to flowers drawn over the bloom, over the years, and before and after a day."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from uuid import UUID

from almanaque.core.errors import BadInput
from almanaque.core.journal import visitor_counts
from almanaque.core.journal.class_counts import ClassCount
from almanaque.store.journal import class_counts, sightings
from almanaque.web import words
from almanaque.web.request_scope import UnitOfWork, parse_day

NOT_VISITORS = frozenset(
    {"caterpillars", "eggs", "worms", "snails"}
)  # of a tour's visitors, those that do not come to flowers


@dataclass(frozen=True)
class VisitorYear:
    """A year of watching flowers, in words."""

    year: int
    watched: str
    rate: str


@dataclass(frozen=True)
class VisitorsView:
    """`weeks` are drawn over the bloom; the rest is told beside it."""

    weeks: list[tuple[date, float]]
    years: list[VisitorYear]
    sentence: str
    since: str


def read(work: UnitOfWork, beds: Collection[UUID], starts: date, ends: date, since: str) -> VisitorsView:
    """What was counted at some beds: by the week in a year, by year, and in a sentence before and after a day if one is asked for."""
    counted = [
        row for row in class_counts.between(work.connection, ["visitors"]) if row.bed_id is None or row.bed_id in beds
    ]
    toured = [
        f.seen
        for f in sightings.sightings(work.connection, since=starts, until=ends)
        if f.seen.kind == "visitors"
        and f.seen.what not in NOT_VISITORS
        and (not f.seen.bed or UUID(f.seen.bed) in beds)
    ]
    # What was taken over from a class is in the journal as well: it is drawn once.
    seen = [(row.count.day, row.count.amount) for row in counted if not row.taken_over]
    seen += [(one.day, one.amount or 0.0) for one in toured]
    counts = [row.count for row in counted]
    return VisitorsView(
        visitor_counts.weeks(seen, starts, ends),
        [_year(year, rate) for year, rate in visitor_counts.years(counts)],
        _sentence(counts, since) if counts else "",
        since,
    )


def _year(year: int, rate: visitor_counts.VisitorRate) -> VisitorYear:
    watched = f"{words.count(rate.watches, 'count')}, {rate.minutes:g} minutes"
    return VisitorYear(year, watched, f"{rate.in_ten:.1f} in ten minutes")


def _sentence(counts: list[ClassCount], since: str) -> str:
    """Before and after a day that was asked for; empty without one, and what is wrong with it in its place."""
    if not since:
        return ""
    try:
        return str(visitor_counts.before_and_after(counts, parse_day(since, field="since")))
    except BadInput as error:
        return error.message
