"""The guided beginning: place, school year, classes, garden, first plan. It can be left at any step; where one stands follows from what is there."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any, Literal, cast
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response

from almanaque.commands.garden import map_drawing, painting
from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.garden.painting import Paint
from almanaque.commands.school import calendar as calendar_commands
from almanaque.commands.year import shortlist
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import cell_name
from almanaque.core.garden.starting_gardens import Key, StartingGarden, starting_garden
from almanaque.core.school.school_year import WEEKDAYS, Slot
from almanaque.core.school.usual_terms import usual_year
from almanaque.core.units import Units
from almanaque.data import public_holidays, usual_school_year, zones
from almanaque.store import queue
from almanaque.store.garden import garden
from almanaque.store.school import school as store
from almanaque.store.school.school import Group
from almanaque.web import forms, frame, words
from almanaque.web.pictures.families import Hatch, family
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.school import month_grid
from almanaque.web.school.month_grid import YearPicture
from almanaque.web.view import View

router = APIRouter()
Change = Annotated[RequestScope, Depends(may("calendar"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
Step = Literal["year", "classes", "garden", "plan"]
STEPS: tuple[tuple[Step, str], ...] = (
    ("year", "School year"),
    ("classes", "Classes"),
    ("garden", "Draw the garden"),
    ("plan", "First plan"),
)
GARDENS: tuple[tuple[Key, str, str], ...] = (
    ("pots", "A sill and pots", "a sill and four pots"),
    ("one", "One bed", "a raised bed of 8 × 4"),
    ("six", "Six beds", "two rows of three, paths between"),
    ("plot", "A plot", "a plot in the open ground"),
)
FIRST_SQUARES = 4  # that a first plan takes: our own rule
SHOWN = 8
CARD_WIDTH, CARD_HEIGHT = 200.0, 110.0


@dataclass(frozen=True)
class BeginningStepView:
    key: str
    name: str
    state: str


@dataclass(frozen=True)
class GardenCard:
    """A starting garden as a small picture: outlines in its own frame."""

    key: str
    name: str
    words: str
    view_box: str
    paths: list[str]


@dataclass(frozen=True)
class GradeRow:
    number: int
    name: str
    weekday: int


@dataclass(frozen=True)
class FittingCrop:
    key: str
    name: str
    code: str
    hatch: Hatch
    dates: str
    years: str
    against: str


@dataclass(frozen=True)
class BeginningView(View):
    """The page of the beginning: one step at a time."""

    step: str
    steps: list[BeginningStepView]
    following: str
    countries: list[tuple[str, str]]
    country: str
    pasted: str
    usual: YearPicture | None
    usual_words: str
    grades: list[GradeRow]
    weekdays: tuple[str, ...]
    cards: list[GardenCard]
    beds: list[tuple[str, str]]
    bed_name: str
    bed_id: str
    fitting: list[FittingCrop]
    error: str


@router.get("/beginning")
def beginning(scope: Change, step: str = "", bed: str = "") -> Response:
    """The first step that is not done, or the one that is asked for."""
    with scope.open() as work:
        return _page(work, step, bed)


@router.post("/beginning/year")
def begin_year(scope: Change, country: Annotated[str, Form()] = "") -> Response:
    """Begin with a year as it usually is in a country, to be corrected."""
    with scope.open() as work:
        year = usual_year(country, southern=work.context.school.southern, today=work.today)
        calendar_commands.write_years(work.connection, work.context, [year])
        return frame.go(work, "/beginning", step="classes")


@router.post("/beginning/classes")
def begin_classes(scope: Change, request: Request) -> Response:
    """All classes that are ticked, each with its number of children and a weekly lesson."""
    form = request.state.form
    try:
        with scope.open() as work:
            day = work.today
            chosen = [row for row in _grades(work) if form.get(f"grade_{row.number}")]
            if not chosen:
                raise BadInput("school.no_class_ticked", field="grade_0")
            for row in chosen:
                heads = forms.whole(
                    str(form.get(f"heads_{row.number}", "")),
                    field=f"heads_{row.number}",
                    least=1,
                    most=999,
                    what="children",
                )
                weekday = forms.whole(
                    str(form.get(f"weekday_{row.number}", "")),
                    field=f"weekday_{row.number}",
                    least=0,
                    most=4,
                    what="weekday",
                )
                at = forms.clock_time(str(form.get(f"at_{row.number}", "")), field=f"at_{row.number}")
                group = Group(
                    uuid4(), row.name, "class", _first_year(work, day) - row.number, heads, "", None, [], [], []
                )
                store.save_group(work.connection, work.context.school.id, group)
                slot = Slot(str(group.id), weekday, at, 45)
                store.save_slot(work.connection, work.context.school.id, uuid4(), slot)
            queue.recompute_school(work.connection, work.context.school.id)
            return frame.go(work, "/beginning", step="garden")
    except BadInput as error:
        with scope.open() as work:
            return _page(work, "classes", "", error=error.message, status=422)


@router.post("/beginning/garden")
def begin_garden(scope: Plan, garden_key: Annotated[str, Form(alias="garden")] = "") -> Response:
    """Put a starting garden on the map, as one step that can be taken back."""
    with scope.open() as work:
        key = cast(Key, forms.one_of(garden_key, [one for one, _, _ in GARDENS], field="garden"))
        chosen = starting_garden(key, work.context.school.units)
        map_drawing.add_garden(work.connection, work.context, chosen, work.actor())
        return frame.go(work, "/garden/map")


@router.post("/beginning/plan")
def begin_plan(scope: Plan, bed: Annotated[str, Form()] = "", crop: Annotated[str, Form()] = "") -> Response:
    """Pencil a crop that fits now into the first free squares of a bed."""
    with scope.open() as work:
        found = garden.bed(work.connection, forms.row_id(bed))
        chosen = work.context.crops[crop]
        until = work.today + shortlist.FREE_FOR
        cells = free_cells(work.connection, found, work.today, until, work.today)[:FIRST_SQUARES]
        if not cells:
            raise BadInput("garden.no_square_chosen", field="bed")
        space = shortlist.space_of(
            work.connection, work.context, found, cells, work.today, until=None, today=work.today
        )
        way = next(
            (
                item.fit.method
                for item in shortlist.for_space(work.context, found, space, work.today)
                if item.crop.key == crop
            ),
            chosen.methods[0],
        )
        wish = Paint(" ".join(cell_name(cell) for cell in cells), chosen.key, way, work.today, ink=False)
        painting.paint(work.connection, work.context, found.id, wish, work.actor())
        return frame.go(work, f"/garden/beds/{found.id}")


def _page(work: UnitOfWork, asked: str, bed_id: str, *, error: str = "", status: int = 200) -> Response:
    done = _done(work)
    keys = [key for key, _ in STEPS]
    current = next((key for key in keys if key == asked), next((key for key in keys if key not in done), keys[-1]))
    after = keys[keys.index(current) + 1 :]
    country = zones.country_of(work.context.school.zone)
    beds = garden.beds(work.connection) if current == "plan" else []
    chosen = next((b for b in beds if str(b.id) == bed_id), next(iter(beds), None))
    usual = usual_year(country, southern=work.context.school.southern, today=work.today) if current == "year" else None
    low, high = usual_school_year.days(country)
    values = BeginningView(
        step=current,
        steps=[
            BeginningStepView(key, name, "now" if key == current else "done" if key in done else "open")
            for key, name in STEPS
        ],
        following=f"/beginning?step={after[0]}" if after else "/week",
        countries=public_holidays.countries(),
        country=country,
        pasted="",
        usual=month_grid.draw(usual) if usual else None,
        usual_words=f"{words.count(len(usual.school_days), 'school day')}; usual here is {low} to {high}"
        if usual
        else "",
        grades=_grades(work) if current == "classes" else [],
        weekdays=WEEKDAYS[:5],
        cards=[_card(*one, work.context.school.units) for one in GARDENS] if current == "garden" else [],
        beds=[(str(b.id), b.name) for b in beds],
        bed_name=chosen.name if chosen else "",
        bed_id=str(chosen.id) if chosen else "",
        fitting=_fitting(work, chosen) if chosen else [],
        error=error,
    )
    return frame.page(work, "school", "The beginning", values, template="school/beginning.html", status=status)


def _done(work: UnitOfWork) -> set[str]:
    found = set()
    if work.context.years:
        found.add("year")
    if work.context.groups:
        found.add("classes")
    beds = garden.beds(work.connection)
    if beds:
        found.add("garden")
    if beds and garden.plantings(work.connection, since=work.today):
        found.add("plan")
    return found


def _first_year(work: UnitOfWork, day: date) -> int:
    """The calendar year in which the school year of a day, or the next one, begins."""
    year = work.context.calendar.year_of(day) or next(iter(work.context.calendar.years), None)
    return year.starts.year if year else day.year


def _grades(work: UnitOfWork) -> list[GradeRow]:
    grades = work.context.school.grades
    return [
        GradeRow(number, grades.name(number), at % 5)
        for at, number in enumerate(range(work.context.school.first_grade, work.context.school.last_grade + 1))
    ]


def _card(key: Key, name: str, says: str, units: Units) -> GardenCard:
    made: StartingGarden = starting_garden(key, units)
    points = [point for bed in made.beds for point in bed.shape.on_site_mm]
    left, top = min(x for x, _ in points), min(y for _, y in points)
    right, bottom = max(x for x, _ in points), max(y for _, y in points)
    scale = min(CARD_WIDTH / (right - left), CARD_HEIGHT / (bottom - top))
    paths = [
        "M" + "L".join(f"{(x - left) * scale:.1f} {(y - top) * scale:.1f}" for x, y in bed.shape.on_site_mm) + "Z"
        for bed in made.beds
    ]
    width, height = (right - left) * scale, (bottom - top) * scale
    box = f"{(width - CARD_WIDTH) / 2 - 6:.1f} {(height - CARD_HEIGHT) / 2 - 6:.1f} {CARD_WIDTH + 12:.0f} {CARD_HEIGHT + 12:.0f}"
    return GardenCard(key, name, says, box, paths)


def _fitting(work: UnitOfWork, bed: Any) -> list[FittingCrop]:
    """What fits a bed now, the surest first."""
    cells = free_cells(work.connection, bed, work.today, work.today + shortlist.FREE_FOR, work.today)
    if not cells:
        return []
    space = shortlist.space_of(work.connection, work.context, bed, cells, work.today, until=None, today=work.today)
    listed = [item for item in shortlist.for_space(work.context, bed, space, work.today) if item.verdict != "misses"]
    return [
        FittingCrop(
            item.crop.key,
            item.crop.name.en,
            item.crop.code,
            family(item.crop.family),
            words.span(item.fit.dates.first_pick, item.fit.dates.last_pick),
            f"{item.fit.n} of {item.fit.of} years" if item.fit.of else "",
            item.against if item.verdict != "fits" else "",
        )
        for item in listed[:SHOWN]
    ]
