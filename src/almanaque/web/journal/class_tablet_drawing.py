"""A team's drawing on a tablet: marks taken as they are made, the plan as it stands, gentle notes, and the gallery."""

import json
from dataclasses import dataclass
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Form, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from almanaque.commands.journal import class_drawings as commands
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell
from almanaque.core.journal import class_drawings as rules
from almanaque.core.journal.class_drawings import DrawnMark
from almanaque.formats.crops import portraits
from almanaque.store import errors
from almanaque.store.journal import class_drawings as store
from almanaque.store.journal.class_drawings import SentMark
from almanaque.web import forms, frame
from almanaque.web.journal import class_gallery, class_plan_picture, class_tablet
from almanaque.web.journal.class_gallery import GalleryPlan
from almanaque.web.journal.class_plan_picture import PlanPicture
from almanaque.web.journal.class_tablet import Looking, Tablet, TabletFrame, TabletScope, TabletWork, needs
from almanaque.web.view import View

router = APIRouter()


@dataclass(frozen=True)
class Palette:
    """Something to draw with: a crop by its portrait, or a thing."""

    key: str
    name: str
    picture: str


@dataclass(frozen=True)
class ClassDrawView(View):
    """What `journal/class_draw.html` is given."""

    top: TabletFrame
    plan: PlanPicture
    palette: list[Palette]
    version: int
    squares: str
    counts: list[tuple[str, str, int, int]]
    bed: str
    tablet: str


@router.get("/class/draw")
def draw_page(scope: Looking) -> Response:
    with scope.open() as work:
        needs(work, "draw")
        if work.team is None:
            return frame.see("/class/gallery")
        on = commands.board(work.connection, work.context, work.page)
        version = store.version(work.connection, work.team.id)
        plan = commands.plans(work.connection, work.context, on, [work.team], today=work.today)[work.team.id]
        view = ClassDrawView(
            top=class_tablet.shown(scope, work, "draw"),
            plan=class_plan_picture.draw(work.context, on, plan, work.team.name),
            palette=[
                Palette(
                    c.crop,
                    work.context.crops[c.crop].name.en,
                    portraits.in_hand(work.context.crops[c.crop], px=64),
                )
                for c in on.crops
            ]
            + [
                Palette(key, name.capitalize(), class_plan_picture.thing_href(key))
                for key, name in (rules.THINGS.items() if on.is_dream else ())
            ],
            version=version,
            squares=json.dumps(_squares(plan.squares)),
            counts=class_plan_picture.counts(work.context, plan),
            bed=on.bed.name,
            tablet=str(scope.tablet.tablet_id),
        )
    return frame.bare_page(scope.request, "journal/class_draw.html", view)


def _squares(plan: Any) -> dict[str, str]:
    return {f"{column},{row}": what for (column, row), what in plan.items()}


class DrawnPlan(BaseModel):
    """What `class_draw.js` draws, in mm: what each square holds, plants (x, y, side, corner, turn, picture), things (x, y, side, picture),
    squares too few for a plant, and of each crop key, name, plants and squares."""

    version: int
    squares: dict[str, str]
    plants: list[tuple[float, float, float, float, int, str]]
    things: list[tuple[float, float, float, str]]
    too_few: list[str]
    counts: list[tuple[str, str, int, int]]
    says: str


@router.get("/class/plan")
def plan(scope: Tablet, version: int = -1) -> Response:
    """The team's plan as it stands; nothing when the tablet has seen it."""
    with scope.open() as work:
        needs(work, "draw")
        team = class_tablet.own_team(work)
        if store.version(work.connection, team.id) == version:
            return Response(status_code=204)
        return _plan(work)


@router.post("/class/marks")
def marks(scope: Tablet, marks: Annotated[str, Form()] = "") -> Response:
    """Keep marks: a list of [number, stroke, column, row, what] as JSON. One that is kept already is not kept twice."""
    try:
        with scope.open() as work:
            needs(work, "draw")
            team = class_tablet.own_team(work)
            on = commands.board(work.connection, work.context, work.page)
            commands.take(work.connection, work.context, on, team.id, scope.tablet.tablet_id, _marks(marks))
            return _plan(work)
    except BadInput as error:
        return JSONResponse({"error": error.message}, 422)


def _marks(text: str) -> list[SentMark]:
    """Raises BadInput for what is no list of marks."""
    try:
        rows = json.loads(text)
        if not isinstance(rows, list):
            raise TypeError
        return [
            SentMark(UUID(number), DrawnMark(_cell(column, row), str(what)[:60], str(UUID(stroke))))
            for number, stroke, column, row, what in rows
        ]
    except (ValueError, TypeError, AttributeError, RecursionError):
        raise BadInput("journal.class_strange_mark", field="marks") from None


def _cell(column: Any, row: Any) -> Cell:
    if type(column) is not int or type(row) is not int:
        raise ValueError
    return column, row


@router.post("/class/strokes")
def strokes(scope: Tablet, stroke: Annotated[str, Form()] = "", back: Annotated[str, Form()] = "1") -> Response:
    """Take a stroke of this tablet's own back, or do it again."""
    try:
        with scope.open() as work:
            needs(work, "draw")
            team = class_tablet.own_team(work)
            commands.take_back(work.connection, team.id, scope.tablet.tablet_id, forms.row_id(stroke), back=back == "1")
            return _plan(work)
    except BadInput as error:
        return JSONResponse({"error": error.message}, 422)


def _plan(work: TabletWork) -> Response:
    """The team's plan as it stands."""
    team = class_tablet.own_team(work)
    on = commands.board(work.connection, work.context, work.page)
    version = store.version(work.connection, team.id)
    found = commands.plans(work.connection, work.context, on, [team], today=work.today)[team.id]
    drawn = DrawnPlan(
        version=version,
        squares=_squares(found.squares),
        plants=[(p.x, p.y, p.side, p.corner, p.turn, p.href) for p in class_plan_picture.plants(work.context, found)],
        things=[(t.x, t.y, t.side, t.href) for t in class_plan_picture.things(on, found.squares)],
        too_few=[f"{c},{r}" for p in found.plantings for c, r in found.laid[p.id].left_over],
        counts=class_plan_picture.counts(work.context, found),
        says=class_plan_picture.says(work.context, on, found, team.name),
    )
    return Response(drawn.model_dump_json(), media_type="application/json")


@dataclass(frozen=True)
class ClassNotesView(View):
    """What `journal/_class_notes.html` is given."""

    notes: list[tuple[str, bool]]
    drawn: bool


@router.get("/class/notes")
def notes(scope: Tablet) -> Response:
    """What the rules say of the plan, gently, as a part of the page."""
    with scope.open() as work:
        needs(work, "draw")
        team = class_tablet.own_team(work)
        on = commands.board(work.connection, work.context, work.page)
        found = commands.plans(work.connection, work.context, on, [team], today=work.today)[team.id]
        said = commands.judge(work.connection, work.context, on, found, today=work.today)
        view = ClassNotesView(
            notes=[(str(note), rules.is_praise(note)) for note in commands.notes(work.context, found, said)],
            drawn=bool(found.plantings),
        )
    return frame.bare_page(scope.request, "journal/_class_notes.html", view)


@dataclass(frozen=True)
class ClassGalleryView(View):
    """What `journal/class_gallery.html` is given."""

    top: TabletFrame
    plans: list[GalleryPlan]
    voted: str
    own: str


@router.get("/class/gallery")
def gallery(scope: Looking) -> Response:
    """All plans side by side, with their figures, and a dot to give."""
    with scope.open() as work:
        return _gallery(scope, work)


@router.post("/class/gallery")
def vote(scope: Tablet, team: Annotated[str, Form()] = "") -> Response:
    """Give this tablet's dot to another team's plan; given anew it moves."""
    with scope.open() as work:
        needs(work, "draw")
        chosen = forms.row_id(team)
        if chosen not in {t.id for t in work.teams}:
            raise errors.NotFound("There is no such team on this page.")
        if work.team is not None and work.team.id == chosen:
            return _gallery(scope, work, BadInput("journal.class_own_plan", field="team"))
        store.vote(work.connection, work.context.school.id, work.page.id, scope.tablet.tablet_id, chosen)
        return frame.see("/class/gallery")


def _gallery(scope: TabletScope, work: TabletWork, error: BadInput | None = None) -> Response:
    needs(work, "draw")
    given = store.voted_for(work.connection, work.page.id, scope.tablet.tablet_id)
    view = ClassGalleryView(
        top=class_tablet.shown(scope, work, "gallery", error),
        plans=class_gallery.plans(work.connection, work.context, work.page, work.teams, today=work.today),
        voted=str(given) if given else "",
        own=str(work.team.id) if work.team else "",
    )
    return frame.bare_page(scope.request, "journal/class_gallery.html", view, status=422 if error else 200)
