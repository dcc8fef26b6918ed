"""The book: when each crop was picked, month by month, and what became of the harvest."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Annotated

from fastapi import APIRouter, Depends, Response
from markupsafe import Markup

from almanaque.commands.harvest import harvest_book
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.harvest import picking, yields
from almanaque.core.units import GRAMS_PER_POUND, Units, format_mass
from almanaque.store.harvest import pickings
from almanaque.web import frame, words
from almanaque.web.harvest.harvest_book import MOST_SEASONS
from almanaque.web.pictures import charts
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]


@router.get("/harvest/calendar")
def picking_calendar(scope: Look, season: str = "") -> Response:
    """When each crop was picked: a square a month."""
    with scope.open() as work:
        seasons = harvest_book.seasons_of(work.context)
        chosen = season if season in seasons else _season_now(work, seasons)
        values = {
            "season": chosen,
            "seasons": [(name, name) for name in reversed(list(seasons))],
            **calendar_picture(work, chosen, seasons),
        }
        return frame.page(work, "harvest", "Picking calendar", values, template="harvest/picking_calendar.html")


def _season_now(work: UnitOfWork, seasons: yields.Seasons) -> str:
    return next(
        (name for name, (first, last) in reversed(list(seasons.items())) if first <= work.day), next(iter(seasons), "")
    )


@dataclass(frozen=True)
class CalendarSquareView(View):
    """A row of `CalendarPictureView`."""

    name: str
    month: str
    value: float
    words: str


@dataclass(frozen=True)
class CalendarPictureView(View):
    """Filled by `calendar_picture`, read by its template."""

    chart: Markup | None
    sentence: str
    months: list[str]
    rows: list[tuple[str, list[str]]]


def calendar_picture(work: UnitOfWork, season: str, seasons: yields.Seasons) -> CalendarPictureView:
    """The picking calendar of a season with its table and sentence."""
    if season not in seasons:
        return CalendarPictureView(chart=None, sentence="There is no school year on file yet.", months=[], rows=[])
    units = work.context.school.units
    first, last = seasons[season]
    sums = pickings.months(work.connection, first, min(last, work.day))
    months = _months(first, last)
    cells: dict[str, dict[date, pickings.MonthSum]] = {}
    for one in sums:
        name = work.context.crops[one.crop].name.en if one.crop in work.context.crops else one.crop
        cells.setdefault(name, {})[one.month] = one
    order = sorted(cells, key=lambda name: (min(cells[name]), name))
    names = [words.month(month) for month in months]
    points = [
        CalendarSquareView(
            name=name,
            month=words.month(month),
            value=float(one.grams),
            words=_short_mass(float(one.grams), units) if one.grams else f"{one.pickings}×",
        )
        for name in order
        for month, one in sorted(cells[name].items())
    ]
    rows = [(name, [_cell(cells[name].get(month), units) for month in months]) for name in order]
    if not points:
        return CalendarPictureView(chart=None, sentence=f"Nothing was picked in {season} yet.", months=names, rows=[])
    by_month: dict[date, int] = {}
    for one in sums:
        by_month[one.month] = by_month.get(one.month, 0) + one.pickings
    busiest = max(by_month, key=lambda month: by_month[month])
    sentence = (
        f"Pickings of {season} by crop and month: {words.count(len(order), 'crop')} in {words.count(len(by_month), 'month')}, "
        f"most in {words.month_name(busiest)} with {words.count(by_month[busiest], 'picking')}."
    )
    return CalendarPictureView(
        chart=charts.calendar(points, months=names, unit="g", description=sentence),
        sentence=sentence,
        months=names,
        rows=rows,
    )


def _months(first: date, last: date) -> list[date]:
    found: list[date] = []
    month = first.replace(day=1)
    while month <= last and len(found) < 13:
        found.append(month)
        month = (month + timedelta(days=32)).replace(day=1)
    return found[:12] if len(found) > 12 and found[0].month == found[-1].month else found


def _short_mass(grams: float, units: Units) -> str:
    value = grams / float(GRAMS_PER_POUND) if units == "us" else grams / 1000
    return f"{value:.1f}" if value < 10 else f"{value:.0f}"


def _cell(one: pickings.MonthSum | None, units: Units) -> str:
    if one is None:
        return ""
    weight = format_mass(one.grams, units) if one.grams else ""
    return words.joined([weight, f"{one.without_weight} without weight" if one.without_weight else ""])


@router.get("/harvest/uses")
def uses(scope: Look) -> Response:
    """What became of the harvest, season by season."""
    with scope.open() as work:
        return frame.page(work, "harvest", "What became of it", uses_picture(work), template="harvest/uses.html")


@dataclass(frozen=True)
class UseBarView(View):
    """A row of `UsesPictureView`."""

    name: str
    season: str
    value: float


@dataclass(frozen=True)
class UsesPictureView(View):
    """Filled by `uses_picture`, read by its template."""

    chart: Markup | None
    sentence: str
    names: list[str]
    table: list[tuple[str, list[str]]]


def uses_picture(work: UnitOfWork, season: str = "", known: Book | None = None) -> UsesPictureView:
    """Uses by season with chart, table and sentence."""
    units = work.context.school.units
    found = known or harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
    seasons = found.seasons
    rows = [
        r for r in harvest_book.use_sums(work.connection, found, until=work.day) if not season or r.season == season
    ]
    sums: dict[tuple[str, str], Decimal] = {}
    missing: dict[tuple[str, str], int] = {}
    for row in rows:
        sums[row.use, row.season] = sums.get((row.use, row.season), Decimal(0)) + row.grams
        missing[row.use, row.season] = missing.get((row.use, row.season), 0) + row.without_weight
    names = [s for s in seasons if any(key[1] == s for key in sums)][-MOST_SEASONS:]
    factor = float(1 / GRAMS_PER_POUND) if units == "us" else 0.001
    table = [
        (use, [_use_cell(sums.get((use, s)), missing.get((use, s), 0), units) for s in names])
        for use in picking.USES
        if any((use, s) in sums for s in names)
    ]
    if not table:
        return UsesPictureView(chart=None, sentence="Nothing has been picked yet.", names=[], table=[])
    points = [
        UseBarView(name=use, season=s, value=round(float(sums.get((use, s), 0)) * factor, 3))
        for use, _ in table
        for s in names
    ]
    newest = names[-1]
    total = sum((grams for (_, s), grams in sums.items() if s == newest), Decimal(0))
    use, most = max(((u, g) for (u, s), g in sums.items() if s == newest), key=lambda pair: pair[1])
    sentence = f"What became of the harvest by weight, {'lb' if units == 'us' else 'kg'}."
    if total:
        sentence += f" {newest}: {float(most / total):.0%} of what has a weight went to “{use}”."
    return UsesPictureView(
        chart=charts.bars(points, unit="lb" if units == "us" else "kg", description=sentence),
        sentence=sentence,
        names=names,
        table=table,
    )


def _use_cell(grams: Decimal | None, missing: int, units: Units) -> str:
    if grams is None:
        return "–"
    return words.joined([format_mass(grams, units) if grams else "", f"{missing} without weight" if missing else ""])
