"""`almanaque calc`: the rules without server or database. Arguments in, one JSON object out; docs/calc.md has the schemas."""

import argparse
from collections.abc import Callable, Sequence
from datetime import date, timedelta
from pathlib import Path
from typing import Any, NoReturn

import numpy as np

from almanaque.core import calendar_import, evapotranspiration, fit, nearest, readings, rows, shade, spacing, sun
from almanaque.core.bed import Rectangle, grid_of, soil_litres
from almanaque.core.climate import Climate
from almanaque.core.covers import COVERS, Covering
from almanaque.core.crops import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.evapotranspiration import Station
from almanaque.core.freezes import FreezeDate
from almanaque.core.record import Record
from almanaque.core.school_year import Calendar
from almanaque.core.sowing_days import Setting, weigh
from almanaque.core.strings import stringing
from almanaque.core.units import LITRES_PER_CUBIC_FOOT, parse_length, parse_size, parse_temperature
from almanaque.data import catalogue
from almanaque.formats import calendar_csv, obstacles_json, weather_csv


class _Parser(argparse.ArgumentParser):
    """Says what is wrong as one sentence instead of printing its usage."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(f"calc: {message}. See docs/calc.md for what it takes.")


def answer(arguments: Sequence[str]) -> dict[str, Any]:
    """The answer to one call, ready for JSON. Raises BadInput."""
    # A number below zero starts like an option, so every value is bound to the option before it.
    given = _parser().parse_args(_bind_values(arguments))
    found: dict[str, Any] = given.run(given)
    return found


def _parser() -> _Parser:
    parser = _Parser(prog="almanaque calc", allow_abbrev=False)
    kinds = parser.add_subparsers(dest="kind", required=True, parser_class=_Parser)

    def add(name: str, run: Callable[[argparse.Namespace], dict[str, Any]], **options: dict[str, Any]) -> None:
        kind = kinds.add_parser(name, allow_abbrev=False)
        kind.set_defaults(run=run)
        for option, settings in options.items():
            kind.add_argument(f"--{option.rstrip('_').replace('_', '-')}", dest=option, **settings)

    needed: dict[str, Any] = {"required": True}
    optional: dict[str, Any] = {"default": None}
    add("spacing", _spacing, bed=needed, spacing=needed, method={"choices": ["squares", "rows", "staggered"], "default": "squares"},
        cell={"default": "12 in"}, row_spacing=optional, edge=optional, keep={"action": "append", "default": None})  # fmt: skip
    add("volume", _volume, bed=needed, depth=needed)
    add("grid", _grid, bed=needed, cell={"default": "12 in"})
    add("seeds", _seeds, plants=needed, germination=needed, survival={"default": "1"})
    add("sun", _sun, lat=needed, lon={"default": "0"}, date=needed, obstacles=optional)
    add("crops", _crops)
    add("freeze", _freeze, weather=needed, lat=needed, threshold={"default": "0C"})
    add("daylength", _daylength, lat=needed, date=needed)
    add("degree-days", _degree_days, weather=needed, base=needed, from_=needed, to=needed,
        interpretation={"choices": ["1", "2"], "default": "1"})  # fmt: skip
    place = {"weather": needed, "calendar": needed, "lat": needed, "crop": needed, "method": optional, "cover": optional,
             "ready": {"choices": ["warmth", "packet"], "default": "warmth"}}  # fmt: skip
    add("fit", _fit, sow=optional, **place)
    add("latest", _latest, ready_by=needed, **place)
    add("et0", _et0, method={"required": True, "choices": ["hargreaves", "penman"]}, tmin=needed, tmax=needed, lat=needed, date=needed,
        elevation={"default": "0"}, wind=optional, wind_height={"default": "2"}, rhmin=optional, rhmax=optional, dewpoint=optional, vapour=optional,
        radiation=optional, sunshine=optional)  # fmt: skip
    return parser


def _spacing(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    apart = float(parse_length(given.spacing))
    kept = tuple(_part(text) for text in given.keep or ())
    if given.method == "squares":
        return _in_squares(length, width, apart, float(parse_length(given.cell)), kept)
    edge = None if given.edge is None else float(parse_length(given.edge))
    if given.method == "staggered":
        layout = rows.place_staggered(length, width, spacing_mm=apart, edge_mm=edge, kept=kept)
    else:
        row = apart if given.row_spacing is None else float(parse_length(given.row_spacing))
        layout = rows.place_in_rows(length, width, in_row_mm=apart, row_mm=row, edge_mm=edge, kept=kept)
    return {
        "plants": layout.plants,
        "rows": layout.rows,
        "rows_run": layout.along,
        "positions_mm": _rounded(layout.positions_mm),
    }


def _in_squares(length: float, width: float, apart: float, cell: float, kept: tuple[Rectangle, ...]) -> dict[str, Any]:
    grid = grid_of(length, width, cell, kept)
    layout = spacing.place_in_squares(grid.cells, grid, spacing_mm=apart)
    return {
        "plants": layout.plants,
        "per_square": layout.reading.per_square,
        "along": layout.reading.along,
        "block": layout.reading.block,
        "squares": layout.squares,
        "left_over_squares": len(layout.left_over),
        "positions_mm": _rounded(layout.positions_mm),
    }


def _volume(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    litres = soil_litres(length, width, float(parse_length(given.depth)))
    return {"litres": round(litres, 3), "cubic_feet": round(litres / LITRES_PER_CUBIC_FOOT, 3),
            "cubic_yards": round(litres / LITRES_PER_CUBIC_FOOT / 27, 4)}  # fmt: skip


def _grid(given: argparse.Namespace) -> dict[str, Any]:
    length, width = (float(side) for side in parse_size(given.bed))
    grid = grid_of(length, width, float(parse_length(given.cell)))
    strung = stringing(length, width, grid)
    return {
        "columns": grid.columns, "rows": grid.rows, "squares": grid.columns * grid.rows,
        "marks_along_mm": [round(mark, 1) for mark in strung.along_mm], "marks_down_mm": [round(mark, 1) for mark in strung.down_mm],
        "strings": strung.strings, "string_mm": round(strung.string_mm, 1),
    }  # fmt: skip


def _seeds(given: argparse.Namespace) -> dict[str, Any]:
    plants = _number(given.plants, "plants")
    if plants != int(plants) or not 0 <= plants <= 1_000_000:
        raise BadInput("calc: --plants is a whole number from 0 to 1,000,000.", field="plants")
    shares = {name: _number(getattr(given, name), name) for name in ("germination", "survival")}
    return {"seeds": spacing.seeds_needed(int(plants), **shares)}


def _sun(given: argparse.Namespace) -> dict[str, Any]:
    """Hours of direct sun at one point on one day, with and without what stands around it."""
    latitude, day = sun.check_latitude(_number(given.lat, "lat")), _day(given.date, "date")
    _number(given.lon, "lon")
    bodies = (
        obstacles_json.read(_bytes(given.obstacles, field="obstacles"), Path(given.obstacles).name)
        if given.obstacles
        else []
    )
    hours = float(shade.hours_of_sun(np.zeros((1, 2)), [day], bodies, latitude=latitude)[0, 0])
    return {
        "hours": round(hours, 2),
        "open_hours": round(shade.open_hours(day, latitude=latitude), 2),
        "light": shade.light_words(hours),
    }


def _part(text: str) -> Rectangle:
    """A kept part, `x, y, length, width` as people write lengths; a corner may lie at 0."""
    parts = [word.strip() for word in text.split(",")]
    if len(parts) != 4:
        raise BadInput(f"calc: --keep is x, y, length, width, such as 0,0,2 ft,2 ft, not “{text[:30]}”.", field="keep")
    x, y, length, width = (0.0 if word in ("0", "-0") else float(parse_length(word)) for word in parts)
    return Rectangle(x, y, length, width)


def _rounded(positions: Sequence[tuple[float, float]]) -> list[list[float]]:
    return [[round(x, 1), round(y, 1)] for x, y in positions]


def _crops(_: argparse.Namespace) -> dict[str, Any]:
    crops = catalogue()
    return {"sources": crops.sources, "crops": [crop.model_dump(mode="json") for crop in crops]}


def _freeze(given: argparse.Namespace) -> dict[str, Any]:
    """Quantiles of the last and first freeze as MM-DD of a common year; null where it falls among seasons without one."""
    threshold = float(parse_temperature(given.threshold, bare_unit="C"))
    climate = _climate(given.weather, _number(given.lat, "lat"))
    freezes = climate.freezes(threshold)
    start = date(2001, 1, 1) if climate.southern else date(2000, 7, 1)  # named by a season without a 29 February

    def shown(quantile: FreezeDate) -> str | None:
        day = climate.date_of(quantile, start)
        return f"{day:%m-%d}" if day else None

    return {
        "threshold_c": _plain(threshold),
        "seasons": freezes.seasons,
        "last": {**{f"p{p}": shown(freezes.last(p / 100)) for p in (10, 50, 90)}, "without": freezes.last_without},
        "first": {**{f"p{p}": shown(freezes.first(p / 100)) for p in (10, 50, 90)}, "without": freezes.first_without},
    }


def _daylength(given: argparse.Namespace) -> dict[str, Any]:
    return {"hours": round(sun.daylength(_number(given.lat, "lat"), _day(given.date, "date")), 3)}


def _degree_days(given: argparse.Namespace) -> dict[str, Any]:
    start, end = _day(given.from_, "from"), _day(given.to, "to")
    if end < start:
        raise BadInput("calc: --to lies before --from. Swap the two.", field="to")
    climate = _climate(given.weather, 0.0)
    base = float(parse_temperature(given.base, bare_unit="C"))
    total, missing = climate.warmth(start, end, base_c=base, interpretation=2 if given.interpretation == "2" else 1)
    return {"degree_days": round(total, 2), "base_c": _plain(base), "days": (end - start).days + 1, "missing_days": missing,
            "interpretation": int(given.interpretation)}  # fmt: skip


def _et0(given: argparse.Namespace) -> dict[str, Any]:
    low, high = (float(parse_temperature(getattr(given, name), bare_unit="C")) for name in ("tmin", "tmax"))
    if low > high:
        raise BadInput("calc: the least temperature is above the greatest. Swap --tmin and --tmax.", field="tmin")
    latitude = sun.check_latitude(_number(given.lat, "lat"))
    of_year = _day(given.date, "date").timetuple().tm_yday
    if given.method == "hargreaves":
        value = float(
            evapotranspiration.hargreaves(np.array([low]), np.array([high]), latitude, np.array([float(of_year)]))[0]
        )
    else:
        value = evapotranspiration.penman_monteith(
            Station(low, high, _vapour(given, low, high), _wind(given), _radiation(given, low, high, latitude, of_year), latitude,
                    _number(given.elevation, "elevation"), of_year)
        )  # fmt: skip
    return {"et0_mm_day": round(value, 3), "method": given.method}


def _vapour(given: argparse.Namespace, low: float, high: float) -> float:
    """Actual vapour pressure [kPa] by what is given: itself, humidity, the dew point, or the least temperature in its place."""
    if given.vapour is not None:
        return _number(given.vapour, "vapour")
    if given.rhmin is not None and given.rhmax is not None:
        return evapotranspiration.vapour_from_humidity(
            low, high, _number(given.rhmin, "rhmin"), _number(given.rhmax, "rhmax")
        )
    dew = low if given.dewpoint is None else float(parse_temperature(given.dewpoint, bare_unit="C"))
    return evapotranspiration.vapour_from_dewpoint(dew)


def _wind(given: argparse.Namespace) -> float:
    """Wind at 2 m [m/s]; 2 m/s where it is not known, as FAO-56 advises."""
    if given.wind is None:
        return 2.0
    speed, height = _number(given.wind, "wind"), _number(given.wind_height, "wind-height")
    if not 0 <= speed <= 120 or not 0.5 <= height <= 100:
        raise BadInput("calc: wind is 0 to 120 m/s, measured 0.5 to 100 m above the ground.", field="wind")
    return speed if height == 2 else evapotranspiration.wind_at_2m(speed, height)


def _radiation(given: argparse.Namespace, low: float, high: float, latitude: float, of_year: int) -> float:
    """Solar radiation [MJ/m²/day]: measured, from sunshine, or from the temperatures."""
    if given.radiation is not None:
        return _number(given.radiation, "radiation")
    if given.sunshine is not None:
        return evapotranspiration.radiation_from_sunshine(_number(given.sunshine, "sunshine"), latitude, of_year)
    return evapotranspiration.radiation_from_temperatures(low, high, latitude, of_year)


def _fit(given: argparse.Namespace) -> dict[str, Any]:
    """Every day that the calendar knows, or one day, with its dates and verdict."""
    crop, method, setting = _planned(given)
    if given.sow is not None:
        days = [_day(given.sow, "sow")]
    else:
        first, last = setting.calendar.known
        days = [first + timedelta(days=n) for n in range((last - first).days + 1)]
    weighed = weigh(crop, method, days, setting)
    return {"crop": crop.key, "method": method, "ready": setting.school,
            "days": [_candidate(fit.at(weighed, row, crop, method, setting), bool(weighed.ripe[row])) for row in range(len(days))]}  # fmt: skip


def _candidate(judged: fit.Fit, ripens: bool) -> dict[str, Any]:
    dates = judged.dates
    first = {"p10": dates.first_pick_early, "p50": dates.first_pick, "p90": dates.first_pick_late}
    return {
        "sow": dates.start.isoformat(),
        "emerge": dates.emerge_to.isoformat() if dates.emerge_to else None,
        "first_pick": {share: day.isoformat() if ripens else None for share, day in first.items()},
        "last_pick": dates.last_pick.isoformat() if ripens else None,
        "verdict": judged.verdict,
        "n": judged.n,
        "of": judged.of,
        "reasons": [finding.message for finding in judged.findings if finding.severity != "note"],
    }


def _latest(given: argparse.Namespace) -> dict[str, Any]:
    """Back from a day: the latest first day with four years in five, and the best one."""
    crop, method, setting = _planned(given)
    ready_by = _day(given.ready_by, "ready-by")
    first = setting.calendar.years[0].starts
    found = nearest.back_from(crop, method, ready_by, setting, not_before=first)
    return {
        "crop": crop.key, "method": method, "ready_by": ready_by.isoformat(), "latest": found.latest.isoformat() if found.latest else None,
        "latest_years": found.latest_years, "best": found.best.isoformat() if found.best else None, "best_years": found.best_years,
        "of": found.of,
    }  # fmt: skip


def _planned(given: argparse.Namespace) -> tuple[Crop, Method, Setting]:
    """The crop, its way of starting (the usual one if not said), and the place. Raises BadInput."""
    crop = catalogue()[given.crop]
    method = next((m for m in crop.methods if given.method in (None, m)), None)
    if method is None:
        raise BadInput(
            f"calc: {crop.name.en} is not started that way. --method is one of {', '.join(crop.methods)}.",
            field="method",
        )
    covering = None
    if given.cover is not None:
        key = next((key for key in COVERS if key == given.cover), None)
        if key is None:
            raise BadInput(f"calc: --cover is one of {', '.join(COVERS)}.", field="cover")
        covering = Covering(key)
    name = Path(given.calendar).name
    years = calendar_import.assemble(
        calendar_csv.read(_bytes(given.calendar, field="calendar"), name, words=calendar_import.WORDS)
    )
    record = Record(_climate(given.weather, _number(given.lat, "lat")))
    return crop, method, Setting(Calendar(years).carried_on, record, "metric", school=given.ready, covering=covering)


def _climate(file: str, latitude: float) -> Climate:
    """The readings of a file that can be, as a climate. What cannot be is left out, as when a file is brought in."""
    sun.check_latitude(latitude)
    name, body = Path(file).name, _bytes(file, field="weather")
    found, _ = weather_csv.split(body, name, us=False).readings()
    checked = readings.check(found, today=date.max)
    if checked.swapped:
        raise BadInput(
            f"{name}: on most days the least temperature is above the greatest. Swap the two columns.",
            field="weather",
        )
    if not checked.readings:
        raise BadInput(f"{name} holds no reading that can be used.", field="weather")
    first = checked.readings[0].day
    table = np.full((3, (checked.readings[-1].day - first).days + 1), np.nan)
    for reading in checked.readings:
        values = (reading.tmin_c, reading.tmax_c, reading.rain_mm)
        table[:, (reading.day - first).days] = [np.nan if value is None else value for value in values]
    return Climate(first, table[0], table[1], table[2], latitude=latitude)


def _bytes(file: str, *, field: str) -> bytes:
    """A file of at most 8 MB. Raises BadInput for one that is not there, or larger."""
    path = Path(file)
    try:
        size = path.stat().st_size
        body = path.read_bytes() if size <= weather_csv.MOST_BYTES else b""
    except OSError:
        raise BadInput(f"calc: the file {path.name} cannot be read. Check its name.", field=field) from None
    if size > weather_csv.MOST_BYTES:
        raise BadInput(
            f"{path.name} is larger than {weather_csv.MOST_BYTES / 1_000_000:g} MB. Export less.", field=field
        )
    return body


def _number(text: str, name: str) -> float:
    try:
        return float(text.replace("−", "-"))
    except ValueError:
        raise BadInput(f"calc: --{name} is a number, not “{text[:20]}”.", field=name) from None


def _day(text: str, name: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise BadInput(f"calc: --{name} is a day such as 2027-04-14, not “{text[:20]}”.", field=name) from None


def _plain(value: float) -> float | int:
    return int(value) if value == int(value) else value


def _bind_values(arguments: Sequence[str]) -> list[str]:
    bound: list[str] = []
    for word in arguments:
        if bound and bound[-1].startswith("--") and "=" not in bound[-1] and not word.startswith("--"):
            bound[-1] = f"{bound[-1]}={word}"
        else:
            bound.append(word)
    return bound
