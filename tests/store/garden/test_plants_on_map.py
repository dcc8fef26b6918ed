"""A tree or bush of the map that becomes a plant: it has dates, jobs, water while young, and a crown."""

from datetime import date
from uuid import uuid4

from almanaque.commands.garden import map_drawing, plants_on_map
from almanaque.commands.week.watering import watering
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import Feature
from almanaque.store.garden import garden, site_features
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.week import tasks
from tests.refuses import refuses
from tests.store.year.test_schedule import ACTOR, TODAY, InSchool


def stands(in_school: InSchool, kind: str = "tree", to_day: date | None = None) -> FeatureRow:
    connection, school = in_school
    site = garden.sites(connection)[0]
    row = FeatureRow(
        uuid4(), site.id, Feature(kind, "Old apple", Shape(200, 200, 2400, 2400, label="Old apple")), None, to_day
    )
    map_drawing.save_feature(connection, school, row, ACTOR)
    return row


def test_a_tree_of_the_map_becomes_a_plant_with_dates_and_jobs(in_school: InSchool) -> None:
    connection, school = in_school
    row = stands(in_school)
    made = plants_on_map.plant(connection, school, row.id, "apple", date(2026, 3, 10), ACTOR)
    bed = garden.bed(connection, made)
    assert (bed.name, bed.kind) == ("Old apple", "ground")
    assert (bed.x_mm + bed.length_mm / 2, bed.y_mm + bed.width_mm / 2) == (1400, 1400)
    assert row.id not in {kept.id for kept in site_features.features(connection)}
    (apple,) = garden.plantings(connection, bed_id=made)
    assert (apple.status, apple.events["started"]) == ("in the ground", date(2026, 3, 10))
    assert apple.dates is not None
    assert apple.dates.first_pick > TODAY
    assert {"prune", "prop"} & {t.step for t in tasks.tasks(connection, planting_id=apple.id)}
    assert [tree.bed.id for tree in watering(connection, school, date(2027, 7, 5), today=date(2027, 7, 5)).trees].count(
        made
    ) == 1


def test_what_is_no_tree_or_no_plant_for_one_is_refused(in_school: InSchool) -> None:
    connection, school = in_school
    with refuses("garden.not_a_plant", field="crop"):
        plants_on_map.plant(connection, school, stands(in_school, "bench").id, "apple", TODAY, ACTOR)
    with refuses("garden.not_a_plant", field="crop"):
        plants_on_map.plant(connection, school, stands(in_school, to_day=TODAY).id, "apple", TODAY, ACTOR)
    with refuses("garden.not_a_tree", field="crop"):
        plants_on_map.plant(connection, school, stands(in_school).id, "radish", TODAY, ACTOR)
    with refuses("garden.event_in_future", field="since"):
        plants_on_map.plant(connection, school, stands(in_school).id, "apple", date(2027, 4, 15), ACTOR)
