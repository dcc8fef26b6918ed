"""What flowers when, by months of a year, with the gaps. All values in pixels."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.crops.crop import Crop
from almanaque.core.year.bloom import Bloom, Gap
from almanaque.web import words
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.pictures.timeline import Timeline, TimelineBand

WIDTH, LEFT, RIGHT, ROW, TOP, FOOT = 1220.0, 190.0, 10.0, 26.0, 22.0, 22.0


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


def draw(
    rows: Sequence[tuple[Crop, str, Sequence[Bloom]]],
    starts: date,
    ends: date,
    season: tuple[date, date],
    gaps: Sequence[Gap],
    *,
    day: date,
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
    height = TOP + len(drawn) * ROW + FOOT
    return BloomChart(
        WIDTH,
        height,
        LEFT,
        len(drawn) * ROW + 8,
        drawn,
        line.months(),
        line.band("", *season),
        [line.band(words.span(g.starts, g.ends), g.starts, g.ends) for g in gaps],
        line.line(day),
        list({crop.family: family(crop.family) for crop, _, _ in rows}.values()),
    )
