"""A bed seen from above on a day, drawn light: the ground and the plants on it, in millimetres; for pages read far away."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.commands.context import Context
from almanaque.core.words import listed
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import words
from almanaque.web.pictures import plants_standing

MOST_DRAWN = 90  # plants of a bed; of more, each second or third: our own choice
WALL_MM = 40.0  # how thick a board is drawn: our own choice


@dataclass(frozen=True)
class DrawnPlant:
    """A plant's place, the side and the corner of its picture, and by how much it is turned [degrees]."""

    x: float
    y: float
    side: float
    corner: float
    turn: int
    href: str


@dataclass(frozen=True)
class BedFromAbove:
    """`view` is what is seen of it, `ground` its soil within boards; `says` what there is to see, in words."""

    view: str
    ground: str
    plants: list[DrawnPlant]
    says: str


def draw(
    context: Context, bed: Bed, plantings: Sequence[Planting], day: date, today: date, *, line: bool = False
) -> BedFromAbove:
    """The bed with what stands in it on a day; in `line` for crayons."""
    standing = [p for p in plantings if p.status != "pencilled" and p.stands_on(day, today)]
    found = plants_standing.looks(context, [bed], standing, day, today, most=MOST_DRAWN, line=line).get(str(bed.id), [])
    corners = bed.outline_mm or [(0, 0), (bed.length_mm, 0), (bed.length_mm, bed.width_mm), (0, bed.width_mm)]
    names = sorted({context.crops[p.crop].name.en.lower() for p in standing})
    seen = listed(names) if names else "nothing at the moment"
    return BedFromAbove(
        f"{-WALL_MM:g} {-WALL_MM:g} {bed.length_mm + 2 * WALL_MM:g} {bed.width_mm + 2 * WALL_MM:g}",
        "M" + "L".join(f"{x:g} {y:g}" for x, y in corners) + "Z",
        [
            DrawnPlant(round(p.x_mm), round(p.y_mm), round(p.side_mm), round(-p.side_mm / 2), p.turn, p.href)
            for p in found
        ],
        f"{bed.name} from above, drawn, on {words.short_day(day)}: {seen}",
    )
