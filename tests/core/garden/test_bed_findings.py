"""What the rules of a bed say of plans, each on its own."""

from dataclasses import replace
from datetime import date, timedelta

import pytest

from almanaque.core.garden import companions, crowding, rotation, site_suitability
from almanaque.core.garden.bed import grid_of
from almanaque.core.garden.bed_planting import BedPlanting, nearest_mm
from almanaque.core.garden.companions import Pair
from almanaque.core.garden.layout import LayoutWish, beside, lay_out, squares_needed
from almanaque.core.garden.rotation import Stood
from almanaque.core.garden.site_suitability import Closed, Soil
from almanaque.data import catalogue, neighbour_pairs

FT, IN = 304.8, 25.4
CROPS = catalogue()
GRID = grid_of(8 * FT, 4 * FT, FT)
MAY, JULY = date(2027, 5, 1), date(2027, 7, 31)


def plan(crop: str, *cells: tuple[int, int], start: date = MAY, end: date = JULY, **rest: object) -> BedPlanting:
    laid = lay_out(cells, GRID, CROPS[crop], LayoutWish())
    apart = GRID.cell_mm / max(laid.reading.per_square, 1) ** 0.5 if laid.reading.block == 1 else CROPS[crop].spacing_mm
    made = BedPlanting(
        crop, CROPS[crop], frozenset(cells), laid.positions_mm, apart, start, end, start + timedelta(days=60), end
    )
    return replace(made, **rest)  # type: ignore[arg-type]


def test_crops_of_their_own_spacing_stand_side_by_side_without_crowding() -> None:
    assert crowding.crowded(plan("carrot", (0, 0)), [plan("cabbage", (1, 0))], units="us") == []
    assert crowding.crowded(plan("cabbage", (0, 0)), [plan("carrot", (0, 1))], units="us") == []


def test_a_plant_moved_nearer_than_the_mean_spacing_is_crowded_only_while_both_stand() -> None:
    cabbage = plan("cabbage", (1, 0))
    close = replace(plan("celery", (0, 0)), positions_mm=((10 * IN, 6 * IN),))
    (found,) = crowding.crowded(close, [cabbage], units="us")
    assert found.message == "Cabbage stands 8 in away."
    assert found.reason == "The mean of their spacings is 12 in."
    later = replace(cabbage, bed_from=JULY + timedelta(days=1), bed_to=JULY + timedelta(days=50))
    assert crowding.crowded(close, [later], units="us") == []
    assert crowding.crowded(replace(close, on_purpose=True), [cabbage], units="us") == []


def test_nearest_is_found_by_thousands_and_infinite_beyond_the_limit() -> None:
    many = [(x * 10.0, y * 10.0) for x in range(60) for y in range(60)]
    assert nearest_mm(many, [(605.0, 300.0)], within_mm=20) == pytest.approx(15)
    assert nearest_mm(many, [(905.0, 300.0)], within_mm=20) == float("inf")
    assert nearest_mm([], many, within_mm=20) == float("inf")


def test_two_plans_in_one_square_clash_unless_they_stand_together_on_purpose() -> None:
    corn, beans = plan("sweet-corn", (0, 0)), plan("pole-bean", (0, 0))
    (found,) = crowding.overlaps(beans, [corn])
    assert (found.code, found.severity) == ("overlap", "fault")
    assert crowding.overlaps(replace(beans, on_purpose=True), [corn]) == []
    assert crowding.overlaps(beans, [replace(corn, open=False)]) == []


def test_a_climber_on_its_neighbour_needs_no_pole() -> None:
    corn = plan("sweet-corn", *[(c, 0) for c in range(4)])
    alone = plan("pole-bean", *[(c, 0) for c in range(4)])
    needed = crowding.supports(alone, [corn], cell_mm=FT, units="us")
    assert needed is not None
    assert (needed.count, needed.words) == (4, "4 poles")
    among = replace(alone, on_purpose=True)
    assert crowding.supports(among, [corn], cell_mm=FT, units="us") is None
    assert [f.code for f in crowding.support_findings(among, [corn], cell_mm=FT, units="us")] == ["climbs_on"]
    peas = plan("pea", *[(c, 0) for c in range(4)])
    (shared,) = crowding.support_findings(
        replace(plan("cucumber", (0, 0)), on_purpose=True), [peas], cell_mm=FT, units="us"
    )
    assert shared.message == "It climbs on the pea's trellis in the same squares."
    cages = crowding.supports(plan("tomato", (0, 0), (1, 0), (0, 1), (1, 1)), [], cell_mm=FT, units="us")
    assert cages is not None
    assert cages.words == "1 cage"
    trellis = crowding.supports(plan("pea", *[(c, r) for c in range(4) for r in range(2)]), [], cell_mm=FT, units="us")
    assert trellis is not None
    assert trellis.words == "1 trellis of 4 ft"


def test_vines_are_measured_beyond_the_edge() -> None:
    pumpkin = plan("pumpkin", *[(c, r) for c in range(3) for r in range(3)])
    (found,) = crowding.runs_out(pumpkin, length_mm=8 * FT, width_mm=4 * FT, units="us")
    assert found.message == "Its vines run up to 8 ft 6 in beyond the bed."
    assert crowding.runs_out(plan("cucumber", (0, 0)), length_mm=8 * FT, width_mm=4 * FT, units="us") == []


def test_a_grown_plant_wider_than_the_bed_asks_for_care() -> None:
    zucchini = plan("zucchini", *[(c, r) for c in range(3) for r in range(3)])
    assert crowding.too_wide(zucchini, narrow_mm=4 * FT, units="us") == []
    (found,) = crowding.too_wide(zucchini, narrow_mm=FT, units="us")
    assert "36 in wide" in found.message


@pytest.mark.parametrize(
    ("year", "rest", "code"),
    [(2026, 3, "care"), (2025, 3, "care"), (2024, 3, None), (2025, 2, None), (2024, 4, "care")],
)
def test_a_family_rests_by_the_calendar_year_in_its_own_squares(year: int, rest: int, code: str | None) -> None:
    history = [Stood("Solanaceae", "Tomato", frozenset({(0, 0)}), date(year, 9, 20))]
    found = rotation.back_soon(
        "Potato",
        "Solanaceae",
        frozenset({(0, 0)}),
        MAY,
        history,
        rest_years=rest,
        family_names={"Solanaceae": "Nightshades"},
    )
    assert [f.severity for f in found] == ([code] if code else [])
    if code:
        assert found[0].message == f"Tomato stood in these squares until September {year}."
        assert found[0].reason == f"Nightshades rest {rest} years here; {rest - (2027 - year)} to go."


def test_other_squares_of_the_bed_are_a_note_and_another_family_is_nothing() -> None:
    history = [Stood("Solanaceae", "Tomato", frozenset({(5, 3)}), date(2026, 9, 20))]
    (found,) = rotation.back_soon(
        "Potato",
        "Solanaceae",
        frozenset({(0, 0)}),
        MAY,
        history,
        rest_years=3,
        free_beds=[(f"Bed {n}", str(n)) for n in (2, 7, 8)],
    )
    assert found.severity == "note"
    assert [(fix.label, fix.action, fix.value) for fix in found.fixes] == [
        ("Bed 2 has rested", "bed", "2"),
        ("Bed 7 has rested", "bed", "7"),
    ]
    assert rotation.back_soon("Pea", "Fabaceae", frozenset({(0, 0)}), MAY, history, rest_years=3) == []
    standing = [Stood("Solanaceae", "Tomato", frozenset({(0, 0)}), date(2027, 9, 20))]
    assert rotation.back_soon("Potato", "Solanaceae", frozenset({(0, 0)}), MAY, standing, rest_years=3) == []


def test_neighbours_say_whose_word_it_is_and_can_be_switched_off() -> None:
    carrot, onion = plan("carrot", (0, 0)), plan("onion", (1, 0))
    (found,) = companions.neighbours(carrot, [onion], neighbour_pairs(), "evidence")
    assert found.code == "good_neighbours"
    assert found.reason.startswith("With evidence:")
    assert "Uvah" in found.source
    pea = plan("pea", (1, 1))
    assert companions.neighbours(pea, [onion], neighbour_pairs(), "evidence") == []
    (bad,) = companions.neighbours(pea, [onion], neighbour_pairs(), "traditional")
    assert (bad.severity, bad.reason.split(":")[0]) == ("note", "Traditional, without evidence")
    assert companions.neighbours(carrot, [onion], neighbour_pairs(), "off") == []
    far = plan("onion", (6, 0))
    assert companions.neighbours(carrot, [far], neighbour_pairs(), "traditional") == []


def test_every_pair_of_neighbours_has_a_reason_and_a_source() -> None:
    pairs = neighbour_pairs()
    assert len(pairs) >= 15
    assert {pair.kind for pair in pairs} == {"evidence", "traditional"}
    assert all(("no source" in pair.source) == (pair.kind == "traditional") for pair in pairs)
    assert len({frozenset((p.a, p.b)) for p in pairs}) == len(pairs)
    with pytest.raises(ValueError, match="effect is good or bad"):
        Pair("carrot", "onion", "fine", "evidence", "r", "s")  # type: ignore[arg-type]


def test_too_little_sun_names_the_hours_and_what_is_wanted() -> None:
    (found,) = site_suitability.light(plan("tomato", (0, 0)), 4.1)
    assert found.message == "It gets 4.1 h of direct sun here, part sun."
    assert found.reason == "It wants 6 h in June."
    assert site_suitability.light(plan("lettuce", (0, 0)), 4.1) == []
    assert site_suitability.light(plan("tomato", (0, 0)), None) == []


def test_a_tall_neighbour_is_named_when_it_takes_an_hour() -> None:
    lettuce, corn = plan("lettuce", (0, 0)), plan("sweet-corn", (1, 0))
    (found,) = site_suitability.shaded(lettuce, corn, without=8.0, hours=2.5)
    assert (found.severity, found.message) == ("care", "Sweet corn, taller, takes 5.5 h of its sun.")
    (noted,) = site_suitability.shaded(lettuce, corn, without=8.0, hours=5.0)
    assert noted.severity == "note"
    assert site_suitability.shaded(lettuce, corn, without=8.0, hours=7.5) == []


def test_roots_want_their_depth() -> None:
    (found,) = site_suitability.depth(plan("carrot", (0, 0)), 8 * IN, units="us")
    assert (found.message, found.reason) == ("The soil is 8 in deep.", "It wants 12 in.")
    (found,) = site_suitability.depth(
        plan("carrot", (0, 0)), 8 * IN, units="us", beds=[("Bed 1", "a", 8 * IN), ("Bed 2", "b", 14 * IN)]
    )
    assert [(fix.label, fix.action, fix.value) for fix in found.fixes] == [("Bed 2 is deep enough", "bed", "b")]
    assert site_suitability.depth(plan("carrot", (0, 0)), 12 * IN, units="us") == []


def test_soil_is_judged_by_what_was_measured_and_defers_to_the_laboratory() -> None:
    potato, beet = plan("potato", (0, 0)), plan("beet", (0, 0))
    assert [f.code for f in site_suitability.soil(potato, Soil(MAY, ph=7.4), "compost")] == ["soil_sweet"]
    assert [f.code for f in site_suitability.soil(beet, Soil(MAY, ph=5.1), "compost")] == ["soil_sour"]
    (poor,) = site_suitability.soil(potato, Soil(MAY, nitrogen="low", potassium="low"), "compost")
    assert poor.message == "It feeds heavily, and nitrogen and potassium were low."
    assert "compost" in poor.fixes[0].label
    (fed,) = site_suitability.soil(potato, Soil(MAY, nitrogen="low"), "fertiliser")
    assert "by its label" in fed.fixes[0].label
    (lead,) = site_suitability.soil(beet, Soil(MAY, lead_ppm=220), "compost")
    assert (lead.severity, lead.source) == ("fault", site_suitability.LABORATORY)
    assert site_suitability.soil(beet, Soil(MAY, ph=6.5, lead_ppm=20), "compost") == []
    assert site_suitability.soil(beet, None, "compost") == []


@pytest.mark.parametrize(
    ("crop", "days", "faults"),
    [("carrot", 119, 1), ("carrot", 120, 0), ("tomato", 89, 1), ("tomato", 90, 0)],
)
def test_raw_manure_waits_120_days_where_the_crop_touches_soil_else_90(crop: str, days: int, faults: int) -> None:
    """7 CFR 205.203(c)(1), USDA National Organic Program, from memory."""
    grown = plan(crop, (0, 0))
    found = site_suitability.manure(grown, [grown.first_pick - timedelta(days=days)])
    assert len(found) == faults
    if found:
        assert found[0].code == "manure_days"


def test_what_takes_over_belongs_in_a_pot_and_the_schools_list_decides_what_is_invasive() -> None:
    mint = plan("mint", (0, 0))
    assert [f.code for f in site_suitability.out_of_hand(mint, "raised", [])] == ["spreads"]
    assert site_suitability.out_of_hand(mint, "fabric pot", []) == []
    assert [f.code for f in site_suitability.out_of_hand(mint, "container", [" Mint ", "privet"])] == ["invasive"]


def test_what_is_nibbled_stands_by_the_path_and_what_is_poisonous_does_not() -> None:
    assert [f.code for f in site_suitability.by_the_path(plan("strawberry", (0, 0)), 2000)] == ["nibbled_far"]
    assert [f.code for f in site_suitability.by_the_path(plan("potato", (0, 0)), 300)] == ["poisonous_near"]
    assert site_suitability.by_the_path(plan("strawberry", (0, 0)), 300) == []
    assert site_suitability.by_the_path(plan("potato", (0, 0)), None) == []


def test_a_closed_bed_is_a_fault_on_the_days_that_meet() -> None:
    shut = Closed(date(2027, 6, 7), date(2027, 6, 25), "rebuild")
    (found,) = site_suitability.closed(plan("pea", (0, 0)), [shut])
    assert found.message == "The bed is closed 7 Jun – 25 Jun: rebuild."
    assert site_suitability.closed(plan("pea", (0, 0), end=date(2027, 6, 6)), [shut]) == []
    assert site_suitability.closed(plan("pea", (0, 0), start=date(2027, 6, 26)), [shut]) == []


def test_squares_kept_from_a_day_on_are_a_fault_for_what_still_stands_there() -> None:
    grown = plan("pea", (0, 0))
    assert len(site_suitability.kept_later(grown, [("Sage", JULY, None)])) == 1
    assert site_suitability.kept_later(grown, [("Sage", JULY + timedelta(days=1), None)]) == []
    assert site_suitability.kept_later(grown, [("Sage", None, MAY - timedelta(days=1))]) == []


def test_a_count_of_ones_own_above_both_readings_is_a_note() -> None:
    assert len(crowding.own_count_close(plan("cabbage", (0, 0)), per_square=4, by_spacing=1, units="us")) == 1
    assert crowding.own_count_close(plan("cabbage", (0, 0)), per_square=1, by_spacing=1, units="us") == []
    assert crowding.own_count_close(plan("cabbage", (0, 0)), per_square=None, by_spacing=1, units="us") == []


def test_a_closure_names_what_still_stands_and_is_a_note_for_an_empty_bed() -> None:
    shut = Closed(date(2027, 6, 7), date(2027, 6, 25), "Rebuild in larch")
    full = site_suitability.closed_bed("Bed 2", shut, [("Pea", date(2027, 7, 1))], page="/x")
    assert (full.severity, full.reason) == ("fault", "Still or already there: pea until 1 Jul.")
    assert full.message == "Bed 2 is closed 7 Jun – 25 Jun: rebuild in larch."
    assert site_suitability.closed_bed("Bed 2", shut, [], page="/x").severity == "note"


def test_two_meet_on_a_day_that_ends_one_and_begins_the_other_and_not_the_day_after() -> None:
    first = plan("carrot", (0, 0))
    for days, meet in ((0, True), (1, False)):
        later = plan("beet", (0, 0), start=JULY + timedelta(days=days), end=JULY + timedelta(days=60))
        assert (first.meets(later), later.meets(first)) == (meet, meet)


def test_lengths_of_a_plant_too_wide_are_told_in_inches_and_not_in_feet() -> None:
    (found,) = crowding.too_wide(plan("pumpkin", (0, 0)), narrow_mm=2 * FT, units="us")
    assert (found.params["width"], found.params["narrow"]) == ("60 in", "24 in")


def test_half_a_pitch_moves_both_ways_and_keeps_inside_the_far_sides() -> None:
    laid = lay_out([(0, 0), (1, 0)], GRID, CROPS["cabbage"], LayoutWish())
    among = [(x + dx, y + dy) for x, y in laid.positions_mm for dx, dy in ((0.0, 0.0), (FT / 2, 0.0))]
    moved = beside(laid, among, FT, FT).positions_mm
    assert [(round(x - a), round(y - b)) for (x, y), (a, b) in zip(moved, laid.positions_mm, strict=True)] == [
        (0, 76),
        (0, 76),
    ]


def test_a_number_is_asked_of_the_first_squares_and_of_whole_blocks() -> None:
    cells = [(c, r) for r in range(2) for c in range(4)]
    ten = squares_needed(cells, GRID, CROPS["carrot"], LayoutWish(wanted=20))
    assert ten == {(0, 0), (1, 0)}
    assert squares_needed(cells, GRID, CROPS["carrot"], LayoutWish()) == set(cells)
    rows = LayoutWish("rows", "figures", wanted=3)
    assert squares_needed(cells, GRID, CROPS["carrot"], rows) == set(cells)
    one = squares_needed(cells, GRID, CROPS["cabbage"], LayoutWish(wanted=3))
    assert one == {(0, 0), (1, 0), (2, 0)}
    block = squares_needed(cells, GRID, CROPS["kale"], LayoutWish(wanted=1))
    assert block == {(0, 0), (1, 0), (0, 1), (1, 1)}


def test_what_wants_something_to_hold_on_to_says_what() -> None:
    (found,) = crowding.support_findings(plan("pole-bean", (0, 0)), [], cell_mm=FT, units="us")
    assert (found.code, found.severity) == ("needs_support", "note")
    assert found.params["supports"]
    assert crowding.support_findings(plan("carrot", (0, 0)), [], cell_mm=FT, units="us") == []


def test_vines_are_measured_to_every_side() -> None:
    reach = CROPS["pumpkin"].sprawls_mm
    assert reach is not None
    length, width = 3 * reach, 3 * reach
    for x, y in (
        (reach / 2, 1.5 * reach),
        (1.5 * reach, reach / 2),
        (2.5 * reach, 1.5 * reach),
        (1.5 * reach, 2.5 * reach),
    ):
        vine = plan("pumpkin", (0, 0), positions_mm=((x, y),))
        assert len(crowding.runs_out(vine, length_mm=length, width_mm=width, units="us")) == 1
    middle = plan("pumpkin", (0, 0), positions_mm=((1.5 * reach, 1.5 * reach),))
    assert crowding.runs_out(middle, length_mm=length, width_mm=width, units="us") == []


def test_a_pair_without_reason_or_source_is_a_mistake_and_one_kind_is_no_neighbour_of_itself() -> None:
    for reason, source in (("", "a book"), ("scent", " ")):
        with pytest.raises(ValueError, match="reason and source"):
            Pair("carrot", "onion", "good", "evidence", reason, source)
    pair = Pair("carrot", "onion", "bad", "evidence", "why not", "a book")
    mine, same, other = plan("carrot", (0, 0)), plan("carrot", (1, 0), key="second"), plan("onion", (0, 1))
    assert companions.neighbours(mine, [same], [pair], "traditional") == []
    (found,) = companions.neighbours(mine, [other, mine], [pair], "traditional")
    assert (found.severity, [fix.code for fix in found.fixes]) == ("care", ["something_else_between"])


def test_what_is_fought_in_the_region_asks_for_care_and_the_schools_own_list_goes_before() -> None:
    told = {"fought": "spreads along rivers", "region": "europe"}
    (found,) = site_suitability.out_of_hand(plan("sunchoke", (0, 0)), "container", [], **told)  # type: ignore[arg-type]
    assert (found.code, found.case, found.severity) == ("invasive", "in_region", "care")
    assert found.message == "In parts of Europe it is fought as invasive: spreads along rivers."
    (own,) = site_suitability.out_of_hand(plan("sunchoke", (0, 0)), "container", ["sunchoke"], **told)  # type: ignore[arg-type]
    assert (own.case, own.severity) == ("", "fault")
