"""Garden: the site map, and the bed sheet on which squares are painted, inked and rubbed out."""

from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands import plantings
from almanaque.commands.forecasts import layout_of
from almanaque.commands.plantings import Paint
from almanaque.core import bed as core_bed
from almanaque.core.crops import METHOD_WORDS, Method
from almanaque.core.errors import BadInput
from almanaque.core.fit import VERDICT_WORDS
from almanaque.core.units import format_area, format_length, format_volume
from almanaque.store import garden, journal
from almanaque.store.errors import Stale
from almanaque.store.garden import Bed, Planting
from almanaque.web import frame, words
from almanaque.web.desk import Desk, Room, may, parse_day
from almanaque.web.htmx import HtmxRequest, vary
from almanaque.web.pictures import bed_sheet, site_map
from almanaque.web.pictures.families import FAMILIES, family
from almanaque.web.rooms import sheet

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
Plan = Annotated[Desk, Depends(may("plan"))]
Command = Literal["pencil", "ink", "rub", "to-ink", "to-pencil", "undo"]
FIRST_CROP = "radish"
ONLY_PENCIL = "The ribbon stands on a day to come, where only pencil is allowed. Go back to today to plan in ink."


class SheetForm(BaseModel):
    """What the form beside the sheet sends, as it was typed."""

    command: Command
    squares: str = ""
    crop: str = ""
    method: str = ""
    start_on: str = ""
    per_square: str = ""
    version: int | None = None


@router.get("/garden")
def site(desk: Look) -> Response:
    with desk.open() as room:
        beds = garden.beds(room.connection)
        present = garden.plantings(room.connection, since=room.day, until=room.day)
        rows = [_bed_row(room, bed, [p for p in present if p.bed_id == bed.id]) for bed in beds]
        said = {row["id"]: row["short"] for row in rows}
        planted = {
            str(bed.id): {
                cell: family(room.context.crops[p.crop].family).fill
                for p in present
                if p.bed_id == bed.id and p.status in ("in the ground", "finished")
                for cell in p.cells
            }
            for bed in beds
        }
        maps = [
            site_map.draw(
                place,
                beds,
                garden.features(room.connection, place.id, room.day),
                units=room.context.school.units,
                words=said,
                planted=planted,
            )
            for place in garden.sites(room.connection)
        ]
        squares = sum(len(bed.grid().cells) for bed in beds)
        summary = words.joined([words.count(len(beds), "bed"), words.count(squares, "square")])
        values = {
            "maps": maps,
            "rows": rows,
            "summary": summary,
            "hatches": list(FAMILIES.values()),
            "month": words.month_name(room.day),
        }
        return frame.page(room, "garden", f"The garden in {words.month_name(room.day)}", values)


@router.get("/garden/beds/{bed_id}")
def bed_page(desk: Look, bed_id: UUID, crop: str = FIRST_CROP) -> Response:
    with desk.open() as room:
        return _bed_page(room, garden.bed(room.connection, bed_id), crop=crop)


@router.get("/garden/beds/{bed_id}/choice")
def choice(
    desk: Look, bed_id: UUID, crop: str = FIRST_CROP, method: str = "", start_on: str = "", squares: str = "",
    per_square: str = "", only: str = "",
) -> Response:  # fmt: skip
    """The part of the form that follows from the crop, or only its preview."""
    with desk.open() as room:
        bed = garden.bed(room.connection, bed_id)
        values = _choice(room, bed, crop, method=method, start_on=start_on, squares=squares, per_square=per_square)
        return vary(frame.part(room, "garden/_preview.html" if only == "preview" else "garden/_choice.html", values))


@router.post("/garden/beds/{bed_id}")
def command(desk: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[SheetForm, Form()]) -> Response:
    """One command on the sheet. A bed that someone else changed meanwhile is shown as it is now, and nothing is written."""
    crop = form.crop or FIRST_CROP
    try:
        with desk.open() as room:
            said = _carry_out(room, bed_id, form)
            return _after(room, htmx.part, bed_id, said, crop=crop)
    except Stale as stale:
        with desk.open() as room:
            if htmx.part:
                return _after(room, True, bed_id, str(stale))
            return _bed_page(room, garden.bed(room.connection, bed_id), crop=crop, message=str(stale), status=409)


@router.post("/garden/plantings/{planting_id}/start")
def move(
    desk: Plan,
    htmx: HtmxRequest,
    planting_id: UUID,
    method: Annotated[Method, Form()],
    start_on: Annotated[str, Form()] = "",
) -> Response:
    """Give a plan another first day, as a note in the margin proposes."""
    with desk.open() as room:
        day = parse_day(start_on, field="start_on")
        bed_id = plantings.move(
            room.connection, room.context, planting_id, method=method, start_on=day, hand=room.hand()
        )
        return _after(room, htmx.part, bed_id, f"Moved to {words.short_day(day)}.")


@router.post("/garden/plantings/{planting_id}/happened")
def happened(
    desk: Annotated[Desk, Depends(may("tick"))],
    htmx: HtmxRequest,
    planting_id: UUID,
    kind: Annotated[Literal["started", "emerged", "set out", "cleared", "lost"], Form()],
    day: Annotated[str, Form()] = "",
) -> Response:
    """Note what really happened to a planting."""
    with desk.open() as room:
        on_day = parse_day(day) if day else room.today
        plantings.happened(room.connection, room.context, planting_id, kind, on_day, room.hand())
        bed_id = garden.planting(room.connection, planting_id).bed_id
        return _after(room, htmx.part, bed_id, f"Noted for {words.short_day(on_day)}.")


def _after(room: Room, part: bool, bed_id: UUID, said: str, **query: str) -> Response:
    """The sheet as it is now with a word on what was done, or the way back to its page."""
    if part:
        bed = garden.bed(room.connection, bed_id)
        return vary(frame.part(room, "garden/_sheet.html", {**_sheet(room, bed), "said": said}))
    return frame.go(room, f"/garden/beds/{bed_id}", **query)


def _carry_out(room: Room, bed_id: UUID, form: SheetForm) -> str:
    """Carry out a command; return a word on what was done."""
    hand = room.hand(form.version)
    given = (room.connection, room.context, bed_id)
    if form.command in ("ink", "to-ink") and room.day > room.today:
        raise BadInput(ONLY_PENCIL)
    match form.command:
        case "undo":
            return f"Undone: {plantings.undo(*given, hand=hand)}."
        case "rub":
            count = plantings.rub_out(*given, form.squares, shown=room.day, hand=hand)
            return f"{words.count(count, 'square')} rubbed out."
        case "to-ink":
            plantings.set_ink(*given, form.squares, ink=True, shown=room.day, hand=hand)
            return "Turned to ink; its jobs are in the weeks to come."
        case "to-pencil":
            plantings.set_ink(*given, form.squares, ink=False, shown=room.day, hand=hand)
            return "Back to pencil."
    crop = room.context.crops[form.crop]
    way = _method(form.method)
    wish = Paint(
        form.squares, crop.key, way if way in crop.methods else crop.methods[0],
        parse_day(form.start_on, field="start_on"), ink=form.command == "ink", per_square=_count(form.per_square),
    )  # fmt: skip
    made = garden.planting(room.connection, plantings.paint(*given, wish, hand))
    layout = layout_of(made, garden.bed(room.connection, bed_id), crop)
    verdict = VERDICT_WORDS[made.verdict] if made.verdict else ""
    done = "planned in ink" if wish.ink else "pencilled in"
    size = f"{words.count(layout.plants, 'plant')} in {words.count(layout.squares, 'square')}"
    return f"{crop.name.en} {done}: {size}; {verdict}."


def _bed_page(room: Room, bed: Bed, *, crop: str, message: str = "", status: int = 200) -> Response:
    chosen = crop if crop in room.context.crops.crops else FIRST_CROP
    values: dict[str, Any] = {
        **_sheet(room, bed),
        **_choice(room, bed, chosen),
        "crops": sorted(((c.key, c.name.en) for c in room.context.crops), key=lambda pair: pair[1]),
        "entries": journal.entries(room.connection, until=room.day, bed_id=bed.id, limit=4),
        "only_pencil": ONLY_PENCIL if room.day > room.today else "",
        "beds": [(str(b.id), b.name) for b in garden.beds(room.connection)],
    }
    title = words.joined([bed.name, bed.purpose])
    return frame.page(room, "garden", title, values, template="garden/bed.html", message=message, status=status)


def _sheet(room: Room, bed: Bed) -> dict[str, Any]:
    """The drawing with its list and margin; what a command on the sheet answers."""
    present = garden.plantings(room.connection, bed_id=bed.id, since=room.day)
    shown = bed_sheet.shown_on(present, bed, room.context.crops, day=room.day, today=room.today)
    units = room.context.school.units
    notes, marks = sheet.margin(shown, bed, present, room.context, today=room.today)
    grid = bed.grid()
    here = {cell for item in shown if item.here for cell in item.cells}
    coming = {cell for item in shown if not item.here for cell in item.cells}
    free = [cell for cell in grid.cells if cell not in here and cell not in coming]
    facts = [
        words.count(len(grid.cells), "square"),
        f"{len(grid.kept)} kept" if grid.kept else "",
        f"{len(here)} planted",
        f"{len(coming)} to come" if coming else "",
        f"{len(free)} free",
    ]
    change = garden.last_change(room.connection, bed.id)
    fills = {item.crop.family: family(item.crop.family).fill for item in shown}
    return {
        "bed": bed,
        "bed_words": _bed_words(room, bed),
        "picture": bed_sheet.draw(bed, shown, units=units, day=room.day),
        "lines": sheet.lines(shown, room.context, room.today, fills=fills),
        "notes": notes,
        "marks": marks,
        "facts": words.joined(facts),
        "undo": change.command if change and "put_back" in change.before else "",
        "said": "",
    }


def _choice(
    room: Room, bed: Bed, crop: str, *, method: str = "", start_on: str = "", squares: str = "", per_square: str = ""
) -> dict[str, Any]:
    """The form's fields that follow from the crop, with the preview or what stands in its way."""
    chosen = room.context.crops[crop]
    way = _method(method) if method in chosen.methods else chosen.methods[0]
    first = max(room.today, room.day)
    problem, shown = "", None
    try:
        day = parse_day(start_on, field="start_on") if start_on else first
        shown = sheet.preview(
            room.context,
            bed,
            chosen,
            method=way,
            start_on=day,
            squares=squares,
            per_square=_count(per_square),
            today=room.today,
        )
    except BadInput as error:
        day, problem = first, error.message
    return {
        "bed": bed, "crop": chosen, "method": way, "methods": sheet.method_choices(chosen), "start_on": day.isoformat(),
        "per_square": per_square, "squares": squares, "preview": shown, "problem": problem,
    }  # fmt: skip


def _bed_row(room: Room, bed: Bed, present: list[Planting]) -> dict[str, str]:
    crops = sorted({room.context.crops[p.crop].name.en.lower() for p in present if p.status == "in the ground"})
    taken = {cell for p in present for cell in p.cells}
    free = len([cell for cell in bed.grid().cells if cell not in taken])
    names = room.context.group_names(room.day)
    return {
        "id": str(bed.id), "name": bed.name, "purpose": bed.purpose, "size": _size(room, bed),
        "crops": ", ".join(crops).capitalize() or "Nothing in the ground",
        "short": ", ".join(crops) or "empty", "free": words.count(free, "square") + " free",
        "group": names.get(str(bed.class_group_id), ""),
    }  # fmt: skip


def _size(room: Room, bed: Bed) -> str:
    units = room.context.school.units
    return f"{format_length(bed.length_mm, units)} × {format_length(bed.width_mm, units)}"


def _bed_words(room: Room, bed: Bed) -> str:
    units = room.context.school.units
    kind = {"raised": "raised", "container": "container", "ground": "in the ground"}[bed.kind]
    made = f"{bed.material} {bed.built_year}" if bed.material and bed.built_year else bed.material
    soil = core_bed.soil_litres(bed.length_mm, bed.width_mm, bed.depth_mm)
    names = room.context.group_names(room.day)
    return words.joined(
        [
            f"{kind}, {made}" if made else kind,
            f"{_size(room, bed)} inside ({format_area(bed.area_m2, units)})",
            f"{format_length(bed.depth_mm, units, feet=False)} deep, {format_volume(soil, units)} of soil",
            f"{names[str(bed.class_group_id)]} looks after it" if str(bed.class_group_id) in names else "",
        ]
    )


def _method(text: str) -> Method:
    found = next((method for method in METHOD_WORDS if method == text), None)
    if found is None:
        raise BadInput("Choose how it is started: in place, indoors, as starts, or set in the ground.", field="method")
    return found


def _count(text: str) -> int | None:
    if not text.strip():
        return None
    if not text.strip().isascii() or not text.strip().isdigit() or not 1 <= int(text[:6]) <= 400:
        raise BadInput("Plants in a square: a whole number from 1 to 400, or leave it empty.", field="per_square")
    return int(text)
