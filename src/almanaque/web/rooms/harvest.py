"""Harvest: log a picking, and read in the book what the beds gave."""

from collections.abc import Callable
from dataclasses import dataclass
from decimal import Decimal
from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands import pickings
from almanaque.commands.pickings import PickingWish
from almanaque.core import yields
from almanaque.core.errors import BadInput
from almanaque.core.units import GRAMS_PER_POUND, SQUARE_METRES_PER_SQUARE_FOOT, Units, format_mass, format_yield
from almanaque.core.yields import Total
from almanaque.formats import csv_table
from almanaque.store import garden, harvest
from almanaque.store.harvest import Picked
from almanaque.web import frame, words
from almanaque.web.desk import Desk, Room, may, parse_day
from almanaque.web.pictures import charts

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
SHOWN_PICKINGS = 12


@dataclass(frozen=True)
class BookLine:
    """One row of the book: totals of a bed, crop or season in finished words."""

    name: str
    season: str
    pickings: str
    weight: str
    estimated: str
    per_area: str
    per_plant: str


@router.get("/harvest")
def book(desk: Look, planting: str = "") -> Response:
    with desk.open() as room:
        form = {"id": str(uuid4()), "planting": planting, "amount": "", "unit": "", "use": "", "day": "", "note": ""}
        return _page(room, form)


@router.post("/harvest")
def pick(
    desk: Annotated[Desk, Depends(may("pick"))],
    id: Annotated[str, Form()] = "",
    planting: Annotated[str, Form()] = "",
    amount: Annotated[str, Form()] = "",
    unit: Annotated[str, Form()] = "",
    use: Annotated[str, Form()] = "",
    day: Annotated[str, Form()] = "",
    note: Annotated[str, Form()] = "",
) -> Response:
    """Keep a picking. What cannot be kept stays in the form with the reason."""
    form = {"id": id, "planting": planting, "amount": amount, "unit": unit, "use": use, "day": day, "note": note}
    try:
        with desk.open() as room:
            if len(note) > 1000:
                raise BadInput("The note on a picking has at most 1,000 characters. Shorten it.", field="note")
            wish = PickingWish(
                _id(id, "id"), _id(planting, "planting"), amount, unit, use,
                parse_day(day) if day else room.today, note=note,
            )  # fmt: skip
            kept = pickings.pick(room.connection, room.context, wish, room.hand())
            return frame.go(room, "/harvest", kept=str(kept.id))
    except BadInput as error:
        with desk.open() as room:
            return _page(room, form, error=error, status=422)


@router.get("/harvest.csv")
def book_as_csv(desk: Look) -> Response:
    """Every picking up to the ribbon's day, with units in the header."""
    with desk.open() as room:
        header = ["day", "bed", "crop", "part", "amount", "unit", "mass_g", "estimated", "use", "note"]
        rows = [
            [
                row.picked_on.isoformat(), row.bed_name, room.context.crops[row.crop].name.en, row.part, row.amount,
                row.unit, row.grams, "yes" if row.estimated else "no", "; ".join(row.uses), row.note,
            ]
            for row in harvest.pickings(room.connection, until=room.day)
        ]  # fmt: skip
        headers = {"Content-Disposition": "attachment; filename=harvest.csv"}
        return Response(csv_table.write(header, rows), media_type="text/csv; charset=utf-8", headers=headers)


def _page(room: Room, form: dict[str, str], *, error: BadInput | None = None, status: int = 200) -> Response:
    units = room.context.school.units
    rows = harvest.pickings(room.connection, until=room.day)
    entries = [pickings.in_book(row, room.context) for row in rows]
    by_bed = yields.totals_by(entries, lambda p: (p.bed, p.season))
    by_season = yields.totals_by(entries, lambda p: p.season)
    order = {row.bed_name: row.bed_ordinal for row in rows}
    seasons = sorted(by_season)
    bed_lines = [
        _line(bed, season, by_bed[bed, season], units)
        for bed in sorted(order, key=lambda name: order[name])
        for season in seasons
        if (bed, season) in by_bed
    ]
    usual = yields.totals_by(entries, lambda p: (p.crop, p.season))
    values: dict[str, Any] = {
        "form": form,
        "error": error.message if error else "",
        "error_field": error.field if error else "",
        "dated": frame.later_than_today(room),
        "choices": _choices(room),
        "uses": yields.USES,
        "unit_choices": yields.unit_choices(room.context.crops, room.context.school.units),
        "kept": _kept(room, rows),
        "recent": [_recent(room, row) for row in rows[:SHOWN_PICKINGS]],
        "bed_lines": bed_lines,
        "season_lines": [_line("All beds", season, by_season[season], units) for season in seasons],
        "crop_lines": [_crop_line(room, crop, season, usual[crop, season]) for crop, season in sorted(usual)],
        **_chart(by_bed, order, seasons, units),
    }
    return frame.page(room, "harvest", "Harvest", values, status=status)


def _chart(
    by_bed: dict[tuple[str, str], Total], order: dict[str, int], seasons: list[str], units: Units
) -> dict[str, Any]:
    """Yield by bed and season, with the sentence that says what it shows. Beds are compared per area, like with like."""
    per_unit = _area_yield(units)
    points: list[dict[str, Any]] = [
        {"bed": bed, "season": season, "value": round(per_unit(total.per_square_metre), 3)}
        for (bed, season), total in sorted(by_bed.items(), key=lambda pair: (order[pair[0][0]], pair[0][1]))
        if total.per_square_metre is not None
    ]
    if not points:
        return {"chart": None, "chart_sentence": "No picking with a weight yet, so there is nothing to draw."}
    best = max((p for p in points if p["season"] == seasons[-1]), key=lambda p: p["value"], default=None)
    unit = "lb per sq ft" if units == "us" else "kg per m²"
    sentence = f"Yield of the squares that were picked, {unit}, by bed and school year."
    if best:
        sentence += f" Most so far in {seasons[-1]}: {best['bed']}, {best['value']:.2f}."
    return {"chart": charts.yield_chart(points, unit=unit, description=sentence), "chart_sentence": sentence}


def _area_yield(units: Units) -> Callable[[float | None], float]:
    factor = float(SQUARE_METRES_PER_SQUARE_FOOT / GRAMS_PER_POUND) if units == "us" else 0.001
    return lambda value: (value or 0.0) * factor


def _line(name: str, season: str, total: Total, units: Units) -> BookLine:
    per_area, per_plant = total.per_square_metre, total.per_plant_g
    return BookLine(
        name=name, season=season, pickings=str(total.pickings), weight=format_mass(total.grams, units) if total.grams else "–",
        estimated=format_mass(total.estimated_g, units) if total.estimated_g else "–",
        per_area=format_yield(per_area, units) if per_area is not None else "–",
        per_plant=format_mass(per_plant, units) if per_plant is not None else "–",
    )  # fmt: skip


def _crop_line(room: Room, crop_name: str, season: str, total: Total) -> dict[str, Any]:
    units = room.context.school.units
    crop = next(c for c in room.context.crops if c.name.en == crop_name)
    low, high = crop.yield_g_m2
    return {
        "line": _line(crop_name, season, total, units),
        "usual": f"{format_yield(low, units).split()[0]} to {format_yield(high, units)}",
        "against": yields.against_usual(crop, total),
        "source": room.context.crops.sources[crop.source_of("yield_g_m2")],
    }


def _choices(room: Room) -> list[dict[str, str]]:
    """Plantings that can be picked today with the units they may be noted in."""
    beds = {bed.id: bed.name for bed in garden.beds(room.connection)}
    found = []
    for planting in garden.plantings(room.connection, since=room.today, until=room.today):
        if planting.status == "in the ground":
            crop = room.context.crops[planting.crop]
            found.append({"id": str(planting.id), "label": f"{crop.name.en}, {beds[planting.bed_id]}, since {words.short_day(planting.bed_from)}",
                          "units": " ".join(yields.units_of(crop))})  # fmt: skip
    return sorted(found, key=lambda choice: choice["label"])


def _recent(room: Room, row: Picked) -> dict[str, str]:
    units = room.context.school.units
    weight = "" if row.grams is None else format_mass(row.grams, units)
    return {
        "day": words.short_day(row.picked_on), "crop": room.context.crops[row.crop].name.en, "bed": row.bed_name,
        "amount": f"{_plain(row.amount)} {row.unit}",
        "weight": f"about {weight}" if row.estimated else "" if row.unit in ("lb", "kg") else weight,
        "use": ", ".join(row.uses), "note": row.note,
    }  # fmt: skip


def _kept(room: Room, rows: list[Picked]) -> str:
    """A sentence on the picking that was just kept, with what its bed has given."""
    wanted = room.desk.request.query_params.get("kept", "")
    row = next((row for row in rows if str(row.id) == wanted), None)
    if row is None:
        return ""
    total = yields.total([pickings.in_book(r, room.context) for r in rows if r.planting_id == row.planting_id])
    crop = room.context.crops[row.crop].name.en.lower()
    units = room.context.school.units
    rate = f", {format_yield(total.per_square_metre, units)}" if total.per_square_metre is not None else ""
    return f"Kept: {_plain(row.amount)} {row.unit} of {crop}. This planting has given {format_mass(total.grams, units)}{rate}."


def _plain(amount: Decimal) -> str:
    return f"{amount.normalize():f}"


def _id(text: str, field: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("Choose what was picked.", field=field) from None
