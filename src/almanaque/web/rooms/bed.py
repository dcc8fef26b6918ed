"""Garden: the bed sheet, on which squares are painted, inked, moved and rubbed out."""

from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands import bed_rules, ground, plantings, sunlight
from almanaque.commands.forecasts import layout_of
from almanaque.commands.plantings import Paint
from almanaque.core.bed import Cell, cell_name
from almanaque.core.crops import METHOD_WORDS, Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.fit import VERDICT_WORDS
from almanaque.core.growth import GrowthDates
from almanaque.core.layout import ARRANGEMENT_WORDS, FOLLOWS_WORDS, Arrangement, Follows, Wish
from almanaque.core.units import format_area, format_length, format_volume
from almanaque.store import drafts, garden, journal
from almanaque.store import ground as ground_store
from almanaque.store.drafts import Draft
from almanaque.store.errors import NotFound, Stale
from almanaque.store.garden import Bed, Planting
from almanaque.store.ground import Found
from almanaque.web import forms, frame, words
from almanaque.web.desk import Desk, Room, may, parse_day
from almanaque.web.htmx import HtmxRequest, vary
from almanaque.web.pictures import bed_sheet
from almanaque.web.pictures.bed_sheet import Box
from almanaque.web.pictures.families import family
from almanaque.web.rooms import sheet
from almanaque.web.rooms.garden import season_steps, size

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
Plan = Annotated[Desk, Depends(may("plan"))]
Command = Literal["pencil", "ink", "rub", "to-ink", "to-pencil", "undo", "redo", "move", "lay"]
Show = Literal["plants", "sun"]
Number = Literal["room", "starts", "class"]
FIRST_CROP = "radish"
ONLY_PENCIL = "The ribbon stands on a day to come, where only pencil is allowed. Go back to today to plan in ink."
KIND_WORDS = {
    "raised": "raised", "sunken": "sunken", "ground": "level with the ground", "plot": "open plot", "container": "container",
    "fabric pot": "fabric pot", "planter": "planter", "sill": "indoor sill",
}  # fmt: skip


class SheetForm(BaseModel):
    """What the form beside the sheet sends, as it was typed."""

    command: Command = "pencil"
    squares: str = ""
    crop: str = ""
    method: str = ""
    start_on: str = ""
    per_square: str = ""
    arrangement: Arrangement = "squares"
    follows: Follows = "count"
    in_row: str = ""
    row: str = ""
    sow: str = ""
    edge: str = ""
    number: Number = "room"
    wanted: str = ""
    group: str = ""
    with_others: str = ""
    draft: str = ""
    show: Show = "plants"
    by: str = ""
    version: int | None = None


@router.get("/garden/beds/{bed_id}")
def bed_page(desk: Look, bed_id: UUID, crop: str = FIRST_CROP, draft: str = "", show: Show = "plants") -> Response:
    with desk.open() as room:
        return _bed_page(room, garden.bed(room.connection, bed_id), crop=crop, draft=draft, show=show)


@router.get("/garden/beds/{bed_id}/news")
def news(desk: Look, bed_id: UUID, version: int, draft: str = "", show: Show = "plants") -> Response:
    """The sheet as others left it, when its version is another than the one on the page; 204 while nothing changed."""
    with desk.open() as room:
        bed = garden.bed(room.connection, bed_id)
        if bed.version == version:
            return Response(status_code=204)
        said = _since(room, bed, version)
        values = {**_sheet(room, bed, draft=draft, show=show), "said": said}
        return vary(frame.part(room, "garden/_sheet.html", values))


@router.get("/garden/beds/{bed_id}/choice")
def choice(desk: Look, bed_id: UUID, form: Annotated[SheetForm, Depends()], only: str = "") -> Response:
    """The part of the form that follows from the crop, or only its preview."""
    with desk.open() as room:
        bed = garden.bed(room.connection, bed_id)
        values = _choice(room, bed, form)
        return vary(frame.part(room, "garden/_preview.html" if only == "preview" else "garden/_choice.html", values))


@router.post("/garden/beds/{bed_id}")
def command(desk: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[SheetForm, Form()]) -> Response:
    """One command on the sheet. Where someone else changed the bed meanwhile nothing is written, and the difference is shown."""
    crop = form.crop or FIRST_CROP
    try:
        with desk.open() as room:
            said = _carry_out(room, bed_id, form)
            return _after(room, htmx.part, bed_id, said, form, crop=crop)
    except Stale as stale:
        with desk.open() as room:
            bed = garden.bed(room.connection, bed_id)
            said = f"{stale} {_since(room, bed, form.version or 0)} What you chose is still in the form: press again if you still want it."
            if htmx.part:
                values = {**_sheet(room, bed, draft=form.draft, show=form.show), "said": said, "stale": True}
                return vary(frame.part(room, "garden/_sheet.html", values))
            return _bed_page(
                room, bed, crop=crop, draft=form.draft, show=form.show, message=said, status=409, typed=form
            )


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
        draft = garden.planting(room.connection, planting_id).draft_id
        bed_id = plantings.move(
            room.connection, room.context, planting_id, method=method, start_on=day, hand=room.hand()
        )
        return _after(room, htmx.part, bed_id, f"Moved to {words.short_day(day)}.", SheetForm(draft=str(draft or "")))


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
        return _after(room, htmx.part, bed_id, f"Noted for {words.short_day(on_day)}.", SheetForm())


@router.post("/garden/beds/{bed_id}/found")
def found(
    desk: Annotated[Desk, Depends(may("note"))],
    htmx: HtmxRequest,
    bed_id: UUID,
    id: Annotated[str, Form()] = "",
    square: Annotated[str, Form()] = "",
    width: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    intent: Annotated[str, Form()] = "undecided",
    action: Annotated[Literal["save", "gone"], Form()] = "save",
) -> Response:
    """Put a plant that nobody sowed on the sheet, name it, or note that it is gone."""
    with desk.open() as room:
        bed, units = garden.bed(room.connection, bed_id), room.context.school.units
        plant_id = forms.row_id(id)
        named = forms.optional_name(name, field="name")
        want = forms.one_of(intent, ("undecided", "keep", "weed out"), field="intent")
        decided: ground_store.Intent = "keep" if want == "keep" else "weed out" if want == "weed out" else "undecided"
        if any(plant.id == plant_id for plant in ground_store.found_plants(room.connection, bed_id)):
            ground.change_found(
                room.connection,
                room.context,
                bed_id,
                plant_id,
                name=named,
                intent=decided,
                gone=action == "gone",
                hand=room.hand(),
            )
            said = "Noted that it is gone." if action == "gone" else "Noted."
        else:
            grid = bed.grid()
            cell = next(
                (
                    c
                    for c in ((c, r) for r in range(grid.rows) for c in range(grid.columns))
                    if cell_name(c) == square.strip().upper()
                ),
                None,
            )
            if cell is None:
                raise BadInput("Say in which square it stands, such as B2.", field="square")
            middle = ((cell[0] + 0.5) * grid.pitch_x_mm, (cell[1] + 0.5) * grid.pitch_y_mm)
            wide = forms.length(width, units, field="width") if width.strip() else 150.0
            plant = Found(plant_id, bed_id, *middle, wide, named, room.today, None, decided)
            ground.found_here(room.connection, room.context, plant, room.hand())
            said = f"{named or 'An unknown plant'} is on the sheet at {square.strip().upper()}."
        return _after(room, htmx.part, bed_id, said, SheetForm())


def _since(room: Room, bed: Bed, version: int) -> str:
    """What others did since: `Meanwhile: paint carrot (Rowan, the coordinator, 10:04).`"""
    done = garden.changes_since(room.connection, bed.id, version)
    if not done:
        return ""
    told = "; ".join(f"{'undone: ' if d.undone else ''}{d.command}{f' ({d.by})' if d.by else ''}" for d in done[-4:])
    return f"Meanwhile here: {told}."


def _after(room: Room, part: bool, bed_id: UUID, said: str, form: SheetForm, **query: str) -> Response:
    """The sheet as it is now with a word on what was done, or the way back to its page."""
    if part:
        bed = garden.bed(room.connection, bed_id)
        return vary(
            frame.part(
                room, "garden/_sheet.html", {**_sheet(room, bed, draft=form.draft, show=form.show), "said": said}
            )
        )
    if form.draft:
        query["draft"] = form.draft
    return frame.go(room, f"/garden/beds/{bed_id}", **query)


def _carry_out(room: Room, bed_id: UUID, form: SheetForm) -> str:
    """Carry out a command; return a word on what was done."""
    hand = room.hand(form.version)
    given = (room.connection, room.context, bed_id)
    table = _draft(room, form.draft).id
    if form.command in ("ink", "to-ink") and room.day > room.today:
        raise BadInput(ONLY_PENCIL)
    match form.command:
        case "undo":
            return f"Undone: {plantings.undo(*given, hand=hand)}."
        case "redo":
            return f"Done again: {plantings.redo(*given, hand=hand)}."
        case "rub":
            count = plantings.rub_out(*given, form.squares, shown=room.day, hand=hand, draft_id=table)
            return f"{words.count(count, 'square')} rubbed out."
        case "to-ink":
            plantings.set_ink(*given, form.squares, ink=True, shown=room.day, hand=hand, draft_id=table)
            return "Turned to ink; its jobs are in the weeks to come."
        case "to-pencil":
            plantings.set_ink(*given, form.squares, ink=False, shown=room.day, hand=hand, draft_id=table)
            return "Back to pencil."
        case "move":
            columns, rows = _offset(form.by)
            count = plantings.shift(
                *given, form.squares, columns=columns, rows=rows, shown=room.day, hand=hand, draft_id=table
            )
            return f"{words.count(count, 'plan')} moved."
    crop = room.context.crops[form.crop]
    wish, group_id, _ = _wish(room, form, crop)
    if form.command == "lay":
        count = plantings.change_spacing(
            *given, form.squares, wish, with_others=bool(form.with_others), shown=room.day, hand=hand, draft_id=table
        )
        return f"{words.count(count, 'plan')} laid out anew."
    way = _method(form.method)
    wanted = Paint(
        form.squares, crop.key, way if way in crop.methods else crop.methods[0],
        parse_day(form.start_on, field="start_on"), ink=form.command == "ink", spacing=wish, with_others=bool(form.with_others),
        draft_id=table, class_group_id=group_id,
    )  # fmt: skip
    made = garden.planting(room.connection, plantings.paint(*given, wanted, hand))
    laid = layout_of(made, garden.bed(room.connection, bed_id), crop)
    verdict = VERDICT_WORDS[made.verdict] if made.verdict else ""
    done = "planned in ink" if wanted.ink else "pencilled in"
    counted = f"{words.count(laid.plants, 'plant')} in {words.count(laid.squares, 'square')}"
    return f"{crop.name.en} {done}: {counted}; {verdict}."


def _wish(room: Room, form: SheetForm, crop: Crop) -> tuple[Wish, UUID | None, str]:
    """How it is to stand, for which group, and in words for whom where the number comes from a class."""
    units = room.context.school.units

    def distance(text: str, field: str) -> float | None:
        return forms.length(text, units, field=field) if text.strip() else None

    wanted, group_id, per_head = None, None, ""
    if form.group.strip():
        group = next((g for g in room.context.groups_on(room.day) if str(g.id) == form.group), None)
        if group is None:
            raise BadInput("There is no such group. Choose one from the list.", field="group")
        group_id = group.id
        if form.number == "class":
            wanted, per_head = (
                group.head_count,
                f"{group.head_count} children of {room.context.group_names(room.day)[str(group.id)]}",
            )
    elif form.number == "class":
        raise BadInput("Choose the class for which one each is planted.", field="group")
    if form.number == "starts":
        wanted = forms.whole(form.wanted, field="wanted", least=1, most=20_000, what="The number of starts")
    in_row = None
    if form.follows == "packet":
        in_row = distance(form.in_row, "in_row")
    elif form.follows == "hand":
        span = room.context.school.hand_span_mm
        if span is None:
            raise BadInput(
                "Measure the span of your hand once, under What it needs, then plant by it.", field="follows"
            )
        spans = forms.number(form.in_row, field="in_row", what="The number of spans")
        in_row = span * (spans if spans else 1.0)
    wish = Wish(
        form.arrangement, form.follows, _count(form.per_square), in_row, distance(form.row, "row"),
        distance(form.sow, "sow") if form.follows == "packet" else None, distance(form.edge, "edge"), wanted,
    )  # fmt: skip
    return wish, group_id, per_head


def _draft(room: Room, text: str) -> Draft:
    """The draft on the table: the one in the address, or the first open one."""
    try:
        return drafts.draft(room.connection, forms.optional_id(text))
    except (NotFound, BadInput):
        return drafts.draft(room.connection, None)


def _bed_page(
    room: Room, bed: Bed, *, crop: str, draft: str = "", show: Show = "plants", message: str = "", status: int = 200,
    typed: SheetForm | None = None,
) -> Response:  # fmt: skip
    chosen = crop if crop in room.context.crops.crops else FIRST_CROP
    form = typed or SheetForm(crop=chosen)
    values: dict[str, Any] = {
        **_sheet(room, bed, draft=draft, show=show),
        **_choice(room, bed, form),
        "crops": sorted(((c.key, c.name.en) for c in room.context.crops), key=lambda pair: pair[1]),
        "entries": journal.entries(room.connection, until=room.day, bed_id=bed.id, limit=4),
        "only_pencil": ONLY_PENCIL if room.day > room.today else "",
        "beds": [(str(b.id), b.name) for b in garden.beds(room.connection)],
        "drafts": [(str(d.id), d.name) for d in drafts.drafts(room.connection) if d.closed_on is None]
        or [(str(_draft(room, "").id), drafts.FIRST)],
        "seasons": season_steps(room), "new_found": str(uuid4()),
    }  # fmt: skip
    title = words.joined([bed.name, bed.purpose])
    return frame.page(room, "garden", title, values, template="garden/bed.html", message=message, status=status)


def _sheet(room: Room, bed: Bed, *, draft: str = "", show: Show = "plants") -> dict[str, Any]:
    """The drawing with its list and margin; what a command on the sheet answers."""
    table = _draft(room, draft)
    present = garden.plantings(room.connection, bed_id=bed.id, since=room.day)
    shown = bed_sheet.shown_on(present, bed, room.context.crops, day=room.day, today=room.today, draft_id=table.id)
    units = room.context.school.units
    facts = bed_rules.facts(room.connection, room.context, bed, [item.planting for item in shown], today=room.today)
    judged = bed_rules.judge(
        room.context,
        facts,
        [item.planting for item in shown],
        {item.planting.id: item.layout for item in shown},
        today=room.today,
    )
    notes, worth, marks = sheet.margin(shown, bed, judged, today=room.today)
    grid = bed.grid(room.day)
    here = {cell for item in shown if item.here for cell in item.cells}
    coming = {cell for item in shown if not item.here for cell in item.cells} - here
    free = [cell for cell in grid.cells if cell not in here and cell not in coming]
    now = facts.light.on(bed, room.day, plants=False)
    sun = _sun(room, bed, shown, facts) if show == "sun" else None
    counted = [
        words.count(len(grid.cells), "square"),
        f"{len(grid.kept)} kept" if grid.kept else "",
        f"{len(here)} planted",
        f"{len(coming)} to come" if coming else "",
        f"{len(free)} free",
        words.count(sum(item.layout.plants for item in shown), "plant") if shown else "",
    ]
    change, again = garden.last_change(room.connection, bed.id), garden.next_change(room.connection, bed.id)
    fills = {item.crop.family: family(item.crop.family).fill for item in shown}
    sections = ground_store.sections(room.connection, bed.id)
    plants = ground_store.found_plants(room.connection, bed.id, room.day)
    return {
        "bed": bed,
        "bed_words": _bed_words(room, bed, now),
        "picture": bed_sheet.draw(
            bed, shown, units=units, day=room.day, sun=sun, found=plants, north_deg=(facts.light.place.north_deg - bed.turn_deg) % 360,
            sections=[Box(s.x_mm, s.y_mm, s.length_mm, s.width_mm, s.purpose) for s in sections],
        ),
        "lines": sheet.lines(shown, room.context, room.today, fills=fills),
        "notes": notes, "worth": worth, "marks": marks, "facts": words.joined(counted), "found": _found_rows(bed, plants),
        "undo": change.command if change and "put_back" in change.before else "", "redo": again.command if again else "",
        "said": "", "stale": False, "draft": str(table.id), "draft_name": table.name, "show": show,
    }  # fmt: skip


def _sun(room: Room, bed: Bed, shown: list[bed_sheet.Shown], facts: bed_rules.Facts) -> dict[Any, float]:
    """Hours in each square on the ribbon's day, with the plants as tall as they are by then."""
    here = [item.planting for item in shown if item.here]
    return sunlight.light(room.connection, room.context, facts.light.place, [bed], here, day=room.day).on(bed, room.day)


def _found_rows(bed: Bed, plants: list[Found]) -> list[dict[str, str]]:
    grid = bed.grid()
    return [
        {"id": str(p.id), "name": p.name, "intent": p.intent, "since": words.short_day(p.found_on),
         "where": cell_name((int(min(p.x_mm, bed.length_mm - 1) // grid.pitch_x_mm), int(min(p.y_mm, bed.width_mm - 1) // grid.pitch_y_mm)))}
        for p in plants
    ]  # fmt: skip


def _choice(room: Room, bed: Bed, form: SheetForm) -> dict[str, Any]:
    """The form's fields that follow from the crop, with the preview or what stands in its way."""
    chosen = room.context.crops[form.crop or FIRST_CROP]
    way = _method(form.method) if form.method in chosen.methods else chosen.methods[0]
    first = max(room.today, room.day)
    problem, shown = "", None
    try:
        day = parse_day(form.start_on, field="start_on") if form.start_on else first
        wish, _, per_head = _wish(room, form, chosen)
        shown = sheet.preview(
            room.context, bed, chosen, method=way, start_on=day, squares=form.squares, wish=wish, per_head=per_head, today=room.today,
            speaks=lambda cells, dates: _against(room, bed, form, chosen, way, wish, cells, dates),
        )  # fmt: skip
    except BadInput as error:
        day, problem = first, error.message
    units, names = room.context.school.units, room.context.group_names(room.day)
    return {
        "bed": bed, "crop": chosen, "method": way, "methods": sheet.method_choices(chosen), "start_on": day.isoformat(),
        "form": form, "squares": form.squares, "preview": shown, "problem": problem,
        "arrangements": list(ARRANGEMENT_WORDS.items()), "follow_choices": list(FOLLOWS_WORDS.items()),
        "group_choices": [("", "nobody by name")] + [(str(g.id), f"{names[str(g.id)]}, {g.head_count}") for g in room.context.groups_on(room.day)],
        "catalogue_in_row": format_length(chosen.in_row_mm, units, feet=False), "catalogue_row": format_length(chosen.row_mm, units, feet=False),
    }  # fmt: skip


def _against(
    room: Room, bed: Bed, form: SheetForm, crop: Crop, way: Method, wish: Wish, cells: frozenset[Cell], dates: GrowthDates
) -> list[Finding]:  # fmt: skip
    """What the rules of the bed would say of what is in the form, before it is painted."""
    table = _draft(room, form.draft)
    present = garden.plantings(room.connection, bed_id=bed.id, since=room.day)
    shown = bed_sheet.shown_on(present, bed, room.context.crops, day=room.day, today=room.today, draft_id=table.id)
    plan = Planting(
        uuid4(), bed.id, crop.key, "", "pencilled", table.id, way, dates.start, wish.per_square, None, cells, {}, "", dates, None, (),
        wish.arrangement, wish.follows, wish.in_row_mm, wish.row_mm, wish.sow_mm, wish.edge_mm, wish.wanted, bool(form.with_others),
    )  # fmt: skip
    return bed_rules.judge_wish(
        room.connection, room.context, bed, plan, [item.planting for item in shown], today=room.today
    )


def _bed_words(room: Room, bed: Bed, hours: dict[Any, float]) -> str:
    units = room.context.school.units
    kind = KIND_WORDS[bed.kind]
    made = f"{bed.material} {bed.built_year}" if bed.material and bed.built_year else bed.material
    names = room.context.group_names(room.day)
    light = f"{sum(hours.values()) / len(hours):.1f} h of sun in {words.month_name(room.day)}" if hours else ""
    return words.joined(
        [
            f"{kind}, {made}" if made else kind,
            f"{size(room, bed)} inside ({format_area(bed.area_m2, units)})",
            f"{format_length(bed.depth_mm, units, feet=False)} deep, {format_volume(bed.litres, units)} of soil",
            light,
            f"{names[str(bed.class_group_id)]} looks after it" if str(bed.class_group_id) in names else "",
        ]
    )


def _method(text: str) -> Method:
    found = next((method for method in METHOD_WORDS if method == text), None)
    if found is None:
        raise BadInput("Choose how it is started: in place, indoors, as starts, or set in the ground.", field="method")
    return found


def _offset(text: str) -> tuple[int, int]:
    """`2,-1`: two squares to the right and one up."""
    try:
        columns, rows = (int(part) for part in text.split(","))
    except ValueError:
        raise BadInput("Say by how many squares to move: right and down, like 1,0.", field="by") from None
    if not (-200 <= columns <= 200 and -200 <= rows <= 200):
        raise BadInput("That is farther than any bed is long.", field="by")
    return columns, rows


def _count(text: str) -> int | None:
    if not text.strip():
        return None
    if not text.strip().isascii() or not text.strip().isdigit() or not 1 <= int(text[:6]) <= 400:
        raise BadInput("Plants in a square: a whole number from 1 to 400, or leave it empty.", field="per_square")
    return int(text)
