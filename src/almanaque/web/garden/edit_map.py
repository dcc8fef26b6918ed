"""Garden: drawing the map — what stands where, drawn and moved by pointer, finger, keys or typed numbers; maps in and out."""

import json
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response, UploadFile
from pydantic import BaseModel

from almanaque.commands.garden import map_drawing, plants_on_map
from almanaque.commands.garden import site_map as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Point, Shape
from almanaque.core.garden.site import KINDS
from almanaque.core.units import Units, format_length
from almanaque.formats.confined import confined
from almanaque.formats.garden import garden_geojson, garden_svg
from almanaque.store.garden import site_features
from almanaque.store.garden.garden import Site
from almanaque.web import forms, frame, words
from almanaque.web.garden import feature_form, map_form, map_page
from almanaque.web.garden.bed_form import KINDS as BED_KINDS
from almanaque.web.garden.drawing_page import DrawingPage
from almanaque.web.htmx import HtmxRequest
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]

PICTURE_WORDS = {
    "add": "The picture lies under the map, as wide as the ground.",
    "scale": "The picture lies to scale.",
    "north": "The picture lies to north.",
    "move": "The picture was moved.",
    "dim": "The picture keeps its paleness.",
    "hide": "The picture is hidden.",
    "show": "The picture is shown.",
    "delete": "The picture was taken away.",
}
MAP = DrawingPage("/garden/map", "garden/_edit_map.html", map_page.values)


@router.get("/garden/map")
def edit(scope: Plan, thing: str = "", new: str = "", did: str = "") -> Response:
    """The map on which things are moved, the numbers of the one that is chosen, and what was done to a picture under it."""
    with scope.open() as work:
        return _page(work, thing=thing, new=new, said=PICTURE_WORDS.get(did, ""))


class MapPlaceForm(BaseModel):
    """What the form sends, as it was drawn: lengths in millimetres. `seen` is how the thing lay before it was dragged."""

    what: Literal["bed", "feature"]
    id: str = ""
    kind: str = ""
    x: str = ""
    y: str = ""
    length: str = ""
    width: str = ""
    turn: str = ""
    corners: str = ""
    reshaped: str = ""
    seen: str = ""


@router.post("/garden/map/place")
def place(scope: Plan, htmx: HtmxRequest, form: Annotated[MapPlaceForm, Form()]) -> Response:
    """Lay a thing at a new place, as it was dragged, turned, resized or given another outline."""

    def lay(work: UnitOfWork) -> tuple[str, str]:
        shape = _drawn_shape(form)
        drawn = map_drawing.place(
            work.connection,
            work.context,
            form.what,
            forms.row_id(form.id),
            shape,
            work.actor(),
            seen=_seen_shape(form.seen),
            reshaped=form.reshaped == "yes",
        )
        assert drawn.before is not None
        done = _difference(drawn.before, shape, work.context.school.units, reshaped=form.reshaped == "yes")
        return form.id, f"{drawn.name} {done}."

    return MAP.answer(scope, htmx, form.id, lay)


@router.post("/garden/map/add")
def add(scope: Plan, htmx: HtmxRequest, form: Annotated[MapPlaceForm, Form()]) -> Response:
    """Put a bed or another thing on the map as it was drawn."""

    def draw(work: UnitOfWork) -> tuple[str, str]:
        shape, row_id = _drawn_shape(form), forms.row_id(form.id)
        if form.what == "bed":
            kind = forms.one_of(form.kind, [key for key, _ in BED_KINDS], field="kind")
            name = map_drawing.add_bed(work.connection, work.context, row_id, kind, shape, work.actor())
        else:
            kind = forms.one_of(form.kind, list(KINDS), field="kind")
            name = map_drawing.add_feature(work.connection, work.context, row_id, kind, shape, work.actor())
        units = work.context.school.units
        size = f"{format_length(shape.length_mm, units)} × {format_length(shape.width_mm, units)}"
        return form.id, f"{name} drawn, {size}."

    return MAP.answer(scope, htmx, "", draw)


class MapBedForm(BaseModel):
    """What the form sends, as it was typed: one box for each number."""

    id: str = ""
    version: int | None = None
    name: str = ""
    kind: str = ""
    top: str = ""
    length: str = ""
    width: str = ""
    notch: str = ""
    notch_length: str = ""
    notch_width: str = ""
    x: str = ""
    y: str = ""
    turn: str = ""
    depth: str = ""
    cell: str = ""


@router.post("/garden/map/bed")
def save_bed(scope: Plan, htmx: HtmxRequest, form: Annotated[MapBedForm, Form()]) -> Response:
    """The numbers of a bed that is chosen on the map."""

    def write(work: UnitOfWork) -> tuple[str, str]:
        units = work.context.school.units
        bed, _ = map_drawing.change_bed(
            work.connection,
            work.context,
            forms.row_id(form.id),
            lambda bed, sections: (map_form.bed_from(bed, form.model_dump(), units), sections),
            work.actor(form.version),
        )
        return form.id, f"Saved: {bed.name}, {map_form.size_words(bed, units)}."

    return MAP.answer(scope, htmx, form.id, write, typed=form.model_dump())


@router.post("/garden/map/copy")
def copy(scope: Plan, htmx: HtmxRequest, id: Annotated[str, Form()] = "") -> Response:
    """The chosen bed again, at the first free place."""

    def again(work: UnitOfWork) -> tuple[str, str]:
        new_id, name = map_drawing.copy(work.connection, work.context, forms.row_id(id), work.actor())
        return str(new_id), f"{name} is a copy at the first free place."

    return MAP.answer(scope, htmx, id, again)


class MapRowForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    count: str = ""
    gap: str = ""
    way: Literal["right", "down"] = "right"


@router.post("/garden/map/row")
def row(scope: Plan, htmx: HtmxRequest, form: Annotated[MapRowForm, Form()]) -> Response:
    """A row of beds like the chosen one, with a path between each two."""

    def lay(work: UnitOfWork) -> tuple[str, str]:
        count = forms.whole(form.count, field="count", least=2, most=24, what="beds_in_a_row")
        gap = forms.length(form.gap, work.context.school.units, field="gap", us="ft")
        names = map_drawing.row_of(
            work.connection, work.context, forms.row_id(form.id), count, gap, form.way, work.actor()
        )
        return form.id, f"{words.count(len(names), 'bed')} in a row: {names[0]} to {names[-1]}."

    return MAP.answer(scope, htmx, form.id, lay, typed=form.model_dump())


class MapRemoveForm(BaseModel):
    """What the form sends."""

    what: Literal["bed", "feature"]
    id: str = ""


@router.post("/garden/map/remove")
def remove(scope: Plan, htmx: HtmxRequest, form: Annotated[MapRemoveForm, Form()]) -> Response:
    """Take the chosen thing off the map."""

    def take(work: UnitOfWork) -> tuple[str, str]:
        name = map_drawing.remove(work.connection, work.context, form.what, forms.row_id(form.id), work.actor())
        return "", f"{name} is off the map."

    return MAP.answer(scope, htmx, form.id, take)


@router.post("/garden/map/undo")
def undo(scope: Plan, htmx: HtmxRequest, thing: Annotated[str, Form()] = "") -> Response:
    return MAP.undo(scope, htmx, thing)


@router.post("/garden/map/redo")
def redo(scope: Plan, htmx: HtmxRequest, thing: Annotated[str, Form()] = "") -> Response:
    return MAP.redo(scope, htmx, thing)


def _drawn_shape(form: MapPlaceForm) -> Shape:
    numbers = [
        forms.number(text, field="at", what="place") for text in (form.x, form.y, form.length, form.width, form.turn)
    ]
    if any(number is None for number in numbers):
        raise BadInput("forms.incomplete")
    x_mm, y_mm, length_mm, width_mm, turn_deg = (float(number or 0.0) for number in numbers)
    return Shape(x_mm, y_mm, length_mm, width_mm, turn_deg % 360, _corners(form.corners))


def _corners(text: str) -> tuple[Point, ...]:
    """`0,0;2400,0;2400,1200`, in millimetres."""
    found = []
    for pair in filter(None, text.split(";")):
        both = [forms.number(part, field="outline", what="place") for part in pair.split(",")]
        if len(both) != 2 or both[0] is None or both[1] is None:
            raise BadInput("forms.incomplete")
        found.append((both[0], both[1]))
    return tuple(found)


def _seen_shape(text: str) -> Shape | None:
    """`x,y,length,width,turn` of the thing as its person saw it; None from a form that does not say."""
    parts = [forms.number(part, field="at", what="place") for part in text.split(",")] if text else []
    if len(parts) != 5 or any(part is None for part in parts):
        return None
    x_mm, y_mm, length_mm, width_mm, turn_deg = (float(part or 0.0) for part in parts)
    return Shape(x_mm, y_mm, length_mm, width_mm, turn_deg)


@router.post("/garden/features")
def save_feature(scope: Plan, form: Annotated[feature_form.FeatureForm, Form()]) -> Response:
    """Add, change or take out what stands on the map."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if form.action == "delete":
            map_drawing.remove(work.connection, work.context, "feature", row_id, work.actor())
            return frame.go(work, "/garden/map")
        known = next((row for row in site_features.features(work.connection) if row.id == row_id), None)
        site_id = known.site_id if known else map_page.site_of(work).id
        row = feature_form.read(form, row_id, known, site_id, work.context.school.units)
        map_drawing.save_feature(work.connection, work.context, row, work.actor())
        return frame.go(work, "/garden/map", thing=str(row_id))


@router.post("/garden/features/{feature_id}/plant")
def plant(
    scope: Plan, feature_id: UUID, crop: Annotated[str, Form()] = "", since: Annotated[str, Form()] = ""
) -> Response:
    """A tree or bush of the map becomes a plant with dates, jobs and water of its own."""
    with scope.open() as work:
        day = parse_day(since, field="since")
        bed = plants_on_map.plant(work.connection, work.context, feature_id, crop, day, work.actor())
        return frame.go(work, f"/garden/beds/{bed}")


@router.get("/garden/map.geojson")
def geojson(scope: Look) -> Response:
    """The map as RFC 7946, with every length in local millimetres beside it."""
    with scope.open() as work:
        site = map_page.site_of(work)
        body = garden_geojson.write(
            commands.frame_of(site), commands.things(work.connection, site), corner=_corner(work, site)
        )
        return Response(
            json.dumps(body, ensure_ascii=False, indent=1),
            media_type="application/geo+json",
            headers={"Content-Disposition": 'attachment; filename="garden.geojson"'},
        )


@router.get("/garden/map.svg")
def svg(scope: Look) -> Response:
    """The map as a drawing in millimetres, at true scale."""
    with scope.open() as work:
        site = map_page.site_of(work)
        body = garden_svg.write(commands.frame_of(site), commands.things(work.connection, site, work.day))
        return Response(
            body, media_type="image/svg+xml", headers={"Content-Disposition": 'attachment; filename="garden.svg"'}
        )


@router.post("/garden/map/import")
def take_in(scope: Plan, file: UploadFile | None = None) -> Response:
    """Beds and features from a GeoJSON or SVG file, all of them or none."""
    name, body = forms.file(file)
    with scope.open() as work:
        site = map_page.site_of(work)
        if name.lower().endswith(".svg"):
            found = confined(garden_svg.read)(body, name)
        else:
            found = confined(garden_geojson.read)(body, name, commands.frame_of(site), corner=_corner(work, site))
        map_drawing.take_in(work.connection, work.context, site, found, work.actor())
        return frame.go(work, "/garden/map")


def _page(work: UnitOfWork, *, thing: str, new: str, said: str = "") -> Response:
    values = map_page.values(work, thing=thing, new=new, said=said)
    return frame.page(work, "garden", "Draw the garden", values, template="garden/edit_map.html")


def _difference(before: Shape, after: Shape, units: Units, *, reshaped: bool) -> str:
    if reshaped and len(before.corners_mm) != len(after.corners_mm):
        return "has another outline"
    if abs((before.turn_deg - after.turn_deg + 180) % 360 - 180) > 0.01:
        return f"turned to {after.turn_deg % 360:g}°"
    if abs(before.length_mm - after.length_mm) > 0.01 or abs(before.width_mm - after.width_mm) > 0.01:
        return f"is now {format_length(after.length_mm, units)} × {format_length(after.width_mm, units)}"
    return f"moved to {format_length(after.x_mm, units)} right, {format_length(after.y_mm, units)} down"


def _corner(work: UnitOfWork, site: Site) -> tuple[float, float]:
    if site.latitude is not None and site.longitude is not None:
        return site.latitude, site.longitude
    return work.context.school.latitude, work.context.school.longitude
