"""Garden: drawing the map — what stands where, drawn and moved by pointer, finger, keys or typed numbers; maps in and out."""

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Literal
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Response, UploadFile
from pydantic import BaseModel

from almanaque.commands.garden import ground_changes, map_drawing
from almanaque.commands.garden import site_map as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import Point, Shape
from almanaque.core.garden.site import KINDS, PASS_MM, WHEELCHAIR_MM, Feature
from almanaque.core.units import Units, format_length
from almanaque.formats.confined import confined
from almanaque.formats.garden import garden_geojson, garden_svg
from almanaque.store import errors
from almanaque.store.garden import garden, site_features
from almanaque.store.garden import ground_changes as ground_changes_store
from almanaque.store.garden.garden import Bed, Site
from almanaque.store.garden.ground_changes import GroundChange
from almanaque.store.garden.site_features import FeatureRow
from almanaque.web import forms, frame, words
from almanaque.web.garden import ground_pictures, map_form, site_map_picture
from almanaque.web.garden.bed_form import KINDS as BED_KINDS
from almanaque.web.garden.ground_pictures import PictureView
from almanaque.web.garden.site_map_picture import SiteMap
from almanaque.web.htmx import Htmx, HtmxRequest, vary
from almanaque.web.pictures.families import FAMILIES, Hatch
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
USUAL_BED_MM: dict[Units, tuple[float, float]] = {"us": (8 * 304.8, 4 * 304.8), "metric": (2400.0, 1200.0)}


@dataclass(frozen=True)
class MapTool:
    """A tool of the map: what it draws, and how large a thing is that is set by a press alone [mm]."""

    key: str
    word: str
    icon: str
    what: str
    kind: str
    length_mm: float
    width_mm: float


TOOLS = (
    MapTool("bed", "Bed", "grid-3x3", "bed", "raised", 2438.4, 1219.2),
    MapTool("round", "Round pot", "circle", "bed", "container", 457.2, 457.2),
    MapTool("box", "Square pot", "square", "bed", "container", 457.2, 457.2),
    MapTool("tree", "Tree", "tree", "feature", "tree", 2438.4, 2438.4),
    MapTool("building", "Building", "house", "feature", "building", 3048.0, 2438.4),
    MapTool("path", "Path", "signpost-split", "feature", "path", 3048.0, 1219.2),
    MapTool("fence", "Fence", "bricks", "feature", "fence", 3048.0, 50.8),
    MapTool("tap", "Tap", "droplet", "feature", "tap", 203.2, 203.2),
)
LEAFLESS = {True: "Nov, Dec, Jan, Feb, Mar", False: "May, Jun, Jul, Aug, Sep"}  # by hemisphere: north, south


@router.get("/garden/map")
def edit(scope: Plan, thing: str = "", new: str = "") -> Response:
    """The map on which things are moved, and the numbers of the one that is chosen."""
    with scope.open() as work:
        return _page(work, thing=thing, new=new)


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

    return _done(scope, htmx, form.id, lay)


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

    return _done(scope, htmx, "", draw)


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
        bed = map_form.bed_from(work, form.model_dump())
        map_drawing.change_bed(work.connection, work.context, bed, work.actor(form.version))
        return form.id, f"Saved: {bed.name}, {map_form.size_words(bed, work.context.school.units)}."

    return _done(scope, htmx, form.id, write, typed=form.model_dump())


@router.post("/garden/map/copy")
def copy(scope: Plan, htmx: HtmxRequest, id: Annotated[str, Form()] = "") -> Response:
    """The chosen bed again, at the first free place."""

    def again(work: UnitOfWork) -> tuple[str, str]:
        new_id, name = map_drawing.copy(work.connection, work.context, forms.row_id(id), work.actor())
        return str(new_id), f"{name} is a copy at the first free place."

    return _done(scope, htmx, id, again)


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

    return _done(scope, htmx, form.id, lay, typed=form.model_dump())


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

    return _done(scope, htmx, form.id, take)


@router.post("/garden/map/undo")
def undo(scope: Plan, htmx: HtmxRequest, thing: Annotated[str, Form()] = "") -> Response:
    return _done(
        scope,
        htmx,
        thing,
        lambda work: (thing, f"Taken back: {ground_changes.undo(work.connection, work.context, work.actor())}."),
    )


@router.post("/garden/map/redo")
def redo(scope: Plan, htmx: HtmxRequest, thing: Annotated[str, Form()] = "") -> Response:
    return _done(
        scope,
        htmx,
        thing,
        lambda work: (thing, f"Done again: {ground_changes.redo(work.connection, work.context, work.actor())}."),
    )


def _done(
    scope: RequestScope,
    htmx: Htmx,
    thing: str,
    write: Callable[[UnitOfWork], tuple[str, str]],
    *,
    typed: Mapping[str, Any] | None = None,
) -> Response:
    """Do it and show the map as it is then, saying what was done; or the map as it is with the reason why not, nothing lost."""
    try:
        with scope.open() as work:
            chosen, said = write(work)
            if not htmx.part:
                return frame.go(work, "/garden/map", thing=chosen)
            return vary(frame.part(work, "garden/_edit_map.html", _values(work, thing=chosen, said=said)))
    except (BadInput, errors.Stale, errors.Refused, errors.NotFound) as error:
        if not htmx.part:
            raise
        sentence = error.message if isinstance(error, BadInput) else str(error)
        field = error.field or "" if isinstance(error, BadInput) else ""
        with scope.open() as work:
            values = _values(work, thing=thing, error=sentence, field=field, typed=typed)
            status = 422 if isinstance(error, BadInput) else 404 if isinstance(error, errors.NotFound) else 409
            return vary(frame.part(work, "garden/_edit_map.html", values, status=status))


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


class FeatureForm(BaseModel):
    """What the form sends, as it was typed."""

    id: str = ""
    kind: str = ""
    name: str = ""
    size: str = ""
    at: str = ""
    turn: str = ""
    height: str = ""
    base: str = ""
    months: str = ""
    hose: str = ""
    outline: str = ""
    from_day: str = ""
    to_day: str = ""
    action: Literal["save", "delete"] = "save"


@router.post("/garden/features")
def save_feature(scope: Plan, form: Annotated[FeatureForm, Form()]) -> Response:
    """Add, change or take out what stands on the map."""
    with scope.open() as work:
        row_id = forms.row_id(form.id)
        if form.action == "delete":
            map_drawing.remove(work.connection, work.context, "feature", row_id, work.actor())
            return frame.go(work, "/garden/map")
        units = work.context.school.units
        known = next((row for row in site_features.features(work.connection) if row.id == row_id), None)
        shown = _shown(known, units) if known else {}
        shape = known.feature.shape if known else Shape(0, 0, 0, 0)
        length, width = (
            (shape.length_mm, shape.width_mm)
            if form.size == shown.get("size")
            else forms.pair(form.size, units, field="size")
        )
        x, y = (shape.x_mm, shape.y_mm) if form.at == shown.get("at") else forms.pair(form.at, units, field="at")
        unchanged = (
            known is not None and form.outline.split() == shown["outline"].split() and form.size == shown["size"]
        )
        corners = shape.corners_mm if unchanged else forms.outline(form.outline, length, width, units)
        named = forms.name(form.name, what="name_of_feature")
        turned = (forms.number(form.turn, field="turn", what="turn") or 0.0) % 360
        feature = Feature(
            forms.one_of(form.kind, list(KINDS), field="kind"),
            named,
            Shape(x, y, length, width, turned, corners, named),
            _kept(form.height, known.feature.height_mm if known else None, shown.get("height"), units, "height"),
            _kept(form.base, known.feature.base_mm if known else None, shown.get("base"), units, "base") or 0.0,
            _months(form.months),
            _kept(form.hose, known.feature.hose_mm if known else None, shown.get("hose"), units, "hose"),
        )
        site = known.site_id if known else _site(work).id
        row = FeatureRow(
            row_id,
            site,
            feature,
            forms.optional_day(form.from_day, field="from_day"),
            forms.optional_day(form.to_day, field="to_day"),
        )
        map_drawing.save_feature(work.connection, work.context, row, work.actor())
        return frame.go(work, "/garden/map", thing=str(row_id))


@router.get("/garden/map.geojson")
def geojson(scope: Look) -> Response:
    """The map as RFC 7946, with every length in local millimetres beside it."""
    with scope.open() as work:
        site = _site(work)
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
        site = _site(work)
        body = garden_svg.write(commands.frame_of(site), commands.things(work.connection, site, work.day))
        return Response(
            body, media_type="image/svg+xml", headers={"Content-Disposition": 'attachment; filename="garden.svg"'}
        )


@router.post("/garden/map/import")
def take_in(scope: Plan, file: UploadFile | None = None) -> Response:
    """Beds and features from a GeoJSON or SVG file, all of them or none."""
    name, body = forms.file(file)
    with scope.open() as work:
        site = _site(work)
        if name.lower().endswith(".svg"):
            found = confined(garden_svg.read)(body, name)
        else:
            found = confined(garden_geojson.read)(body, name, commands.frame_of(site), corner=_corner(work, site))
        map_drawing.take_in(work.connection, work.context, site, found, work.actor())
        return frame.go(work, "/garden/map")


def _page(work: UnitOfWork, *, thing: str, new: str) -> Response:
    return frame.page(
        work, "garden", "Draw the garden", _values(work, thing=thing, new=new), template="garden/edit_map.html"
    )


@dataclass(frozen=True)
class StandingThingView(View):
    """A row of `EditMapView`."""

    id: str
    name: str
    kind: str
    days: str


@dataclass(frozen=True)
class EditMapView(View):
    """Filled by `_values`, read by its template."""

    map: SiteMap
    hatches: list[Hatch]
    kinds: list[tuple[str, str]]
    thing_id: str
    known: bool
    fields: dict[str, str]
    bed: map_form.MapBedView | None
    chosen: str
    snap_mm: float
    nudge_mm: float
    site: Site
    show: str
    snap_words: str
    nudge_words: str
    site_size: str
    site_north: str
    site_corner: str
    adding: bool
    said: str
    error: str
    field: str
    undo: str
    redo: str
    ghost: str
    tools: tuple[MapTool, ...]
    pass_mm: float
    wheelchair_mm: float
    chosen_what: str
    pictures: list[PictureView]
    begins: bool
    usual_height: str
    standing: list[StandingThingView]


def _values(
    work: UnitOfWork,
    *,
    thing: str = "",
    new: str = "",
    said: str = "",
    error: str = "",
    field: str = "",
    typed: Mapping[str, Any] | None = None,
) -> EditMapView:
    site, units = _site(work), work.context.school.units
    beds, rows = garden.beds(work.connection), site_features.features(work.connection, work.day)
    every = site_features.features(work.connection)
    picture = site_map_picture.draw(
        site,
        beds,
        rows,
        units=units,
        words={str(b.id): "" for b in beds},
        short={str(b.id): b.purpose for b in beds},
        planted={},
    )
    chosen = next((row for row in every if str(row.id) == thing), None)
    bed = next((b for b in beds if str(b.id) == thing), None)
    kind = new if new in KINDS else (chosen.feature.kind if chosen else "tree")
    blank = _blank(site, kind, units)
    usual = KINDS[kind].height_mm
    return EditMapView(
        map=picture,
        hatches=list(FAMILIES.values()),
        kinds=[(key, k.words) for key, k in KINDS.items()],
        thing_id=str(chosen.id) if chosen else str(uuid4()),
        known=chosen is not None,
        fields=_shown(chosen, units) if chosen else blank,
        bed=map_form.view(bed, units, typed) if bed else None,
        chosen=thing if bed or chosen else "",
        chosen_what="bed" if bed else "feature" if chosen else "",
        snap_mm=commands.SNAP_MM[units],
        nudge_mm=commands.NUDGE_MM[units],
        site=site,
        show="plants",
        snap_words="1 ft" if units == "us" else "10 cm",
        nudge_words="1 in" if units == "us" else "1 cm",
        site_size=_both(site.width_mm, site.depth_mm, units),
        site_north=f"{site.north_deg:g}",
        site_corner=f"{site.latitude:.6f}, {site.longitude:.6f}" if site.latitude is not None else "",
        adding=bool(new) or chosen is not None,
        said=said,
        error=error,
        field=field if bed and field in map_form.BOXES else "",
        undo=_step_words(ground_changes_store.next_undo(work.connection, work.actor().by)),
        redo=_step_words(ground_changes_store.next_redo(work.connection, work.actor().by)),
        ghost=_ghost(work, bed),
        tools=TOOLS,
        pass_mm=PASS_MM,
        wheelchair_mm=WHEELCHAIR_MM,
        pictures=ground_pictures.views(work, site),
        begins=bool(beds) and not garden.plantings(work.connection, since=work.today),
        usual_height=format_length(usual, units) if usual else "",
        standing=[
            StandingThingView(
                id=str(row.id),
                name=row.feature.name,
                kind=KINDS[row.feature.kind].words,
                days=" ".join(
                    filter(
                        None,
                        (
                            f"from {words.short_day(row.from_day)} {row.from_day.year}" if row.from_day else "",
                            f"until {words.short_day(row.to_day)} {row.to_day.year}" if row.to_day else "",
                        ),
                    )
                ),
            )
            for row in every
        ],
    )


def _step_words(changes: Sequence[GroundChange]) -> str:
    return ground_changes.words(changes) if changes else ""


def _ghost(work: UnitOfWork, like: Bed | None) -> str:
    """The first free place of a bed like the chosen one, or of the usual size: `x,y,length,width` in millimetres; empty without one."""
    length, width = (like.length_mm, like.width_mm) if like else USUAL_BED_MM[work.context.school.units]
    found = map_drawing.place_for(work.connection, work.context, Shape(0, 0, length, width), work.today)
    return f"{found[0]:.4f},{found[1]:.4f},{length:.4f},{width:.4f}" if found else ""


def _blank(site: Site, kind: str, units: Units) -> dict[str, str]:
    middle = _both(
        round(site.width_mm / 2, -2) if units == "metric" else round(site.width_mm / 609.6) * 304.8,
        round(site.depth_mm / 2, -2) if units == "metric" else round(site.depth_mm / 609.6) * 304.8,
        units,
    )
    sizes = {
        "path": ("10 ft x 4 ft", "3 m x 1.2 m"),
        "tree": ("8 ft x 8 ft", "2.5 m x 2.5 m"),
        "tap": ("8 in x 8 in", "20 cm x 20 cm"),
        "fence": ("10 ft x 2 in", "3 m x 5 cm"),
        "gate": ("4 ft x 4 in", "1.2 m x 10 cm"),
    }
    size = sizes.get(kind, ("4 ft x 4 ft", "1.2 m x 1.2 m"))[units == "metric"]
    return {
        "kind": kind,
        "name": "",
        "size": size,
        "at": middle,
        "turn": "0",
        "height": "",
        "base": "",
        "months": "",
        "hose": "",
        "outline": "",
        "from_day": "",
        "to_day": "",
    }


def _shown(row: FeatureRow, units: Units) -> dict[str, str]:
    thing, shape = row.feature, row.feature.shape
    return {
        "kind": thing.kind,
        "name": thing.name,
        "size": _both(shape.length_mm, shape.width_mm, units),
        "at": _both(shape.x_mm, shape.y_mm, units),
        "turn": f"{shape.turn_deg:g}",
        "height": format_length(thing.height_mm, units) if thing.height_mm else "",
        "base": format_length(thing.base_mm, units) if thing.base_mm else "",
        "months": ", ".join(MONTHS[m - 1] for m in sorted(thing.months_bare)),
        "hose": format_length(thing.hose_mm, units) if thing.hose_mm else "",
        "outline": "; ".join(_both(x, y, units) for x, y in shape.corners_mm),
        "from_day": row.from_day.isoformat() if row.from_day else "",
        "to_day": row.to_day.isoformat() if row.to_day else "",
    }


def _kept(text: str, known: float | None, shown: str | None, units: Units, field: str) -> float | None:
    """A length as typed; what comes back as it was shown keeps its exact value."""
    if not text.strip():
        return None
    return known if text == shown else forms.length(text, units, field=field, us="ft")


def _months(text: str) -> frozenset[int]:
    """`Nov, Dec, Jan` or `11, 12, 1`."""
    found = set()
    for word in text.replace(",", " ").split():
        month = next((n for n, name in enumerate(MONTHS, start=1) if name.lower() == word[:3].lower()), None)
        if month is None and word.isascii() and word.isdigit() and 1 <= int(word[:3]) <= 12:
            month = int(word)
        if month is None:
            raise BadInput("garden.not_a_month_name", field="months", word=word[:12])
        found.add(month)
    return frozenset(found)


def _difference(before: Shape, after: Shape, units: Units, *, reshaped: bool) -> str:
    if reshaped and len(before.corners_mm) != len(after.corners_mm):
        return "has another outline"
    if abs((before.turn_deg - after.turn_deg + 180) % 360 - 180) > 0.01:
        return f"turned to {after.turn_deg % 360:g}°"
    if abs(before.length_mm - after.length_mm) > 0.01 or abs(before.width_mm - after.width_mm) > 0.01:
        return f"is now {format_length(after.length_mm, units)} × {format_length(after.width_mm, units)}"
    return f"moved to {format_length(after.x_mm, units)} right, {format_length(after.y_mm, units)} down"


def _both(first: float, second: float, units: Units) -> str:
    return f"{format_length(first, units)} x {format_length(second, units)}"


def _site(work: UnitOfWork) -> Site:
    """The school's site; one to begin with where it has none."""
    found = next(iter(garden.sites(work.connection)), None)
    return found or commands.first_site(work.connection, work.context)


def _corner(work: UnitOfWork, site: Site) -> tuple[float, float]:
    if site.latitude is not None and site.longitude is not None:
        return site.latitude, site.longitude
    return work.context.school.latitude, work.context.school.longitude
