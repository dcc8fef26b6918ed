"""Two open records (see data/README.md) through the import and the climate, as a school would bring them in."""

from datetime import date
from pathlib import Path

import numpy as np
import pytest

from almanaque import calc
from almanaque.core.place import readings
from almanaque.core.place.climate import Climate
from almanaque.formats.place import weather_csv

DATA = Path(__file__).parent / "data"
CHAMPION, SEATTLE = DATA / "champion-nebraska-1982-2018.csv", DATA / "seattle-2012-2015.csv"


def load(path: Path, latitude: float) -> tuple[readings.Checked, Climate, weather_csv.WeatherTable]:
    table = weather_csv.split(path.read_bytes(), path.name, us=False)
    found, unread = table.readings()
    assert unread == []
    checked = readings.check(found, today=date(2026, 1, 1))
    columns = np.array([[r.tmin_c, r.tmax_c, r.rain_mm] for r in checked.readings], dtype=float).T
    return checked, Climate(checked.readings[0].day, *columns, latitude=latitude), table


def test_champion_froze_last_on_10_may_and_first_on_28_september_in_the_middle_year() -> None:
    answer = calc.answer(["freeze", "--weather", str(CHAMPION), "--lat", "40.4", "--threshold", "0C"])
    assert answer["seasons"] == 37
    assert answer["last"]["p50"] == "05-10"
    assert answer["first"]["p50"] == "09-28"
    assert answer["last"]["without"] == answer["first"]["without"] == 0


@pytest.mark.parametrize(("probability", "threshold"), [(0.1, 0.0), (0.5, 0.0), (0.9, 0.0), (0.5, 2.0), (0.9, -2.0)])
def test_champions_quantiles_are_those_of_numpy_over_calendar_years(probability: float, threshold: float) -> None:
    """An own way to the same dates: for each calendar year the last freeze before July and the first from July on."""
    checked, climate, _ = load(CHAMPION, 40.4)
    lasts, firsts = [], []
    for year in range(1982, 2019):
        cold = [
            r.day for r in checked.readings if r.day.year == year and r.tmin_c is not None and r.tmin_c <= threshold
        ]
        lasts.append((max(d for d in cold if d.month < 7) - date(year - 1, 7, 1)).days)
        firsts.append((min(d for d in cold if d.month >= 7) - date(year, 7, 1)).days)
    found = climate.freezes(threshold)
    assert found.last(probability).day_of_season == pytest.approx(np.quantile(lasts, probability))
    assert found.first(probability).day_of_season == pytest.approx(np.quantile(firsts, probability))


def test_champion_has_whole_normals_and_no_gap() -> None:
    checked, climate, _ = load(CHAMPION, 40.4)
    assert (len(checked.readings), checked.gaps, checked.problems) == (13_514, (), ())
    assert [m.years for m in climate.months] == [37] * 12
    for month in climate.months:
        mine = [r for r in checked.readings if r.day.month == month.month]
        assert month.tmin_c == pytest.approx(np.mean([r.tmin_c for r in mine]), abs=0.02)
        assert month.rain_mm == pytest.approx(sum(r.rain_mm or 0 for r in mine) / 37, rel=0.01)


def test_seattles_four_years_import_cleanly() -> None:
    checked, climate, table = load(SEATTLE, 47.6)
    assert [(c.header, c.meaning, c.unit) for c in table.columns] == [
        ("date", "date", ""),
        ("precipitation", "rain", "mm"),
        ("temp_max", "tmax", "C"),
        ("temp_min", "tmin", "C"),
        ("wind", "wind", "ms"),
        ("weather", "ignored", ""),
    ]
    assert (len(checked.readings), checked.gaps, checked.problems) == (1461, (), ())
    assert checked.readings[0] == readings.Reading(date(2012, 1, 1), 5.0, 12.8, 0.0, 4.7, None, "line 2")
    assert climate.seasons == 4


def test_seattles_degree_days_by_both_interpretations() -> None:
    """By hand over the rows: McMaster & Wilhelm (1997), equation 1 with its two interpretations."""
    checked, climate, _ = load(SEATTLE, 47.6)
    spring = [r for r in checked.readings if date(2012, 4, 1) <= r.day <= date(2012, 6, 30)]
    first = sum(max(0.0, (r.tmin_c + r.tmax_c) / 2 - 10) for r in spring)
    second = sum((max(10.0, r.tmin_c) + max(10.0, r.tmax_c)) / 2 - 10 for r in spring)
    for interpretation, total in ((1, first), (2, second)):
        found, missing = climate.warmth(date(2012, 4, 1), date(2012, 6, 30), base_c=10, interpretation=interpretation)
        assert (found, missing) == (pytest.approx(total), 0)
    assert second > first
