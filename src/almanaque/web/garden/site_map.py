"""Garden: the site map by season, with plants, sun or who looks after what."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Query, Response

from almanaque.commands.garden import plans_then, sunlight
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.findings import worst_first
from almanaque.core.garden import site
from almanaque.core.place import shade
from almanaque.core.school.seasons import Season, around, map_day, seasons
from almanaque.core.units import format_length
from almanaque.store.garden import bed_closures, garden, plantings_then, site_features
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.garden.garden import Site as Place
from almanaque.web import frame, words
from almanaque.web.garden import sheet_parts, shown_as, site_map_picture
from almanaque.web.garden.paint_form import Then
from almanaque.web.pictures import plants_standing
from almanaque.web.pictures.families import FAMILIES, family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Show = Literal["plants", "looks", "colour", "sun", "who"]
SHOWS: tuple[tuple[Show, str], ...] = (
    ("looks", "plants as they look"),
    ("plants", "families"),
    ("colour", "to colour"),
    ("sun", "sun"),
    ("who", "who and what for"),
)
LONGEST_BAR_H, BAR_PX = 14.0, 190.0


@router.get("/garden")
def page(
    scope: Look, asked: Annotated[Show | None, Query(alias="show")] = None, bed: str = "", then: Then = "stood"
) -> Response:
    show = asked or shown_as.drawn(scope.request)
    with scope.open() as work:
        beds = [each for each in garden.beds(work.connection) if each.stood_on(work.day)]
        past = work.day < work.today
        present = _on_map(work, beds, then)
        rows = [bed_row(work, each, [p for p in present if p.bed_id == each.id]) for each in beds]
        features = site_features.features(work.connection, work.day)
        places = garden.sites(work.connection)
        lights = {
            place.id: sunlight.light(
                work.connection,
                work.context,
                place,
                beds,
                [p for p in present if p.status == "in the ground"],
                day=work.day,
            )
            for place in places
        }
        sun = {str(b.id): lights[b.site_id].on(b, work.day) for b in beds} if show == "sun" else None
        chosen = next((b for b in beds if str(b.id) == bed), beds[0] if beds and show == "sun" else None)
        maps = [
            site_map_picture.draw(
                place,
                beds,
                features,
                units=work.context.school.units,
                words={row["id"]: row["crops"] for row in rows},
                short=_short(work, rows, sun, show),
                planted=_planted(work, beds, present) if show == "plants" else {},
                sun=sun,
                ground=lights[place.id].ground(work.day) if show == "sun" else None,
                crowns=_crowns(work, beds, present, place),
                looks=plants_standing.looks(work.context, beds, present, work.day, work.today, line=show == "colour")
                if show in ("looks", "colour")
                else None,
            )
            for place in places
        ]
        squares = sum(len(b.grid(work.day).cells) for b in beds)
        values = {
            "maps": maps,
            "rows": rows,
            "show": show,
            "shows": SHOWS,
            "summary": words.joined([words.count(len(beds), "bed"), words.count(squares, "square")]),
            "hatches": list(FAMILIES.values()),
            "month": words.month_name(work.day),
            "seasons": season_steps(work),
            "notes": _notes(work, beds, features, places, present),
            "then": then if past else "",
            "panel": _panel(work, chosen, lights) if chosen and show == "sun" else None,
        }
        drawn = frame.page(work, "garden", f"The garden in {words.month_name(work.day)}", values)
        return shown_as.keep(drawn, scope.request, asked)


def _on_map(work: UnitOfWork, beds: list[Bed], then: Then) -> list[Planting]:
    """What holds squares on the ribbon's day; of a past one what really stood, or what was planned to as it was known then."""
    if work.day < work.today and then == "thought":
        known = plans_then.as_thought(work.connection, work.context, beds, day=work.day, today=work.today)
        season = season_of(work)
        last = season.ends if season else work.day
        return [planting for planting in known if planting.status != "pencilled" and planting.bed_from <= last]
    present = garden.plantings(work.connection, since=work.day, until=work.day)
    return plantings_then.as_they_stood(present, work.day, work.today)


@router.get("/garden/print")
def print_map(scope: Look, empty: bool = False) -> Response:
    """The season's map on one page, filled or empty for pencils."""
    with scope.open() as work:
        beds = [each for each in garden.beds(work.connection) if each.stood_on(work.day)]
        present = [] if empty else garden.plantings(work.connection, since=work.day, until=work.day)
        present = plantings_then.as_they_stood(present, work.day, work.today)
        planted = _planted(work, beds, present)
        _, season, _ = around(seasons(work.context.calendar), work.day)
        maps = [
            site_map_picture.draw(
                place,
                beds,
                site_features.features(work.connection, work.day),
                units=work.context.school.units,
                words={str(b.id): "" for b in beds},
                short={str(b.id): "" for b in beds},
                planted=planted,
            )
            for place in garden.sites(work.connection)
        ]
        key = sorted(
            {
                (work.context.crops[p.crop].code, work.context.crops[p.crop].name.en)
                for p in present
                if p.status != "lost"
            }
        )
        values = {
            "maps": maps,
            "hatches": list(FAMILIES.values()),
            "empty": empty,
            "key": key,
            "season": season.name if season else words.month_name(work.day),
        }
        return frame.page(work, "garden", "The season's map", values, template="garden/print.html")


def season_steps(work: UnitOfWork) -> list[dict[str, str]]:
    """The season before, the one on the table, and the next, with the day each is drawn by."""
    before, now, after = around(seasons(work.context.calendar), work.day)
    return [
        {"name": season.name, "day": map_day(season, work.today).isoformat(), "current": "yes" if season is now else ""}
        for season in (before, now, after)
        if season
    ]


def season_of(work: UnitOfWork) -> Season | None:
    return around(seasons(work.context.calendar), work.day)[1]


def _planted(work: UnitOfWork, beds: list[Bed], present: list[Planting]) -> dict[str, dict[Any, tuple[str, str]]]:
    return {
        str(bed.id): {
            cell: (family(work.context.crops[p.crop].family).fill, work.context.crops[p.crop].code)
            for p in present
            if p.bed_id == bed.id and p.status in ("in the ground", "finished", "planned")
            for cell in p.cells
        }
        for bed in beds
    }


def _crowns(
    work: UnitOfWork, beds: list[Bed], present: list[Planting], place: Place
) -> list[tuple[float, float, float, str]]:
    """Planted trees and bushes on a site, as they will be when grown."""
    by_id = {bed.id: bed for bed in beds if bed.site_id == place.id}
    found = []
    for planting in present:
        crop = work.context.crops[planting.crop]
        if (
            planting.bed_id in by_id
            and planting.status == "in the ground"
            and crop.life == "perennial"
            and crop.width_mm >= site.CROWN_MM
        ):
            bed = by_id[planting.bed_id]
            places = bed.shape.to_site(list(layout_of(planting, bed, crop).positions_mm))
            found += [(float(x), float(y), crop.width_mm / 2, crop.code) for x, y in places]
    return found


def _short(
    work: UnitOfWork, rows: list[dict[str, str]], sun: dict[str, dict[Any, float]] | None, show: str
) -> dict[str, str]:
    """What stands under a bed's name on the map."""
    if show == "sun" and sun is not None:
        return {
            bed: f"{sum(hours.values()) / len(hours):.1f} h" if hours else "light not measured"
            for bed, hours in sun.items()
        }
    if show == "who":
        return {row["id"]: row["group"] or "nobody yet" for row in rows}
    return {row["id"]: row["purpose"] for row in rows}


def _notes(
    work: UnitOfWork,
    beds: list[Bed],
    features: list[site_features.FeatureRow],
    places: list[Place],
    present: list[Planting],
) -> list[sheet_parts.NoteView]:
    """What the map itself says: clearances, and beds that are closed or near their end; of a past day, those closed on it."""
    found = []
    for place in places:
        shapes = [b.shape for b in beds if b.site_id == place.id and not b.indoors]
        here = [row.feature for row in features if row.site_id == place.id]
        found += site.clearances(shapes, here, units=work.context.school.units)
    found += sheet_parts.bed_ends(beds, work.day)
    past = work.day < work.today
    shut = bed_closures.closures(work.connection)
    found += sheet_parts.closures(
        work.context,
        beds,
        [each for each in shut if each.starts <= work.day] if past else shut,
        present if past else garden.plantings(work.connection, since=work.day),
        day=work.day,
        today=min(work.day, work.today),
    )
    return [sheet_parts.note(finding, number, work.today) for number, finding in enumerate(worst_first(found), start=1)]


@dataclass(frozen=True)
class PanelMonthView(View):
    """A row of `PanelView`."""

    name: str
    hours: str
    words: str
    now: bool
    bar: float


@dataclass(frozen=True)
class PanelView(View):
    """Filled by `_panel`, read by its template."""

    id: str
    name: str
    purpose: str
    months: list[PanelMonthView]
    six: float
    width: float
    words: str
    year: int
    indoors: bool


def _panel(work: UnitOfWork, bed: Bed, lights: dict[Any, sunlight.Light]) -> PanelView:
    """The month-by-month table of a bed's sun."""
    light = lights[bed.site_id]
    hours = light.by_month(bed, work.day.year)
    months = []
    for number, value in enumerate(hours, start=1):
        if value is not None:
            day = work.day.replace(month=number, day=1)
            months.append(
                PanelMonthView(
                    name=words.month(day),
                    hours=f"{value:.1f}",
                    words=shade.light_words(value),
                    now=number == work.day.month,
                    bar=round(min(value, LONGEST_BAR_H) / LONGEST_BAR_H * BAR_PX, 1),
                )
            )
    hose = site.hose_words(
        bed.shape, [row.feature for row in light.rows if row.stands_on(work.day)], work.context.school.units
    )
    return PanelView(
        id=str(bed.id),
        name=bed.name,
        purpose=bed.purpose,
        months=months,
        six=round(6 / LONGEST_BAR_H * BAR_PX, 1),
        width=BAR_PX,
        words=words.joined(
            [size(work, bed), f"{format_length(bed.depth_mm, work.context.school.units, feet=False)} deep", hose]
        ),
        year=work.day.year,
        indoors=bed.indoors,
    )


def bed_row(work: UnitOfWork, bed: Bed, present: list[Planting]) -> dict[str, str]:
    """A bed as the list beside the map shows it."""
    named = {
        status: sorted({work.context.crops[p.crop].name.en.lower() for p in present if p.status == status})
        for status in ("in the ground", "planned")
    }
    taken = {cell for p in present if p.status != "pencilled" for cell in p.cells}
    free = len([cell for cell in bed.grid(work.day).cells if cell not in taken])
    names = work.context.group_names(work.day)
    return {
        "id": str(bed.id),
        "name": bed.name,
        "purpose": bed.purpose,
        "size": size(work, bed),
        "crops": ", ".join(named["in the ground"]).capitalize() or "Nothing in the ground",
        "planned": ", ".join(named["planned"]),
        "free": words.count(free, "square") + " free",
        "group": names.get(str(bed.class_group_id), ""),
    }


def size(work: UnitOfWork, bed: Bed) -> str:
    units = work.context.school.units
    return f"{format_length(bed.length_mm, units)} × {format_length(bed.width_mm, units)}"
