"""`calc fit` and `calc latest`: a crop against a school year and the weather of a place."""

import argparse
from datetime import timedelta
from pathlib import Path
from typing import Any

from almanaque.calc.arguments import body_of, climate_of, day_of, number
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.growth import nearest_fit, school_fit
from almanaque.core.growth.covers import COVERS, Covering
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.growth.weather_record import Record
from almanaque.core.school import calendar_import
from almanaque.core.school.school_year import Calendar
from almanaque.data import catalogue
from almanaque.formats.school import calendar_csv


def fit_of(given: argparse.Namespace) -> dict[str, Any]:
    """Every day that the calendar knows, or one day, with its dates and verdict."""
    crop, method, setting = _planned(given)
    if given.sow is not None:
        days = [day_of(given.sow, "sow")]
    else:
        first, last = setting.calendar.known
        days = [first + timedelta(days=n) for n in range((last - first).days + 1)]
    weighed = weigh(crop, method, days, setting)
    return {
        "crop": crop.key,
        "method": method,
        "ready": setting.ready_by,
        "days": [
            _candidate(school_fit.at(weighed, row, crop, method, setting), bool(weighed.ripe[row]))
            for row in range(len(days))
        ],
    }


def _candidate(judged: school_fit.Fit, ripens: bool) -> dict[str, Any]:
    dates = judged.dates
    first = {"p10": dates.first_pick_early, "p50": dates.first_pick, "p90": dates.first_pick_late}
    return {
        "sow": dates.start.isoformat(),
        "emerge": dates.emerge_to.isoformat() if dates.emerge_to else None,
        "first_pick": {share: day.isoformat() if ripens else None for share, day in first.items()},
        "last_pick": dates.last_pick.isoformat() if ripens else None,
        "stands_until": dates.stands_until.isoformat() if ripens and dates.stands_until else None,
        "verdict": judged.verdict,
        "n": judged.n,
        "of": judged.of,
        "reasons": [finding.message for finding in judged.findings if finding.severity != "note"],
    }


def latest(given: argparse.Namespace) -> dict[str, Any]:
    """Back from a day: the latest first day with four years in five, and the best one."""
    crop, method, setting = _planned(given)
    ready_by = day_of(given.ready_by, "ready-by")
    first = setting.calendar.years[0].starts
    found = nearest_fit.back_from(crop, method, ready_by, setting, not_before=first)
    return {
        "crop": crop.key,
        "method": method,
        "ready_by": ready_by.isoformat(),
        "latest": found.latest.isoformat() if found.latest else None,
        "latest_years": found.latest_years,
        "best": found.best.isoformat() if found.best else None,
        "best_years": found.best_years,
        "of": found.of,
    }


def _planned(given: argparse.Namespace) -> tuple[Crop, Method, Setting]:
    """The crop, its way of starting (the usual one if not said), and the place. Raises BadInput."""
    crop = catalogue()[given.crop]
    method = next((m for m in crop.methods if given.method in (None, m)), None)
    if method is None:
        raise BadInput("calc.method_not_of_crop", field="method", crop=crop.name.en, methods=", ".join(crop.methods))
    covering = None
    if given.cover is not None:
        key = next((key for key in COVERS if key == given.cover), None)
        if key is None:
            raise BadInput("calc.cover_unknown", field="cover", covers=", ".join(COVERS))
        covering = Covering(key)
    name = Path(given.calendar).name
    years = calendar_import.assemble(calendar_csv.read(body_of(given.calendar, field="calendar"), name))
    record = Record(climate_of(given.weather, number(given.lat, "lat")))
    return crop, method, Setting(Calendar(years).carried_on, record, "metric", ready_by=given.ready, covering=covering)
