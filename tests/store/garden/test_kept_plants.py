"""What is kept in a bed as a plant: it shades other beds on the days it is there, bare or in leaf, and drinks from its own part."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import map_drawing, sunlight
from almanaque.commands.week import watering
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.outline import Shape
from almanaque.store.db import Database
from almanaque.store.garden import garden
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from tests.database import NORTH, bed_id
from tests.refuses import refuses

FT = 304.8
SUMMER, TODAY = date(2027, 7, 10), date(2027, 4, 14)
NEW = UUID(int=77)
InSchool = tuple[Connection[Any], Context]


@pytest.fixture
def in_school(database: Database) -> Iterator[InSchool]:
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def keep(in_school: InSchool, part: Rectangle) -> None:
    """A bed is drawn beside Bed 7, to the west of it, and the plant kept in it."""
    connection, school = in_school
    shape = Shape(32 * FT, 12 * FT, 4 * FT, 4 * FT)
    map_drawing.add_bed(connection, school, NEW, "raised", shape, Actor(None, TODAY))

    def with_part(bed: Bed, sections: list[Section]) -> tuple[Bed, list[Section]]:
        return replace(bed, kept=[*bed.kept, part]), sections

    map_drawing.change_bed(connection, school, NEW, with_part, Actor(None, TODAY))


def sun_on(in_school: InSchool, name: str, day: date) -> float:
    connection, school = in_school
    beds = garden.beds(connection)
    bed: Bed = next(b for b in beds if b.name == name)
    light = sunlight.light(connection, school, sunlight.site_of(connection, bed), beds)
    return sum(light.on(bed, day).values())


def drinks(in_school: InSchool, day: date) -> float:
    connection, school = in_school
    found = watering.watering(connection, school, day, today=TODAY)
    return sum(one.litres for one in found.beds if one.bed.id == NEW)


def test_a_kept_plant_shades_the_bed_beside_it_and_drinks(in_school: InSchool) -> None:
    sun, water = sun_on(in_school, "Bed 7", SUMMER), drinks(in_school, SUMMER)
    keep(in_school, Rectangle(2 * FT, 0, 2 * FT, 3 * FT, "Old fig", height_mm=16 * FT, spread_mm=8 * FT))
    assert sun_on(in_school, "Bed 7", SUMMER) < sun - 1
    assert drinks(in_school, SUMMER) > water


def test_it_shades_and_drinks_on_its_days_only(in_school: InSchool) -> None:
    sun, water = sun_on(in_school, "Bed 7", SUMMER), drinks(in_school, SUMMER)
    gone = date(2027, 6, 30)
    keep(in_school, Rectangle(2 * FT, 0, 2 * FT, 3 * FT, "Old fig", None, gone, None, 16 * FT, 8 * FT))
    assert (sun_on(in_school, "Bed 7", SUMMER), drinks(in_school, SUMMER)) == (sun, water)


def test_a_tree_of_the_catalogue_takes_its_measures_from_there_and_is_bare_in_winter(in_school: InSchool) -> None:
    connection, school = in_school
    bed = garden.bed(connection, bed_id("Bed 5"))
    body = sunlight.kept_body(Rectangle(0, 0, FT, FT, "Apple", crop="apple"), bed, school)
    assert body is not None
    assert body.body.height_mm == bed.depth_mm + school.crops["apple"].height_mm
    assert 1 in body.body.months_bare
    assert sunlight.kept_body(Rectangle(0, 0, FT, FT, "Stone"), bed, school) is None
    assert sunlight.kept_body(Rectangle(0, 0, FT, FT, "Thyme", height_mm=300), bed, school) is None


def test_a_plant_that_the_catalogue_does_not_know_is_refused(in_school: InSchool) -> None:
    with refuses("garden.kept_plant_unknown", field="crop"):
        keep(in_school, Rectangle(2 * FT, 0, FT, FT, "Old fig", crop="figg"))


def test_a_part_in_the_corner_that_an_l_leaves_out_is_refused(in_school: InSchool) -> None:
    connection, school = in_school
    corner = ((0.0, 0.0), (6 * FT, 0.0), (6 * FT, FT), (8 * FT, FT), (8 * FT, 3 * FT), (0.0, 3 * FT))
    part = Rectangle(6.5 * FT, 0.25 * FT, FT, FT, "Old fig")
    with refuses("garden.kept_outside_bed", field="kept", part="Old fig"):
        map_drawing.change_bed(
            connection,
            school,
            bed_id("Bed 5"),
            lambda bed, sections: (replace(bed, outline_mm=corner, kept=[part]), sections),
            Actor(None, TODAY),
        )
