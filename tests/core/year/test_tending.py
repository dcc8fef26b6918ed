"""Tending from sowing to clearing: what is due when, how often, and what ends it. Tried against what growers say; no source."""

from dataclasses import replace
from datetime import date, timedelta
from itertools import pairwise

import pytest

from almanaque.core.growth.growth_dates import GrowthDates, forecast
from almanaque.core.year import tending as rules
from almanaque.core.year.steps import Step
from almanaque.core.year.tending import Frost, Tended
from almanaque.data import catalogue, tending
from tests.places import D

CROPS, TABLE = catalogue(), tending()
NOTHING = Tended()
FREEZE = Frost((11, 10), (4, 20))


def dates_of(key: str, method: str, start: str) -> GrowthDates:
    return forecast(CROPS[key], method, D(start))  # type: ignore[arg-type]


def steps_of(
    key: str, method: str, start: str, *, since: str = "", tended: Tended = NOTHING, **more: object
) -> list[Step]:
    dates = dates_of(key, method, start)
    day = D(since) if since else dates.start
    return list(rules.steps(CROPS[key], dates, TABLE, tended=tended, since=day, **more))  # type: ignore[arg-type]


def of_step(found: list[Step], step: str) -> list[Step]:
    return [one for one in found if one.step == step]


def test_a_cage_tomato_is_threaded_every_few_days_from_its_cage_to_the_top() -> None:
    found = steps_of("tomato", "starts", "2027-05-15")
    shoots = of_step(found, "thread")
    assert shoots[0].from_day == D("2027-06-02")
    assert len(shoots) >= 8
    assert all(one.again == 4 and one.lapses for one in shoots)
    assert all((after.from_day - before.to_day).days == 1 for before, after in pairwise(shoots))
    assert "cage, every 3 to 4 days" in shoots[0].title
    top = Tended(ended={"thread": D("2027-07-05")})
    ended = of_step(steps_of("tomato", "starts", "2027-05-15", tended=top), "thread")
    assert max(one.to_day for one in ended) < D("2027-07-05")
    assert of_step(steps_of("tomato", "starts", "2027-05-15", tended=top), "side-shoot")


def test_a_plant_is_at_the_top_when_it_is_as_tall_as_its_support() -> None:
    thread = next(one for one in rules.of(CROPS["tomato"], TABLE) if one.step == "thread")
    assert rules.at_the_top(thread, CROPS["tomato"], CROPS["tomato"].height_mm)
    assert not rules.at_the_top(thread, CROPS["tomato"], CROPS["tomato"].height_mm * 0.8)
    side = next(one for one in rules.of(CROPS["tomato"], TABLE) if one.step == "side-shoot")
    assert not rules.at_the_top(side, CROPS["tomato"], 9000)


def test_the_same_week_is_the_same_job_when_a_forecast_moves() -> None:
    dates = dates_of("tomato", "starts", "2027-05-15")
    moved = replace(dates, first_pick=dates.first_pick + timedelta(days=5))
    before, after = (
        {(s.step, s.ordinal) for s in rules.steps(CROPS["tomato"], one, TABLE, tended=NOTHING, since=dates.start)}
        for one in (dates, moved)
    )
    assert len(before & after) > len(before) * 0.8


@pytest.mark.parametrize(
    ("males", "females", "visited", "wanted"),
    [(3, 2, True, False), (3, 2, False, True), (0, 2, True, True), (4, 0, False, False), (0, 0, False, False)],
)
def test_pollen_is_carried_by_hand_when_females_are_open_without_males_or_visitors(
    males: int, females: int, visited: bool, wanted: bool
) -> None:
    assert rules.wants_pollen(CROPS["zucchini"], males=males, females=females, visited=visited) is wanted
    assert not rules.wants_pollen(CROPS["tomato"], males=males, females=females, visited=visited)


def test_pollen_is_asked_for_on_the_mornings_after_a_count_and_not_unasked() -> None:
    assert not of_step(steps_of("zucchini", "direct", "2027-05-20"), "pollinate")
    called = Tended(called={"pollinate": D("2027-07-10")})
    (pollen,) = of_step(steps_of("zucchini", "direct", "2027-05-20", tended=called), "pollinate")
    assert (pollen.from_day, pollen.to_day) == (D("2027-07-10"), D("2027-07-12"))


def test_potatoes_are_hilled_until_they_close_over_and_leeks_until_they_are_dug() -> None:
    potato = of_step(steps_of("potato", "cloves", "2027-04-15"), "hill")
    assert 2 <= len(potato) <= 3
    assert potato[0].from_day > D("2027-05-10")
    assert "poisonous" in potato[0].caution
    leek = of_step(steps_of("leek", "starts", "2027-05-01"), "hill")
    assert len(leek) >= 3
    assert leek[-1].to_day < dates_of("leek", "starts", "2027-05-01").first_pick


def test_a_cover_comes_off_when_bees_must_get_in_and_only_where_one_lies() -> None:
    under = of_step(steps_of("zucchini", "direct", "2027-05-20", cover="row cover"), "cover off")
    assert "bees" in under[0].title
    assert under[0].to_day < dates_of("zucchini", "direct", "2027-05-20").first_pick
    assert not of_step(steps_of("zucchini", "direct", "2027-05-20"), "cover off")


@pytest.mark.parametrize(
    ("freeze", "covered"),
    [((11, 10), D("2026-11-03")), ((12, 20), D("2026-12-13")), (None, None)],
    ids=["continental", "maritime", "without hard frost"],
)
def test_garlic_is_covered_before_hard_frost_where_there_is_one(
    freeze: tuple[int, int] | None, covered: date | None
) -> None:
    found = of_step(steps_of("garlic", "cloves", "2026-10-10", frost=Frost(freeze)), "leaf cover")
    assert [one.from_day for one in found] == ([covered] if covered else [])


def test_a_lemon_in_a_pot_goes_in_before_frost_and_out_after_it_each_year() -> None:
    found = steps_of("lemon", "starts", "2025-05-10", since="2026-09-01", frost=FREEZE, potted=True)
    (inside,), (outside,) = of_step(found, "bring in"), of_step(found, "bring out")
    assert inside.to_day < D("2026-11-10")
    assert outside.from_day > D("2027-04-20")
    assert not of_step(steps_of("lemon", "starts", "2025-05-10", frost=FREEZE), "bring in")
    assert not of_step(steps_of("lemon", "starts", "2025-05-10", potted=True), "bring in")


def test_roots_that_stay_in_the_ground_are_covered_and_those_that_do_not_are_not() -> None:
    carrot = CROPS["carrot"]
    summer = forecast(carrot, "direct", D("2027-07-10"))
    stands = replace(summer, stands_until=D("2028-02-01"), clear_by=D("2028-02-05"))
    gone = replace(summer, last_pick=D("2027-10-10"), stands_until=D("2027-10-20"), clear_by=D("2027-10-20"))
    for dates, wanted in ((stands, 1), (gone, 0)):
        found = rules.steps(carrot, dates, TABLE, tended=NOTHING, since=dates.start, frost=FREEZE)
        assert len(of_step(list(found), "leaf cover")) == wanted


def test_what_bolted_is_asked_about_as_bait_for_some_weeks() -> None:
    called = Tended(called={"bait": D("2027-06-01")})
    bait = of_step(steps_of("lettuce", "direct", "2027-04-10", tended=called), "bait")
    assert bait[0].from_day == D("2027-06-01")
    assert bait[-1].to_day <= D("2027-07-13")
    assert not of_step(steps_of("lettuce", "direct", "2027-04-10"), "bait")
    assert not of_step(steps_of("tomato", "starts", "2027-05-15", tended=called), "bait")


def test_what_comes_again_is_netted_and_cut_in_its_own_season_each_year() -> None:
    berry = replace(
        dates_of("raspberry", "starts", "2025-04-01"), first_pick=D("2026-06-25"), last_pick=D("2026-07-20")
    )

    def season(day: str) -> dict[str, list[Step]]:
        found = list(rules.steps(CROPS["raspberry"], berry, TABLE, tended=NOTHING, since=D(day)))
        return {step: of_step(found, step) for step in ("net on", "net off", "cut out canes")}

    spring, picked, later = season("2026-05-01"), season("2026-08-05"), season("2027-05-01")
    assert spring["net on"][0].from_day < D("2026-06-25") < spring["net off"][0].from_day
    assert picked["cut out canes"][0] == spring["cut out canes"][0]
    assert later["net on"][0].ordinal == spring["net on"][0].ordinal + 1
    assert later["net on"][0].from_day.year == 2027


def test_months_turn_in_the_south() -> None:
    north = of_step(steps_of("apple", "starts", "2025-03-20", since="2026-01-10"), "prune")
    south = of_step(steps_of("apple", "starts", "2025-09-20", since="2026-07-10", southern=True), "prune")
    assert (north[0].from_day, south[0].from_day) == (D("2026-02-01"), D("2026-08-01"))


@pytest.mark.parametrize("crop", [c.key for c in CROPS])
def test_every_step_has_days_in_order_within_the_life_of_its_planting(crop: str) -> None:
    for method in CROPS[crop].methods:
        found = steps_of(crop, method, "2027-04-20", frost=FREEZE, cover="row cover")
        assert len({(s.step, s.ordinal) for s in found}) == len(found)
        assert all(s.from_day <= s.to_day for s in found)
        assert all(len(s.title) <= 200 and "{" not in s.title for s in found)
        assert len(found) <= 60


def test_a_row_without_days_and_a_strange_day_are_refused() -> None:
    row = '[[practice]]\nstep="x"\nword="x"\ntitle="x"\nasks="x"\nhow="x"\nevery=0\nminutes=1\nages_from=3\n'
    with pytest.raises(ValueError, match="no days"):
        rules.read(row)
    with pytest.raises(ValueError, match="no such day"):
        rules.read(f'{row}begins="moon + 3"\nends="bed + 3"\n')
