"""A team's plan seen from above, in millimetres: squares, plants at true size, and what a dream garden has besides."""

from collections.abc import Mapping
from dataclasses import dataclass

from almanaque.commands.context import Context
from almanaque.commands.journal.class_drawings import DrawingBoard, TeamPlan
from almanaque.core.garden.bed import Cell, cell_name
from almanaque.core.journal.class_drawings import THINGS
from almanaque.core.words import listed
from almanaque.formats.crops import portraits
from almanaque.web import frame
from almanaque.web.pictures.bed_from_above import WALL_MM, DrawnPlant
from almanaque.web.pictures.plants_standing import TURN_DEG

MOST_DRAWN = 400  # plants of a plan that are drawn one by one; of more each second or third: our own choice
PX_PER_MM = 0.12  # about what a drawing on a tablet has: by it the detail of pictures is chosen
THING_INSET = 0.06  # share of a square that is left around a thing: our own choice


@dataclass(frozen=True)
class TeamSquare:
    """A square that can be drawn in; `at` is its column and row as scripts send it, `holds` a crop or thing by name."""

    at: str
    name: str
    x: float
    y: float
    width: float
    height: float
    holds: str


@dataclass(frozen=True)
class PlanThing:
    """A thing of a dream garden, in its square."""

    x: float
    y: float
    side: float
    href: str


@dataclass(frozen=True)
class PlanPicture:
    """`view` is what is seen, `ground` the soil within its boards; `says` what there is to see, in words."""

    view: str
    ground: str
    squares: list[TeamSquare]
    plants: list[DrawnPlant]
    too_few: list[PlanThing]
    things: list[PlanThing]
    says: str


def draw(context: Context, on: DrawingBoard, plan: TeamPlan, whose: str, *, line: bool = False) -> PlanPicture:
    """The plan as it would look when the first of it is picked; in `line` for crayons."""
    bed, grid = on.bed, on.bed.grid()
    corners = bed.outline_mm or [(0, 0), (bed.length_mm, 0), (bed.length_mm, bed.width_mm), (0, bed.width_mm)]
    names = what_names(context, on)
    return PlanPicture(
        f"{-WALL_MM:g} {-WALL_MM:g} {bed.length_mm + 2 * WALL_MM:g} {bed.width_mm + 2 * WALL_MM:g}",
        "M" + "L".join(f"{x:g} {y:g}" for x, y in corners) + "Z",
        [
            TeamSquare(
                f"{c},{r}",
                cell_name((c, r)),
                round(c * grid.pitch_x_mm, 1),
                round(r * grid.pitch_y_mm, 1),
                round(grid.pitch_x_mm, 1),
                round(grid.pitch_y_mm, 1),
                names.get(plan.squares.get((c, r), ""), ""),
            )
            for c, r in grid.cells
        ],
        plants(context, plan, line=line),
        too_few(context, on, plan, line=line),
        things(on, plan.squares),
        says(context, on, plan, whose),
    )


def what_names(context: Context, on: DrawingBoard) -> dict[str, str]:
    """What can be drawn, by key: crops and things in a child's words."""
    return {**{c.crop: context.crops[c.crop].name.en for c in on.crops}, **(THINGS if on.is_dream else {})}


def plants(context: Context, plan: TeamPlan, *, line: bool = False) -> list[DrawnPlant]:
    """Each plant where it stands, low ones first, so that the tall lie over them."""
    every = 1 + sum(layout.plants for layout in plan.laid.values()) // MOST_DRAWN
    found = []
    for planting in sorted(plan.plantings, key=lambda p: context.crops[p.crop].height_mm):
        crop = context.crops[planting.crop]
        day = planting.dates.first_pick if planting.dates else planting.start_on
        for number, (x, y) in enumerate(plan.laid[planting.id].positions_mm[::every]):
            look = portraits.look_on(
                crop, day, planting.dates, PX_PER_MM, southern=context.school.southern, number=number, line=line
            )
            if look is not None:
                turn = number * TURN_DEG % 360
                side = round(look.side_mm)
                found.append(DrawnPlant(round(x), round(y), side, round(-side / 2), turn, look.href))
    return found


def too_few(context: Context, on: DrawingBoard, plan: TeamPlan, *, line: bool = False) -> list[PlanThing]:
    """Squares that hold no plant, since a plant takes a whole block of them, with whose they are."""
    grid = on.bed.grid()
    return [
        PlanThing(
            round(c * grid.pitch_x_mm),
            round(r * grid.pitch_y_mm),
            round(grid.pitch_x_mm),
            portraits.in_hand(context.crops[p.crop], px=PX_PER_MM * grid.pitch_x_mm, line=line),
        )
        for p in plan.plantings
        for c, r in plan.laid[p.id].left_over
    ]


def things(on: DrawingBoard, squares: Mapping[Cell, str]) -> list[PlanThing]:
    """What stands in the squares besides plants."""
    grid = on.bed.grid()
    inset = THING_INSET * grid.pitch_x_mm
    return [
        PlanThing(
            round(c * grid.pitch_x_mm + inset),
            round(r * grid.pitch_y_mm + inset),
            round(grid.pitch_x_mm - 2 * inset),
            thing_href(what),
        )
        for (c, r), what in sorted(squares.items())
        if what in THINGS
    ]


def thing_href(what: str) -> str:
    """Where the picture of a thing is."""
    return frame.static(f"things/{what.removeprefix('thing:')}.svg")


def says(context: Context, on: DrawingBoard, plan: TeamPlan, whose: str) -> str:
    """The plan in words: how many of what."""
    counted = [f"{plants} {name.lower()}" for _, name, plants, _ in counts(context, plan) if plants]
    there = [THINGS[what] for what in sorted(set(plan.squares.values())) if what in THINGS]
    return f"{whose}: {listed([*counted, *there])}" if counted or there else f"{whose}: nothing drawn yet"


def counts(context: Context, plan: TeamPlan) -> list[tuple[str, str, int, int]]:
    """Of each crop in a plan its key and name, how many plants stand in how many squares."""
    return [
        (p.crop, context.crops[p.crop].name.en, plan.laid[p.id].plants, len(p.cells))
        for p in sorted(plan.plantings, key=lambda p: context.crops[p.crop].name.en)
    ]
