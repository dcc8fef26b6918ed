"""Server times beside a baseline of the same run: `./almanaque bench`.

The baseline is an empty page with one trivial query. Requests go in turns, so that a machine whose speed drifts treats
all alike; medians and ratios are what to quote.
"""

import csv
import os
import platform
import statistics
import sys
import time
from collections.abc import Callable
from datetime import date, timedelta
from typing import Any

import httpx2
import icalendar
import numpy as np
from psycopg import Connection

from almanaque.commands import context
from almanaque.core.crops.crop import Crop
from almanaque.core.growth import school_fit
from almanaque.core.place import readings, shade
from almanaque.core.place.climate import Climate
from almanaque.core.school import calendar_reading
from almanaque.core.school.school_year import Calendar
from almanaque.demo import load
from almanaque.formats.place import weather_csv
from almanaque.formats.school import ical_in
from almanaque.host import postgres
from almanaque.store.db import Database
from almanaque.store.place import weather
from tests import bench_book, bench_drawing, bench_fit, bench_outdoors, bench_planner, bench_portraits
from tests.browser.conftest import serve
from tests.database import DEMO, NORTH, bed_id, enter_cluster, fresh_copy, leave_cluster

ROUNDS, WARM_UP = 60, 8
BED_3 = f"/garden/beds/{bed_id('Bed 3')}"
BED_6 = f"/garden/beds/{bed_id('Bed 6')}"
PAGES = (
    ("empty page, one trivial query", "/empty"),
    ("Week", "/week"),
    ("bed sheet", BED_3),
    ("bed sheet, count and verdict alone", f"{BED_3}/choice?crop=radish&squares=D3-H4&only=preview"),
    ("bed sheet, what a command answers", f"{BED_3}/news?version=0"),
    ("the same with over 1,000 plants", f"{BED_6}/news?version=0"),
    ("bed sheet, hours of sun", f"{BED_3}?show=sun"),
    ("Garden", "/garden"),
    ("Garden, hours of sun", "/garden?show=sun"),
    ("Garden, plants as they look", "/garden?show=looks"),
    ("the year that is played", "/garden/year.json"),
    ("drafts of a bed side by side", f"/garden/drafts/compare?bed={bed_id('Bed 2')}"),
    ("what the season needs", "/garden/needs"),
    ("Year", "/year"),
    ("Journal", "/journal"),
    ("Journal, searched", "/journal?search=carrot"),
    ("the phone's snapshot", "/field/snapshot"),
    ("Stations", "/week/stations"),
    ("Harvest", "/harvest"),
    ("the book", "/harvest/book"),
    ("the seed box", "/seeds/box"),
    ("Turn of the year", "/school/turn"),
    ("Open formats", "/school/formats"),
    ("School, calendar", "/school"),
    ("School, the year of this place", "/school/climate"),
    ("a private calendar address", ""),
)


def main() -> int:
    cluster = enter_cluster()
    print(
        f"machine: {processor()}, {os.cpu_count()} cores, Python {platform.python_version()}, PostgreSQL {cluster.home.name[2:]}"
    )
    for addresses in fresh_copy(cluster, DEMO):
        for base in serve(addresses):
            pages(base)
        rules(addresses)
        files_and_calendar(addresses)
        bench_fit.lists(addresses)
        bench_fit.large_year(addresses)
        bench_outdoors.pack(addresses)
    for addresses in fresh_copy(cluster, DEMO):
        bench_book.book(addresses)
    for addresses in fresh_copy(cluster, DEMO):
        bench_drawing.first_paint(addresses)
        bench_drawing.strokes(addresses)
        bench_portraits.played(addresses)
    sun()
    bench_fit.growth()
    bench_outdoors.jobs()
    bench_planner.sizes()
    bench_portraits.drawings()
    leave_cluster()
    return 0


def pages(base: str) -> None:
    """Each page's time from request to answer on loopback, gzip included."""
    with httpx2.Client(base_url=base, follow_redirects=True) as client:
        form = client.get("/login").text
        token = form.split('name="form_token" value="')[1].split('"')[0]
        client.post("/login", data={"form_token": token, "login": "educator", "password": load.PASSWORD})
        feed = private_address(client)
        crowd(client)
        times: dict[str, list[float]] = {name: [] for name, _ in PAGES}
        for turn in range(ROUNDS + WARM_UP):
            for name, path in PAGES:
                began = time.perf_counter()
                answer = client.get(path or feed)
                took = time.perf_counter() - began
                assert answer.status_code == 200, path
                if turn >= WARM_UP:
                    times[name].append(took)
    baseline = statistics.median(times[PAGES[0][0]])
    print(f"{'page':<38}{'median ms':>10}{'worst ms':>10}{'times the baseline':>20}")
    for name, _ in PAGES:
        middle = statistics.median(times[name])
        print(f"{name:<38}{1000 * middle:>10.1f}{1000 * max(times[name]):>10.1f}{middle / baseline:>20.1f}")


def crowd(client: httpx2.Client) -> None:
    """More than a thousand plants on one bed, as an educator pencils them in."""
    token = client.get("/schools").text.split('name="form_token" value="')[1].split('"')[0]
    wish = {
        "form_token": token,
        "command": "pencil",
        "squares": "A3-L4 I1-L2",
        "crop": "carrot",
        "method": "direct",
        "start_on": "2027-04-20",
        "per_square": "36",
    }
    assert "1,152 plants" in client.post(BED_6, data=wish).text


def private_address(client: httpx2.Client) -> str:
    """An address of the calendar, made as an educator makes one."""
    token = client.get("/schools").text.split('name="form_token" value="')[1].split('"')[0]
    page = client.post("/school/feeds", data={"form_token": token, "label": "bench", "what": "both"}).text
    return "/feeds/" + page.split("/feeds/")[1].split('"')[0]


def files_and_calendar(addresses: postgres.Addresses) -> None:
    """Bringing files in and asking the calendar, each beside the least that could be done with the same input."""
    events = "".join(
        (
            f"BEGIN:VEVENT\r\nUID:{n}\r\nSUMMARY:{'No school' if n % 9 == 0 else 'Band'} "
            f"{n}\r\nDTSTART;VALUE=DATE:{date(2026, 9, 1) + timedelta(days=n % 280):%Y%m%d}\r\nEND:VEVENT\r\n"
        )
        for n in range(500)
    )
    ics = f"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n{events}END:VCALENDAR\r\n".encode()

    def read_calendar() -> None:
        calendar_reading.read(
            ical_in.read(ics, "x.ics", zone="America/New_York", start=date(2026, 1, 1), end=date(2028, 1, 1))
        )

    row(
        "an .ics of 500 events, read and recognised",
        timed(read_calendar),
        timed(lambda: icalendar.Calendar.from_ical(ics)),
        "the library's parsing alone",
    )
    table = "date,tmin,tmax,precip\n" + "".join(
        f"{date(1986, 1, 1) + timedelta(days=n)},{n % 20 - 8},{n % 20 + 4},{n % 5}\n" for n in range(14_610)
    )
    body = table.encode()

    def read_weather() -> readings.Checked:
        return readings.check(weather_csv.split(body, "w.csv", us=False).readings()[0], today=date(2027, 1, 1))

    row(
        "40 years of weather, read and checked",
        timed(read_weather),
        timed(lambda: list(csv.reader(table.splitlines()))),
        "csv.reader alone",
    )
    kept = read_weather().readings
    database = Database(addresses.app, max_size=1)
    database.open()

    def store(how: Callable[[Connection[Any]], object]) -> Callable[[], None]:
        def work() -> None:
            try:
                with database.school(NORTH) as connection:
                    weather.save_source(connection, NORTH, "bench", "region")
                    how(connection)
                    raise Undo
            except Undo:
                pass

        return work

    def one_by_one(connection: Connection[Any]) -> None:
        connection.cursor().executemany(
            "INSERT INTO weather_day (school_id, source, day, tmin_c, tmax_c, rain_mm) VALUES (%s, 'bench', %s, %s, %s, %s)",
            [(NORTH, r.day, r.tmin_c, r.tmax_c, r.rain_mm) for r in kept],
        )

    row(
        "40 years of weather, stored by COPY",
        timed(store(lambda c: weather.copy_in(c, NORTH, "bench", kept))),
        timed(store(one_by_one)),
        "the same rows by INSERT",
    )
    with database.school(NORTH) as connection:
        school = context.load(connection)
    database.close()
    columns = np.array([[r.tmin_c, r.tmax_c, r.rain_mm] for r in kept], dtype=float).T

    def climate() -> None:
        made = Climate(kept[0].day, *columns, latitude=42.9)
        made.freezes()
        _ = made.months, made.bands

    row(
        "freezes, normals and bands of 40 years",
        timed(climate),
        timed(lambda: np.sort(columns, axis=1)),
        "sorting the readings",
    )
    years, slots = tuple(school.calendar.years), school.calendar.slots
    days = [date(2026, 8, 26) + timedelta(days=n) for n in range(364)]

    def ask() -> None:
        for day in days:
            school.calendar.in_session(day)
            school.calendar.school_days_left(day)
            school.calendar.next_break(day)
            school.calendar.week_number(day)

    plain = set(years[0].school_days)
    row(
        "four questions on each of 364 days",
        timed(ask),
        timed(lambda: [day in plain for day in days]),
        "364 look-ups in a set",
    )
    row(
        "a calendar of four years made anew",
        timed(lambda: Calendar(years, slots).next_break(days[0])),
        timed(lambda: [d.weekday() for d in days * 4]),
        "1,456 weekdays",
    )


def sun() -> None:
    """A year's hours of sun on 12 beds of 32 squares, with little around them and with a grown garden."""
    random = np.random.default_rng(5)
    points = random.uniform(0, 20_000, (12 * 32, 2))
    days = [date(2027, month, 15) for month in range(1, 13)]
    crowns = [
        shade.round_body(
            *random.uniform(0, 20_000, 2), 1200, top_mm=5000, base_mm=800, months_bare=frozenset({12, 1, 2})
        )
        for _ in range(5)
    ]
    corners = random.uniform(0, 20_000, (5, 2))
    walls = [shade.body([(x, y), (x + 4000, y), (x + 4000, y + 900), (x, y + 900)], top_mm=2600) for x, y in corners]
    grown = [shade.round_body(*random.uniform(0, 20_000, 2), 250, top_mm=1500) for _ in range(60)]
    for what, around in (("10 bodies", crowns + walls), ("70 bodies", crowns + walls + grown)):
        row(
            f"sun of 384 squares, 12 days, {what}",
            timed(lambda a=around: shade.hours_of_sun(points, days, a, latitude=42.4)),
            timed(lambda: shade.hours_of_sun(points, days, [], latitude=42.4)),
            "nothing around",
        )


class Undo(Exception):
    """Nothing the bench writes is kept."""


def row(name: str, took: float, baseline: float, words: str) -> None:
    print(
        f"{name:<42}{1000 * took:>10.1f}{'':>6}{took / baseline:>20.1f}  (baseline: {words}, {1000 * baseline:.1f} ms)"
    )


def rules(addresses: postgres.Addresses) -> None:
    """Rules without a page: a year of candidate days judged one by one, against counting to the same number of days."""
    database = Database(addresses.app, max_size=1)
    database.open()
    with database.school(NORTH) as connection:
        school = context.load(connection)
    database.close()
    crop: Crop = school.crops["radish"]
    days = [date(2026, 8, 26) + timedelta(days=n) for n in range(364)]

    def judge_all() -> None:
        for day in days:
            school_fit.judge(crop, "direct", day, school.setting)

    def count_all() -> None:
        for day in days:
            school.calendar.school_days_between(day, days[-1])

    judged, counted = timed(judge_all), timed(count_all)
    print(
        f"{'a verdict, 364 candidate days':<38}{1000 * judged:>10.1f}{'':>10}{judged / counted:>20.1f} "
        f" (baseline: 364 counts of school days)"
    )


def timed(work: Callable[[], None]) -> float:
    """Median of five runs [s] after one that is not counted."""
    work()
    runs = []
    for _ in range(5):
        began = time.perf_counter()
        work()
        runs.append(time.perf_counter() - began)
    return statistics.median(runs)


def processor() -> str:
    try:
        with open("/proc/cpuinfo", encoding="utf-8") as file:
            return next(line.split(":", 1)[1].strip() for line in file if line.startswith("model name"))
    except (OSError, StopIteration):
        return platform.processor() or platform.machine()


if __name__ == "__main__":
    sys.exit(main())
