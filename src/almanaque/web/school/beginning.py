"""The guided beginning: place, school year, classes, garden, first plan.

It can be left at any step; where one stands follows from what is there.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Annotated, Any, Literal, cast

from fastapi import APIRouter, Depends, Form, Request, Response

from almanaque.commands.garden import free_squares, map_drawing, painting
from almanaque.commands.garden.free_squares import free_cells
from almanaque.commands.garden.painting import Paint
from almanaque.commands.school import beginning as commands
from almanaque.commands.school.beginning import StartingClass
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.starting_gardens import Key, StartingGarden, starting_garden
from almanaque.core.school.school_year import WEEKDAYS
from almanaque.core.school.usual_terms import usual_year
from almanaque.core.units import Units, format_length
from almanaque.data import public_holidays, usual_school_year, zones
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.school import month_grid
from almanaque.web.school.classes import MOST_CHILDREN
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
    ("pots", "A sill and pots", "four pots and a sill of {size}"),
    ("one", "One bed", "a raised bed of {size}"),
    ("six", "Six beds", "two rows of three, each {size}"),
    ("plot", "A plot", "open ground of {size}"),
)
SHOWN = 8  # crops that a first plan offers
USUAL_HEADS = "24"  # of a class until somebody says: our own rule
USUAL_TIME = "10:00"
SCHOOL_WEEK = 5  # days on which a lesson may lie
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
    """A class that may be kept, as its line was typed; `errors` tell by field what is wrong with it."""

    number: int
    name: str
    entry_year: int
    ticked: bool
    heads: str
    weekday: int
    at: str
    errors: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class FittingCrop:
    key: str
    name: str
    code: str
    method: Method
    dates: str
    years: str
    against: str


@dataclass(frozen=True)
class WeekdayLessons:
    """A day of the week as the ticked lines have it, early lessons first."""

    name: str
    lessons: list[str]


@dataclass(frozen=True)
class BedSquares:
    """A bed from above: its outline and its squares, those that are free apart from those that are taken."""

    view_box: str
    outline: str
    free: str
    taken: str
    words: str


@dataclass(frozen=True)
class BeginningView(View):
    """The page of the beginning: one step at a time."""

    step: str
    steps: list[BeginningStepView]
    following: str
    countries: list[tuple[str, str]]
    country: str
    year: YearPicture | None
    year_words: str
    on_file: bool
    grades: list[GradeRow]
    week: list[WeekdayLessons]
    weekdays: tuple[str, ...]
    cards: list[GardenCard]
    beds: list[tuple[str, str]]
    bed_name: str
    bed_id: str
    bed_picture: BedSquares | None
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
    try:
        with scope.open() as work:
            year = usual_year(country, southern=work.context.school.southern, today=work.today)
            commands.keep_usual_year(work.connection, work.context, year)
            return frame.go(work, "/beginning", step="classes")
    except BadInput as error:
        with scope.open(only_looks=True) as work:
            return _page(work, "year", "", error=error.message, status=422)


@router.post("/beginning/classes")
def begin_classes(scope: Change, request: Request) -> Response:
    """All classes that are ticked, each with its number of children and a weekly lesson; with all that is wrong told at once."""
    with scope.open(only_looks=True) as work:
        rows, kept = _typed(_grades(work), request.state.form)
        if any(row.errors for row in rows):
            return _page(work, "classes", "", rows=rows, status=422)
        if not kept:
            error = BadInput("school.no_class_ticked")
            return _page(work, "classes", "", rows=rows, error=error.message, status=422)
    with scope.open() as work:
        commands.keep_classes(work.connection, work.context, kept)
        return frame.go(work, "/beginning", step="garden")


@router.post("/beginning/classes/look")
def look_at_classes(scope: Change, request: Request) -> Response:
    """The week as the lines say now; nothing is kept."""
    with scope.open(only_looks=True) as work:
        return _page(work, "classes", "", rows=_typed(_grades(work), request.state.form)[0])


@router.post("/beginning/garden")
def begin_garden(scope: Plan, garden_key: Annotated[str, Form(alias="garden")] = "") -> Response:
    """Put a starting garden on the map, as one step that can be taken back."""
    with scope.open() as work:
        key = cast(Key, forms.one_of(garden_key, [one for one, _, _ in GARDENS], field="garden"))
        chosen = starting_garden(key, work.context.school.units)
        map_drawing.add_garden(work.connection, work.context, chosen, work.actor())
        return frame.go(work, "/garden/map")


@router.post("/beginning/plan")
def begin_plan(
    scope: Plan,
    bed: Annotated[str, Form()] = "",
    crop: Annotated[str, Form()] = "",
    method: Annotated[str, Form()] = "",
) -> Response:
    """Pencil a crop that fits now into free squares of a bed."""
    with scope.open() as work:
        found, chosen = garden.bed(work.connection, forms.row_id(bed)), work.context.crops[crop]
        way = cast(Method, forms.one_of(method, chosen.methods, field="method"))
        squares = free_squares.picked(work.connection, work.context, found, chosen, way, work.today, today=work.today)
        wish = Paint(squares, chosen.key, way, work.today, ink=False)
        painting.paint(work.connection, work.context, found.id, wish, work.actor())
        return frame.go(work, f"/garden/beds/{found.id}")


def _page(
    work: UnitOfWork,
    asked: str,
    bed_id: str,
    *,
    rows: list[GradeRow] | None = None,
    error: str = "",
    status: int = 200,
) -> Response:
    done = _done(work)
    keys = [key for key, _ in STEPS]
    current = next((key for key in keys if key == asked), next((key for key in keys if key not in done), keys[-1]))
    after = keys[keys.index(current) + 1 :]
    country = zones.country_of(work.context.school.zone)
    beds = garden.beds(work.connection) if current == "plan" else []
    chosen = next((b for b in beds if str(b.id) == bed_id), next(iter(beds), None))
    zone = work.context.school.zone
    usual = usual_year(country, southern=work.context.school.southern, today=work.today)
    on_file = next((y.core() for y in work.context.years if y.starts <= usual.ends and y.ends >= usual.starts), None)
    year = on_file or usual
    low, high = usual_school_year.days(country)
    counted = f"{words.count(len(year.school_days), 'school day')}; usual here is {low} to {high}"
    lines = (rows or _grades(work)) if current == "classes" else []
    values = BeginningView(
        step=current,
        steps=[
            BeginningStepView(key, name, "now" if key == current else "done" if key in done else "open")
            for key, name in STEPS
        ],
        following=f"/beginning?step={after[0]}" if after else "/week",
        countries=public_holidays.countries(),
        country=country,
        year=month_grid.draw(year, zone) if current == "year" else None,
        year_words=f"{year.name}: {counted}" if on_file else counted,
        on_file=on_file is not None,
        grades=lines,
        week=_week(lines),
        weekdays=WEEKDAYS[:SCHOOL_WEEK],
        cards=[_card(*one, work.context.school.units) for one in GARDENS] if current == "garden" else [],
        beds=[(str(b.id), b.name) for b in beds],
        bed_name=chosen.name if chosen else "",
        bed_id=str(chosen.id) if chosen else "",
        bed_picture=_bed_picture(work, chosen) if chosen else None,
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
    """A line for each grade that has no class yet."""
    school, begins = work.context.school, _first_year(work, work.today)
    there = {group.entry_year for group in work.context.groups if group.kind == "class"}
    return [
        GradeRow(number, school.grades.name(number), begins - number, True, USUAL_HEADS, at % SCHOOL_WEEK, USUAL_TIME)
        for at, number in enumerate(range(school.first_grade, school.last_grade + 1))
        if begins - number not in there
    ]


def _week(rows: list[GradeRow]) -> list[WeekdayLessons]:
    ticked = sorted((row for row in rows if row.ticked), key=lambda row: row.at.zfill(5))
    return [
        WeekdayLessons(name, [f"{row.at} {row.name}" for row in ticked if row.weekday == at])
        for at, name in enumerate(WEEKDAYS[:SCHOOL_WEEK])
    ]


def _typed(rows: list[GradeRow], form: Mapping[str, Any]) -> tuple[list[GradeRow], list[StartingClass]]:
    """The lines as they were typed, and the classes of those that are ticked and right."""
    shown: list[GradeRow] = []
    kept: list[StartingClass] = []
    for row in rows:
        n, problems = row.number, forms.Problems()
        text = {name: str(form.get(f"{name}_{n}", ""))[:20] for name in ("heads", "weekday", "at")}
        ticked = bool(form.get(f"grade_{n}"))
        weekday = problems.read(
            forms.whole, text["weekday"], field="weekday", least=0, most=SCHOOL_WEEK - 1, what="weekday"
        )
        heads = problems.read(forms.whole, text["heads"], field="heads", least=1, most=MOST_CHILDREN, what="children")
        at = problems.read(forms.clock_time, text["at"], field="at")
        if ticked and heads is not None and weekday is not None and at is not None:
            kept.append(StartingClass(row.name, row.entry_year, heads, weekday, at))
        errors = problems.by_field if ticked else {}
        line = replace(row, ticked=ticked, heads=text["heads"], at=text["at"], errors=errors)
        shown.append(line if weekday is None else replace(line, weekday=weekday))
    return shown, kept


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
    size = made.beds[0].shape
    words_of_size = f"{format_length(size.length_mm, units)} × {format_length(size.width_mm, units)}"
    return GardenCard(key, name, says.format(size=words_of_size), box, paths)


def _bed_picture(work: UnitOfWork, bed: Bed) -> BedSquares:
    grid, scale = bed.grid(work.today), CARD_WIDTH / max(bed.length_mm, bed.width_mm)
    across, down = grid.pitch_x_mm * scale, grid.pitch_y_mm * scale
    free = set(free_cells(work.connection, bed, work.today, work.today + shortlist.FREE_FOR, work.today))

    def squares(cells: Collection[Cell]) -> str:
        return "".join(
            f"M{c * across:.1f} {r * down:.1f}h{across:.1f}v{down:.1f}h{-across:.1f}Z" for c, r in sorted(cells)
        )

    return BedSquares(
        f"-4 -4 {bed.length_mm * scale + 8:.0f} {bed.width_mm * scale + 8:.0f}",
        "M" + "L".join(f"{x * scale:.1f} {y * scale:.1f}" for x, y in bed.shape.own_corners_mm) + "Z",
        squares(free),
        squares(set(grid.cells) - free),
        f"{bed.name}: {words.count(len(free), 'free square')} of {len(grid.cells)}",
    )


def _fitting(work: UnitOfWork, bed: Bed) -> list[FittingCrop]:
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
            item.fit.method,
            words.span(item.fit.dates.first_pick, item.fit.dates.last_pick),
            f"{item.fit.n} of {item.fit.of} years" if item.fit.of else "",
            item.against if item.verdict != "fits" else "",
        )
        for item in listed[:SHOWN]
    ]
