"""Drawings as values: true scale, nothing outside, nothing lost, names for those who do not see them."""

from dataclasses import replace
from datetime import date, timedelta
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.commands.context import Context
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import Feature
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.school.school_year import SchoolYear, Span
from almanaque.data import catalogue
from almanaque.store.garden.garden import Bed, Planting, Site
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.garden.volunteer_plants import VolunteerPlant
from almanaque.store.place.weather import WeatherDay
from almanaque.store.school.school import School, SpanRow, YearRow
from almanaque.web.garden import bed_picture, site_map_picture
from almanaque.web.pictures import charts
from almanaque.web.pictures.families import FAMILIES, family
from almanaque.web.ribbon import ribbon
from almanaque.web.week import weather_picture
from almanaque.web.year import year_picture

CROPS = catalogue()
TODAY = date(2027, 4, 14)
FT = 304.8


def make_bed(length_ft: float = 8, width_ft: float = 4, kept: list[Rectangle] | None = None) -> Bed:
    return Bed(
        id=uuid4(),
        site_id=uuid4(),
        ordinal=1,
        name="Bed 1",
        purpose="Roots",
        kind="raised",
        material="larch",
        built_year=2021,
        x_mm=FT,
        y_mm=FT,
        length_mm=length_ft * FT,
        width_mm=width_ft * FT,
        depth_mm=280,
        cell_mm=FT,
        class_group_id=None,
        version=1,
        kept=kept or [],
    )


def make_planting(
    bed: Bed, crop: str = "radish", cells: set | None = None, start: date = TODAY, status: str = "in the ground", **rest
) -> Planting:
    method = CROPS[crop].methods[0]
    return Planting(
        id=uuid4(),
        bed_id=bed.id,
        crop=crop,
        variety="",
        status=status,
        draft_id=None,
        method=method,
        start_on=start,
        per_square=None,
        class_group_id=None,
        cells=frozenset(cells or {(0, 0)}),
        events=rest.pop("events", {}),
        depends_on="",
        dates=forecast(CROPS[crop], method, start),
        verdict="fits",
        findings=(),
    )


def show(bed: Bed, *plantings: Planting, day: date = TODAY) -> list[bed_picture.PlantingPicture]:
    return bed_picture.shown_on(plantings, bed, CROPS, day=day, today=TODAY)


@given(st.integers(1, 30), st.integers(1, 12))
def test_the_bed_keeps_its_shape_and_every_plant_lies_inside(length_ft: int, width_ft: int) -> None:
    bed = make_bed(length_ft, width_ft)
    cells = set(bed.grid().cells)
    drawn = bed_picture.draw(bed, show(bed, make_planting(bed, "beet", cells)), units="us", day=TODAY)
    inside = drawn.inside
    assert inside.width / inside.height == pytest.approx(length_ft / width_ft, rel=0.02)
    drawn_plants = len(drawn.plantings[0].plants) or drawn.plantings[0].dots.count("M")
    assert drawn_plants == 9 * len(cells)
    for plant in drawn.plantings[0].plants:
        assert inside.x <= plant.x <= inside.x + inside.width
        assert inside.y <= plant.y <= inside.y + inside.height
    assert drawn.width <= 820


def test_strings_are_marked_in_the_schools_units() -> None:
    bed = make_bed(3, 2)
    assert [tick.label for tick in bed_picture.draw(bed, [], units="us", day=TODAY).ticks_x] == [
        "0",
        "1 ft",
        "2 ft",
        "3 ft",
    ]
    metric = replace(bed, length_mm=900, width_mm=600, cell_mm=300)
    assert [t.label for t in bed_picture.draw(metric, [], units="metric", day=TODAY).ticks_y] == ["30 cm", "60 cm"]


def test_what_comes_later_gives_way_to_what_stands_and_to_what_comes_sooner() -> None:
    bed = make_bed()
    stands = make_planting(bed, cells={(0, 0)})
    sooner = make_planting(bed, "lettuce", {(0, 0), (1, 0)}, TODAY + timedelta(days=5), "planned")
    later = make_planting(bed, "kale", {(1, 0), (2, 0)}, TODAY + timedelta(days=9), "planned")
    shown = show(bed, later, sooner, stands)
    assert [(item.planting.crop, sorted(item.cells)) for item in shown] == [
        ("radish", [(0, 0)]),
        ("lettuce", [(1, 0)]),
        ("kale", [(2, 0)]),
    ]
    assert [item.here for item in shown] == [True, False, False]


def test_plants_of_squares_that_are_not_shown_are_not_drawn() -> None:
    bed = make_bed()
    stands = make_planting(bed, cells={(0, 0)})
    later = make_planting(bed, "lettuce", {(0, 0), (1, 0)}, TODAY + timedelta(days=5), "planned")
    drawn = bed_picture.draw(bed, show(bed, stands, later), units="us", day=TODAY)
    assert [len(planting.plants) for planting in drawn.plantings] == [16, 4]


def test_kept_squares_say_so_and_empty_ones_too() -> None:
    bed = make_bed(2, 1, [Rectangle(FT, 0, FT, FT, "Thyme")])
    row = bed_picture.draw(bed, [], units="us", day=TODAY).rows[0]
    assert [(cell.label, cell.kept) for cell in row] == [("A1: empty", False), ("B1: kept", True)]


def test_what_is_gone_is_not_shown_and_what_is_late_still_is() -> None:
    bed = make_bed()
    gone = make_planting(
        bed, start=TODAY - timedelta(days=60), status="finished", events={"cleared": TODAY - timedelta(days=9)}
    )
    overdue = make_planting(bed, cells={(3, 3)}, start=TODAY - timedelta(days=90))
    assert [item.planting.id for item in show(bed, gone, overdue)] == [overdue.id]


def test_every_family_of_the_catalogue_has_a_colour_and_a_hatch_of_its_own() -> None:
    used = {crop.family for crop in CROPS}
    assert used <= set(FAMILIES)
    assert len({hatch.colour for hatch in FAMILIES.values()}) == len(FAMILIES)
    assert len({(hatch.mark, hatch.turn, hatch.size) for hatch in FAMILIES.values()}) == len(FAMILIES)
    assert family("Unheardaceae").key == "other"


def test_the_map_is_true_to_scale() -> None:
    bed = make_bed(8, 4)
    site = Site(bed.site_id, "Garden", 80 * FT, 40 * FT)
    drawn = site_map_picture.draw(
        site,
        [bed],
        [FeatureRow(uuid4(), bed.site_id, Feature("tap", "Tap", Shape(0, 0, FT, FT)), None, None)],
        units="us",
        words={str(bed.id): "radish"},
        short={str(bed.id): "roots"},
        planted={str(bed.id): {(0, 0): ("url(#family-brassicaceae)", "Ra")}},
    )
    shape = drawn.beds[0]
    width, height = (float(side) for side in shape.lie.path.split("L")[2].rstrip("Z").split())
    assert width / drawn.width == pytest.approx(8 / 80, abs=0.001)
    assert height / drawn.height == pytest.approx(4 / 40, abs=0.001)
    assert drawn.bar == pytest.approx(drawn.width * 20 / 80, abs=0.2)
    assert drawn.bar_label == "20 ft"
    assert (len(shape.fills), shape.fills[0].width) == (1, pytest.approx(width / 8, abs=0.1))


def context() -> Context:
    spans = [
        SpanRow(uuid4(), Span("Autumn term", date(2026, 8, 26), date(2026, 12, 18))),
        SpanRow(uuid4(), Span("Spring term", date(2027, 1, 4), date(2027, 6, 16))),
    ]
    feast = SpanRow(uuid4(), Span("Soup day", date(2026, 11, 18), date(2026, 11, 18)))
    year = YearRow(uuid4(), "2026–27", date(2026, 8, 26), date(2027, 8, 24), spans, [], [], [feast])
    school = School(
        uuid4(),
        "S",
        "",
        "Europe/Oslo",
        60,
        10,
        "us",
        "",
        "",
        "",
        "",
        "Grade",
        0,
        5,
        3,
        "traditional",
        "compost",
        None,
        "",
        "USD",
        "warmth",
        False,
    )
    return Context(school, [year], [], None, CROPS)


def test_the_ribbon_runs_from_the_first_day_of_the_year_to_the_last() -> None:
    drawn = ribbon(context(), date(2026, 8, 26))
    assert drawn is not None
    assert (drawn.handle, drawn.days) == (0, 364)
    assert ribbon(context(), date(2027, 8, 24)).handle == pytest.approx(100 * 363 / 364, abs=0.01)
    assert ribbon(context(), date(2027, 8, 25)) is None
    assert [term.name for term in drawn.terms] == ["Autumn term", "Spring term"]
    assert all(band.left >= 0 and band.left + band.width <= 100.01 for band in (*drawn.terms, *drawn.breaks))
    assert (drawn.freeze_path, drawn.freeze_sentence) == ("", "No weather on file, so no freeze line.")
    assert drawn.feasts[0].name == "Soup day, 18 Nov"


@given(st.lists(st.integers(0, 330), min_size=1, max_size=6))
def test_the_year_never_lays_two_plantings_of_a_bed_on_one_another(offsets: list[int]) -> None:
    school, bed = context(), make_bed()
    year: SchoolYear = school.calendar.years[0]
    plantings = [
        make_planting(bed, "lettuce", start=year.starts + timedelta(days=n), status="planned") for n in offsets
    ]
    drawn = year_picture.draw(school, year.starts, year.ends, [bed], plantings, day=TODAY, today=TODAY)
    bars = drawn.rows[0].bars
    assert len(bars) == len(offsets)
    for first in bars:
        for second in bars:
            if first is not second and first.y == second.y:
                assert (
                    first.pick_x + first.pick_width <= second.seed_x
                    or second.pick_x + second.pick_width <= first.seed_x
                )
        assert first.seed_x <= first.grow_x <= first.pick_x
        assert first.pick_x + first.pick_width <= drawn.width
    assert bars[0].label.startswith("Leaf lettuce, planned: starts ")


def test_a_week_of_weather_is_told_in_words_too() -> None:
    days = [
        WeatherDay(date(2027, 4, 8) + timedelta(days=n), low, low + 10, rain, None, None, None)
        for n, (low, rain) in enumerate([(3, 0), (-2, 5), (4, 40)])
    ]
    drawn = weather_picture.draw(days, units="us")
    assert drawn.sentence == "Coldest night Fri 9 Apr, 28 °F; 1.8 in of rain in 3 days."
    assert all(day.top < day.bottom <= drawn.base for day in drawn.days)
    assert drawn.days[2].rain_height == weather_picture.RAIN_HEIGHT
    assert weather_picture.draw([], units="us") is None


def test_a_chart_is_svg_without_styles_and_with_escaped_names() -> None:
    rows = [{"name": "<b>Bed & co", "season": "2026–27", "value": 0.5}]
    drawn = charts.bars(rows, unit="lb per sq ft", description="What it shows")
    assert drawn.startswith("<svg")
    assert "style=" not in drawn
    assert "<b>" not in drawn
    assert "&lt;b&gt;Bed &amp; co" in drawn


def test_thousands_of_plants_are_one_line_of_dots_and_all_counted() -> None:
    bed = make_bed(25, 25)
    drawn = bed_picture.draw(bed, show(bed, make_planting(bed, "radish", set(bed.grid().cells))), units="us", day=TODAY)
    shape = drawn.plantings[0]
    assert (shape.plants, shape.dots.count("M")) == ([], 10_000)
    assert shape.dot_width > 0


def test_a_grown_plant_that_reaches_beyond_its_place_gets_a_ring() -> None:
    bed = make_bed()
    tomato = make_planting(bed, "tomato", {(0, 0), (1, 0), (0, 1), (1, 1)})
    pumpkin = replace(
        tomato, crop="zucchini", method="direct", cells=frozenset({(c, r) for c in range(3) for r in range(3)})
    )
    drawn = bed_picture.draw(bed, show(bed, pumpkin), units="us", day=TODAY)
    assert drawn.plantings[0].ring == 0
    close = replace(tomato, per_square=1)
    assert bed_picture.draw(bed, show(bed, close), units="us", day=TODAY).plantings[0].ring > 0


def test_an_l_shaped_bed_draws_its_outline_and_only_its_own_squares() -> None:
    bed = replace(
        make_bed(4, 4),
        outline_mm=((0, 0), (4 * FT, 0), (4 * FT, 4 * FT), (2 * FT, 4 * FT), (2 * FT, 2 * FT), (0, 2 * FT)),
    )
    drawn = bed_picture.draw(bed, [], units="us", day=TODAY)
    assert drawn.outline.count("L") == 5
    assert [len(row) for row in drawn.rows] == [4, 4, 2, 2]
    assert sum(cell.first for row in drawn.rows for cell in row) == 1


def test_hours_of_sun_stand_in_their_squares_and_are_read_out() -> None:
    bed = make_bed(2, 1)
    drawn = bed_picture.draw(bed, show(bed, make_planting(bed)), units="us", day=TODAY, sun={(0, 0): 7.25, (1, 0): 0.4})
    assert [(cell.hours, cell.tint) for cell in drawn.rows[0]] == [("7.2", 7), ("0.4", 0)]
    assert drawn.rows[0][1].label == "B1: empty, 0.4 hours of sun"
    assert drawn.plantings == []


def test_only_the_draft_on_the_table_is_drawn_beside_the_ink() -> None:
    bed, mine, theirs = make_bed(), uuid4(), uuid4()
    ink = make_planting(bed, cells={(3, 3)}, start=TODAY + timedelta(days=3), status="planned")
    one = replace(make_planting(bed, "pea", {(0, 0)}, TODAY + timedelta(days=3), "pencilled"), draft_id=mine)
    two = replace(make_planting(bed, "kale", {(0, 0)}, TODAY + timedelta(days=3), "pencilled"), draft_id=theirs)
    shown = bed_picture.shown_on([ink, one, two], bed, CROPS, day=TODAY, today=TODAY, draft_id=mine)
    assert {item.planting.id for item in shown} == {ink.id, one.id}


def test_an_unknown_plant_is_a_question_mark() -> None:
    bed = make_bed()
    found = VolunteerPlant(uuid4(), bed.id, FT, FT, 200, "", TODAY, None, "undecided")
    drawn = bed_picture.draw(bed, [], units="us", day=TODAY, found=[found, replace(found, name="sunflower")])
    assert [plant.code for plant in drawn.found] == ["?", "Su"]


def test_pencil_that_clashes_with_ink_is_drawn_over_it_and_hides_nothing() -> None:
    bed = make_bed()
    pencil = make_planting(bed, cells={(0, 0)}, start=TODAY + timedelta(days=3), status="pencilled")
    ink = make_planting(bed, "carrot", {(0, 0)}, TODAY + timedelta(days=9), "planned")
    assert [item.planting.crop for item in show(bed, pencil, ink)] == ["carrot", "radish"]
    later = make_planting(bed, "carrot", {(0, 0)}, TODAY + timedelta(days=90), "planned")
    assert [item.planting.crop for item in show(bed, pencil, later)] == ["radish"]
