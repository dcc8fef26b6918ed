"""Week: a lesson as a page for pupils with this bed's own map, its answers apart, and a version for home."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Depends, Response

from almanaque.commands.week import lessons as lesson_commands
from almanaque.commands.week import pupil_pages as commands
from almanaque.commands.week.pupil_pages import BedOfPupils
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.core.week import pupil_pages as rules
from almanaque.core.week.lesson_outlines import LessonOutline
from almanaque.core.week.pupil_pages import PupilPage
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.pictures import bed_from_above
from almanaque.web.pictures.bed_from_above import BedFromAbove
from almanaque.web.pictures.knack_strips import KnackStrip, strips
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Shown = Literal["page", "answers", "home"]
EDGE_MM = 260.0  # around the bed, for the letters and numbers of its squares
GRAPH_W, GRAPH_H, GRAPH_SQUARE = 640.0, 320.0, 20.0


@dataclass(frozen=True)
class SquareLetter:
    """A letter along the upper side of a map, or a number down its left."""

    x: float
    y: float
    text: str


@dataclass(frozen=True)
class PupilMap:
    """A bed to write and colour on: in line, with its squares and their letters and numbers."""

    view: str
    bed: BedFromAbove
    squares: str
    letters: list[SquareLetter]
    on: str


@dataclass(frozen=True)
class GraphPaper:
    """A grid with two axes to draw a graph on, in pixels."""

    width: float
    height: float
    grid: str
    across: str
    up: str


@dataclass(frozen=True)
class WordCard:
    """A word to learn, of a crop with its portrait."""

    word: str
    picture: str


@dataclass(frozen=True)
class PupilPageView(View):
    """What `week/pupil_page.html` is given."""

    lesson: LessonOutline
    page: PupilPage
    shown: Shown
    who: str
    on_words: str
    bed: Bed | None
    beds: list[tuple[str, str]]
    map: PupilMap | None
    graph: GraphPaper | None
    cards: list[WordCard]
    knacks: list[KnackStrip]
    query: dict[str, str]


@router.get("/week/lessons/{key}/pupil")
def pupil_page(scope: Look, key: str, bed: str = "", group: str = "", on: str = "", show: Shown = "page") -> Response:
    """The page for pupils, its `answers`, or the version for `home`, for a bed: the class's own where none is named."""
    with scope.open() as work:
        lesson = lesson_commands.outline(work.connection, key)
        day = parse_day(on, field="on") if on.strip() else work.today
        beds = [b for b in garden.beds(work.connection) if not b.indoors]
        chosen = _chosen(beds, forms.optional_id(bed), group)
        if chosen is None:
            raise BadInput("week.pupil_page_no_bed")
        found = commands.read(work.connection, work.context, chosen, day, usual=lesson.crops)
        crops = [c.name.en for c in found.crops][: rules.MOST_CARDS]
        made = rules.page_of(lesson, found.words, crops)
        view = PupilPageView(
            lesson=lesson,
            page=made,
            shown=show,
            who=work.context.group_names(day).get(group, ""),
            on_words=words.short_day(day) if on.strip() else "",
            bed=chosen,
            beds=[(str(b.id), b.name) for b in beds],
            map=_map(work, found, day) if show == "page" else None,
            graph=graph_paper(made.graph[0], made.graph[1]) if made.graph and show == "page" else None,
            cards=_cards(lesson, found),
            knacks=strips(lesson.steps, lesson.groups) if show == "page" else [],
            query={name: value for name, value in (("bed", str(chosen.id)), ("group", group), ("on", on)) if value},
        )
        return frame.page(work, "week", lesson.title, view, template="week/pupil_page.html")


def _chosen(beds: list[Bed], bed_id: UUID | None, group: str) -> Bed | None:
    """The bed that is named, else the class's, else the first."""
    named = next((b for b in beds if b.id == bed_id), None)
    return named or next((b for b in beds if group and str(b.class_group_id) == group), next(iter(beds), None))


def _cards(lesson: LessonOutline, found: BedOfPupils) -> list[WordCard]:
    """The words of the lesson, and the crops of the bed with their portraits."""
    pictured = [
        WordCard(crop.name.en, portraits.in_hand(crop, px=96, line=True)) for crop in found.crops[: rules.MOST_CARDS]
    ]
    return [*pictured, *(WordCard(word, "") for word in lesson.words)]


def _map(work: UnitOfWork, found: BedOfPupils, day: date) -> PupilMap:
    bed, grid = found.bed, found.bed.grid()
    across, down = grid.pitch_x_mm, grid.pitch_y_mm
    squares = "".join(f"M{c * across:.0f} {r * down:.0f}h{across:.0f}v{down:.0f}h-{across:.0f}z" for c, r in grid.cells)
    letters = [
        SquareLetter(round((c + 0.5) * across), round(-EDGE_MM * 0.45), cell_name((c, 0)).rstrip("0123456789"))
        for c in range(grid.columns)
    ] + [SquareLetter(round(-EDGE_MM * 0.5), round((r + 0.62) * down), str(r + 1)) for r in range(grid.rows)]
    grown = commands.fullest_day(found, day, today=work.today)
    standing = [p for p in found.plantings if p.stands_on(grown, work.today)]
    return PupilMap(
        f"{-EDGE_MM:g} {-EDGE_MM:g} {bed.length_mm + EDGE_MM * 1.25:g} {bed.width_mm + EDGE_MM * 1.25:g}",
        bed_from_above.draw(work.context, bed, standing, grown, work.today, line=True),
        squares,
        letters,
        words.short_day(grown),
    )


def graph_paper(across: str, up: str) -> GraphPaper:
    """Squared paper with its two axes named."""
    columns, rows = int(GRAPH_W / GRAPH_SQUARE), int(GRAPH_H / GRAPH_SQUARE)
    lines = [f"M{n * GRAPH_SQUARE:g} 0v{GRAPH_H:g}" for n in range(columns + 1)]
    lines += [f"M0 {n * GRAPH_SQUARE:g}h{GRAPH_W:g}" for n in range(rows + 1)]
    return GraphPaper(GRAPH_W, GRAPH_H, "".join(lines), across, up)
