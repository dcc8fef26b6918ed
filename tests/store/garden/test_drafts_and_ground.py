"""Rival drafts, moving plans and things on the map, and what is on file of a bed, against a real database."""

import json
from contextlib import nullcontext
from dataclasses import replace
from datetime import date, timedelta
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import (
    bed_findings,
    beds,
    drafts,
    ground_pictures,
    map_drawing,
    needs,
    painting,
    planting_events,
    plantings,
    site_map,
    sunlight,
    undo,
)
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.garden.outline import Shape, l_shape
from almanaque.core.garden.site import Feature
from almanaque.formats.garden import garden_geojson
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import drafts as draft_store
from almanaque.store.garden import garden, shed, soil, volunteer_plants
from almanaque.store.garden import ground_pictures as picture_rows
from almanaque.store.garden import site_features as ground_store
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.garden.volunteer_plants import VolunteerPlant
from tests.database import NORTH, SOUTH, bed_id
from tests.refuses import refuses

TODAY = date(2027, 4, 14)
ACTOR = Actor(None, TODAY)
BED_1, BED_2, BED_3, BED_4 = (bed_id(f"Bed {n}") for n in (1, 2, 3, 4))
CORNER = (42.9, -75.4)
FT = 304.8
InSchool = tuple[Connection, Context]


@pytest.fixture
def in_school(database: Database):
    with database.school(NORTH) as connection:
        yield connection, context.load(connection)


def paint(
    in_school: InSchool,
    bed: UUID,
    squares: str,
    crop: str = "radish",
    *,
    start: date = TODAY,
    ink: bool = False,
    **rest: object,
) -> UUID:
    connection, school = in_school
    wish = Paint(squares, crop, school.crops[crop].methods[0], start, ink, **rest)  # type: ignore[arg-type]
    return painting.paint(connection, school, bed, wish, ACTOR)


def all_drafts(in_school: InSchool) -> dict[str, UUID]:
    return {d.name: d.id for d in draft_store.drafts(in_school[0])}


def cells(in_school: InSchool, planting_id: UUID) -> set[tuple[int, int]]:
    return set(garden.planting(in_school[0], planting_id).cells)


def test_pencil_paints_over_its_own_draft_only_and_never_over_ink(in_school: InSchool) -> None:
    mine, theirs = all_drafts(in_school)["Pencil plan"], all_drafts(in_school)["Birches' plan"]
    one = paint(in_school, BED_4, "A4-C4", draft_id=mine)
    other = paint(in_school, BED_4, "A4-C4", "lettuce", draft_id=theirs)
    inked = paint(in_school, BED_4, "A4", "pea", ink=True, draft_id=mine)
    assert cells(in_school, other) == {(0, 3), (1, 3), (2, 3)}
    assert cells(in_school, one) == {(1, 3), (2, 3)}
    over = paint(in_school, BED_4, "A4-B4", "spinach", draft_id=theirs)
    assert (cells(in_school, inked), cells(in_school, other), cells(in_school, over)) == (
        {(0, 3)},
        {(2, 3)},
        {(0, 3), (1, 3)},
    )


def test_rubbing_out_leaves_the_other_drafts_alone(in_school: InSchool) -> None:
    mine, theirs = all_drafts(in_school)["Pencil plan"], all_drafts(in_school)["Birches' plan"]
    paint(in_school, BED_4, "A4-C4", draft_id=mine)
    other = paint(in_school, BED_4, "A4-C4", "lettuce", draft_id=theirs)
    assert painting.rub_out(*in_school, BED_4, "A4-B4", shown=TODAY, actor=ACTOR, draft_id=mine) == 2
    assert len(cells(in_school, other)) == 3


def test_a_closed_draft_takes_no_pencil_and_the_last_open_one_stays_open(in_school: InSchool) -> None:
    theirs = all_drafts(in_school)["Birches' plan"]
    drafts.close(*in_school, theirs, open_again=False, actor=ACTOR)
    with refuses("garden.draft_closed"):
        paint(in_school, BED_4, "A4", draft_id=theirs)
    for name in ("Ferns' plan", "After the summer: surest"):
        drafts.close(*in_school, all_drafts(in_school)[name], open_again=False, actor=ACTOR)
    with refuses("garden.only_open_draft"):
        drafts.close(*in_school, all_drafts(in_school)["Pencil plan"], open_again=False, actor=ACTOR)
    with pytest.raises(errors.Refused, match="Something was planned"):
        draft_store.delete(in_school[0], theirs)


def test_a_school_without_drafts_gets_one_with_its_first_pencil(database: Database) -> None:
    with database.school(SOUTH) as connection:
        connection.execute("UPDATE planting SET draft_id = NULL WHERE status <> 'pencilled'")
        connection.execute("DELETE FROM planting WHERE status = 'pencilled'")
        connection.execute("DELETE FROM draft")
        school = context.load(connection)
        assert draft_store.draft(connection, None).name == "Pencil plan"
        wish = Paint("A1", "radish", "direct", TODAY, False)
        bed = garden.beds(connection)[0]
        made = painting.paint(connection, school, bed.id, wish, ACTOR)
        (first,) = draft_store.drafts(connection)
        assert (first.plantings, garden.planting(connection, made).draft_id) == (1, first.id)


def test_parts_of_two_drafts_are_chosen_and_two_that_want_one_square_are_refused_whole(in_school: InSchool) -> None:
    mine, theirs = all_drafts(in_school)["Pencil plan"], all_drafts(in_school)["Birches' plan"]
    one = paint(in_school, BED_4, "A4-B4", draft_id=mine)
    clash = paint(in_school, BED_4, "B4-C4", "lettuce", draft_id=theirs)
    free = paint(in_school, BED_4, "A3-B3", "spinach", draft_id=theirs)
    with pytest.raises(BadInput, match="both want B4 of Bed 4"):
        drafts.choose(*in_school, [one, clash], ACTOR)
    assert {garden.planting(in_school[0], p).status for p in (one, clash)} == {"pencilled"}
    assert drafts.choose(*in_school, [one, free, one], ACTOR) == 2
    assert {garden.planting(in_school[0], p).status for p in (one, free)} == {"planned"}
    with refuses("garden.not_in_pencil_any_more"):
        drafts.choose(*in_school, [one], ACTOR)
    assert undo.undo(*in_school, BED_4, actor=ACTOR) == "choose from drafts"
    assert garden.planting(in_school[0], one).status == "pencilled"


def test_a_season_is_copied_as_pencil_for_the_next_and_not_twice(in_school: InSchool) -> None:
    connection, school = in_school
    draft = all_drafts(in_school)["Birches' plan"]
    spring, next_spring = date(2026, 3, 30), date(2027, 3, 29)
    before = len(garden.plantings(connection))
    done = drafts.copy_season(
        connection, school, starts=spring, ends=date(2026, 6, 12), onto=next_spring, draft_id=draft, actor=ACTOR
    )
    made = [p for p in garden.plantings(connection) if p.draft_id == draft and p.start_on >= next_spring]
    assert done.plantings == len(garden.plantings(connection)) - before >= 5
    carrot = next(p for p in made if p.crop == "carrot" and p.bed_id == bed_id("Bed 5"))
    assert (carrot.start_on, carrot.status) == (date(2026, 3, 31) + (next_spring - spring), "pencilled")
    assert any("still stands there" in left for left in done.left)  # the strawberries
    again = drafts.copy_season(
        connection, school, starts=spring, ends=date(2026, 6, 12), onto=next_spring, draft_id=draft, actor=ACTOR
    )
    assert again.plantings == 0
    assert any("pencilled already" in left for left in again.left)
    with refuses("garden.copy_too_far"):
        drafts.copy_season(connection, school, starts=spring, ends=spring, onto=spring, draft_id=draft, actor=ACTOR)


def test_undo_and_redo_go_back_and_forth_until_something_new_is_done(in_school: InSchool) -> None:
    one = paint(in_school, BED_4, "A4-C4")
    painting.rub_out(*in_school, BED_4, "A4", shown=TODAY, actor=ACTOR)
    assert undo.undo(*in_school, BED_4, actor=ACTOR) == "rub out 1 square"
    assert undo.undo(*in_school, BED_4, actor=ACTOR) == "paint radish"
    with pytest.raises(errors.NotFound):
        garden.planting(in_school[0], one)
    assert undo.redo(*in_school, BED_4, actor=ACTOR) == "paint radish"
    assert cells(in_school, one) == {(0, 3), (1, 3), (2, 3)}
    assert undo.redo(*in_school, BED_4, actor=ACTOR) == "rub out 1 square"
    assert cells(in_school, one) == {(1, 3), (2, 3)}
    undo.undo(*in_school, BED_4, actor=ACTOR)
    paint(in_school, BED_4, "A3")
    with refuses("garden.nothing_to_redo"):
        undo.redo(*in_school, BED_4, actor=ACTOR)
    assert undo.undo(*in_school, BED_4, actor=ACTOR) == "paint radish"
    assert undo.redo(*in_school, BED_4, actor=ACTOR) == "paint radish"


def test_undo_stops_before_work_that_has_begun(in_school: InSchool) -> None:
    made = paint(in_school, BED_4, "A4", ink=True)
    undo.undo(*in_school, BED_4, actor=ACTOR)
    undo.redo(*in_school, BED_4, actor=ACTOR)
    planting_events.happened(*in_school, made, "started", TODAY, ACTOR)
    with refuses("garden.noted_since"):
        undo.undo(*in_school, BED_4, actor=ACTOR)


def test_a_plan_is_moved_by_whole_squares_or_not_at_all(in_school: InSchool) -> None:
    one = paint(in_school, BED_4, "A4-B4")
    assert plantings.shift(*in_school, BED_4, "A4", columns=1, rows=-1, shown=TODAY, actor=ACTOR) == 1
    assert cells(in_school, one) == {(1, 2), (2, 2)}
    with refuses("garden.move_leaves_squares"):
        plantings.shift(*in_school, BED_4, "B3", columns=0, rows=5, shown=TODAY, actor=ACTOR)
    paint(in_school, BED_4, "A4-B4", "lettuce")
    with refuses("garden.would_stand_on_other"):
        plantings.shift(*in_school, BED_4, "B3", columns=-1, rows=1, shown=TODAY, actor=ACTOR)
    assert cells(in_school, one) == {(1, 2), (2, 2)}
    with refuses("garden.no_plan_to_move"):
        plantings.shift(*in_school, BED_4, "A1", columns=0, rows=1, shown=TODAY, actor=ACTOR)
    undo.undo(*in_school, BED_4, actor=ACTOR)
    assert undo.undo(*in_school, BED_4, actor=ACTOR) == "move radish"
    assert cells(in_school, one) == {(0, 3), (1, 3)}


def test_a_plan_is_laid_out_in_another_way_and_keeps_its_squares(in_school: InSchool) -> None:
    connection, school = in_school
    one = paint(in_school, BED_4, "A3-C4", "lettuce")
    spacing = LayoutWish("staggered", "packet", in_row_mm=8 * 25.4)
    assert plantings.change_spacing(*in_school, BED_4, "A3", spacing, with_others=False, shown=TODAY, actor=ACTOR) == 1
    changed = garden.planting(connection, one)
    assert (changed.wish, len(changed.cells)) == (spacing, 6)
    laid = forecasts.layout_of(changed, garden.bed(connection, BED_4), school.crops["lettuce"])
    assert "staggered" in laid.words


def test_starts_in_hand_take_only_the_squares_they_need(in_school: InSchool) -> None:
    connection, school = in_school
    made = garden.planting(connection, paint(in_school, BED_1, "E1-H4", "cabbage", spacing=LayoutWish(wanted=5)))
    assert len(made.cells) == 5
    assert forecasts.layout_of(made, garden.bed(connection, BED_1), school.crops["cabbage"]).plants == 5


def test_a_spacing_without_its_distance_writes_nothing(in_school: InSchool) -> None:
    before = len(garden.plantings(in_school[0]))
    with refuses("garden.packet_distance_unsaid"):
        paint(in_school, BED_4, "A4", spacing=LayoutWish(follows="packet"))
    assert len(garden.plantings(in_school[0])) == before


def judged(in_school: InSchool, bed_id: UUID, planting_id: UUID) -> set[str]:
    connection, school = in_school
    bed = garden.bed(connection, bed_id)
    present = [
        p
        for p in garden.plantings(connection, bed_id=bed_id, since=TODAY)
        if p.status != "pencilled" or p.id == planting_id
    ]
    facts = bed_findings.facts(connection, school, bed, present, today=TODAY)
    found = bed_findings.judge(school, facts, present, forecasts.layouts(present, bed, school.crops), today=TODAY)
    return {finding.code for finding in found[planting_id]}


def test_the_rules_of_a_bed_are_gathered_from_what_is_on_file(in_school: InSchool) -> None:
    potato = paint(in_school, BED_1, "E1-F2", "potato", start=date(2027, 5, 10))
    assert {"family_back_soon", "soil_sweet"} <= judged(in_school, BED_1, potato)  # potatoes in 2026; pH 7.1 measured
    late = paint(in_school, BED_2, "A1-B2", "bush-bean", start=date(2027, 5, 12))
    assert "bed_closed" in judged(in_school, BED_2, late)
    mint = paint(in_school, BED_4, "A3-B4", "mint")
    assert "spreads" in judged(in_school, BED_4, mint)
    hungry = paint(in_school, bed_id("Bed 5"), "E1-F2", "broccoli", start=date(2027, 5, 3))
    assert "soil_poor" in judged(in_school, bed_id("Bed 5"), hungry)


def test_a_tall_crop_in_the_south_takes_the_sun_of_a_low_one_behind_it(in_school: InSchool) -> None:
    paint(in_school, BED_4, "A4-F4", "sweet-corn", start=date(2027, 5, 20), ink=True)
    low = paint(in_school, BED_4, "A3-C3", "bush-bean", start=date(2027, 5, 20))
    assert "shaded_by_plant" in judged(in_school, BED_4, low)
    north = paint(in_school, BED_1, "E4-H4", "bush-bean", start=date(2027, 5, 20))
    assert "shaded_by_plant" not in judged(in_school, BED_1, north)


def test_manure_and_a_soil_test_reach_the_findings(in_school: InSchool) -> None:
    connection, _ = in_school
    soil.save_amendment(
        connection, NORTH, soil.Amendment(uuid4(), BED_4, date(2027, 4, 1), "raw manure", 100, None, "")
    )
    soil.save_test(
        connection, NORTH, soil.SoilTest(uuid4(), BED_4, date(2027, 4, 2), "", 5.2, "", "", "", "", "", 400, "")
    )
    made = paint(in_school, BED_4, "A4", "beet")
    assert {"manure_days", "soil_sour", "soil_lead"} <= judged(in_school, BED_4, made)
    soil.save_test(
        connection, NORTH, soil.SoilTest(uuid4(), BED_4, date(2027, 4, 3), "", 6.5, "", "", "", "", "", None, "")
    )
    newest = soil.newest_test(connection, BED_4)
    assert newest is not None
    assert (newest.ph, newest.lead_ppm) == (6.5, 400)  # a test that did not look for lead does not hide it


def test_a_part_kept_for_a_time_is_free_before_and_refused_during(in_school: InSchool) -> None:
    connection, school = in_school
    bed = garden.bed(connection, BED_4)
    part = Rectangle(0, 3 * FT, 2 * FT, FT, "Nursery row", date(2027, 6, 20), date(2027, 8, 31))
    beds.write(connection, school, replace(bed, kept=[part]), [], ACTOR)
    fast = paint(in_school, BED_4, "A4", start=TODAY)
    assert "kept_later" not in judged(in_school, BED_4, fast)
    slow = paint(in_school, BED_4, "B4", "chard", start=TODAY)
    assert "kept_later" in judged(in_school, BED_4, slow)
    with refuses("garden.square_kept"):
        paint(in_school, BED_4, "A4", start=date(2027, 6, 25))


def test_a_shed_that_turns_and_a_tree_that_is_felled_change_the_hours(in_school: InSchool) -> None:
    connection, school = in_school
    beds_there, site = garden.beds(connection), garden.sites(connection)[0]
    bed = next(b for b in beds_there if b.name == "Bed 8")

    def hours(day: date) -> float:
        found = sunlight.light(connection, school, site, beds_there).on(bed, day)
        return sum(found.values()) / len(found)

    herbs = next(b for b in beds_there if b.name == "Herb corner")
    light = sunlight.light(connection, school, site, beds_there)
    under, felled = (sum(light.on(herbs, day).values()) / 16 for day in (date(2026, 6, 21), date(2027, 6, 21)))
    assert felled > under + 1  # the ash stood over it until October 2026
    october = date(2026, 10, 21)
    shed_row = next(row for row in ground_store.features(connection) if row.feature.name == "Tool shed")
    still = hours(october)
    map_drawing.place(connection, school, "feature", shed_row.id, Shape(43.6 * FT, 17 * FT, 6 * FT, 4 * FT, 80), ACTOR)
    assert abs(hours(october) - still) > 0.1


def test_months_follow_what_stands_on_their_day(in_school: InSchool) -> None:
    connection, school = in_school
    site = garden.sites(connection)[0]
    beds_there = garden.beds(connection)
    herbs = next(b for b in beds_there if b.name == "Herb corner")
    light = sunlight.light(connection, school, site, beds_there)
    year_before, year_after = light.by_month(herbs, 2026), light.by_month(herbs, 2027)
    assert year_before[6] < year_after[6] - 0.5  # type: ignore[operator]
    assert year_before[11] == pytest.approx(year_after[11])  # felled by then
    sill = next(b for b in beds_there if b.indoors)
    assert light.by_month(sill, 2027) == [4.5] * 12


def test_a_bed_is_laid_elsewhere_with_its_outline_and_refused_in_another(in_school: InSchool) -> None:
    connection, school = in_school
    herbs = next(b for b in garden.beds(connection) if b.name == "Herb corner")
    drawn = map_drawing.place(connection, school, "bed", herbs.id, Shape(45 * FT, 13.5 * FT, 5 * FT, 5 * FT, 20), ACTOR)
    assert drawn.before is not None
    assert (drawn.name, drawn.before.turn_deg) == ("Herb corner", 15)
    moved = garden.bed(connection, herbs.id)
    assert (moved.turn_deg, moved.outline_mm) == (20, herbs.outline_mm)
    with pytest.raises(BadInput, match="would lie in Bed 7"):
        map_drawing.place(connection, school, "bed", herbs.id, Shape(38 * FT, 13 * FT, 5 * FT, 5 * FT, 0), ACTOR)
    with refuses("garden.yield_counted_by_squares"):
        map_drawing.place(connection, school, "bed", BED_1, Shape(3 * FT, 9 * FT, 2 * FT, 4 * FT, 0), ACTOR)
    with refuses("garden.outside_site"):
        map_drawing.place(
            connection, school, "feature", ground_store.features(connection)[0].id, Shape(-FT, 0, FT, FT), ACTOR
        )


def test_a_plant_nobody_sowed_is_unknown_until_it_is_named_and_then_gone(in_school: InSchool) -> None:
    connection, school = in_school
    plant = VolunteerPlant(uuid4(), BED_4, 100, 100, 120, "", TODAY, None, "undecided")
    version = garden.bed(connection, BED_4).version
    site_map.found_here(connection, school, plant, ACTOR)
    assert garden.bed(connection, BED_4).version > version
    site_map.change_found(connection, school, BED_4, plant.id, name="Borage", intent="keep", gone=False, actor=ACTOR)
    assert [(p.name, p.intent) for p in volunteer_plants.found_plants(connection, BED_4, TODAY)] == [("Borage", "keep")]
    site_map.change_found(connection, school, BED_4, plant.id, name="Borage", intent="keep", gone=True, actor=ACTOR)
    assert volunteer_plants.found_plants(connection, BED_4, TODAY) == []
    with pytest.raises(BadInput, match="outside Bed 4, which is 6 ft x 4 ft"):
        site_map.found_here(connection, school, replace(plant, id=uuid4(), x_mm=9000), ACTOR)
    with refuses("garden.found_in_future"):
        site_map.found_here(connection, school, replace(plant, id=uuid4(), found_on=TODAY + timedelta(days=1)), ACTOR)


def test_the_map_goes_out_as_geojson_and_comes_back_the_same(in_school: InSchool) -> None:
    connection, school = in_school
    site = garden.sites(connection)[0]
    before = site_map.things(connection, site)
    body = json.dumps(garden_geojson.write(site_map.frame_of(site), before, corner=CORNER)).encode()
    found = garden_geojson.read(body, "garden.geojson", site_map.frame_of(site), corner=CORNER)
    assert site_map.take_in(connection, school, site, found, ACTOR) == len(before)
    assert site_map.things(connection, site) == before


def test_a_map_with_one_thing_that_cannot_be_is_taken_in_not_at_all(database: Database) -> None:
    with database.school(NORTH) as connection:
        site = garden.sites(connection)[0]
        before = site_map.things(connection, site)
    hut = replace(before[-1], id=uuid4(), name="Hut", shape=Shape(FT, 31 * FT, FT, FT))
    away = replace(hut, id=uuid4(), name="Far hut", shape=Shape(900 * FT, 0, FT, FT))
    found = garden_geojson.read(
        json.dumps(garden_geojson.write(site_map.frame_of(site), [hut, away], corner=CORNER)).encode(),
        "m",
        site_map.frame_of(site),
        corner=CORNER,
    )
    with refuses("garden.outside_site"), database.school(NORTH) as connection:
        site_map.take_in(connection, context.load(connection), site, found, ACTOR)
    with database.school(NORTH) as connection:
        assert site_map.things(connection, site) == before


def test_features_are_checked_before_they_are_written(in_school: InSchool) -> None:
    connection, school = in_school
    site = garden.sites(connection)[0]

    def save(shape: Shape, kind: str = "building") -> None:
        site_map.save_feature(connection, school, FeatureRow(uuid4(), site.id, Feature(kind, "Hut", shape), None, None))

    save(Shape(FT, 31 * FT, 4 * FT, 2 * FT, 0, l_shape(4 * FT, 2 * FT, FT, FT, "top left")))
    with refuses("garden.outline_crosses_itself"):
        save(Shape(0, 0, 4 * FT, 2 * FT, 0, ((0, 0), (4 * FT, 2 * FT), (4 * FT, 0), (0, 2 * FT))))
    with refuses("garden.feature_without_size"):
        save(Shape(0, 0, 0, FT))
    with refuses("garden.feature_kind_missing"):
        save(Shape(0, 0, FT, FT), "castle")


def test_the_list_of_needs_adds_up_over_beds_and_takes_the_shed_off(in_school: InSchool) -> None:
    connection, school = in_school
    span = {"starts": TODAY, "ends": date(2027, 6, 16), "today": TODAY}
    everything = needs.gather(connection, school, **span)
    lines = {need.what: need for need in everything}
    assert lines["compost, bag of 2.0 cu ft"].have == 3
    assert lines["cage"].amount == 4  # sixteen squares of tomatoes at one in four
    assert all(need.to_get == 0 or need.to_get >= 1 for need in everything)
    one = needs.gather(connection, school, **span, bed_id=bed_id("Fence strip"))
    assert {need.kind for need in one} <= {"soil", "string", "seed", "tool"}
    assert 0 < len(one) < len(everything)
    ferns = next(g.id for g in school.groups if g.name == "Ferns")
    theirs = needs.gather(connection, school, **span, group_id=ferns)
    assert any(need.what == "hand trowel" for need in theirs)
    shed.save(connection, NORTH, shed.Supply(uuid4(), "material", "Bush bean seed, packet of 80", "packets", 9, 250))
    again = {need.what: need for need in needs.gather(connection, school, **span)}
    assert again["Bush bean seed, packet of 80"].to_get == 0


def test_a_rebuild_lists_wall_and_soil(in_school: InSchool) -> None:
    connection, school = in_school
    bed = garden.bed(connection, BED_1)
    boards, bricks = ({n.kind for n in needs.rebuild_needs(bed, school, bricks=b)} for b in (False, True))
    assert boards == bricks == {"wall", "soil"}


def test_what_a_bed_was_used_for_keeps_it_from_being_deleted(in_school: InSchool) -> None:
    connection, school = in_school
    new = replace(
        garden.bed(connection, BED_4),
        id=uuid4(),
        name="Bed 20",
        x_mm=24 * FT,
        y_mm=31 * FT,
        length_mm=2 * FT,
        width_mm=FT,
    )
    beds.write(connection, school, new, [], ACTOR)
    soil.save_test(connection, NORTH, soil.SoilTest(uuid4(), new.id, TODAY, "", 6, "", "", "", "", "", None, ""))
    with pytest.raises(errors.Refused, match="stays with its history"):
        garden.delete_bed(connection, new.id)


def test_a_second_number_of_starts_is_a_planting_of_its_own(in_school: InSchool) -> None:
    one = paint(in_school, BED_1, "E1-F2", "lettuce", spacing=LayoutWish(wanted=6))
    two = paint(in_school, BED_1, "G1-H2", "lettuce", spacing=LayoutWish(wanted=6))
    assert one != two
    more = paint(in_school, BED_4, "A4", "radish")
    assert paint(in_school, BED_4, "B4", "radish") == more


def test_hours_that_were_asked_before_are_kept_and_old_ones_dropped(
    in_school: InSchool, monkeypatch: pytest.MonkeyPatch
) -> None:
    connection, school = in_school
    site, beds_there = garden.sites(connection)[0], garden.beds(connection)
    kept = sunlight._KeptSun()
    monkeypatch.setattr(sunlight, "_kept", kept)
    light = sunlight.light(connection, school, site, beds_there)
    light.on(beds_there[0], TODAY)
    counted = len(kept._kept)
    light.on(beds_there[0], TODAY)
    assert len(kept._kept) == counted == 1
    monkeypatch.setattr(kept, "MOST_BYTES", 3000)
    for number in range(20):
        light.on(beds_there[0], TODAY + timedelta(days=number))
    assert 0 < len(kept._kept) < 10
    assert kept._bytes <= 3000


def test_a_tall_crop_in_the_next_bed_is_named_too(in_school: InSchool) -> None:
    connection, school = in_school
    bed = replace(
        garden.bed(connection, BED_4),
        id=uuid4(),
        name="Next bed",
        x_mm=3 * FT,
        y_mm=20.5 * FT,
        length_mm=8 * FT,
        width_mm=2 * FT,
        kept=[],
    )
    beds.write(connection, school, bed, [], ACTOR)
    paint(in_school, bed.id, "A1-H2", "sunflower", start=date(2027, 5, 10), ink=True)
    behind = paint(in_school, BED_3, "D4-H4", "bush-bean", start=date(2027, 5, 20))
    assert "shaded_by_plant" in judged(in_school, BED_3, behind)
    far = paint(in_school, BED_1, "E1-H1", "bush-bean", start=date(2027, 5, 20))
    assert "shaded_by_plant" not in judged(in_school, BED_1, far)


def test_what_starts_indoors_asks_for_its_place_by_the_day_it_comes_out(in_school: InSchool) -> None:
    connection, school = in_school
    part = Rectangle(0, 3 * FT, 2 * FT, FT, "Nursery row", TODAY, date(2027, 4, 30))
    beds.write(connection, school, replace(garden.bed(connection, BED_4), kept=[part]), [], ACTOR)
    assert cells(in_school, paint(in_school, BED_4, "A4-B4", "celery", start=TODAY)) == {(0, 3), (1, 3)}
    with refuses("garden.square_kept"):
        paint(in_school, BED_4, "A4-B4", "radish", start=TODAY)


def test_twelve_pictures_lie_under_the_map_as_large_as_the_ground_and_no_more(in_school: InSchool) -> None:
    connection, school = in_school
    for number in range(1, 14):
        with refuses("garden.too_many_pictures", field="file") if number > 12 else nullcontext():
            ground_pictures.add(connection, school, uuid4(), b"", (400, 100), name=f"No {number}", taken_on=TODAY)
    rows = picture_rows.pictures(connection)
    site = garden.sites(connection)[0]
    assert len(rows) == 12
    assert rows[0].mm_per_px * 400 == pytest.approx(site.width_mm)
