"""Beds by weeks of one school year or term: sown, growing, picking, against terms and breaks. All values in pixels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from uuid import UUID

from almanaque.commands.context import Context
from almanaque.core.growth.growth_dates import picking_window
from almanaque.formats.crops import portraits
from almanaque.store.garden.bed_closures import Closure
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.year.promises_and_themes import Promise
from almanaque.web import words
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.pictures.timeline import Timeline, TimelineBand

WIDTH, LEFT, RIGHT, TOP, LANE, ROW_PADDING, FOOT, HEAD = 1220.0, 132.0, 8.0, 8.0, 31.0, 8.0, 26.0, 16.0
SHORTEST = 3.0
LABEL_DAYS = 40  # room for the name of a planting

EMBLEM_PX = 17.0


@dataclass(frozen=True)
class YearBar:
    """One planting: a sowing dot and seedbed line, the growing bar, and the hatched picking bar; None where outside.

    `drag` names the step that a hand may move: its first day, or setting out.
    """

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
    fine_x: float
    fine_width: float
    label_x: float
    label_end: bool
    emblem: str
    emblem_x: float
    fill: str
    colour: str
    pencil: bool
    verdict_class: str
    drag: str
    drag_x: float | None
    drag_day: str


@dataclass(frozen=True)
class RowShape:
    id: str
    name: str
    purpose: str
    y: float
    bottom: float
    height: float
    bars: list[YearBar]
    closed: list[TimelineBand]
    promised: list[TimelineBand]


@dataclass(frozen=True)
class YearChart:
    """`starts` and `day_px` let the page turn a place on the drawing into a day."""

    width: float
    height: float
    left: float
    plot_height: float
    right: float
    terms: list[TimelineBand]
    breaks: list[TimelineBand]
    months: list[TimelineBand]
    weeks: list[TimelineBand]
    rows: list[RowShape]
    day_x: float | None
    hatches: list[Hatch]
    starts: str
    days: int
    day_px: float
    moons: list[TimelineBand] = field(default_factory=list)


@dataclass(frozen=True)
class YearPlanting:
    """What the chart shows besides plantings: closed beds, promised ones, full and new moons (day, words)."""

    closures: Sequence[Closure] = ()
    promises: Sequence[Promise] = ()
    moons: Sequence[tuple[date, str]] = ()
    movable: frozenset[UUID] = frozenset()


VERDICT_CLASS = {"fits": "fits", "with care": "care", "misses": "misses"}


def draw(
    context: Context,
    starts: date,
    ends: date,
    beds: Sequence[Bed],
    plantings: Sequence[Planting],
    *,
    day: date,
    today: date,
    shown: YearPlanting | None = None,
) -> YearChart:
    """Draw the time from a day to a day. Plantings of one bed that would lie on one another get a lane each."""
    shown = shown or YearPlanting()
    line = Timeline(starts, ends, LEFT, WIDTH - LEFT - RIGHT)
    days, at, band = line.days, line.at, line.band

    by_bed: dict[UUID, list[Planting]] = {}
    for planting in plantings:
        by_bed.setdefault(planting.bed_id, []).append(planting)
    rows, y = [], TOP + HEAD
    for bed in beds:
        lanes: list[date] = []
        bars = []
        for planting in sorted(by_bed.get(bed.id, ()), key=lambda p: p.start_on):
            work = planting.start_on + timedelta(days=round(LABEL_DAYS * days / 365))
            end = max(planting.bed_to(today), work)
            lane = next((n for n, free in enumerate(lanes) if free < planting.start_on), len(lanes))
            lanes[lane : lane + 1] = [end]
            bars.append(_bar(context, starts, ends, planting, at, y + ROW_PADDING + lane * LANE, today, shown.movable))
        height = max(1, len(lanes)) * LANE + ROW_PADDING + 2
        height = max(height, 42.0)
        closed = [
            band(c.reason, c.starts, c.ends)
            for c in shown.closures
            if c.bed_id == bed.id and c.starts <= ends and c.ends >= starts
        ]
        promised = [
            TimelineBand(at(p.from_day), 0, f"free from {words.short_day(p.from_day)} for {p.what_for}")
            for p in shown.promises
            if p.bed_id == bed.id and starts <= p.from_day <= ends
        ]
        rows.append(RowShape(str(bed.id), bed.name, bed.purpose, y, y + height, height, bars, closed, promised))
        y += height
    crops = [context.crops[p.crop] for p in plantings]
    years = [year for year in context.calendar.years if year.starts <= ends and year.ends >= starts]
    terms = [t for year in years for t in year.terms if t.starts <= ends and t.ends >= starts]
    return YearChart(
        width=WIDTH,
        height=y + FOOT,
        left=LEFT,
        plot_height=y - TOP,
        right=WIDTH - RIGHT,
        terms=[band(t.name, t.starts, t.ends) for t in terms],
        breaks=[band(b.name, b.starts, b.ends) for b in context.calendar.breaks_between(starts, ends)],
        months=line.months(),
        weeks=_weeks(context, starts, ends, at),
        rows=rows,
        day_x=line.line(day),
        hatches=list({crop.family: family(crop.family) for crop in crops}.values()),
        starts=starts.isoformat(),
        days=line.days,
        day_px=round(line.day_px, 5),
        moons=[TimelineBand(at(moon), 0, said) for moon, said in shown.moons if starts <= moon <= ends],
    )


def _weeks(context: Context, starts: date, ends: date, at: Callable[[date], float]) -> list[TimelineBand]:
    """Numbers of the school weeks, each week while there is room, else every fourth."""
    monday = starts - timedelta(days=starts.weekday())
    every = 1 if (ends - starts).days < 200 else 4
    found = []
    while monday <= ends:
        number = context.calendar.week_number(monday + timedelta(days=4))
        shown = at(max(monday, starts))
        if number is not None and (number - 1) % every == 0 and shown < WIDTH - RIGHT - 14:
            found.append(TimelineBand(shown, 0, str(number)))
        monday += timedelta(weeks=1)
    return found


def _bar(
    context: Context,
    starts: date,
    ends: date,
    planting: Planting,
    at: Callable[[date], float],
    y: float,
    today: date,
    movable: frozenset[UUID],
) -> YearBar:
    crop = context.crops[planting.crop]
    hatch = family(crop.family)
    dates = planting.dates
    assert dates is not None
    end = planting.bed_to(today)
    start = planting.events.get("started", planting.start_on)
    up = min(dates.emerge_to or dates.bed_from, end)
    window = picking_window(crop, dates, starts, first_picked=planting.events.get("first picking"))
    season_first, season_last = window.begun or window.first, window.best
    late = window.first + (dates.first_pick_late - dates.first_pick)
    early, late = (window.begun, window.begun) if window.begun else (window.early, late)
    if crop.life == "perennial" and planting.status != "finished":
        end = max(end, ends)
    first = min(max(season_first, up), end)
    last = max(first, min(end if planting.status == "finished" else season_last, end))
    start_x, up_x, first_x, last_x = at(start), at(up), at(first), at(last)
    picking = f"picking {words.span(first, last)}" if planting.status != "lost" else "lost"
    years = (
        f", {dates.fit_years} of {dates.of_years} years"
        if dates.of_years and planting.status not in ("finished", "lost")
        else ""
    )
    over = planting.status in ("finished", "lost")
    drag, drag_day = "", start
    if planting.id in movable:
        drag = "transplant" if planting.events else "start"
        drag_day = dates.bed_from if planting.events else start
    is_end = start_x >= WIDTH - 110
    label_x = start_x - EMBLEM_PX - 8 if is_end else min(start_x + EMBLEM_PX + 6, WIDTH - RIGHT - 4)
    return YearBar(
        id=str(planting.id),
        name=crop.name.en,
        label=f"{crop.name.en}, {planting.status}: starts {words.short_day(start)}, {picking}; {planting.verdict or 'not judged'}{years}.",
        y=y,
        dot_x=start_x if start_x > LEFT else None,
        seed_x=start_x,
        seed_width=round(up_x - start_x, 1),
        indoors=planting.method == "indoors",
        grow_x=up_x,
        grow_width=round(max(0.0, first_x - up_x), 1),
        pick_x=min(first_x, WIDTH - RIGHT - SHORTEST),
        pick_width=round(max(SHORTEST, last_x - first_x), 1),
        fine_x=at(early),
        fine_width=round(at(late) - at(early), 1),
        label_x=label_x,
        label_end=is_end,
        emblem=portraits.address(crop, "emblem", px=EMBLEM_PX),
        emblem_x=round(label_x + 4 if is_end else label_x - EMBLEM_PX - 3, 1),
        fill=hatch.fill,
        colour=hatch.colour,
        pencil=planting.status == "pencilled",
        verdict_class=VERDICT_CLASS.get(planting.verdict or "", "") if not over else "",
        drag=drag,
        drag_x=at(drag_day) if drag and starts <= drag_day <= ends else None,
        drag_day=drag_day.isoformat(),
    )
