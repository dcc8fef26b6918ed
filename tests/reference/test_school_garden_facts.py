"""What people who run school gardens know, against the years of three made-up climates and one open record.

All of it is common practice, no source.
"""

from datetime import date
from pathlib import Path

import pytest

from almanaque.core.growth import school_fit
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.growth.weather_record import Record
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring, hard_winters, mild_winters
from tests.reference.test_open_weather import CHAMPION, load

CROPS = catalogue()
EARLY, HARD, MILD = (Setting(CALENDAR, place, "us") for place in (early_spring(), hard_winters(), mild_winters()))
NEBRASKA = Setting(CALENDAR, Record(load(Path(CHAMPION), 40.4)[1]), "us")


def first_pick(crop: str, method: str, day: str, place: Setting) -> date:
    judged = school_fit.judge(CROPS[crop], method, D(day), place)  # type: ignore[arg-type]
    return judged.dates.first_pick


@pytest.mark.parametrize(
    ("day", "place"), [("2027-02-16", MILD), ("2027-03-30", EARLY), ("2026-09-08", EARLY), ("2026-09-08", HARD)]
)
def test_radish_sown_in_late_winter_or_early_autumn_is_pulled_while_school_is_in(day: str, place: Setting) -> None:
    judged = school_fit.judge(CROPS["radish"], "direct", D(day), place)
    assert judged.verdict in ("fits", "with care")
    assert judged.n >= 0.8 * judged.of


@pytest.mark.parametrize("place", [EARLY, HARD, NEBRASKA], ids=["early spring", "hard winters", "Nebraska"])
def test_garlic_set_in_autumn_is_dug_in_june_or_july(place: Setting) -> None:
    assert first_pick("garlic", "cloves", "2026-10-12", place).month in (6, 7)


def test_wheat_sown_early_in_october_ripens_before_summer_where_winters_are_mild_and_in_it_where_they_are_hard() -> (
    None
):
    assert D("2027-05-20") <= first_pick("winter-wheat", "direct", "2026-10-05", MILD) <= D("2027-06-10")
    assert first_pick("winter-wheat", "direct", "2026-10-05", HARD) > D("2027-06-16")
    assert first_pick("winter-wheat", "direct", "2026-10-05", NEBRASKA) > D("2027-06-14")
    for place in (HARD, NEBRASKA):
        judged = school_fit.judge(CROPS["winter-wheat"], "direct", D("2026-10-05"), place)
        assert judged.verdict == "with care"  # grain keeps: whoever is there in summer cuts it
        assert "ready_to_store" in {f.code for f in judged.findings}


def test_broccoli_is_set_out_before_the_last_freeze_and_again_a_quarter_of_a_year_before_the_first() -> None:
    """In spring indoors 6–8 weeks and in place 2–3 weeks ahead of the median last freeze.

    In autumn 85–100 days ahead of the first.
    """
    broccoli = CROPS["broccoli"]
    windows = {(w.method, w.anchor): w.weeks for w in broccoli.windows}
    assert windows["indoors", "last freeze"] == (-8, -6)
    assert windows["starts", "last freeze"] == (-3, -2)
    assert windows["starts", "first freeze"] == (-14, -12)
    climate = EARLY.record.climate  # type: ignore[union-attr]
    last = climate.date_of(climate.last_freeze(0.5), date(2026, 7, 1))
    first = climate.date_of(climate.first_freeze(0.5), date(2027, 7, 1))
    assert last is not None
    assert first is not None
    spring = weigh(broccoli, "starts", [date.fromordinal(last.toordinal() - 17)], EARLY)
    assert spring.ripe[0] >= 0.8 * spring.of[0]
    autumn = weigh(broccoli, "starts", [date.fromordinal(first.toordinal() - 92)], EARLY)
    assert autumn.ripe[0] >= 0.5 * autumn.of[0]
    assert autumn.first[0, 1] < first.toordinal()


def test_peppers_started_indoors_in_february_are_picked_from_july_in_the_break_so_carers_are_wanted() -> None:
    judged = school_fit.judge(CROPS["pepper"], "indoors", D("2027-02-22"), EARLY)
    assert judged.dates.first_pick.month == 7
    found = {f.code: f for f in judged.findings}
    assert found["ready_in_break"].severity == "care"
    assert "Name carers who pick" in [fix.label for fix in found["ready_in_break"].fixes]


def test_pumpkins_planted_before_the_summer_wait_for_the_children() -> None:
    judged = school_fit.judge(CROPS["pumpkin"], "direct", D("2027-05-25"), EARLY)
    assert judged.verdict != "misses"
    assert judged.dates.last_pick > D("2027-08-25")
