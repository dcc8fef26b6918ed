"""Pickings and plantings of earlier years brought in from a table: looked at line by line, then written together or not at all."""

import hashlib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import painting, planting_events
from almanaque.commands.garden.held_bed import hold_beds
from almanaque.commands.garden.painting import Paint
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.core.crops.crop import METHODS, Crop, Method
from almanaque.core.crops.crop_names import CropNames
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.core.harvest import picking
from almanaque.core.units import plain_quantity
from almanaque.core.words import terms
from almanaque.formats import table_in
from almanaque.formats.school.history_csv import HistoryRow, What
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting

DOZEN = 12
POUNDS_AND_OUNCES = re.compile(r"\d[\d.,/½¼¾ ]* ?(lb)s?\.?,? \d[\d.,/½¼¾ ]* ?oz\.?", re.I)
UNIT_WORDS = {
    **dict.fromkeys(("lbs", "pound", "pounds", "#"), "lb"),
    **dict.fromkeys(("ounces", "ounce"), "oz"),
    **dict.fromkeys(("grams", "gram", "gr"), "g"),
    **dict.fromkeys(("kilo", "kilos", "kgs", "kilogram", "kilograms"), "kg"),
    **dict.fromkeys(("", "pieces", "piece", "each", "ea", "pcs", "pc", "number"), "count"),
}


@dataclass(frozen=True)
class Look:
    """A line as it is understood, in words, or the reason why it cannot come in."""

    line: int
    words: str
    problem: str
    wish: PickingWish | None = None
    paint: Paint | None = None
    bed_id: UUID | None = None
    cleared: date | None = None


def look(
    connection: Connection[Any],
    context: Context,
    rows: Sequence[HistoryRow],
    what: What,
    *,
    today: date,
    month_first: bool,
) -> list[Look]:
    """Every line with what it would become. Nothing is written."""
    beds = {bed.name.casefold(): bed for bed in garden.beds(connection)}
    crops = context.crop_names
    if what == "plantings":
        return [_planting(context, row, beds, crops, today, month_first) for row in rows]
    standing: dict[UUID, list[Planting]] = {}
    for planting in garden.plantings(connection):
        standing.setdefault(planting.bed_id, []).append(planting)
    return [_picking(context, row, beds, crops, standing, today, month_first) for row in rows]


def swapped(looks: Sequence[Look]) -> bool:
    """True when hardly a line can be read: the columns are probably taken for one another."""
    return bool(looks) and sum(bool(one.problem) for one in looks) * 10 > len(looks) * 8


def bring_in(connection: Connection[Any], context: Context, looks: Sequence[Look], actor: Actor) -> int:
    """Write the lines that can come in; return how many. Raises BadInput naming the line, and nothing is written then."""
    _hold(connection, context, looks, actor)
    done = 0
    for one in looks:
        if one.problem:
            continue
        try:
            if one.wish is not None:
                pickings.pick(connection, context, one.wish, actor)
            elif one.paint is not None and one.bed_id is not None:
                _plant(connection, context, one, actor)
        except BadInput as error:
            raise BadInput("school.history_line", field="file", line=one.line, problem=error.phrase) from None
        done += 1
    return done


def _hold(connection: Connection[Any], context: Context, looks: Sequence[Look], actor: Actor) -> None:
    """Hold all beds that are written into, whatever the order of the lines."""
    beds = {one.bed_id for one in looks if one.bed_id is not None}
    wanted = {
        planting_id for one in looks if one.wish is not None for planting_id in (one.wish.planting_id, *one.wish.others)
    }
    hold_beds(connection, context, beds | {garden.bed_of(connection, one) for one in wanted}, actor)


def _plant(connection: Connection[Any], context: Context, one: Look, actor: Actor) -> None:
    assert one.paint is not None
    assert one.bed_id is not None
    start = one.paint.start_on
    same = [
        p
        for p in garden.plantings(connection, bed_id=one.bed_id)
        if p.crop == one.paint.crop and p.start_on == start and p.status != "pencilled"
    ]
    if same:
        return  # brought in before
    made = painting.paint(connection, context, one.bed_id, one.paint, actor)
    planting_events.happened(connection, context, made, "started", start, actor)
    if one.paint.method == "indoors":
        out = garden.planting(connection, made).bed_from
        planting_events.happened(connection, context, made, "set out", min(out, actor.today), actor)
    if one.cleared is not None:
        planting_events.happened(connection, context, made, "cleared", one.cleared, actor)


def _bed(beds: Mapping[str, Bed], text: str) -> Bed:
    plain = text.casefold()
    found = beds.get(plain) or beds.get(f"bed {plain}")
    if found is None:
        raise BadInput("school.history_bed_unknown" if text else "school.history_bed_missing", text=text[:30])
    return found


def _crop(crops: CropNames, text: str) -> Crop:
    found = crops.find(text)
    if found is not None:
        return found
    if near := tuple(crop.name.en for crop in crops.near(text)):
        raise BadInput("school.history_crop_near", text=text[:30], names=near)
    raise BadInput("school.history_crop_unknown" if text else "school.history_crop_missing", text=text[:30])


def read_day(text: str, *, month_first: bool) -> date:
    """A day as spreadsheets write it, day before month unless slashes and `month_first` say otherwise. Raises BadInput."""
    plain = text.strip()
    try:
        order, _ = table_in.day_order([plain], us=month_first and "/" in plain)
        return table_in.read_day(plain, order=order)
    except (ValueError, OverflowError):
        raise BadInput("school.history_not_a_day" if plain else "school.history_day_missing", text=plain[:20]) from None


def _amount(cells: Mapping[str, str], weight_in: str = "lb") -> tuple[str, str]:
    """Amount and unit, from one column (`3 lb`, `2 lb 3 oz`, `2 dozen`) or two; a weight without a unit is `weight_in` that one."""
    text, unit = cells.get("amount", "").strip(), cells.get("unit", "").strip()
    plain = plain_quantity(text)
    if not unit and (pounds := POUNDS_AND_OUNCES.fullmatch(plain)):
        return plain, pounds[1].lower()
    match = re.fullmatch(r"([\d.,/½¼¾ ]+)((?:[A-Za-z#][A-Za-z .]*)?)", plain)
    if match is None:
        raise BadInput("school.history_not_an_amount" if text else "school.history_amount_missing", text=text[:20])
    found = (unit or match[2]).strip().rstrip(".").casefold()
    if found in ("dozen", "doz", "dozens"):
        return f"{picking.parse_amount(match[1], 'count') * DOZEN:f}", "count"
    found = weight_in if found == "weight" else UNIT_WORDS.get(found, found)
    if found not in picking.WEIGHED and found not in picking.COUNTED and found.endswith("s"):
        singular = found[:-2] if found.endswith("hes") else found[:-1]
        found = singular if singular in picking.COUNTED else found
    return match[1].strip(), found


def _picking(
    context: Context,
    row: HistoryRow,
    beds: Mapping[str, Bed],
    crops: CropNames,
    standing: Mapping[UUID, Sequence[Planting]],
    today: date,
    month_first: bool,
) -> Look:
    cells = row.cells
    try:
        day = read_day(cells.get("day", ""), month_first=month_first)
        bed, crop = _bed(beds, cells.get("bed", "")), _crop(crops, cells.get("crop", ""))
        amount, unit = _amount(cells, "lb" if context.school.units == "us" else "kg")
        picking.weigh(crop, picking.parse_amount(amount, unit), picking.read_unit(unit))
        use = (cells.get("use", "") or "kitchen").casefold()
        if use not in picking.USES:
            raise BadInput("school.history_use_unknown", use=use[:30], uses=", ".join(picking.USES))
        if day > today:
            raise BadInput("school.history_day_to_come")
        planting = next(
            (
                p
                for p in sorted(standing.get(bed.id, ()), key=lambda p: p.bed_from, reverse=True)
                if context.crops[p.crop].kind == crop.kind
                and p.status in ("in the ground", "finished")
                and p.bed_from <= day <= p.bed_to(today)
            ),
            None,
        )
        if planting is None:
            raise BadInput("school.history_nothing_stood", crop=crop.name.en.lower(), bed=bed.name)
    except BadInput as error:
        return Look(row.line, " · ".join(cell for cell in cells.values() if cell)[:120], error.message)
    wish = PickingWish(
        _id(row),
        planting.id,
        amount,
        unit,
        use,
        day,
        note=cells.get("note", "")[:1000],
        part=cells.get("part", ""),
        quality=cells.get("quality", "")[:60],
        lost_to=cells.get("lost_to", "")[:80],
        sure=True,
    )
    return Look(
        row.line, f"{day.isoformat()}: {amount} {unit} of {crop.name.en.lower()} from {bed.name}, {use}", "", wish=wish
    )


def _id(row: HistoryRow) -> UUID:
    """The id of a line: the same for the same words, so that a file that is sent twice comes in once."""
    words = "\x1f".join(f"{key}={value.casefold()}" for key, value in sorted(row.cells.items()))
    return UUID(bytes=hashlib.sha256(f"{row.line}\x1f{words}".encode()).digest()[:16])


def _planting(
    context: Context,
    row: HistoryRow,
    beds: Mapping[str, Bed],
    crops: CropNames,
    today: date,
    month_first: bool,
) -> Look:
    cells = row.cells
    try:
        bed, crop = _bed(beds, cells.get("bed", "")), _crop(crops, cells.get("crop", ""))
        start = read_day(cells.get("started", ""), month_first=month_first)
        cleared = read_day(cells["cleared"], month_first=month_first) if cells.get("cleared") else None
        if start > today or (cleared and cleared > today):
            raise BadInput("school.history_planting_to_come")
        if cleared and cleared < start:
            raise BadInput("school.cleared_before_started")
        if cleared is None and crop.life != "perennial" and (today - start).days > 500:
            raise BadInput("school.cleared_day_missing")
        method = _method(crop, cells.get("method", ""))
        squares = cells.get("squares", "") or ", ".join(cell_name(cell) for cell in bed.grid(start).cells)
    except BadInput as error:
        return Look(row.line, " · ".join(cell for cell in cells.values() if cell)[:120], error.message)
    paint = Paint(
        squares,
        crop.key,
        method,
        start,
        ink=True,
        variety=cells.get("variety", "")[:80],
        with_others=True,
        from_the_past=True,
    )
    where = cells.get("squares", "") or "all of it"
    until = f" until {cleared.isoformat()}" if cleared else ""
    return Look(
        row.line,
        f"{crop.name.en} in {bed.name} ({where}), {terms('method')[method]} {start.isoformat()}{until}",
        "",
        paint=paint,
        bed_id=bed.id,
        cleared=cleared,
    )


def _method(crop: Crop, text: str) -> Method:
    plain = text.casefold().strip()
    if not plain:
        return crop.methods[0] if crop.methods[0] != "indoors" or "starts" not in crop.methods else "starts"
    words: dict[str, Method] = {
        "direct": "direct",
        "sown": "direct",
        "seed": "direct",
        "indoors": "indoors",
        "starts": "starts",
        "transplant": "starts",
        "transplanted": "starts",
        "plants": "starts",
        "cloves": "cloves",
        "sets": "cloves",
        "tubers": "cloves",
    }
    method = words.get(plain) or next((m for m in METHODS if terms("method")[m] == plain), None)
    if method is None or method not in crop.methods:
        ways = ", ".join(terms("method")[m] for m in crop.methods)
        raise BadInput("school.history_method_unknown", text=text[:20], crop=crop.name.en.lower(), ways=ways)
    return method
