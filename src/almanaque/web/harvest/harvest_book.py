"""The book: what the beds gave by bed, crop, variety, part, class, team and season, each way with chart, table and sentence."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Response
from markupsafe import Markup

from almanaque.commands.harvest import harvest_book
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.harvest import money, yields
from almanaque.core.harvest.yields import PickedSum, Total
from almanaque.core.school import classes
from almanaque.core.units import (
    GRAMS_PER_OUNCE,
    GRAMS_PER_POUND,
    MASS_UNIT,
    SQUARE_METRES_PER_SQUARE_FOOT,
    Units,
    area_units,
    format_yield,
    mass_in,
)
from almanaque.formats import csv_table
from almanaque.web import frame
from almanaque.web.pictures import charts
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
MOST_BARS, MOST_SEASONS = 40, 4
NO_CLASS = "no class named"
# Said of a chart across crops: whether each bar is a crop, or a bed, class or team with crops of its own.
NO_RANKING = {
    True: "Crops weigh what they weigh, so the bars are no ranking: compare one crop with itself over the years.",
    False: "They grew different crops, so the bars are no ranking: choose one crop for a fair comparison.",
}
WAYS = {
    "bed": "Bed",
    "crop": "Crop",
    "variety": "Variety",
    "part": "Part",
    "class": "Class",
    "team": "Team",
    "season": "School year",
}


@dataclass(frozen=True)
class BookLine:
    """One row of the book in finished words, with the total it comes from. `then` is the grade that a class was in that year.

    Within a column all figures have the same unit.
    """

    name: str
    season: str
    then: str
    href: str
    total: Total
    pickings: str
    weight: str
    estimated: str
    per_area: str
    per_plant: str
    bed_days: str
    usual: str
    against: str
    worth: str
    servings: str


@router.get("/harvest/book")
def page(scope: Look, by: str = "bed", season: str = "", crop: str = "") -> Response:
    """The book one way: a chart, its table, and a sentence that says what they show."""
    way = by if by in WAYS else "bed"
    with scope.open() as work:
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        lines = book_lines(work, found, way, season, crop)
        values = {
            "by": way,
            "ways": WAYS.items(),
            "heading": WAYS[way],
            "season": season,
            "crop": crop,
            "seasons": [("", "all school years"), *((s, s) for s in reversed(found.known_seasons))],
            "crops": [("", "all crops"), *_crops_picked(found)],
            "lines": lines,
            "any_worth": any(line.worth for line in lines),
            "together": book_lines(work, found, "season", season, crop),
            "across": _across(work, found, crop),
            **yield_picture(work, lines, way, found.known_seasons, one_crop=bool(crop)),
        }
        return frame.page(work, "harvest", "The book", values, template="harvest/harvest_book.html")


@router.get("/harvest/book.csv")
def as_csv(scope: Look, by: str = "bed", season: str = "", crop: str = "") -> Response:
    """The same lines with units in the header."""
    way = by if by in WAYS else "bed"
    with scope.open() as work:
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        header = [
            WAYS[way].lower(),
            "school_year",
            "pickings",
            "weighed_g",
            "estimated_g",
            "estimated_low_g",
            "estimated_high_g",
            "pickings_without_weight",
            "ground_m2",
            "plants",
            "ground_days_m2_d",
            "yield_g_per_m2",
            "yield_g_per_plant",
            "first",
            "last",
        ]
        rows = [
            [
                line.name,
                line.season,
                t.pickings,
                t.weighed_g,
                t.estimated_g,
                t.low_g,
                t.high_g,
                t.without_weight,
                round(t.area_m2, 3),
                t.plants,
                round(t.area_days, 1),
                _rounded(t.per_square_metre),
                _rounded(t.per_plant_g),
                t.first.isoformat(),
                t.last.isoformat(),
            ]
            for line in book_lines(work, found, way, season, crop)
            for t in [line.total]
        ]
        headers = {"Content-Disposition": f"attachment; filename=book-by-{way}.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 1)


def _crops_picked(found: Book) -> list[tuple[str, str]]:
    crops = {found.crop_of(s).key: found.crop_of(s).name.en for s in found.sums}
    return sorted(crops.items(), key=lambda pair: pair[1])


def cohorts(work: UnitOfWork) -> dict[str, str]:
    """What each group is called through all its years; two that would be called alike get their own names behind it."""
    grades, calendar = work.context.school.grades, work.context.calendar
    found = {str(g.id): classes.cohort_words(g.cohort, work.today, calendar, grades) for g in work.context.groups}
    called = list(found.values())
    return {
        str(g.id): f"{found[str(g.id)]} ({g.name})" if called.count(found[str(g.id)]) > 1 else found[str(g.id)]
        for g in work.context.groups
    }


def _then(work: UnitOfWork, found: Book, group: str, season: str) -> str:
    """The grade that a class was in in a school year; empty for groups without one."""
    span = found.seasons.get(season)
    row = next((g for g in work.context.groups if str(g.id) == group), None)
    if span is None or row is None:
        return ""
    grade = classes.grade_on(row.cohort, span[0], work.context.calendar, work.context.school.grades)
    return "" if grade is None else work.context.school.grades.name(grade)


def _key(work: UnitOfWork, found: Book, way: str) -> Callable[[PickedSum], str]:
    names = cohorts(work)
    grown = found.grown
    keys: dict[str, Callable[[PickedSum], str]] = {
        "bed": lambda s: grown[s.planting].bed,
        "crop": lambda s: found.crop_of(s).name.en,
        "variety": lambda s: f"{found.crop_of(s).name.en} {grown[s.planting].variety}".strip(),
        "part": lambda s: f"{found.crop_of(s).name.en}, {s.part}",
        "class": lambda s: names.get(s.group, "a class that is not on file") if s.group else NO_CLASS,
        "team": lambda s: s.team or "no team named",
        "season": lambda s: "All beds",
    }
    return keys[way]


def book_lines(work: UnitOfWork, found: Book, way: str, season: str = "", crop: str = "") -> list[BookLine]:
    """Lines of the book, in the order of the beds or by name, seasons oldest first."""
    prices = harvest_book.values(work.connection, work.context)
    asked = (
        "lines",
        way,
        season,
        crop,
        work.today,
        repr(sorted(prices.items())),
        tuple(sorted(work.context.group_names(work.today).items())),
    )
    return found.once(asked, lambda: _book_lines(work, found, way, season, crop, prices))


def _book_lines(work: UnitOfWork, found: Book, way: str, season: str, crop: str, prices: Any) -> list[BookLine]:
    key = _key(work, found, way)
    sums = found.within(season, crop)
    totals = found.totals(sums, lambda s: (key(s), s.season))
    order = {row.bed: row.bed_ordinal for row in found.rows}
    season_at = {name: number for number, name in enumerate(found.known_seasons)}
    members: dict[tuple[str, str], list[PickedSum]] = {}
    for one in sums:
        members.setdefault((key(one), one.season), []).append(one)
    ordered = sorted(totals, key=lambda k: (order.get(k[0], 0) if way == "bed" else 0, k[0], season_at.get(k[1], -1)))
    return [
        _line(work, found, way, name, year, totals[name, year], members[name, year], prices) for name, year in ordered
    ]


def _line(
    work: UnitOfWork,
    found: Book,
    way: str,
    name: str,
    season: str,
    total: Total,
    members: list[PickedSum],
    prices: Any,
) -> BookLine:
    units = work.context.school.units
    per_area, per_plant = total.per_square_metre, total.per_plant_g
    least = "" if total.complete else "at least "
    usual = against = ""
    crops = {(found.crop_of(s).key, s.part) for s in members}
    if len(crops) == 1:
        ((crop_key, part),) = crops
        crop = work.context.crops[crop_key]
        if part == crop.part:
            low, high = crop.yield_g_m2
            usual = f"{format_yield(low, units).split()[0]} to {format_yield(high, units)}"
            against = yields.against_usual(crop, total, part)
    groups = {s.group for s in members}
    of_class = way == "class" and len(groups) == 1 and "" not in groups
    return BookLine(
        name=name,
        season=season,
        then=_then(work, found, min(groups), season) if of_class else "",
        href=f"/harvest/classes/{min(groups)}" if of_class else "",
        total=total,
        pickings=f"{total.pickings:,}" + (f", {total.without_weight} without weight" if total.without_weight else ""),
        weight=f"{least}{heavy(total.grams, units)}" if total.known else "no weight yet",
        estimated=f"{mass_in(total.low_g, units):,} to {heavy(total.high_g, units)}" if total.estimated_g else "–",
        per_area=f"{least}{format_yield(per_area, units)}" if per_area is not None else "–",
        per_plant=f"{least}{_light(per_plant, units)}" if per_plant is not None else "–",
        bed_days=f"{total.area_days / total.area_m2 if total.area_m2 else 0:,.0f}"
        if way == "bed"
        else f"{area_units(total.area_days, units):,.0f}",
        usual=usual,
        against=against,
        worth=_worth(work, found, members, prices),
        servings=_servings(found, members),
    )


def heavy(grams: Decimal | float, units: Units) -> str:
    """A mass [g] as the columns of the book have it, all in one unit."""
    return f"{mass_in(grams, units):,} {MASS_UNIT[units]}"


def _light(grams: float, units: Units) -> str:
    return f"{grams / float(GRAMS_PER_OUNCE):,.1f} oz" if units == "us" else f"{grams:,.0f} g"


def _worth(work: UnitOfWork, found: Book, members: list[PickedSum], prices: Any) -> str:
    """What the pickings with a weight are worth by the local price list; only crops with a price, and said so."""
    crops = {found.crop_of(s).key for s in members}
    priced = crops & set(prices)
    if not priced:
        return ""
    minor = 0
    for one in members:
        if (key := found.crop_of(one).key) in priced:
            price_minor, grams, _ = prices[key]
            minor += money.worth(one.weighed_g + one.estimated_g, price_minor=price_minor, grams_per_unit=grams)
    part = f", {len(priced)} of {len(crops)} crops priced" if len(priced) < len(crops) else ""
    return f"{money.write(minor, work.context.school.currency)}{part}"


def _servings(found: Book, members: list[PickedSum]) -> str:
    counts = [yields.servings(found.crop_of(s), s.weighed_g + s.estimated_g) for s in members]
    known = [count for count in counts if count is not None]
    return f"{sum(known):,}" if known else ""


def _across(work: UnitOfWork, found: Book, crop: str) -> str:
    """The sentence on a crop over the seasons, like with like: the part that is usually picked."""
    if not crop or crop not in work.context.crops:
        return ""
    chosen = work.context.crops[crop]
    sums = [s for s in found.within("", crop) if s.part == chosen.part]
    totals = found.totals(sums, lambda s: s.season)
    rows = [(season, totals[season]) for season in found.known_seasons if season in totals]
    units = work.context.school.units
    return f"{chosen.name.en}, {chosen.part}, for the ground picked: {yields.across_seasons(rows, lambda v: format_yield(v, units))}"


@dataclass(frozen=True)
class YieldPictureView(View):
    """Filled by `yield_picture`, read by its template."""

    chart: Markup | None
    sentence: str


def yield_picture(
    work: UnitOfWork, lines: list[BookLine], way: str, known_seasons: Sequence[str], *, one_crop: bool
) -> YieldPictureView:
    """The chart of some lines with its sentence: beds per area, everything else by weight.

    Only of one crop is a most spoken of; across crops the sentence says that the bars are no ranking.
    """
    units = work.context.school.units
    per_area = way in ("bed", "crop", "variety")
    factor = area_factor(units) if per_area else float(1 / GRAMS_PER_POUND) if units == "us" else 0.001
    unit = ("lb per sq ft" if units == "us" else "kg per m²") if per_area else ("lb" if units == "us" else "kg")
    known = [line for line in lines if line.total.known and (line.total.per_square_metre is not None or not per_area)]
    there = {line.season for line in known}
    seasons = [season for season in known_seasons if season in there][-MOST_SEASONS:]
    known = [line for line in known if line.season in seasons]
    names = list(dict.fromkeys(line.name for line in known))
    if len(names) > MOST_BARS:
        best = sorted(known, key=lambda line: -_value(line, per_area))
        names = list(dict.fromkeys(line.name for line in best))[:MOST_BARS]
        known = [line for line in known if line.name in names]
    if not known:
        return YieldPictureView(chart=None, sentence="No picking with a weight yet, so there is nothing to draw.")
    points = [_point(line, per_area, factor) for line in known]
    what = f"Yield of the ground that was picked, {unit}" if per_area else f"Weight, {unit}"
    sentence = f"{what}, by {WAYS[way].lower()}" + (" and school year." if way != "season" else ".")
    newest = [line for line in known if line.season == seasons[-1]]
    top = max(newest, key=lambda line: _value(line, per_area))
    if way == "season":
        sentence += f" {seasons[-1]} so far: {top.weight}."
    elif one_crop and way not in ("crop", "variety", "part"):
        sentence += f" Fair comparison, of one crop. Most in {seasons[-1]}: {top.name}, {top.per_area if per_area else top.weight}."
    elif one_crop:
        sentence += " Fair comparison, of one crop: its years beside each other."
    else:
        sentence += f" {NO_RANKING[way in ('crop', 'variety', 'part')]}"
    if any(line.total.estimated_g for line in known):
        sentence += " Thin lines show how far estimated weights may be off."
    return YieldPictureView(
        chart=charts.bars(points, unit=unit, description=sentence, seasons=seasons), sentence=sentence
    )


def _value(line: BookLine, per_area: bool) -> float:
    return (line.total.per_square_metre or 0.0) if per_area else float(line.total.grams)


@dataclass(frozen=True)
class YieldPointView(View):
    """A bar of the chart; low and high where it was estimated."""

    name: str
    season: str
    value: float
    low: float | None = None
    high: float | None = None


def _point(line: BookLine, per_area: bool, factor: float) -> YieldPointView:
    total = line.total
    over = total.area_m2 if per_area else 1.0
    low, high = (round(float(grams) / over * factor, 3) for grams in total.range_g)
    return YieldPointView(
        name=line.name,
        season=line.season,
        value=round(_value(line, per_area) * factor, 3),
        low=low if total.estimated_g else None,
        high=high if total.estimated_g else None,
    )


def area_factor(units: Units) -> float:
    """From g/m² to pounds a square foot, or kilograms a square metre."""
    return float(SQUARE_METRES_PER_SQUARE_FOOT / GRAMS_PER_POUND) if units == "us" else 0.001
