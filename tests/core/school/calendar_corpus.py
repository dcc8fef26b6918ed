"""Calendars of invented districts with the right answer beside each: what is compared, and how it is counted."""

import tomllib
from collections.abc import Mapping
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from almanaque.calc import answer

FOLDER = Path(__file__).parent / "calendars"
NAMES = sorted(path.stem for path in FOLDER.glob("*.toml"))


def right_answer(name: str) -> dict[str, Any]:
    return tomllib.loads((FOLDER / f"{name}.toml").read_text(encoding="utf-8"))


def read(name: str) -> dict[str, Any]:
    """The calendar as `almanaque calc calendar` reads it."""
    wanted = right_answer(name)
    file = next(path for path in FOLDER.glob(f"{name}.*") if path.suffix != ".toml")
    options = [word for key in ("country", "region") if wanted.get(key) for word in (f"--{key}", wanted[key])]
    return answer(["calendar", str(file), *options])


def events_of_answer(wanted: Mapping[str, Any]) -> set[str]:
    """What a right reading holds, each as one string."""
    found = {
        f"closed {day}" for span in wanted["closures"] for day in weekdays(span.split("..")[0], span.split("..")[-1])
    }
    for half in wanted["half_days"]:
        if not half.endswith("dropped"):
            found.add(f"half {half}")
    for key in ("first_day", "last_day"):
        if key in wanted:
            found.add(f"{key} {wanted[key].isoformat()}")
    if "terms" in wanted:
        found |= {f"term {span.split('..')[0]} {span.split('..')[1]}" for span in wanted["terms"]}
    if "weekly" in wanted:
        found |= _weekly(wanted)
    return found


def events_of_reading(year: Mapping[str, Any], wanted: Mapping[str, Any]) -> set[str]:
    """The same of a reading. Breaks after the last day of school and before the first are no matter of either side."""
    found = {
        f"closed {day}"
        for span in year["closures"]
        for day in weekdays(span["starts"], span["ends"])
        if span["kind"] == "training day" or _matters(span, year, wanted)
    }
    found |= {f"half {half['day']} {half['ends_at']}" for half in year["half_days"]}
    found |= {f"{key} {year[key]}" for key in ("first_day", "last_day") if key in wanted}
    if "terms" in wanted:
        found |= {f"term {term['starts']} {term['ends']}" for term in year["terms"]}
    return found


def _matters(span: Mapping[str, str], year: Mapping[str, Any], wanted: Mapping[str, Any]) -> bool:
    listed = any(one.split("..")[0] == span["starts"] for one in wanted["closures"])
    return listed or (year["first_day"] <= span["starts"] <= year["last_day"])


def weekdays(first: str, last: str) -> list[date]:
    days = (date.fromisoformat(last) - date.fromisoformat(first)).days + 1
    found = (date.fromisoformat(first) + timedelta(days=n) for n in range(days))
    return [day for day in found if day.weekday() < 5]


def _weekly(wanted: Mapping[str, Any]) -> set[str]:
    rule = wanted["weekly"]
    off = set()
    for span in wanted["closures"]:
        first, last = (date.fromisoformat(part) for part in (span.split("..")[0], span.split("..")[-1]))
        off |= {first + timedelta(days=n) for n in range((last - first).days + 1)}
    day, found = rule["from"], set()
    while day <= rule["until"]:
        if day not in off:
            found.add(f"half {day.isoformat()} {rule['ends_at']}")
        day += timedelta(days=7)
    return found
