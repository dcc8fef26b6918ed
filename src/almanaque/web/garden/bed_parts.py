"""Garden: what stays in a bed and which part of it is whose, drawn on the bed and written in boxes."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import ground_changes, map_drawing
from almanaque.commands.garden import site_map as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.bed_strings import stringing
from almanaque.core.units import Units, format_length
from almanaque.store import errors
from almanaque.store.garden import bed_sections, garden
from almanaque.store.garden import ground_changes as ground_changes_store
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.htmx import Htmx, HtmxRequest, vary
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
WIDEST, HIGHEST = 780.0, 440.0
BOXES = ("label", "crop", "height", "spread", "from_day", "to_day", "x", "y", "length", "width")
PartKind = Literal["kept", "section"]


@dataclass(frozen=True)
class PartShape:
    """A part as the drawing shows it: pixels, but for what ends in `_mm`."""

    id: str
    kind: PartKind
    name: str
    words: str
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    transform: str
    path: str
    middle_x: float
    middle_y: float
    crown: float


@dataclass(frozen=True)
class PartFields:
    """The boxes of the part that is chosen."""

    id: str
    kind: PartKind
    values: dict[str, str]


@dataclass(frozen=True)
class BedPartsView(View):
    """The page on which the parts of a bed are drawn."""

    bed_id: str
    name: str
    version: int
    view_box: str
    scale: float
    length_mm: float
    width_mm: float
    outline: str
    strings: str
    parts: list[PartShape]
    chosen: str
    fields: PartFields | None
    crops: list[tuple[str, str]]
    groups: list[tuple[str, str]]
    said: str
    error: str
    field: str
    undo: str
    redo: str
    snap_mm: float
    nudge_mm: float
    snap_words: str
    facts: str


@router.get("/garden/beds/{bed_id}/parts")
def parts(scope: Plan, bed_id: UUID, thing: str = "") -> Response:
    """The bed with what is kept in it and its sections."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        return frame.page(
            work, "garden", f"Parts of {bed.name}", _view(work, bed, chosen=thing), template="garden/bed_parts.html"
        )


class PartPlaceForm(BaseModel):
    """What the form sends, as it was drawn: millimetres from the bed's inside corner."""

    what: str = ""
    id: str = ""
    kind: str = ""
    x: str = ""
    y: str = ""
    length: str = ""
    width: str = ""
    version: int | None = None


@router.post("/garden/beds/{bed_id}/parts/place")
def place(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[PartPlaceForm, Form()]) -> Response:
    """Lay a part where it was dragged."""

    def lay(work: UnitOfWork, bed: Bed, sections: list[Section]) -> tuple[str, str]:
        x, y, length, width = _drawn(form)
        kind, at = _which(form.id)
        if kind == "kept":
            bed = replace(bed, kept=_with(bed.kept, at, x_mm=x, y_mm=y, length_mm=length, width_mm=width))
        else:
            sections = _with(sections, at, x_mm=x, y_mm=y, length_mm=length, width_mm=width)
        _write(work, bed, sections, form.version)
        return form.id, f"{_size(length, width, work.context.school.units)}, kept."

    return _done(scope, htmx, bed_id, form.id, lay)


@router.post("/garden/beds/{bed_id}/parts/add")
def add(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[PartPlaceForm, Form()]) -> Response:
    """A part as it was drawn: kept, an edge that is not planted, or a section."""

    def draw(work: UnitOfWork, bed: Bed, sections: list[Section]) -> tuple[str, str]:
        x, y, length, width = _drawn(form)
        if form.kind == "section":
            name = _free_name("Section", {s.purpose for s in sections})
            sections = [*sections, Section(name, None, x, y, length, width)]
        else:
            name = _free_name("Edge" if form.kind == "edge" else "Kept part", {k.label for k in bed.kept})
            bed = replace(bed, kept=[*bed.kept, Rectangle(x, y, length, width, name)])
        _write(work, bed, sections, form.version)
        return _id_of(
            work, bed_id, form.kind, name
        ), f"{name} drawn, {_size(length, width, work.context.school.units)}."

    return _done(scope, htmx, bed_id, "", draw)


class PartForm(BaseModel):
    """What the form sends, as it was typed: one box for each number."""

    id: str = ""
    version: int | None = None
    label: str = ""
    crop: str = ""
    height: str = ""
    spread: str = ""
    from_day: str = ""
    to_day: str = ""
    group: str = ""
    x: str = ""
    y: str = ""
    length: str = ""
    width: str = ""
    action: Literal["save", "remove"] = "save"


@router.post("/garden/beds/{bed_id}/parts")
def save(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[PartForm, Form()]) -> Response:
    """The numbers of the part that is chosen, or take it out."""

    def write(work: UnitOfWork, bed: Bed, sections: list[Section]) -> tuple[str, str]:
        kind, at = _which(form.id)
        if form.action == "remove":
            if kind == "kept":
                bed = replace(bed, kept=_without(bed.kept, at))
            else:
                sections = _without(sections, at)
            _write(work, bed, sections, form.version)
            return "", "Taken out."
        if kind == "kept":
            part = _kept(form, bed.kept[at] if at < len(bed.kept) else Rectangle(0, 0, 1, 1), work.context.school.units)
            bed = replace(bed, kept=_put(bed.kept, at, part))
            name = part.label
        else:
            section = _section(work, form, sections[at] if at < len(sections) else Section("", None, 0, 0, 1, 1))
            sections = _put(sections, at, section)
            name = section.purpose
        _write(work, bed, sections, form.version)
        return _id_of(work, bed_id, kind, name), f"Saved: {name}."

    return _done(scope, htmx, bed_id, form.id, write, typed=form.model_dump())


@router.post("/garden/beds/{bed_id}/parts/undo")
def undo(scope: Plan, htmx: HtmxRequest, bed_id: UUID) -> Response:
    """Take the last step on the map or in a bed back."""

    def back(work: UnitOfWork, bed: Bed, sections: list[Section]) -> tuple[str, str]:
        return "", f"Taken back: {ground_changes.undo(work.connection, work.context, work.actor())}."

    return _done(scope, htmx, bed_id, "", back)


@router.post("/garden/beds/{bed_id}/parts/redo")
def redo(scope: Plan, htmx: HtmxRequest, bed_id: UUID) -> Response:
    """Do it again."""

    def again(work: UnitOfWork, bed: Bed, sections: list[Section]) -> tuple[str, str]:
        return "", f"Done again: {ground_changes.redo(work.connection, work.context, work.actor())}."

    return _done(scope, htmx, bed_id, "", again)


def _done(
    scope: RequestScope,
    htmx: Htmx,
    bed_id: UUID,
    chosen: str,
    write: Callable[[UnitOfWork, Bed, list[Section]], tuple[str, str]],
    *,
    typed: Mapping[str, Any] | None = None,
) -> Response:
    """Do it and show the bed as it is then; or as it is, with the reason why not."""
    try:
        with scope.open() as work:
            bed = garden.bed(work.connection, bed_id)
            now, said = write(work, bed, list(bed_sections.sections(work.connection, bed_id)))
            if not htmx.part:
                return frame.go(work, f"/garden/beds/{bed_id}/parts", thing=now)
            bed = garden.bed(work.connection, bed_id)
            return vary(frame.part(work, "garden/_bed_parts.html", _view(work, bed, chosen=now, said=said)))
    except (BadInput, errors.Stale, errors.Refused) as error:
        if not htmx.part:
            raise
        sentence = error.message if isinstance(error, BadInput) else str(error)
        field = error.field or "" if isinstance(error, BadInput) else ""
        with scope.open() as work:
            bed = garden.bed(work.connection, bed_id)
            view = _view(work, bed, chosen=chosen, error=sentence, field=field, typed=typed)
            status = 422 if isinstance(error, BadInput) else 409
            return vary(frame.part(work, "garden/_bed_parts.html", view, status=status))


def _write(work: UnitOfWork, bed: Bed, sections: list[Section], version: int | None) -> None:
    map_drawing.change_bed(work.connection, work.context, bed, work.actor(version), sections=sections)


def _view(
    work: UnitOfWork,
    bed: Bed,
    *,
    chosen: str,
    said: str = "",
    error: str = "",
    field: str = "",
    typed: Mapping[str, Any] | None = None,
) -> BedPartsView:
    units = work.context.school.units
    sections = bed_sections.sections(work.connection, bed.id)
    scale = min(WIDEST / bed.length_mm, HIGHEST / bed.width_mm)
    grid = bed.grid()
    strung = stringing(bed.length_mm, bed.width_mm, grid)
    shapes = [
        *(_shape(f"kept-{n}", "kept", k.label, k, scale, k.spread_mm) for n, k in enumerate(bed.kept)),
        *(_shape(f"section-{n}", "section", s.purpose, s, scale, None) for n, s in enumerate(sections)),
    ]
    names = work.context.group_names(work.day)
    by = work.actor().by
    undo, redo = (
        ground_changes_store.next_undo(work.connection, by),
        ground_changes_store.next_redo(work.connection, by),
    )
    return BedPartsView(
        bed_id=str(bed.id),
        name=bed.name,
        version=bed.version,
        view_box=f"-24 -24 {bed.length_mm * scale + 48:.1f} {bed.width_mm * scale + 48:.1f}",
        scale=scale,
        length_mm=bed.length_mm,
        width_mm=bed.width_mm,
        outline="M" + "L".join(f"{x * scale:.1f} {y * scale:.1f}" for x, y in bed.shape.own_corners_mm) + "Z",
        strings="".join(
            f"M{r.at_mm * scale:.1f} {r.from_mm * scale:.1f}v{r.long_mm * scale:.1f}"
            if r.upright
            else f"M{r.from_mm * scale:.1f} {r.at_mm * scale:.1f}h{r.long_mm * scale:.1f}"
            for r in strung.runs
        ),
        parts=shapes,
        chosen=chosen if any(shape.id == chosen for shape in shapes) else "",
        fields=_fields(bed, sections, chosen, units, typed),
        crops=sorted((crop.name.en, crop.key) for crop in work.context.crops),
        groups=[("", "nobody")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
        said=said,
        error=error,
        field=field if field in BOXES else "",
        undo=ground_changes.words(undo) if undo else "",
        redo=ground_changes.words(redo) if redo else "",
        snap_mm=commands.SNAP_MM[units] / 2,
        nudge_mm=commands.NUDGE_MM[units],
        snap_words="6 in" if units == "us" else "5 cm",
        facts=words.joined(
            [
                words.count(len(grid.cells), "free square"),
                f"{words.count(strung.strings, 'string')}, {format_length(strung.with_knots_mm, units)} with knots",
            ]
        ),
    )


def _shape(
    part_id: str, kind: PartKind, name: str, part: Rectangle | Section, scale: float, spread_mm: float | None
) -> PartShape:
    return PartShape(
        part_id,
        kind,
        name,
        f"{name}: {'kept' if kind == 'kept' else 'section'}",
        part.x_mm,
        part.y_mm,
        part.length_mm,
        part.width_mm,
        f"translate({part.x_mm * scale:.2f} {part.y_mm * scale:.2f})",
        f"M0 0h{part.length_mm * scale:.2f}v{part.width_mm * scale:.2f}h{-part.length_mm * scale:.2f}Z",
        round(part.length_mm / 2 * scale, 1),
        round(part.width_mm / 2 * scale, 1),
        round((spread_mm or 0.0) / 2 * scale, 1),
    )


def _fields(
    bed: Bed, sections: list[Section], chosen: str, units: Units, typed: Mapping[str, Any] | None
) -> PartFields | None:
    kind, at = _which(chosen)
    found: Rectangle | Section | None = None
    if kind == "kept" and at < len(bed.kept):
        found = bed.kept[at]
    elif kind == "section" and at < len(sections):
        found = sections[at]
    if found is None:
        return None
    values = {
        "x": format_length(found.x_mm, units),
        "y": format_length(found.y_mm, units),
        "length": format_length(found.length_mm, units),
        "width": format_length(found.width_mm, units),
    }
    if isinstance(found, Rectangle):
        values |= {
            "label": found.label,
            "crop": found.crop or "",
            "height": format_length(found.height_mm, units) if found.height_mm else "",
            "spread": format_length(found.spread_mm, units) if found.spread_mm else "",
            "from_day": found.from_day.isoformat() if found.from_day else "",
            "to_day": found.to_day.isoformat() if found.to_day else "",
        }
    else:
        values |= {"label": found.purpose, "group": str(found.class_group_id or "")}
    values |= {key: str(value) for key, value in (typed or {}).items() if key in values}
    return PartFields(chosen, kind, values)


def _kept(form: PartForm, known: Rectangle, units: Units) -> Rectangle:
    def length(text: str, field: str, now: float) -> float:
        return now if text == format_length(now, units) else forms.length(text, units, field=field, us="ft")

    return Rectangle(
        length(form.x, "x", known.x_mm),
        length(form.y, "y", known.y_mm),
        length(form.length, "length", known.length_mm),
        length(form.width, "width", known.width_mm),
        forms.name(form.label, field="label"),
        forms.optional_day(form.from_day, field="from_day"),
        forms.optional_day(form.to_day, field="to_day"),
        form.crop or None,
        forms.length(form.height, units, field="height", us="ft") if form.height.strip() else None,
        forms.length(form.spread, units, field="spread", us="ft") if form.spread.strip() else None,
    )


def _section(work: UnitOfWork, form: PartForm, known: Section) -> Section:
    units = work.context.school.units
    group = forms.optional_id(form.group)
    if group is not None and group not in {g.id for g in work.context.groups}:
        raise BadInput("garden.no_such_group", field="group")

    def length(text: str, field: str, now: float) -> float:
        return now if text == format_length(now, units) else forms.length(text, units, field=field, us="ft")

    return Section(
        forms.name(form.label, field="label"),
        group,
        length(form.x, "x", known.x_mm),
        length(form.y, "y", known.y_mm),
        length(form.length, "length", known.length_mm),
        length(form.width, "width", known.width_mm),
    )


def _drawn(form: PartPlaceForm) -> tuple[float, float, float, float]:
    numbers = [forms.number(text, field="at", what="place") for text in (form.x, form.y, form.length, form.width)]
    if any(number is None for number in numbers):
        raise BadInput("forms.incomplete")
    x, y, length, width = (float(number or 0.0) for number in numbers)
    return x, y, length, width


def _which(part_id: str) -> tuple[PartKind, int]:
    """`kept-2` is the third kept part; what is none lies beyond all of them."""
    kind, _, number = part_id.partition("-")
    at = int(number) if number.isascii() and number.isdigit() and len(number) < 4 else 999
    return ("section" if kind == "section" else "kept"), at


def _id_of(work: UnitOfWork, bed_id: UUID, kind: str, name: str) -> str:
    """Where a part of this name stands in its list now."""
    bed = garden.bed(work.connection, bed_id)
    sections = bed_sections.sections(work.connection, bed_id)
    names = [s.purpose for s in sections] if kind == "section" else [k.label for k in bed.kept]
    return f"{'section' if kind == 'section' else 'kept'}-{names.index(name) if name in names else 0}"


def _with(parts: list[Any], at: int, **change: float) -> list[Any]:
    return _put(parts, at, replace(parts[at], **change) if at < len(parts) else None)


def _put(parts: list[Any], at: int, part: Any) -> list[Any]:
    if at >= len(parts):
        raise BadInput("garden.part_gone")
    return [part if n == at else other for n, other in enumerate(parts)]


def _without(parts: list[Any], at: int) -> list[Any]:
    if at >= len(parts):
        raise BadInput("garden.part_gone")
    return [other for n, other in enumerate(parts) if n != at]


def _free_name(word: str, taken: set[str]) -> str:
    number, name = 2, word
    while name in taken:
        name, number = f"{word} {number}", number + 1
    return name


def _size(length_mm: float, width_mm: float, units: Units) -> str:
    return f"{format_length(length_mm, units)} × {format_length(width_mm, units)}"
