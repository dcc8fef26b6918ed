"""Beds by weeks of one school year: sown, growing, picking, against terms and breaks. All values in pixels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.commands.context import Context
from almanaque.core.growth import picking_season
from almanaque.core.school_year import SchoolYear
from almanaque.store.garden import Bed, Planting
from almanaque.web import words
from almanaque.web.pictures.families import Hatch, family

WIDTH, LEFT, RIGHT, TOP, LANE, ROW_PADDING, FOOT = 1220.0, 132.0, 8.0, 8.0, 31.0, 8.0, 26.0
SHORTEST = 3.0


@dataclass(frozen=True)
class Bar:
    """One planting: a sowing dot and seedbed line, the growing bar, and the hatched picking bar; None where outside."""

    id: str
    name: str
    label: str
    y: float
    dot_x: float | None
    seed_x: float
    seed_width: float
    indoors: bool
    grow_x: float
    grow_width: float
    pick_x: float
    pick_width: float
    label_x: float
    label_end: bool
    fill: str
    colour: str
    pencil: bool


@dataclass(frozen=True)
class RowShape:
    id: str
    name: str
    purpose: str
    y: float
    bottom: float
    bars: list[Bar]


@dataclass(frozen=True)
class Band:
    x: float
    width: float
    name: str


@dataclass(frozen=True)
class YearChart:
    width: float
    height: float
    left: float
    plot_height: float
    right: float
    terms: list[Band]
    breaks: list[Band]
    months: list[Band]
    rows: list[RowShape]
    day_x: float | None
    hatches: list[Hatch]


def draw(
    context: Context, year: SchoolYear, beds: Sequence[Bed], plantings: Sequence[Planting], *, day: date, today: date
) -> YearChart:
    """Draw the year. Plantings of one bed that would lie on one another get a lane each."""
    days = (year.ends - year.starts).days + 1
    scale = (WIDTH - LEFT - RIGHT) / days

    def at(moment: date) -> float:
        offset = min(max((moment - year.starts).days, 0), days)
        return round(LEFT + offset * scale, 1)

    def band(name: str, start: date, end: date) -> Band:
        return Band(at(start), round(at(end + timedelta(days=1)) - at(start), 1), name)

    rows, y = [], TOP
    for bed in beds:
        lanes: list[date] = []
        bars = []
        for planting in sorted((p for p in plantings if p.bed_id == bed.id), key=lambda p: p.start_on):
            end = max(planting.bed_to(today), planting.start_on + timedelta(days=40))  # room for the name as well
            lane = next((n for n, free in enumerate(lanes) if free < planting.start_on), len(lanes))
            lanes[lane : lane + 1] = [end]
            bars.append(_bar(context, year, planting, at, y + ROW_PADDING + lane * LANE, today))
        height = max(1, len(lanes)) * LANE + ROW_PADDING + 2
        height = max(height, 42.0)
        rows.append(RowShape(str(bed.id), bed.name, bed.purpose, y, y + height, bars))
        y += height
    months = []
    first = year.starts.replace(day=1)
    while first <= year.ends:
        if first >= year.starts:
            months.append(band(words.month(first), first, first))
        first = (first + timedelta(days=32)).replace(day=1)
    crops = [context.crops[p.crop] for p in plantings]
    return YearChart(
        width=WIDTH, height=y + FOOT, left=LEFT, plot_height=y - TOP, right=WIDTH - RIGHT,
        terms=[band(t.name, t.starts, t.ends) for t in year.terms],
        breaks=[band(b.name, b.starts, b.ends) for b in context.calendar.breaks_between(year.starts, year.ends)],
        months=months, rows=rows, day_x=at(day) if year.starts <= day <= year.ends else None,
        hatches=list({crop.family: family(crop.family) for crop in crops}.values()),
    )  # fmt: skip


def _bar(
    context: Context, year: SchoolYear, planting: Planting, at: Callable[[date], float], y: float, today: date
) -> Bar:
    crop = context.crops[planting.crop]
    hatch = family(crop.family)
    dates = planting.dates
    assert dates is not None
    end = planting.bed_to(today)
    start = planting.events.get("started", planting.start_on)
    up = min(dates.emerge_to or dates.bed_from, end)
    season_first, season_last = picking_season(crop, dates, year.starts)
    if season_first == dates.first_pick:
        season_first = planting.events.get("first picking", season_first)
    if crop.life == "perennial" and planting.status != "finished":
        end = year.ends
    first = min(max(season_first, up), end)
    last = max(first, min(end if planting.status == "finished" else season_last, end))
    start_x, up_x, first_x, last_x = at(start), at(up), at(first), at(last)
    picking = f"picking {words.span(first, last)}" if planting.status != "lost" else "lost"
    return Bar(
        id=str(planting.id), name=crop.name.en,
        label=f"{crop.name.en}, {planting.status}: starts {words.short_day(start)}, {picking}; "
              f"{planting.verdict or 'not judged'}.",
        y=y, dot_x=start_x if start_x > LEFT else None, seed_x=start_x, seed_width=round(up_x - start_x, 1),
        indoors=planting.method == "indoors", grow_x=up_x, grow_width=round(max(0.0, first_x - up_x), 1),
        pick_x=min(first_x, WIDTH - RIGHT - SHORTEST), pick_width=round(max(SHORTEST, last_x - first_x), 1),
        label_x=min(start_x + 6, WIDTH - RIGHT - 4) if start_x < WIDTH - 110 else start_x - 6,
        label_end=start_x >= WIDTH - 110, fill=hatch.fill, colour=hatch.colour,
        pencil=planting.status == "pencilled",
    )  # fmt: skip
