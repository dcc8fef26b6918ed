"""The season report: two pages for those who paid and for the classes, as page, PDF and CSV."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.harvest import harvest_book
from almanaque.commands.harvest.harvest_book import Book
from almanaque.core.harvest import money as rules
from almanaque.core.harvest import picking, yields
from almanaque.core.units import format_area, format_mass
from almanaque.formats import csv_table
from almanaque.store.harvest import ledger, tasting
from almanaque.web import forms, frame, words
from almanaque.web.desk import Desk, Room, may
from almanaque.web.harvest.book_calendar_and_uses import calendar_picture, uses_picture
from almanaque.web.harvest.book_what_worked import forecast_picture, worked_rows
from almanaque.web.harvest.harvest_book import Line, book_lines, yield_picture
from almanaque.web.week import pdf_pages

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
MOST_BEDS, MOST_CROPS, MOST_ROWS = 16, 16, 8  # what two pages hold


@router.get("/harvest/report")
def page(desk: Look, season: str = "") -> Response:
    with desk.open() as room:
        values = report_values(room, season)
        return frame.page(
            room, "harvest", f"Season report {values['season']}", values, template="harvest/season_report.html"
        )


@router.post("/harvest/report")
def make(desk: Look, season: Annotated[str, Form()] = "", paper: Annotated[str, Form()] = "") -> Response:
    """Ask for the report as a PDF."""
    with desk.open() as room:
        sheet = forms.one_of(paper or pdf_pages.usual_paper(room), [key for key, _ in pdf_pages.PAPERS], field="paper")
        values = report_values(room, season)
        title = f"Season report {values['season']}"
        part = frame.paper_part(room, "harvest/season_report.html", title, values, paper=sheet, paper_class="is-report")
        return frame.go(room, f"/prints/{pdf_pages.ask(room, title, [part], paper=sheet)}")


@router.get("/harvest/report.csv")
def as_csv(desk: Look, season: str = "") -> Response:
    """The figures of the report: one line each for a bed, crop and class, with units in the header."""
    with desk.open() as room:
        found = harvest_book.read(room.connection, room.context, today=room.today, until=room.day)
        chosen = _season(room, found, season)
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
            for line in book_lines(room, found, way, chosen)
            for t in [line.total]
        ]
        headers = {"Content-Disposition": "attachment; filename=season-report.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


def _season(room: Room, found: Book, wanted: str) -> str:
    if wanted in found.seasons:
        return wanted
    return found.known_seasons[-1] if found.known_seasons else next(reversed(list(found.seasons)), "")


def report_values(room: Room, wanted: str) -> dict[str, Any]:
    """Everything on the two pages in finished words."""
    found = harvest_book.read(room.connection, room.context, today=room.today, until=room.day)
    season = _season(room, found, wanted)
    beds = book_lines(room, found, "bed", season)
    crops = sorted(book_lines(room, found, "crop", season), key=lambda line: -line.total.grams)
    classes = [line for line in book_lines(room, found, "class", season) if line.name != "no class named"]
    teams = [line for line in book_lines(room, found, "team", season) if line.name != "no team named"]
    earlier = found.known_seasons[: found.known_seasons.index(season) + 1] if season in found.known_seasons else []
    order = {row.bed: row.bed_ordinal for row in found.rows}
    shown = sorted(
        (line for s in earlier[-3:] for line in book_lines(room, found, "bed", s)), key=lambda line: order[line.name]
    )
    return {
        "season": season,
        "seasons": [(name, name) for name in reversed(list(found.seasons))],
        "papers": pdf_pages.PAPERS,
        "usual_paper": pdf_pages.usual_paper(room),
        "headline": _headline(room, found, season),
        "beds": beds[:MOST_BEDS],
        "crops": crops[:MOST_CROPS],
        "left_out": _left_out(beds, crops),
        "classes": classes[:MOST_ROWS],
        "teams": teams[:MOST_ROWS],
        "yields": yield_picture(room, shown, "bed"),
        "calendar": calendar_picture(room, season, found.seasons),
        "uses": uses_picture(room, season, found),
        "forecast": forecast_picture(room, found, season),
        "tastings": _tastings(room, found, season),
        "money": _money(room, found, season),
        "next_year": [row for row in worked_rows(room, found) if row["proposal"]][:MOST_ROWS],
        "of_school": room.context.school.name,
    }


def _left_out(beds: list[Line], crops: list[Line]) -> str:
    parts = [
        words.count(len(lines) - most, one)
        for lines, most, one in ((beds, MOST_BEDS, "bed"), (crops, MOST_CROPS, "crop"))
        if len(lines) > most
    ]
    return f"{' and '.join(parts)} more in the book." if parts else ""


def _headline(room: Room, found: Book, season: str) -> list[str]:
    """The sentences on top: how much, of what, from how much ground, for how many."""
    units = room.context.school.units
    sums = found.within(season)
    if not sums:
        return [f"Nothing was picked in {season} yet."]
    total = yields.total(sums, found.grown, found.seasons)
    least = "" if total.complete else "at least "
    crops = {found.crop_of(s).kind for s in sums}
    said = [
        f"{least}{format_mass(total.grams, units)} from {words.count(len(crops), 'crop')} and {format_area(total.area_m2, units)} of ground, "
        f"in {words.count(total.pickings, 'picking')}."
    ]
    said[0] = said[0][0].upper() + said[0][1:]
    counts = [yields.servings(found.crop_of(s), s.weighed_g + s.estimated_g) for s in sums]
    if known := sum(count for count in counts if count):
        said.append(f"That is {known:,} servings of vegetables and fruit of 80 g each as picked.")
    if total.estimated_g:
        low, high = total.range_g
        said.append(
            f"{format_mass(total.estimated_g, units)} of it was counted, not weighed, so the whole lies between {format_mass(low, units)} and {format_mass(high, units)}."
        )
    if total.without_weight:
        said.append(
            f"{words.count(total.without_weight, 'picking')} {'has' if total.without_weight == 1 else 'have'} no weight and {'is' if total.without_weight == 1 else 'are'} not in the sum."
        )
    return said


def _tastings(room: Room, found: Book, season: str) -> list[str]:
    first, last = found.seasons.get(season, (room.today, room.today))
    rows = [t for t in tasting.tastings(room.connection, until=min(last, room.day)) if t.on_day >= first]
    names = room.context.group_names(room.today)
    return [
        f"{room.context.crops[t.crop].name.en if t.crop in room.context.crops else t.crop}{', ' + t.how if t.how else ''}: "
        f"{picking.tasted(t.tried, t.liked)}{' (' + names[str(t.class_group_id)] + ')' if str(t.class_group_id) in names else ''}"
        for t in rows[:MOST_ROWS]
    ]


def _money(room: Room, found: Book, season: str) -> list[str]:
    """What came and went in the season, purpose by purpose."""
    first, last = found.seasons.get(season, (room.today, room.today))
    currency = room.context.school.currency
    names = {p.id: p.name for p in ledger.purposes(room.connection)}
    lines = [
        e
        for e in ledger.entries(room.connection, until=min(last, room.day))
        if e.on_day >= first and e.taken_back_on is None
    ]
    balances = rules.balances(
        (rules.Entry(e.kind, e.amount_minor, names.get(e.purpose_id, "") if e.purpose_id else "") for e in lines), {}
    )
    return [
        f"{name or 'Nothing in particular'}: {rules.write(b.came, currency)} came in, {rules.write(b.spent, currency)} was spent"
        for name, b in sorted(balances.items())
    ]
