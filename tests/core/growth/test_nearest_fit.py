from dataclasses import replace
from datetime import timedelta

from almanaque.core.findings import Fix
from almanaque.core.growth import school_fit
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.nearest_fit import back_from, latest_fit, mends, nearest_fit, waits
from almanaque.core.growth.school_fit import judge
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring

CROPS = catalogue()
EARLY = Setting(CALENDAR, early_spring(), "us")


def test_the_nearest_day_that_fits_really_fits_and_none_nearer_does() -> None:
    start = D("2027-06-01")
    found = nearest_fit(CROPS["radish"], "direct", start, EARLY, not_before=D("2027-04-14"))
    assert found is not None
    assert judge(CROPS["radish"], "direct", found.dates.start, EARLY).verdict == "fits"
    gap = abs((found.dates.start - start).days)
    nearer = [start + timedelta(days=n) for n in range(-gap + 1, gap)]
    assert not any(
        CALENDAR.in_session(day) and school_fit.fits(CROPS["radish"], "direct", day, EARLY) for day in nearer
    )
    assert CALENDAR.in_session(found.dates.start)


def test_mends_name_another_day_another_way_a_cover_a_faster_kind_and_the_winter() -> None:
    offered: dict[str, list[tuple[school_fit.Fit, Fix]]] = {}
    for crop, method in (
        ("lettuce", "starts"),
        ("pea", "direct"),
        ("winter-wheat", "direct"),
        ("tomato", "starts"),
        ("spinach", "direct"),
    ):
        for week in range(0, 40, 3):
            judged = judge(CROPS[crop], method, D("2026-09-07") + timedelta(weeks=week), EARLY)  # type: ignore[arg-type]
            if judged.verdict != "fits":
                for fix in mends(judged, EARLY, not_before=D("2026-09-01")):
                    offered.setdefault(fix.action.split(":")[0], []).append((judged, fix))
    assert set(offered) >= {"start", "cover", "variety"}
    for judged, fix in offered["start"]:
        assert school_fit.fits(judged.crop, fix.action.split(":")[1], D(fix.value), EARLY)  # type: ignore[arg-type]
    for judged, fix in offered["cover"]:
        assert school_fit.fits(
            judged.crop, judged.method, judged.dates.start, replace(EARLY, covering=Covering(fix.value))
        )  # type: ignore[arg-type]
    for judged, fix in offered["variety"]:
        assert weigh(judged.crop, judged.method, [judged.dates.start], EARLY, quicker=float(fix.value)).verdict[0] == 0
        assert fix.label.startswith("A kind ready in ")


def test_the_last_call_is_the_last_day_that_fits() -> None:
    last = latest_fit(CROPS["radish"], "direct", EARLY, not_before=D("2027-04-14"), picked_by=D("2027-06-16"))
    assert last is not None
    assert school_fit.fits(CROPS["radish"], "direct", last, EARLY)
    assert not any(
        school_fit.fits(CROPS["radish"], "direct", last + timedelta(days=n), EARLY)
        and CALENDAR.in_session(last + timedelta(days=n))
        and judge(CROPS["radish"], "direct", last + timedelta(days=n), EARLY).dates.first_pick <= D("2027-06-16")
        for n in range(1, 40)
    )
    assert latest_fit(CROPS["pumpkin"], "direct", EARLY, not_before=D("2027-04-14"), picked_by=D("2027-06-16")) is None


def test_back_from_a_feast_the_latest_day_makes_four_years_in_five_and_no_later_one_does() -> None:
    feast, kale = D("2026-11-18"), CROPS["kale"]
    found = back_from(kale, "starts", feast, EARLY, not_before=D("2026-08-01"))
    assert found.latest is not None
    assert found.best is not None
    assert found.latest_years >= 0.8 * found.of
    assert found.best_years >= found.latest_years
    later = back_from(kale, "starts", feast, EARLY, not_before=found.latest + timedelta(days=1))
    assert later.latest is None
    assert 0 < later.best_years < 0.8 * later.of


def test_back_from_a_day_minds_whether_the_crop_keeps() -> None:
    feast, april = D("2027-11-17"), D("2027-04-01")
    stored = back_from(CROPS["pumpkin"], "direct", feast, EARLY, not_before=april)
    eaten_fresh = {"cure_days": 0, "keeps_weeks": None, "keeps_how": "", "stands_days": None}
    fresh = back_from(CROPS["pumpkin"].model_copy(update=eaten_fresh), "direct", feast, EARLY, not_before=april)
    assert fresh.best_years < stored.best_years
    assert stored.best_years >= 0.8 * stored.of


def test_back_from_a_day_says_whether_it_is_fresh_stands_or_comes_from_store() -> None:
    carrot = CROPS["carrot"]
    dates = judge(carrot, "direct", D("2027-05-10"), EARLY).dates
    assert dates.stands_until is not None
    assert waits(carrot, dates, dates.first_pick) == "fresh"
    assert waits(carrot, dates, dates.last_pick + timedelta(days=1)) == "standing"
    assert waits(carrot, dates, dates.stands_until + timedelta(days=1)) == "stored"


def test_back_from_the_last_day_of_school_picking_has_begun_and_plants_are_set_out_by_a_day() -> None:
    end, april = D("2027-06-16"), D("2027-04-01")
    picked = back_from(CROPS["radish"], "direct", end, EARLY, not_before=april, aim="picked")
    ready = back_from(CROPS["radish"], "direct", end, EARLY, not_before=april)
    assert picked.latest is not None
    assert ready.latest is not None
    assert ready.latest == picked.latest
    assert picked.latest_years >= 0.8 * picked.of
    tomato = CROPS["tomato"]
    out = back_from(tomato, "indoors", D("2027-05-18"), EARLY, not_before=D("2027-02-01"), aim="set out")
    assert out.latest is not None
    assert D("2027-05-10") <= out.latest + timedelta(weeks=tomato.weeks_indoors) <= D("2027-05-18")


def test_a_day_nobody_can_start_on_has_no_answer() -> None:
    nothing = back_from(CROPS["radish"], "direct", D("2027-01-01"), EARLY, not_before=D("2027-02-01"))
    assert (nothing.latest, nothing.best, nothing.of) == (None, None, 0)


def test_over_winter_is_offered_only_where_the_crop_stands_in_the_bed_at_midwinter() -> None:
    offered = []
    for key, method in (
        ("winter-wheat", "direct"),
        ("garlic", "cloves"),
        ("kale", "indoors"),
        ("hairy-vetch", "direct"),
    ):
        crop = CROPS[key]
        for week in range(0, 44, 2):
            judged = judge(crop, method, D("2026-09-07") + timedelta(weeks=week), EARLY)  # type: ignore[arg-type]
            if judged.verdict != "fits":
                found = mends(judged, EARLY, not_before=D("2026-09-01"))
                offered += [(judged, fix) for fix in found if fix.code == "over_winter_on"]
    assert "hairy-vetch" in {judged.crop.key for judged, _ in offered}  # the others ripen in the summer break
    for judged, fix in offered:
        again = judge(judged.crop, judged.method, D(fix.value), EARLY)
        assert again.verdict == "fits"
        assert again.dates.bed_from.year < again.dates.first_pick.year
