"""Verdicts against the weeks in which growers sow and plant, in five climates: data/planting-windows.toml, from memory.

A week of the table must not miss, a week more than a month outside of it must not fit without a word.
"""

import tomllib
from datetime import date, timedelta
from functools import cache
from pathlib import Path

import pytest

from almanaque.core.crops.crop import Method
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.reference.climates import CLIMATES, setting

CROPS = catalogue()
TABLE = tomllib.loads((Path(__file__).parent / "data/planting-windows.toml").read_text(encoding="utf-8"))
WEEKS = [date(2027, 1, 4) + timedelta(weeks=n) for n in range(52)]
A_MONTH = timedelta(days=30)


def windows(text: str) -> list[tuple[date, date]]:
    """`04-05..05-20, 08-05..09-05` in 2027 and the years beside it."""
    found = []
    for span in text.split(", "):
        first, last = span.split("..")
        found += [
            (date.fromisoformat(f"{y}-{first}"), date.fromisoformat(f"{y + (last < first)}-{last}"))
            for y in (2026, 2027, 2028)
        ]
    return found


@cache
def judged(climate: str) -> tuple[list[int], list[int]]:
    """Verdicts (0 fits, 1 with care, 2 misses) of the weeks in the table, and of those more than a month outside."""
    inside: list[int] = []
    outside: list[int] = []
    for key, ways in TABLE[climate].items():
        for method, text in ways.items():
            verdicts = weigh(CROPS[key], as_method(method), WEEKS, setting(climate)).verdict
            spans = windows(text)
            for day, verdict in zip(WEEKS, verdicts, strict=True):
                if any(first <= day <= last for first, last in spans):
                    inside.append(int(verdict))
                elif all(day < first - A_MONTH or day > last + A_MONTH for first, last in spans):
                    outside.append(int(verdict))
    return inside, outside


def as_method(text: str) -> Method:
    return next(m for m in ("direct", "indoors", "starts", "cloves") if m == text)


def test_the_table_has_40_crops_in_five_climates() -> None:
    assert set(TABLE) == set(CLIMATES)
    assert len({crop for crops in TABLE.values() for crop in crops}) >= 40


@pytest.mark.parametrize("climate", CLIMATES)
def test_the_weeks_of_growers_fit_or_fit_with_care(climate: str) -> None:
    inside, _ = judged(climate)
    assert len(inside) > 90
    assert sum(verdict < 2 for verdict in inside) >= 0.95 * len(inside)
    assert sum(verdict == 0 for verdict in inside) >= 0.55 * len(inside)


@pytest.mark.parametrize("climate", CLIMATES)
def test_a_month_outside_hardly_any_week_fits(climate: str) -> None:
    _, outside = judged(climate)
    assert len(outside) > 300
    assert sum(verdict == 0 for verdict in outside) <= 0.10 * len(outside)


def test_over_all_climates_at_most_a_twentieth_fits_outside() -> None:
    outside = [verdict for climate in CLIMATES for verdict in judged(climate)[1]]
    assert sum(verdict == 0 for verdict in outside) <= 0.05 * len(outside)
