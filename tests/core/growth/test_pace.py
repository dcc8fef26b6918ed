"""A bed in which plants take another share of their usual time: dates, verdicts and what is said of them."""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from almanaque.core.growth import school_fit
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.school_fit import judge
from almanaque.core.growth.season_to_date import season_to_date
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import ripe_on, weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring, steady

CROPS = catalogue()
EARLY, PACKET = Setting(CALENDAR, early_spring(), "us"), Setting(CALENDAR, None, "us")
EVEN = Setting(CALENDAR, steady(11, 20), "us")
DAYS = [D("2027-03-15") + timedelta(days=n) for n in range(0, 60, 5)]


def firsts(key: str, setting: Setting) -> np.ndarray:
    return weigh(CROPS[key], CROPS[key].methods[0], DAYS, setting).first[:, 1]


@pytest.mark.parametrize("setting", [EARLY, PACKET])
@pytest.mark.parametrize("key", ["radish", "pea", "lettuce", "tomato"])
def test_a_slower_bed_is_never_earlier_and_a_quicker_one_never_later(key: str, setting: Setting) -> None:
    plain = firsts(key, setting)
    slow, quick = firsts(key, replace(setting, pace=1.1)), firsts(key, replace(setting, pace=0.9))
    known = plain > 0
    assert (slow[known] > plain[known]).all()
    assert (quick[known] < plain[known]).all()


def test_in_even_weather_and_by_the_packet_it_moves_by_its_share_of_the_growing_time() -> None:
    carrot, day = CROPS["carrot"], D("2027-04-06")
    for setting in (EVEN, PACKET):
        plain, slow = (judge(carrot, "direct", day, replace(setting, pace=pace)) for pace in (1.0, 1.08))
        grows = (plain.dates.first_pick - day).days
        later = (slow.dates.first_pick - plain.dates.first_pick).days
        assert later == pytest.approx(0.08 * grows, abs=2.5)
        assert (slow.dates.last_pick - plain.dates.last_pick).days == pytest.approx(later, abs=1)
        assert slow.dates.clear_by >= plain.dates.clear_by
        assert slow.dates.emerge_to == plain.dates.emerge_to
    assert replace(PACKET, pace=1.08).days_later(carrot, "direct") == 6


def test_what_comes_again_goes_by_the_season_everywhere() -> None:
    rhubarb = CROPS["rhubarb"]
    slow = replace(EARLY, pace=1.2)
    assert slow.pace_of(rhubarb) == 1
    assert slow.days_later(rhubarb, rhubarb.methods[0]) == 0
    assert (firsts("rhubarb", slow) == firsts("rhubarb", EARLY)).all()


def test_the_verdict_says_by_how_much_the_bed_moves_it() -> None:
    plain, slow, quick = (
        judge(CROPS["carrot"], "direct", D("2027-04-06"), replace(EARLY, pace=pace)) for pace in (1.0, 1.06, 0.94)
    )
    assert "bed_pace" not in {finding.code for finding in plain.findings}
    (said,) = [finding for finding in slow.findings if finding.code == "bed_pace"]
    assert said.severity == "note"
    assert str(said.message).startswith("In this bed it takes 6 % more time to ripen than elsewhere in the garden")
    (said,) = [finding for finding in quick.findings if finding.code == "bed_pace"]
    assert "takes 6 % less time" in str(said.message)


def test_a_day_by_which_it_must_be_ready_is_asked_at_the_pace_of_the_place() -> None:
    pea, days = CROPS["pea"], np.array([D("2027-04-06").toordinal()])
    by = int(weigh(pea, "direct", days, EARLY).first[0, 1])
    for setting in (EARLY, PACKET):
        plain, of = ripe_on(pea, "direct", days, by, setting, keeps=True)
        slow, _ = ripe_on(pea, "direct", days, by, replace(setting, pace=1.2), keeps=True)
        assert slow[0] <= plain[0]
        assert setting is PACKET or slow[0] < of[0]


def test_on_the_way_it_is_less_far_and_ends_where_the_whole_run_ends() -> None:
    crop, place = CROPS["carrot"], early_spring()
    slow = replace(EARLY, pace=1.1)
    bed_from, today = D("2011-04-05"), D("2011-05-20")
    far = [
        season_to_date(crop, "direct", place.conditions(), bed_from=bed_from, today=today, pace=pace)
        for pace in (1.0, 1.1)
    ]
    assert far[0] is not None
    assert far[1] is not None
    assert far[1].share == pytest.approx(far[0].share / 1.1)
    assert far[1].behind == far[0].behind
    dates = judge(crop, "direct", bed_from, slow).dates
    on = school_fit.going_on(crop, "direct", dates, far[1], slow)
    before = school_fit.going_on(crop, "direct", dates, far[0], EARLY)
    assert on.dates.first_pick > before.dates.first_pick


def test_answers_of_beds_that_differ_are_told_apart() -> None:
    felt = {
        setting.felt
        for setting in (
            EARLY,
            replace(EARLY, pace=1.02),
            replace(EARLY, covering=Covering("tunnel")),
            replace(EARLY, indoors_c=19.0),
        )
    }
    assert len(felt) == 4
