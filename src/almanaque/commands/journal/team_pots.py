"""A pot or bag for each team of a class page, with a planting of its own that the team measures from then on."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import map_drawing
from almanaque.commands.garden.painting import Paint, paint
from almanaque.core.errors import BadInput
from almanaque.core.garden import drawing
from almanaque.core.garden.bed import cell_name
from almanaque.core.garden.outline import Shape
from almanaque.store.garden import garden
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from almanaque.store.journal import class_pages
from almanaque.store.journal.class_pages import ClassPage, ClassTeam

ACROSS_MM = 457.2  # 18 in, a bag of about 15 gallons: our own choice


def set_out(
    connection: Connection[Any], context: Context, page: ClassPage, teams: Sequence[ClassTeam], crop: str, actor: Actor
) -> int:
    """Set a pot on the map for each team that has no planting yet, and plan the crop in it, to be started today; how many.

    All or none. Raises BadInput where the ground has no free place, and for a crop that the school does not have.
    """
    if crop not in context.crops:
        raise BadInput("journal.class_pot_crop", field="crop")
    wanted = [team for team in teams if team.planting_id is None]
    for team in wanted:
        planting = _pot(connection, context, page, team.name, crop, actor)
        class_pages.set_planting(connection, page.id, team.id, planting)
    return len(wanted)


def _pot(connection: Connection[Any], context: Context, page: ClassPage, team: str, crop: str, actor: Actor) -> UUID:
    bed_id = uuid4()
    shape = Shape(0.0, 0.0, ACROSS_MM, ACROSS_MM, 0.0, drawing.round_top(ACROSS_MM), team)
    found = map_drawing.place_for(connection, context, shape, actor.today)
    if found is None:
        raise BadInput("garden.no_free_place", name=team)
    map_drawing.add_bed(connection, context, bed_id, "container", replace(shape, x_mm=found[0], y_mm=found[1]), actor)
    name = drawing.free_name(f"Pot of {team}"[:70], {bed.name for bed in garden.beds(connection)})

    def named(bed: Bed, sections: list[Section]) -> tuple[Bed, Sequence[Section]]:
        return replace(bed, name=name, class_group_id=page.class_group_id), sections

    map_drawing.change_bed(connection, context, bed_id, named, actor)
    first = garden.bed(connection, bed_id).grid().cells[0]
    wish = Paint(cell_name(first), crop, context.crops[crop].methods[0], actor.today, ink=True)
    return paint(connection, context, bed_id, wish, actor)
