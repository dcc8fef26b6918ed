"""Garden: pictures under the map, to trace over — sent, set to scale by two points, turned to north, dimmed, taken away."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response, UploadFile
from pydantic import BaseModel

from almanaque.commands.garden import ground_pictures as commands
from almanaque.commands.garden import site_map
from almanaque.core.errors import BadInput
from almanaque.core.garden import tracing
from almanaque.core.garden.outline import Point
from almanaque.formats.confined import confined
from almanaque.formats.journal import photo
from almanaque.store.garden import ground_pictures
from almanaque.store.garden.garden import Site
from almanaque.web import forms, frame, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Plan = Annotated[RequestScope, Depends(may("plan"))]


@dataclass(frozen=True)
class PictureView:
    """A picture as the map draws it: pixels of the drawing but for what ends in `_mm`."""

    id: str
    name: str
    day: str
    href: str
    width: int
    height: int
    transform: str
    opacity: float
    dim: int
    shown: bool


def views(work: UnitOfWork, site: Site) -> list[PictureView]:
    """The pictures under a site's map; the template scales millimetres to its own pixels."""
    return [
        PictureView(
            id=str(row.id),
            name=row.name,
            day=f"{words.short_day(row.taken_on)} {row.taken_on.year}",
            href=f"/garden/map/pictures/{row.id}.jpg",
            width=row.width_px,
            height=row.height_px,
            transform=f"translate({row.x_mm:.2f} {row.y_mm:.2f}) rotate({row.turn_deg:.3f}) scale({row.mm_per_px:.6f})",
            opacity=round(1 - row.dim / 100, 2),
            dim=row.dim,
            shown=row.shown,
        )
        for row in ground_pictures.pictures(work.connection)
        if row.site_id == site.id
    ]


@router.post("/garden/map/pictures")
@security.takes(size=photo.MOST_BYTES + security.FORM_BYTES)
def send(
    scope: Plan,
    file: UploadFile | None = None,
    id: Annotated[str, Form()] = "",
    name: Annotated[str, Form()] = "",
    taken_on: Annotated[str, Form()] = "",
) -> Response:
    """Lay a picture under the map, as large as the ground; what the camera wrote beside it is not kept."""
    sent, body = forms.file(file)
    jpeg = confined(photo.made_small)(body, sent)
    with scope.open() as work:
        picture_id = forms.row_id(id) if id else uuid4()
        commands.add(
            work.connection,
            work.context,
            picture_id,
            jpeg.picture,
            (jpeg.width, jpeg.height),
            name=forms.optional_name(name, field="name") or sent[:80],
            taken_on=forms.optional_day(taken_on, field="taken_on") or work.today,
        )
        return frame.leave(work, "/garden/map", picture=str(picture_id), did="add")


@router.get("/garden/map/pictures/{picture_id}.jpg")
def show(scope: Plan, picture_id: UUID) -> Response:
    """The picture, for those who plan only."""
    with scope.open() as work:
        body = ground_pictures.body(work.connection, picture_id)
        return Response(body, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


class UnderlayForm(BaseModel):
    """What the form sends: where A and B lie now and how far apart they are, where the arrow points, or how pale it is."""

    action: Literal["scale", "north", "move", "dim", "hide", "show", "delete"] = "dim"
    a: str = ""
    b: str = ""
    true: str = ""
    arrow: str = ""
    by: str = ""
    dim: str = ""


@router.post("/garden/map/pictures/{picture_id}")
def lay(scope: Plan, picture_id: UUID, form: Annotated[UnderlayForm, Form()]) -> Response:
    """Set a picture to scale, turn it to north, move it, make it paler, or take it away."""
    with scope.open() as work:
        row = ground_pictures.picture(work.connection, picture_id)
        if form.action == "delete":
            ground_pictures.delete(work.connection, picture_id)
            return frame.leave(work, "/garden/map", did=form.action)
        place, dim = row.underlay, row.dim
        shown = row.shown if form.action not in ("hide", "show") else form.action == "show"
        match form.action:
            case "scale":
                true = forms.length(form.true, work.context.school.units, field="true", us="ft")
                place = tracing.set_to_scale(place, _point(form.a), _point(form.b), true)
            case "north":
                site = site_map.site_of(work.connection, row.site_id)
                arrow = forms.number(form.arrow, field="arrow", what="north") or 0.0
                place = tracing.set_to_north(place, arrow, site.north_deg)
            case "move":
                by = _point(form.by)
                place = replace(place, x_mm=place.x_mm + by[0], y_mm=place.y_mm + by[1])
            case "dim":
                dim = forms.whole(form.dim, field="dim", least=0, most=90, what="dim")
        ground_pictures.lay(work.connection, picture_id, place, dim=dim, shown=shown)
        return frame.leave(work, "/garden/map", picture=str(picture_id), did=form.action)


def _point(text: str) -> Point:
    parts = [forms.number(part, field="true", what="place") for part in text.split(",")]
    if len(parts) != 2 or parts[0] is None or parts[1] is None:
        raise BadInput("garden.points_missing", field="true")
    return parts[0], parts[1]
