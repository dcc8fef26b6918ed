from datetime import timedelta

from almanaque.core.week.rain_plan import MATS_AHEAD, ToSow, mats, waits
from tests.places import D

TODAY = D("2027-04-14")


def test_what_spoils_wet_soil_waits_and_watching_does_not() -> None:
    assert all(waits(step) for step in ("prepare bed", "sow", "thin", "clear"))
    assert not any(waits(step) for step in ("keep moist", "pot up", "harden off", "start indoors"))


def test_mats_are_made_for_what_is_sown_soon_and_not_today() -> None:
    def sowing(days: int, crop: str = "Carrot") -> ToSow:
        return ToSow("p", "Bed 1", crop, TODAY + timedelta(days=days))

    found = mats(
        [sowing(30), sowing(0), sowing(3), sowing(MATS_AHEAD.days), sowing(MATS_AHEAD.days + 1), sowing(-2)], TODAY
    )
    assert [(s.sow_on - TODAY).days for s in found] == [3, 30, MATS_AHEAD.days]
