"""The season report: two pages for those who paid and for the classes, as page, PDF and CSV."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

from fastapi import APIRouter, Depends, Form, Query, Response

from almanaque.commands.harvest import harvest_book
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.harvest import money as rules
from almanaque.core.harvest import picking, yields
from almanaque.core.units import format_area, format_mass
from almanaque.formats import csv_table
from almanaque.store.harvest import ledger, tasting
from almanaque.store.journal import photos
from almanaque.web import forms, frame, words
from almanaque.web.harvest.book_calendar_and_uses import (
    CalendarPictureView,
    UsesPictureView,
    calendar_picture,
    uses_picture,
)
from almanaque.web.harvest.book_what_worked import ForecastPictureView, WorkedRowView, forecast_picture, worked_rows
from almanaque.web.harvest.harvest_book import NO_CLASS, BookLine, YieldPictureView, book_lines, yield_picture
from almanaque.web.pictures import photo_strip
from almanaque.web.pictures.photo_strip import StripPhotoView
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
MOST_BEDS, MOST_CROPS, MOST_ROWS = 16, 16, 8  # what two pages hold
MOST_PHOTOS = 6  # what a third page holds


@router.get("/harvest/report")
def page(scope: Look, season: str = "", photo: Annotated[list[str] | None, Query()] = None) -> Response:
    """The report; `photo` are those that were chosen for it, one by one."""
    with scope.open() as work:
        values = report_values(work, season, photo or [])
        return frame.page(
            work, "harvest", f"Season report {values.season}", values, template="harvest/season_report.html"
        )


@router.post("/harvest/report")
def make(
    scope: Look,
    season: Annotated[str, Form()] = "",
    paper: Annotated[str, Form()] = "",
    photo: Annotated[list[str] | None, Form()] = None,
) -> Response:
    """Ask for the report as a PDF."""
    with scope.open() as work:
        sheet = forms.one_of(paper or pdf_pages.usual_paper(work), [key for key, _ in pdf_pages.PAPERS], field="paper")
        values = report_values(work, season, photo or [])
        title = f"Season report {values.season}"
        part = frame.paper_part(work, "harvest/season_report.html", title, values, paper=sheet, paper_class="is-report")
        return frame.go(work, f"/prints/{pdf_pages.ask(work, title, [part], paper=sheet)}")


@router.get("/harvest/report.csv")
def as_csv(scope: Look, season: str = "") -> Response:
    """The figures of the report: one line each for a bed, crop and class, with units in the header."""
    with scope.open() as work:
        found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
        chosen = _season(work, found, season)
        header = [
            "by",
            "name",
            "school_year",
            "pickings",
            "mass_g",
            "mass_low_g",
            "mass_high_g",
            "pickings_without_weight",
            "yield_g_per_m2",
            "servings",
        ]
        rows = [
            [
                way,
                line.name,
                line.season,
                t.pickings,
                t.grams,
                *t.range_g,
                t.without_weight,
                None if t.per_square_metre is None else round(t.per_square_metre, 1),
                line.servings.replace(",", ""),
            ]
            for way in ("season", "bed", "crop", "class", "team")
            for line in book_lines(work, found, way, chosen)
            for t in [line.total]
        ]
        headers = {"Content-Disposition": "attachment; filename=season-report.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


def _season(work: UnitOfWork, found: Book, wanted: str) -> str:
    if wanted in found.seasons:
        return wanted
    return found.known_seasons[-1] if found.known_seasons else next(reversed(list(found.seasons)), "")


@dataclass(frozen=True)
class ReportView(View):
    """Filled by `report_values`, read by its template."""

    season: str
    seasons: list[tuple[str, str]]
    papers: tuple[tuple[str, str], tuple[str, str]]
    usual_paper: str
    headline: list[str]
    beds: list[BookLine]
    crops: list[BookLine]
    left_out: str
    classes: list[BookLine]
    teams: list[BookLine]
    yields: YieldPictureView
    calendar: CalendarPictureView
    uses: UsesPictureView
    forecast: ForecastPictureView
    tastings: list[str]
    money: list[str]
    next_year: list[WorkedRowView]
    of_school: str
    photos: list[StripPhotoView]
    choices: list[tuple[StripPhotoView, bool]]


def report_values(work: UnitOfWork, wanted: str, chosen: Sequence[str] = ()) -> ReportView:
    """Everything on the two pages in finished words."""
    found = harvest_book.read(work.connection, work.context, today=work.today, until=work.day)
    season = _season(work, found, wanted)
    beds = book_lines(work, found, "bed", season)
    crops = sorted(book_lines(work, found, "crop", season), key=lambda line: -line.total.grams)
    classes = [
        replace(line, name=line.then or line.name)
        for line in book_lines(work, found, "class", season)
        if line.name != NO_CLASS
    ]
    teams = [line for line in book_lines(work, found, "team", season) if line.name != "no team named"]
    earlier = found.known_seasons[: found.known_seasons.index(season) + 1] if season in found.known_seasons else []
    order = {row.bed: row.bed_ordinal for row in found.rows}
    shown = sorted(
        (line for s in earlier[-3:] for line in book_lines(work, found, "bed", s)), key=lambda line: order[line.name]
    )
    choices = _photos(work, found, season, chosen)
    return ReportView(
        season=season,
        seasons=[(name, name) for name in reversed(list(found.seasons))],
        papers=pdf_pages.PAPERS,
        usual_paper=pdf_pages.usual_paper(work),
        headline=_headline(work, found, season),
        beds=beds[:MOST_BEDS],
        crops=crops[:MOST_CROPS],
        left_out=_left_out(beds, crops),
        classes=classes[:MOST_ROWS],
        teams=teams[:MOST_ROWS],
        yields=yield_picture(work, shown, "bed", found.known_seasons, one_crop=False),
        calendar=calendar_picture(work, season, found.seasons),
        uses=uses_picture(work, season, found),
        forecast=forecast_picture(work, found, season),
        tastings=_tastings(work, found, season),
        money=_money(work, found, season),
        next_year=[row for row in worked_rows(work, found) if row.proposal][:MOST_ROWS],
        of_school=work.context.school.name,
        photos=[one for one, ticked in choices if ticked],
        choices=choices,
    )


def _photos(work: UnitOfWork, found: Book, season: str, chosen: Sequence[str]) -> list[tuple[StripPhotoView, bool]]:
    """Photos of the season to choose from, oldest first, bed by bed; so many that are chosen already as a page holds."""
    first, last = found.seasons.get(season, (work.today, work.today))
    every = photos.photos(work.connection, since=first, until=min(last, work.day), limit=60)
    shown = sorted(every, key=lambda p: (p.bed_name, p.noted_on))
    ticked = [str(p.id) for p in shown if str(p.id) in chosen][:MOST_PHOTOS]
    return [(photo_strip.photo_view(p, p.bed_name or "the garden"), str(p.id) in ticked) for p in shown]


def _left_out(beds: list[BookLine], crops: list[BookLine]) -> str:
    parts = [
        words.count(len(lines) - most, one)
        for lines, most, one in ((beds, MOST_BEDS, "bed"), (crops, MOST_CROPS, "crop"))
        if len(lines) > most
    ]
    return f"{' and '.join(parts)} more in the book." if parts else ""


def _headline(work: UnitOfWork, found: Book, season: str) -> list[str]:
    """The sentences on top: how much, of what, from how much ground, for how many."""
    units = work.context.school.units
    sums = found.within(season)
    if not sums:
        return [f"Nothing was picked in {season} yet."]
    total = yields.total(sums, found.grown, found.seasons)
    least = "" if total.complete else "at least "
    crops = {found.crop_of(s).kind for s in sums}
    said = [
        f"{least}{format_mass(total.grams, units)} from {words.count(len(crops), 'crop')} "
        f"and {format_area(total.area_m2, units)} of ground, "
        f"in {words.count(total.pickings, 'picking')}."
    ]
    said[0] = said[0][0].upper() + said[0][1:]
    counts = [yields.servings(found.crop_of(s), s.weighed_g + s.estimated_g) for s in sums]
    if known := sum(count for count in counts if count):
        said.append(f"That is {known:,} servings of vegetables and fruit of 80 g each as picked.")
    if total.estimated_g:
        low, high = total.range_g
        said.append(
            f"{format_mass(total.estimated_g, units)} of it was counted, not weighed, "
            f"so the whole lies between {format_mass(low, units)} and {format_mass(high, units)}."
        )
    if total.without_weight:
        said.append(
            f"{words.count(total.without_weight, 'picking')} {'has' if total.without_weight == 1 else 'have'} "
            f"no weight and {'is' if total.without_weight == 1 else 'are'} not in the sum."
        )
    return said


def _tastings(work: UnitOfWork, found: Book, season: str) -> list[str]:
    first, last = found.seasons.get(season, (work.today, work.today))
    rows = [t for t in tasting.tastings(work.connection, until=min(last, work.day)) if t.on_day >= first]
    names = work.context.group_names(work.today)
    return [
        f"{work.context.crops[t.crop].name.en if t.crop in work.context.crops else t.crop}{', ' + t.how if t.how else ''}: "
        f"{picking.tasted(t.tried, t.liked)}{' (' + names[str(t.class_group_id)] + ')' if str(t.class_group_id) in names else ''}"
        for t in rows[:MOST_ROWS]
    ]


def _money(work: UnitOfWork, found: Book, season: str) -> list[str]:
    """What came and went in the season, purpose by purpose."""
    first, last = found.seasons.get(season, (work.today, work.today))
    currency = work.context.school.currency
    names = {p.id: p.name for p in ledger.purposes(work.connection)}
    lines = [
        e
        for e in ledger.entries(work.connection, until=min(last, work.day))
        if e.on_day >= first and e.taken_back_on is None
    ]
    balances = rules.balances(
        (rules.MoneyEntry(e.kind, e.amount_minor, names.get(e.purpose_id, "") if e.purpose_id else "") for e in lines),
        {},
    )
    return [
        f"{name or 'Nothing in particular'}: {rules.write(b.came, currency)} came in, {rules.write(b.spent, currency)} was spent"
        for name, b in sorted(balances.items())
    ]
