"""Garden: the bed sheet, on which squares are painted, inked, moved and rubbed out."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.garden import bed_findings, painting, planting_events, plantings, sunlight, undo
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.core.units import format_area, format_length, format_volume
from almanaque.core.words import Phrase, terms
from almanaque.store.errors import Stale
from almanaque.store.garden import bed_sections, changes, drafts, garden, volunteer_plants
from almanaque.store.garden.garden import Bed
from almanaque.store.garden.volunteer_plants import VolunteerPlant
from almanaque.store.journal import journal_entries, photos
from almanaque.web import frame, words
from almanaque.web.garden import bed_picture, sheet_parts, shown_as
from almanaque.web.garden.bed_picture import BedPicture, Box, Marker
from almanaque.web.garden.paint_form import (
    FIRST_CROP,
    SheetForm,
    Show,
    Then,
    choices,
    judge_sheet,
    on_past_sheet,
    on_sheet,
    on_table,
    read_method,
    read_offset,
    read_wish,
)
from almanaque.web.garden.sheet_parts import NoteView, SheetLine
from almanaque.web.garden.site_map import season_steps, size
from almanaque.web.htmx import HtmxRequest, vary
from almanaque.web.pictures import photo_strip
from almanaque.web.pictures.families import family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
ONLY_PENCIL = Phrase("garden.only_pencil")
KIND_WORDS = {
    "raised": "raised",
    "sunken": "sunken",
    "ground": "level with the ground",
    "plot": "open plot",
    "container": "container",
    "fabric pot": "fabric pot",
    "planter": "planter",
    "sill": "indoor sill",
}


@router.get("/garden/beds/{bed_id}")
def bed_page(
    scope: Look,
    bed_id: UUID,
    crop: str = FIRST_CROP,
    draft: str = "",
    show: Show | None = None,
    squares: str = "",
    start_on: str = "",
    then: Then = "stood",
) -> Response:
    """The sheet. `squares` and `start_on` are in the form already when a list of what fits leads here."""
    drawn = show or shown_as.drawn(scope.request)
    with scope.open() as work:
        typed = (
            SheetForm(crop=crop, draft=draft, show=drawn, squares=squares[:200], start_on=start_on[:10])
            if squares or start_on
            else None
        )
        page = _bed_page(
            work, garden.bed(work.connection, bed_id), crop=crop, draft=draft, show=drawn, typed=typed, then=then
        )
        return shown_as.keep(page, scope.request, show)


@router.get("/garden/beds/{bed_id}/news")
def news(scope: Look, bed_id: UUID, version: int, draft: str = "", show: Show = "plants") -> Response:
    """The sheet as others left it, when its version is another than the one on the page; 204 while nothing changed."""
    with scope.database.school(scope.visitor.school_id) as connection:
        if changes.version(connection, bed_id) == version:
            return Response(status_code=204)
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        said = _since(work, bed, version)
        values = {**_sheet(work, bed, draft=draft, show=show), "said": said}
        return vary(frame.part(work, "garden/_sheet.html", values))


@router.get("/garden/beds/{bed_id}/choice")
def choice(scope: Look, bed_id: UUID, form: Annotated[SheetForm, Depends()], only: str = "") -> Response:
    """The part of the form that follows from the crop, or only its preview."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        values = choices(work, bed, form)
        return vary(
            frame.part(work, "garden/_paint_preview.html" if only == "preview" else "garden/_paint_choice.html", values)
        )


@router.post("/garden/beds/{bed_id}")
def command(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[SheetForm, Form()]) -> Response:
    """One command on the sheet. Where someone else changed the bed meanwhile nothing is written, and the difference is shown."""
    crop = form.crop or FIRST_CROP
    try:
        with scope.open() as work:
            said = _carry_out(work, bed_id, form)
            return after(work, htmx.part, bed_id, said, form, crop=crop)
    except Stale as stale:
        with scope.open() as work:
            bed = garden.bed(work.connection, bed_id)
            said = f"{stale} {_since(work, bed, form.version or 0)} What you chose is still in the form: press again if you still want it."
            if htmx.part:
                values = {**_sheet(work, bed, draft=form.draft, show=form.show), "said": said, "stale": True}
                return vary(frame.part(work, "garden/_sheet.html", values))
            return _bed_page(
                work, bed, crop=crop, draft=form.draft, show=form.show, message=said, status=409, typed=form
            )
    except BadInput as error:
        if not htmx.part:
            raise
        with scope.open() as work:
            bed = garden.bed(work.connection, bed_id)
            values = {**_sheet(work, bed, draft=form.draft, show=form.show), "said": error.message, "refused": True}
            return vary(frame.part(work, "garden/_sheet.html", values, status=422))


@router.post("/garden/plantings/{planting_id}/start")
def move(
    scope: Plan,
    htmx: HtmxRequest,
    planting_id: UUID,
    method: Annotated[Method, Form()],
    start_on: Annotated[str, Form()] = "",
) -> Response:
    """Give a plan another first day, as a note in the margin proposes."""
    with scope.open() as work:
        day = parse_day(start_on, field="start_on")
        draft = garden.planting(work.connection, planting_id).draft_id
        bed_id = plantings.move(
            work.connection, work.context, planting_id, method=method, start_on=day, actor=work.actor()
        )
        return after(work, htmx.part, bed_id, f"Moved to {words.short_day(day)}.", SheetForm(draft=str(draft or "")))


@router.post("/garden/plantings/{planting_id}/happened")
def happened(
    scope: Annotated[RequestScope, Depends(may("tick"))],
    htmx: HtmxRequest,
    planting_id: UUID,
    kind: Annotated[Literal["started", "emerged", "set out", "cleared", "lost"], Form()],
    day: Annotated[str, Form()] = "",
) -> Response:
    """Note what really happened to a planting."""
    with scope.open() as work:
        on_day = parse_day(day) if day else work.today
        planting_events.happened(work.connection, work.context, planting_id, kind, on_day, work.actor())
        bed_id = garden.planting(work.connection, planting_id).bed_id
        return after(work, htmx.part, bed_id, f"Noted for {words.short_day(on_day)}.", SheetForm())


def _since(work: UnitOfWork, bed: Bed, version: int) -> str:
    """What others did since: `Meanwhile: paint carrot (Rowan, the coordinator, 10:04).`"""
    done = changes.changes_since(work.connection, bed.id, version)
    if not done:
        return ""
    told = "; ".join(f"{'undone: ' if d.undone else ''}{d.command}{f' ({d.by})' if d.by else ''}" for d in done[-4:])
    return f"Meanwhile here: {told}."


def after(work: UnitOfWork, part: bool, bed_id: UUID, said: str, form: SheetForm, **query: str) -> Response:
    """The sheet as it is now with a word on what was done, or the way back to its page."""
    if part:
        bed = garden.bed(work.connection, bed_id)
        return vary(
            frame.part(
                work, "garden/_sheet.html", {**_sheet(work, bed, draft=form.draft, show=form.show), "said": said}
            )
        )
    if form.draft:
        query["draft"] = form.draft
    return frame.go(work, f"/garden/beds/{bed_id}", **query)


def _carry_out(work: UnitOfWork, bed_id: UUID, form: SheetForm) -> str:
    """Carry out a command; return a word on what was done."""
    actor = work.actor(form.version)
    given = (work.connection, work.context, bed_id)
    table = on_table(work, form.draft).id
    if form.command in ("ink", "to-ink") and work.day > work.today:
        raise BadInput(ONLY_PENCIL.code)
    match form.command:
        case "undo":
            return f"Undone: {undo.undo(*given, actor=actor)}."
        case "redo":
            return f"Done again: {undo.redo(*given, actor=actor)}."
        case "rub":
            count = painting.rub_out(*given, form.squares, shown=work.day, actor=actor, draft_id=table)
            return f"{words.count(count, 'square')} rubbed out."
        case "to-ink":
            plantings.set_ink(*given, form.squares, ink=True, shown=work.day, actor=actor, draft_id=table)
            return "Turned to ink; its jobs are in the weeks to come."
        case "to-pencil":
            plantings.set_ink(*given, form.squares, ink=False, shown=work.day, actor=actor, draft_id=table)
            return "Back to pencil."
        case "move":
            columns, rows = read_offset(form.by)
            count = plantings.shift(
                *given, form.squares, columns=columns, rows=rows, shown=work.day, actor=actor, draft_id=table
            )
            return f"{words.count(count, 'plan')} moved."
    crop = work.context.crops[form.crop]
    wish, group_id, _ = read_wish(work, form, crop)
    if form.command == "lay":
        count = plantings.change_spacing(
            *given, form.squares, wish, with_others=bool(form.with_others), shown=work.day, actor=actor, draft_id=table
        )
        return f"{words.count(count, 'plan')} laid out anew."
    way = read_method(form.method)
    wanted = Paint(
        form.squares,
        crop.key,
        way if way in crop.methods else crop.methods[0],
        parse_day(form.start_on, field="start_on"),
        ink=form.command == "ink",
        spacing=wish,
        with_others=bool(form.with_others),
        draft_id=table,
        class_group_id=group_id,
    )
    made = garden.planting(work.connection, painting.paint(*given, wanted, actor))
    laid = layout_of(made, garden.bed(work.connection, bed_id), crop)
    verdict = terms("verdict")[made.verdict] if made.verdict else ""
    done = "planned in ink" if wanted.ink else "pencilled in"
    counted = f"{words.count(laid.plants, 'plant')} in {words.count(laid.squares, 'square')}"
    return f"{crop.name.en} {done}: {counted}; {verdict}."


def _bed_page(
    work: UnitOfWork,
    bed: Bed,
    *,
    crop: str,
    draft: str = "",
    show: Show = "plants",
    message: str = "",
    status: int = 200,
    typed: SheetForm | None = None,
    then: Then = "stood",
) -> Response:
    chosen = crop if crop in work.context.crops.crops else FIRST_CROP
    form = typed or SheetForm(crop=chosen)
    values: dict[str, Any] = {
        **_sheet(work, bed, draft=draft, show=show, then=then),
        **choices(work, bed, form),
        "crops": sorted(((c.key, c.name.en) for c in work.context.crops), key=lambda pair: pair[1]),
        "photos": photo_strip.strip(photos.photos(work.connection, until=work.day, bed_id=bed.id, limit=200), bed.name),
        "entries": journal_entries.entries(work.connection, until=work.day, bed_id=bed.id, limit=4),
        "only_pencil": str(ONLY_PENCIL) if work.day > work.today else "",
        "beds": [(str(b.id), b.name) for b in garden.beds(work.connection)],
        "drafts": [(str(d.id), d.name) for d in drafts.drafts(work.connection) if d.closed_on is None]
        or [(str(on_table(work, "").id), drafts.FIRST)],
        "seasons": season_steps(work),
        "new_found": str(uuid4()),
    }
    title = words.joined([bed.name, bed.purpose])
    return frame.page(work, "garden", title, values, template="garden/bed_sheet.html", message=message, status=status)


@dataclass(frozen=True)
class BedSheetView(View):
    """Filled by `_sheet`, read by its template."""

    bed: Bed
    bed_words: str
    picture: BedPicture
    lines: list[SheetLine]
    notes: list[NoteView]
    worth: list[NoteView]
    marks: list[Marker]
    facts: str
    found: list[dict[str, str]]
    undo: str
    redo: str
    said: str
    refused: bool
    stale: bool
    draft: str
    draft_name: str
    show: str
    then: Then | Literal[""]


def _sheet(work: UnitOfWork, bed: Bed, *, draft: str = "", show: Show = "plants", then: Then = "stood") -> BedSheetView:
    """The drawing with its list and margin; what a command on the sheet answers."""
    table = on_table(work, draft)
    past = work.day < work.today
    shown = on_past_sheet(work, bed, table, then) if past else on_sheet(work, bed, table)
    units = work.context.school.units
    facts, said = judge_sheet(work, bed, shown)
    notes, worth, marks = sheet_parts.margin(shown, bed, said, today=min(work.day, work.today))
    grid = bed.grid(work.day)
    here = {cell for item in shown if item.here for cell in item.cells}
    coming = {cell for item in shown if not item.here for cell in item.cells} - here
    free = [cell for cell in grid.cells if cell not in here and cell not in coming]
    now = facts.light.on(bed, work.day, plants=False)
    sun = _sun(work, bed, shown, facts) if show == "sun" else None
    counted = [
        words.count(len(grid.cells), "square"),
        f"{len(grid.kept)} kept" if grid.kept else "",
        f"{len(here)} planted",
        f"{len(coming)} to come" if coming else "",
        f"{len(free)} free",
        words.count(sum(item.layout.plants for item in shown), "plant") if shown else "",
    ]
    change, again = changes.last_change(work.connection, bed.id), changes.next_change(work.connection, bed.id)
    fills = {item.crop.family: family(item.crop.family).fill for item in shown}
    sections, names = bed_sections.sections(work.connection, bed.id), work.context.group_names(work.day)
    plants = volunteer_plants.found_plants(work.connection, bed.id, work.day)
    return BedSheetView(
        bed=bed,
        bed_words=_bed_words(work, bed, now),
        picture=bed_picture.draw(
            bed,
            shown,
            units=units,
            day=work.day,
            sun=sun,
            looks="line" if show == "colour" else "colour" if show == "looks" else None,
            southern=work.context.school.southern,
            found=plants,
            north_deg=(facts.light.place.north_deg - bed.turn_deg) % 360,
            sections=[
                Box(
                    s.x_mm,
                    s.y_mm,
                    s.length_mm,
                    s.width_mm,
                    words.joined([s.purpose, names.get(str(s.class_group_id), "")]),
                )
                for s in sections
            ],
        ),
        lines=sheet_parts.lines(shown, work.context, work.day, work.today, fills=fills),
        notes=notes,
        worth=worth,
        marks=marks,
        facts=words.joined(counted),
        found=_found_rows(bed, plants),
        undo=change.command if change and "put_back" in change.before else "",
        redo=again.command if again else "",
        said="",
        refused=False,
        stale=False,
        draft=str(table.id),
        draft_name=table.name,
        show=show,
        then=then if past else "",
    )


def _sun(
    work: UnitOfWork, bed: Bed, shown: list[bed_picture.PlantingPicture], facts: bed_findings.Facts
) -> dict[Any, float]:
    """Hours in each square on the ribbon's day, with the plants as tall as they are by then."""
    here = [item.planting for item in shown if item.here]
    return sunlight.light(work.connection, work.context, facts.light.place, [bed], here, day=work.day).on(bed, work.day)


def _found_rows(bed: Bed, plants: list[VolunteerPlant]) -> list[dict[str, str]]:
    grid = bed.grid()
    return [
        {
            "id": str(p.id),
            "name": p.name,
            "intent": p.intent,
            "since": words.short_day(p.found_on),
            "where": cell_name(
                (
                    int(min(p.x_mm, bed.length_mm - 1) // grid.pitch_x_mm),
                    int(min(p.y_mm, bed.width_mm - 1) // grid.pitch_y_mm),
                )
            ),
        }
        for p in plants
    ]


def _bed_words(work: UnitOfWork, bed: Bed, hours: dict[Any, float]) -> str:
    units = work.context.school.units
    kind = KIND_WORDS[bed.kind]
    made = f"{bed.material} {bed.built_year}" if bed.material and bed.built_year else bed.material
    names = work.context.group_names(work.day)
    light = f"{sum(hours.values()) / len(hours):.1f} h of sun in {words.month_name(work.day)}" if hours else ""
    return words.joined(
        [
            f"{kind}, {made}" if made else kind,
            f"{size(work, bed)} inside ({format_area(bed.area_m2, units)})",
            f"{format_length(bed.depth_mm, units, feet=False)} deep, {format_volume(bed.litres, units)} of soil",
            light,
            f"{names[str(bed.class_group_id)]} looks after it" if str(bed.class_group_id) in names else "",
        ]
    )
