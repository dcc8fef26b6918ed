"""Garden: what stays in a bed and which part of it is whose, drawn on the bed and written in boxes."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Annotated, Any, Literal, TypeVar
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.garden import ground_changes, map_drawing
from almanaque.commands.garden import site_map as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden import drawing
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.bed_strings import stringing
from almanaque.core.units import Units, format_length
from almanaque.store.garden import bed_sections, garden
from almanaque.store.garden import ground_changes as ground_changes_store
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.garden import part_form
from almanaque.web.garden.drawing_page import DrawingPage
from almanaque.web.garden.part_form import PartForm
from almanaque.web.htmx import HtmxRequest
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]
WIDEST, HIGHEST = 780.0, 440.0
BOXES = ("label", "crop", "height", "spread", "from_day", "to_day", "x", "y", "length", "width")
PartKind = Literal["kept", "section"]
Part = TypeVar("Part", Rectangle, Section)


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
    ghost: str
    facts: str


@router.get("/garden/beds/{bed_id}/parts")
def parts(scope: Plan, bed_id: UUID, thing: str = "") -> Response:
    """The bed with what is kept in it and its sections."""
    with scope.open() as work:
        bed = garden.bed(work.connection, bed_id)
        return frame.page(
            work,
            "garden",
            f"Parts of {bed.name}",
            _view(work, bed_id=bed_id, thing=thing),
            template="garden/bed_parts.html",
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

    def lay(work: UnitOfWork) -> tuple[str, str]:
        x, y, length, width = _drawn(form)
        kind, at = _which(form.id)

        def at_place(part: Part) -> Part:
            return replace(part, x_mm=x, y_mm=y, length_mm=length, width_mm=width)

        def laid(bed: Bed, sections: list[Section]) -> tuple[Bed, Sequence[Section]]:
            if kind == "kept":
                return replace(bed, kept=_with(bed.kept, at, at_place)), sections
            return bed, _with(sections, at, at_place)

        _change(work, bed_id, laid, form.version)
        return form.id, f"{_size(length, width, work.context.school.units)}, kept."

    return _page(bed_id).answer(scope, htmx, form.id, lay)


@router.post("/garden/beds/{bed_id}/parts/add")
def add(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[PartPlaceForm, Form()]) -> Response:
    """A part as it was drawn: kept, an edge that is not planted, or a section."""

    def draw(work: UnitOfWork) -> tuple[str, str]:
        x, y, length, width = _drawn(form)
        section = form.kind == "section"

        def drawn(bed: Bed, sections: list[Section]) -> tuple[Bed, Sequence[Section]]:
            if section:
                name = drawing.free_name("Section", {s.purpose for s in sections})
                return bed, [*sections, Section(name, None, x, y, length, width)]
            name = drawing.free_name("Edge" if form.kind == "edge" else "Kept part", {k.label for k in bed.kept})
            return replace(bed, kept=[*bed.kept, Rectangle(x, y, length, width, name)]), sections

        bed, sections = _change(work, bed_id, drawn, form.version)
        name = sections[-1].purpose if section else bed.kept[-1].label
        place = _place_of(work, bed_id, "section" if section else "kept", name)
        return place, f"{name} drawn, {_size(length, width, work.context.school.units)}."

    return _page(bed_id).answer(scope, htmx, "", draw)


@router.post("/garden/beds/{bed_id}/parts")
def save(scope: Plan, htmx: HtmxRequest, bed_id: UUID, form: Annotated[PartForm, Form()]) -> Response:
    """The numbers of the part that is chosen, or take it out."""

    def write(work: UnitOfWork) -> tuple[str, str]:
        kind, at = _which(form.id)

        def written(bed: Bed, sections: list[Section]) -> tuple[Bed, Sequence[Section]]:
            if form.action == "remove":
                if kind == "kept":
                    return replace(bed, kept=_without(bed.kept, at)), sections
                return bed, _without(sections, at)
            if kind == "kept":
                return replace(bed, kept=_with(bed.kept, at, lambda part: part_form.kept(form, part, units))), sections
            return bed, _with(sections, at, lambda part: part_form.section(form, part, units, groups))

        units = work.context.school.units
        groups = {g.id for g in work.context.groups}
        _change(work, bed_id, written, form.version)
        if form.action == "remove":
            return "", "Taken out."
        name = forms.name(form.label, field="label")
        return _place_of(work, bed_id, kind, name), f"Saved: {name}."

    return _page(bed_id).answer(scope, htmx, form.id, write, typed=form.model_dump())


@router.post("/garden/beds/{bed_id}/parts/undo")
def undo(scope: Plan, htmx: HtmxRequest, bed_id: UUID) -> Response:
    return _page(bed_id).undo(scope, htmx)


@router.post("/garden/beds/{bed_id}/parts/redo")
def redo(scope: Plan, htmx: HtmxRequest, bed_id: UUID) -> Response:
    return _page(bed_id).redo(scope, htmx)


def _page(bed_id: UUID) -> DrawingPage:
    return DrawingPage(f"/garden/beds/{bed_id}/parts", "garden/_bed_parts.html", partial(_view, bed_id=bed_id))


def _change(
    work: UnitOfWork, bed_id: UUID, change: map_drawing.BedChange, version: int | None
) -> tuple[Bed, Sequence[Section]]:
    return map_drawing.change_bed(work.connection, work.context, bed_id, change, work.actor(version))


def _view(
    work: UnitOfWork,
    *,
    bed_id: UUID,
    thing: str = "",
    said: str = "",
    error: str = "",
    field: str = "",
    typed: Mapping[str, Any] | None = None,
) -> BedPartsView:
    units = work.context.school.units
    bed = garden.bed(work.connection, bed_id)
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
        chosen=thing if any(shape.id == thing for shape in shapes) else "",
        fields=_fields(bed, sections, thing, units, typed),
        crops=sorted((crop.name.en, crop.key) for crop in work.context.crops),
        groups=[("", "nobody")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
        said=said,
        error=error,
        field=field if field in BOXES else "",
        undo=ground_changes.words(undo) if undo else "",
        redo=ground_changes.words(redo) if redo else "",
        ghost=",".join(f"{mm:.4f}" for mm in drawing.free_part(grid) or ()),
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


def _place_of(work: UnitOfWork, bed_id: UUID, kind: PartKind, name: str) -> str:
    """Where a part of this name stands in its list now."""
    if kind == "section":
        names = [s.purpose for s in bed_sections.sections(work.connection, bed_id)]
    else:
        names = [k.label for k in garden.bed(work.connection, bed_id).kept]
    return f"{kind}-{names.index(name) if name in names else 0}"


def _with(parts: Sequence[Part], at: int, change: Callable[[Part], Part]) -> list[Part]:
    if at >= len(parts):
        raise BadInput("garden.part_gone")
    return [change(part) if n == at else part for n, part in enumerate(parts)]


def _without(parts: list[Any], at: int) -> list[Any]:
    if at >= len(parts):
        raise BadInput("garden.part_gone")
    return [other for n, other in enumerate(parts) if n != at]


def _size(length_mm: float, width_mm: float, units: Units) -> str:
    return f"{format_length(length_mm, units)} × {format_length(width_mm, units)}"
