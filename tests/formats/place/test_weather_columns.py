"""Columns of weather by their names, as stations and offices of several countries write them."""

import pytest

from almanaque.formats.place import weather_csv
from almanaque.formats.place.weather_columns import guess, guessed

COLUMNS = {
    ("tmax", "F"): "High (°F)|Max Temp (°F)|Max TemperatureF|TMAX (Degrees Fahrenheit)|high temperature ℉|tmax_f",
    ("tmax", "C"): "Temp_max_C|Maximum temperature (Degree C)|Temperatura máxima (ºC)|Tmax °C|temperature_2m_max (°C)|"
    "Temperatur (max) °C|Tmax C|MaxTempC",
    (
        "tmax",
        "",
    ): "TX|TXK|tasmax|Hi Temp|Temperature - High|Daily Max Temp|Max. Temperature|Température max|Höchsttemperatur|high",
    ("tmin", "C"): "Minimum temperature (Deg C)|tmin_c|Min °C|Temp min [C]",
    ("tmin", ""): "TN|TNK|Low Temp|Temperatura mínima|lo|Tiefsttemperatur|2m_temp_min",
    (
        "rain",
        "mm",
    ): "Rainfall amount (millimetres)|Rain (mm)|Précipitations (mm)|precipitation_sum (mm)|Niederschlag mm",
    ("rain", "in"): "PRCP (Inches)|Precip. (in)|rain_in",
    ("rain", ""): "RR|RSK|Daily Rainfall|24h rain|Lluvia|Neerslag",
    ("wind", "kmh"): "Wind (km/h)|mean wind km/h",
    ("wind", "mph"): "Avg wind mph",
    ("soil", "C"): "soil_temp_c|Soil temperature (°C)",
    ("date", ""): "Date|Datum|Fecha|Date/Time|local_date|obs_date",
    ("day", ""): "Day|DD",
    (
        "ignored",
        "",
    ): "Max Humidity|Indoor high temp|Mean temp (°C)|Rain hours|Wind gust (mph)|Max wind (km/h)|Wind direction|Snow (in)|"
    "Soil moisture|Max temp time|pressure high|",
}


@pytest.mark.parametrize(
    ("meaning", "unit", "header"),
    [(*holds, header) for holds, headers in COLUMNS.items() for header in headers.split("|")],
)
def test_a_column_is_known_by_its_name(meaning: str, unit: str, header: str) -> None:
    found = guessed(header)
    assert (found.meaning, found.unit, found.stated) == (meaning, unit, unit != "")


def test_a_name_that_holds_a_place_is_known_without_it() -> None:
    assert guessed("TMAX (Brindlecombe, upper field)").meaning == "tmax"


def test_of_two_columns_for_one_thing_one_is_taken_and_all_precipitation_before_rain_alone() -> None:
    found = guess(["time", "rain_sum (mm)", "precipitation_sum (mm)", "Tmax °C", "Max °C", "Tmin °C"])
    assert [c.meaning for c in found] == ["date", "ignored", "rain", "tmax", "ignored", "tmin"]
    assert [c.unit for c in found] == ["", "", "mm", "C", "", "C"]


def test_a_file_with_other_columns_between_is_read_without_a_hand() -> None:
    body = (
        b"Date;Mean temp;Temperatur (max) \xc2\xb0C;Temperatur (min) \xc2\xb0C;Niederschlag mm;Max Humidity\n"
        b"01.04.2026;8,5;14,2;2,1;0,4;96\n"
    )
    (reading,), unread = weather_csv.split(body, "w.csv", us=False).readings()
    assert (reading.tmax_c, reading.tmin_c, reading.rain_mm, unread) == (14.2, 2.1, 0.4, [])
