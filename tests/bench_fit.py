"""Figures of fit and schedule for `./almanaque bench`: a crop over all years, the catalogue, the lists, a large year."""

import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date, timedelta
from functools import partial
from uuid import uuid4

import httpx2
import numpy as np

from almanaque.commands import context
from almanaque.commands.actor import Actor
from almanaque.commands.garden import painting
from almanaque.commands.garden.painting import Paint
from almanaque.commands.year import shortlist
from almanaque.core.crops.crop import Crop
from almanaque.core.garden.bed import cell_name
from almanaque.core.growth import emergence
from almanaque.core.growth.conditions import Conditions
from almanaque.core.growth.crop_runs import needs
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.growth.weather_record import Record
from almanaque.core.year.shortlist import Sowable, places_for, to_sow
from almanaque.data import catalogue
from almanaque.demo import load
from almanaque.host import postgres
from almanaque.store.db import Database
from almanaque.store.garden import garden
from tests.browser.conftest import serve
from tests.database import NORTH, bed_id
from tests.places import CALENDAR, made

YEARS = 37
DAYS = [date(2026, 8, 26) + timedelta(days=n) for n in range(365)]
BEDS, PLANTINGS, ROUNDS = 60, 400, 25


def timed(work: Callable[[], object], *, rounds: int = 5) -> float:
    """Median [s] of some runs after one that is not counted."""
    work()
    runs = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        runs.append(time.perf_counter() - began)
    return statistics.median(runs)


def row(name: str, took: float, words: str) -> None:
    print(f"{name:<58}{1000 * took:>10.1f} ms  {words}")


def growth() -> None:
    """A crop over 365 days × 37 years, and the catalogue, against a plain-Python loop over a tenth of the days."""
    climate = made(mean_c=11.0, swing_c=12.4, latitude=42.9, years=YEARS).climate
    radish = catalogue()["radish"]

    def setting(record: Record) -> Setting:
        return Setting(CALENDAR, record, "us")

    loop = timed(lambda: plain_loop(radish, Conditions(climate), DAYS[::10]), rounds=1)
    cold = timed(lambda: weigh(radish, "direct", DAYS, setting(Record(climate))))
    record = Record(climate)
    weigh(radish, "direct", DAYS, setting(record))
    fresh = iter(replace_days(radish, n) for n in range(1000))
    warm = timed(lambda: weigh(next(fresh), "direct", DAYS, setting(record)))
    kept = timed(lambda: weigh(radish, "direct", DAYS, setting(record)))
    row(
        f"radish, 365 days × {YEARS} years, weather not seen before",
        cold,
        f"plain loop {10 * loop / cold:.0f} times as long",
    )
    row("the same, another crop on weather seen before", warm, f"plain loop {10 * loop / warm:.0f} times as long")
    row("the same, asked again", kept, "from memory")
    row("  plain-Python loop over every tenth day", loop, "times ten for all days")

    def whole(record: Record) -> None:
        for crop in catalogue():
            for method in crop.methods:
                weigh(crop, method, DAYS, setting(record))

    took = timed(lambda: whole(Record(climate)), rounds=3)
    row(f"the catalogue, {len(catalogue())} crops, all ways, 365 days", took, "weather not seen before")
    memory = subprocess.run([sys.executable, "-m", "tests.bench_memory"], capture_output=True, text=True, check=True)
    print(f"{'  memory of a process that does that':<58}{memory.stdout.strip():>10} MB at most, with Python and NumPy")


def replace_days(crop: Crop, n: int) -> Crop:
    """A crop with figures nobody asked about before."""
    values = {**crop.model_dump(), "days": {"direct": (25, 31 + n)}}
    return Crop.model_validate(values, context={"mm": True})


def plain_loop(crop: Crop, conditions: Conditions, days: list[date]) -> int:
    """The same question day by day in plain Python, without frost, heat and school: up, then ripe."""
    shares = emergence.rates(crop, conditions.soil_c).tolist()
    warmth = np.diff(conditions.warmth(crop)).tolist()
    need, ripe = needs(crop, "direct"), 0
    for day in days:
        for at in conditions.starts[day.month * 100 + day.day].tolist():
            up = got = 0.0
            here = at
            while 0 <= here < conditions.days and up < 1:
                up += shares[here]
                here += 1
            while 0 <= here < conditions.days and got < need:
                got += warmth[here]
                here += 1
            ripe += got >= need
    return ripe


def lists(addresses: postgres.Addresses) -> None:
    """What fits a bed, and what to sow this month, in the demo: warm, and with weather not seen before."""
    database = Database(addresses.app, max_size=1)
    database.open()
    with database.school(NORTH) as connection:
        school = context.load(connection)
        bed = garden.bed(connection, bed_id("Bed 4"))
        day = date(2027, 4, 14)

        def fits(with_weather: context.Context) -> None:
            space = shortlist.space_of(connection, with_weather, bed, [(0, 3)], day, until=None, today=day)
            shortlist.for_space(with_weather, bed, space, day)

        assert school.record is not None
        climate = school.record.climate
        row("what fits a bed, all crops", timed(lambda: fits(school)), "asked again")
        row("the same", timed(lambda: fits(replace(school, record=Record(climate))), rounds=3), "cold")
        ends, beds = date(2027, 4, 30), garden.beds(connection)

        def month(sowable: Callable[[], Sequence[Sowable]]) -> None:
            spaces = shortlist.free_spaces(connection, school, day, today=day, beds=beds)
            for item in sowable():
                places_for(item.fit, spaces, "us")

        for words, sowable in (
            ("asked again", lambda: shortlist.to_sow(school, day, ends, school.setting).sowable),
            ("not asked before, on weather seen before", lambda: to_sow(school.crops, day, ends, school.setting)),
        ):
            row("what to sow this month, all crops, and in which beds", timed(partial(month, sowable)), words)
    database.close()


def large_year(addresses: postgres.Addresses) -> None:
    """Year of a school with 60 beds and 400 plantings, from request to answer on loopback."""
    database = Database(addresses.app, max_size=1)
    database.open()
    with database.school(NORTH) as connection:
        school = context.load(connection)
        today, first = date(2026, 9, 1), garden.bed(connection, bed_id("Bed 4"))
        beds = garden.beds(connection)
        for n in range(BEDS - len(beds)):
            garden.save_bed(
                connection, NORTH, replace(first, id=uuid4(), name=f"Plot {n + 1}", x_mm=20_000.0 + n, y_mm=50_000.0)
            )
        plots = [bed for bed in garden.beds(connection) if bed.name.startswith("Plot")]
        keys = ["radish", "lettuce", "spinach", "beet", "carrot", "pea", "kale", "onion", "chard", "turnip"]
        there = len([p for p in garden.plantings(connection) if p.dates and p.dates.clear_by >= date(2026, 8, 26)])
        for n in range(max(0, PLANTINGS - there)):
            bed, crop = plots[n % len(plots)], school.crops[keys[n % len(keys)]]
            cell = bed.grid().cells[(n // len(plots)) % len(bed.grid().cells)]
            start = date(2026, 9, 7) + timedelta(days=5 * (n % 40))
            wish = Paint(cell_name(cell), crop.key, crop.methods[0], start, True)
            painting.paint(connection, school, bed.id, wish, Actor(None, today))
    database.close()
    for base in serve(addresses):
        with httpx2.Client(base_url=base, follow_redirects=True) as client:
            token = client.get("/login").text.split('name="form_token" value="')[1].split('"')[0]
            client.post("/login", data={"form_token": token, "login": "educator", "password": load.PASSWORD})
            for name, path in (
                ("Year, 60 beds, 400 plantings", "/year"),
                ("the same, one term", "/year?term=3"),
                ("finder of a crop", "/year/finder?crop=carrot"),
            ):
                times = []
                for _ in range(ROUNDS):
                    began = time.perf_counter()
                    answer = client.get(path)
                    times.append(time.perf_counter() - began)
                    assert answer.status_code == 200, path
                words = answer.text.split('class="second">')[1].split("<")[0]
                row(name, statistics.median(times[3:]), f"worst {1000 * max(times[3:]):.0f} ms; {words}")
