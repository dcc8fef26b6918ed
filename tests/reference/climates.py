"""The five climates that answers are tried in: one measured, four made up. Shared by what is held against other sources."""

from datetime import date
from functools import cache
from pathlib import Path

from almanaque.core.growth.setting import Setting
from almanaque.core.growth.weather_record import Record
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from tests.places import made
from tests.reference.test_open_weather import CHAMPION, load

CLIMATES = ("continental", "cool-maritime", "north-60", "humid-subtropical", "dry-mild-winter")
# Children are always there, so that the weather alone decides.
ALWAYS = Calendar(
    [
        SchoolYear(str(y), date(y, 1, 1), date(y, 12, 31), (Span("all", date(y, 1, 1), date(y, 12, 31)),))
        for y in range(2026, 2031)
    ],
    [],
)


@cache
def record(name: str) -> Record:
    """The weather of one of CLIMATES; Champion is described in data/README.md."""
    if name == "continental":
        return Record(load(Path(CHAMPION), 40.4)[1])
    mean_c, swing_c, latitude = {
        "cool-maritime": (10.5, 5.5, 57.0),
        "north-60": (5.2, 11.5, 60.0),
        "humid-subtropical": (20.0, 8.5, 31.0),
        "dry-mild-winter": (17.0, 8.2, 36.0),
        "lowland-tropics": (26.0, 2.0, 14.0),
        "sound": (11.5, 7.5, 47.6),
    }[name]
    return made(mean_c=mean_c, swing_c=swing_c, latitude=latitude)


@cache
def setting(name: str) -> Setting:
    return Setting(ALWAYS, record(name), "metric")
