from datetime import timedelta

from almanaque.core.week.weather_alarms import HEAVY_RAIN_MM, HOT_C, alarms
from almanaque.core.week.weather_notes import OutdoorPlant, SeenDay
from almanaque.data import catalogue
from tests.places import D

TODAY = D("2027-05-20")
CROPS = catalogue()


def seen(n: int = 0, tmin: float | None = 9.0, tmax: float | None = 18.0, rain: float | None = 0.0) -> SeenDay:
    return SeenDay(TODAY - timedelta(days=n), tmin, tmax, rain, None)


def standing(key: str, *, up: bool = True, covered: bool = False) -> OutdoorPlant:
    return OutdoorPlant(CROPS[key], "Bed 6", TODAY - timedelta(days=20), up, False, covered)


def test_a_cold_night_warns_of_the_next_and_names_what_is_tender_in_the_open() -> None:
    here = [standing("tomato"), standing("kale"), standing("pumpkin", covered=True), standing("bush-bean", up=False)]
    (frost,) = alarms(here, [seen(1), seen(0, tmin=1.5)], TODAY, "us")
    assert (frost.code, frost.severity) == ("frost_warning", "fault")
    assert frost.fixes[0].label == "Cover Tomato in Bed 6 before the evening"
    assert "35 °F on 20 May" in frost.message
    (alone,) = alarms([standing("kale")], [seen(0, tmin=1.5)], TODAY, "metric")
    assert alone.severity == "care"
    assert "Nothing tender" in alone.fixes[0].label


def test_a_mild_night_an_old_one_and_one_that_nobody_read_warn_of_nothing() -> None:
    for days in ([seen(0, tmin=3.1)], [seen(2, tmin=-4)], [seen(0, tmin=None, tmax=None, rain=None)], []):
        assert alarms([standing("tomato")], days, TODAY, "us") == []


def test_heat_and_heavy_rain_are_told_at_their_limits() -> None:
    found = alarms([], [seen(0, tmax=HOT_C, rain=HEAVY_RAIN_MM)], TODAY, "metric")
    assert [f.code for f in found] == ["heat_warning", "rain_warning"]
    assert "water breaks" in found[0].fixes[0].label
    assert alarms([], [seen(0, tmax=HOT_C - 0.1, rain=HEAVY_RAIN_MM - 0.1)], TODAY, "metric") == []


def test_rain_is_told_in_the_schools_units() -> None:
    for units, word in (("us", "in"), ("metric", "mm")):
        found = [f for f in alarms([], [seen(rain=HEAVY_RAIN_MM + 5)], TODAY, units) if f.code == "rain_warning"]
        assert found
        assert str(found[0].params["rain"]).endswith(word)
