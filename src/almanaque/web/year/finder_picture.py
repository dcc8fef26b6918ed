"""The sowing-day finder: one line for each sowing week, from the seedbed to the picking, against terms and breaks. Pixels."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import groupby

from almanaque.core.growth.sowing_days import Verdict, Weighed
from almanaque.core.school.school_year import Calendar
from almanaque.web.pictures.timeline import Timeline, TimelineBand

WIDTH, ROW = 500.0, 24.0
AFTER_DAYS, LONGEST_DAYS = 10, 480


@dataclass(frozen=True)
class FinderLine:
    """One sowing week: the dot, the seedbed (dotted while indoors), growth, picking at its best, how long it may stand after
    that, and the fine bar of eight first pickings in ten.
    """

    dot_x: float
    indoors_width: float
    bed_x: float
    seed_width: float
    grow_x: float
    grow_width: float
    pick_x: float
    pick_width: float
    stand_x: float
    stand_width: float
    fine_x: float
    fine_width: float
    cross: float
    verdict: Verdict
    ripens: bool


@dataclass(frozen=True)
class FinderFrame:
    """What all lines share: where terms, breaks and months lie, the ribbon's day, and the day asked for."""

    width: float
    row: float
    terms: list[TimelineBand]
    breaks: list[TimelineBand]
    months: list[TimelineBand]
    chart: list[TimelineBand]
    day_x: float | None
    goal_x: float | None


@dataclass(frozen=True)
class Finder:
    frame: FinderFrame
    lines: list[FinderLine]


def draw(
    weighed: Weighed,
    rows: Sequence[int],
    calendar: Calendar,
    *,
    day: date,
    goal: date | None,
    chart: frozenset[int] | None = None,
) -> Finder:
    """Draw the weighed days of these rows on one scale, which runs from the first to the end of the last picking.

    `chart` are the months in which the local office's chart has the crop started.
    """
    if not rows:
        empty = FinderFrame(WIDTH, ROW, [], [], [], [], None, None)
        return Finder(empty, [])
    first = date.fromordinal(int(weighed.days[rows[0]]) - 3)
    ends = [
        int(max(weighed.last[r, 2], weighed.stands[r, 1])) if weighed.ripe[r] else int(weighed.days[r]) + 60
        for r in rows
    ]
    latest = max(*ends, int(weighed.days[rows[-1]]) + 14, goal.toordinal() if goal else 0) + AFTER_DAYS
    line_of = Timeline(first, min(date.fromordinal(latest), first + timedelta(days=LONGEST_DAYS)), 0.0, WIDTH)
    start, end = line_of.starts, line_of.ends
    terms = [t for year in calendar.years for t in year.terms if t.starts <= end and t.ends >= start]
    frame = FinderFrame(
        WIDTH,
        ROW,
        [line_of.band(t.name, t.starts, t.ends) for t in terms],
        [line_of.band(b.name, b.starts, b.ends) for b in calendar.breaks_between(start, end)],
        line_of.months(),
        _chart_bands(line_of, chart or frozenset()),
        line_of.line(day),
        line_of.line(goal),
    )

    def at(ordinal: int) -> float:
        return line_of.at(date.fromordinal(ordinal))

    def line(row: int) -> FinderLine:
        sown, bed = int(weighed.days[row]), int(weighed.bed[row])
        ripens = bool(weighed.ripe[row])
        up = max(int(weighed.up[row, 1]), bed) if weighed.up[row, 1] > 0 else bed
        early, middle, late = (int(d) for d in weighed.first[row]) if ripens else (up, up, up)
        ends = max(int(weighed.last[row, 1]), middle) if ripens else up
        stands = max(int(weighed.stands[row, 1]), ends) if ripens else ends
        picking = round(max(3.0, at(ends + 1) - at(middle)), 1)
        return FinderLine(
            dot_x=at(sown),
            indoors_width=round(at(bed) - at(sown), 1),
            bed_x=at(bed),
            seed_width=round(at(up) - at(bed), 1),
            grow_x=at(up),
            grow_width=round(max(0.0, at(middle) - at(up)), 1),
            pick_x=at(middle),
            pick_width=picking,
            cross=min(picking, 14.0),
            stand_x=round(at(middle) + picking, 1),
            stand_width=round(max(0.0, at(stands + 1) - at(middle) - picking), 1),
            fine_x=at(early),
            fine_width=round(at(late) - at(early), 1),
            verdict=weighed.verdict_of(row),
            ripens=ripens,
        )

    return Finder(frame, [line(row) for row in rows])


def _chart_bands(line_of: Timeline, months: frozenset[int]) -> list[TimelineBand]:
    """The stretches of days that lie in these months."""
    days = [line_of.starts + timedelta(days=n) for n in range((line_of.ends - line_of.starts).days + 1)]
    stretches = [[*stretch] for inside, stretch in groupby(days, lambda day: day.month in months) if inside]
    return [line_of.band("the local office's chart", stretch[0], stretch[-1]) for stretch in stretches]
