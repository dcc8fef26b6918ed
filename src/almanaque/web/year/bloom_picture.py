"""What flowers when, by months of a year, with the gaps, and who came to it. All values in pixels."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.year.bloom import Bloom, Gap
from almanaque.web import words
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.pictures.timeline import Timeline, TimelineBand

WIDTH, LEFT, RIGHT, ROW, TOP, FOOT = 1220.0, 190.0, 10.0, 26.0, 22.0, 22.0
VISITOR_ROW, MOST_R = 44.0, 17.0  # of the row of visitors, and of its largest dot
HALF_WEEK = timedelta(days=3)


@dataclass(frozen=True)
class BloomRow:
    name: str
    bed: str
    y: float
    host: str
    nectar: bool
    blooms: list[TimelineBand]
    fill: str
    key: str


@dataclass(frozen=True)
class VisitorDot:
    """Visitors of a week: a dot whose area grows with them."""

    x: float
    r: float
    says: str


@dataclass(frozen=True)
class BloomChart:
    width: float
    height: float
    left: float
    plot: float
    rows: list[BloomRow]
    months: list[TimelineBand]
    season: TimelineBand
    gaps: list[TimelineBand]
    day_x: float | None
    hatches: list[Hatch]
    visitors: list[VisitorDot]
    visitors_y: float


def draw(
    rows: Sequence[tuple[Crop, str, Sequence[Bloom]]],
    starts: date,
    ends: date,
    season: tuple[date, date],
    gaps: Sequence[Gap],
    *,
    day: date,
    visitors: Sequence[tuple[date, float]] = (),
) -> BloomChart:
    line = Timeline(starts, ends, LEFT, WIDTH - LEFT - RIGHT)
    ordered = sorted(rows, key=lambda r: (min((b.starts for b in r[2]), default=ends), r[0].name.en))
    drawn = [
        BloomRow(
            crop.name.en,
            bed,
            TOP + n * ROW,
            crop.host_for,
            crop.nectar,
            [line.band(words.span(b.starts, b.ends), b.starts, b.ends) for b in found],
            family(crop.family).fill,
            crop.key,
        )
        for n, (crop, bed, found) in enumerate(ordered)
    ]
    bottom = TOP + len(drawn) * ROW
    height = bottom + (VISITOR_ROW if visitors else 0.0) + FOOT
    most = max((amount for _, amount in visitors), default=1.0)
    return BloomChart(
        WIDTH,
        height,
        LEFT,
        len(drawn) * ROW + 8 + (VISITOR_ROW if visitors else 0.0),
        drawn,
        line.months(),
        line.band("", *season),
        [line.band(words.span(g.starts, g.ends), g.starts, g.ends) for g in gaps],
        line.line(day),
        list({crop.family: family(crop.family) for crop, _, _ in rows}.values()),
        [
            VisitorDot(
                line.at(week + HALF_WEEK),
                round(MOST_R * math.sqrt(amount / most), 1),
                f"{words.count(round(amount), 'visitor')} in the week from {words.short_day(week)}",
            )
            for week, amount in visitors
        ],
        bottom + VISITOR_ROW / 2,
    )
