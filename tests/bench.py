"""Server times beside a baseline of the same run: `./almanaque bench`.

The baseline is an empty page with one trivial query. Requests go in turns, so that a machine whose speed drifts treats
all alike; medians and ratios are what to quote.
"""

import os
import platform
import statistics
import sys
import time
from collections.abc import Callable
from datetime import date, timedelta

import httpx2

from almanaque.core import fit
from almanaque.core.crops import Crop
from almanaque.demo import load
from almanaque.host import postgres
from almanaque.store.db import Database
from tests.browser.conftest import serve
from tests.database import DEMO, NORTH, _prepare, bed_id, fresh_copy, test_cluster

ROUNDS, WARM_UP = 60, 8
BED_3 = f"/garden/beds/{bed_id('Bed 3')}"
PAGES = (
    ("empty page, one trivial query", "/healthz"),
    ("Week", "/week"),
    ("bed sheet", BED_3),
    ("bed sheet, count and verdict alone", f"{BED_3}/choice?crop=radish&squares=D3-H4&only=preview"),
    ("Garden", "/garden"),
    ("Year", "/year"),
    ("Harvest", "/harvest"),
)


def main() -> int:
    cluster = test_cluster()
    _prepare(cluster, f"bench {os.getpid()}")
    print(
        f"machine: {processor()}, {os.cpu_count()} cores, Python {platform.python_version()}, PostgreSQL {cluster.home.name[2:]}"
    )
    for addresses in fresh_copy(cluster, DEMO):
        for base in serve(addresses.app):
            pages(base)
        rules(addresses)
    cluster.stop()
    return 0


def pages(base: str) -> None:
    """Each page's time from request to answer on loopback, gzip included."""
    with httpx2.Client(base_url=base, follow_redirects=True) as client:
        form = client.get("/login").text
        token = form.split('name="form_token" value="')[1].split('"')[0]
        client.post("/login", data={"form_token": token, "login": "educator", "password": load.PASSWORD})
        times: dict[str, list[float]] = {name: [] for name, _ in PAGES}
        for turn in range(ROUNDS + WARM_UP):
            for name, path in PAGES:
                began = time.perf_counter()
                answer = client.get(path)
                took = time.perf_counter() - began
                assert answer.status_code == 200, path
                if turn >= WARM_UP:
                    times[name].append(took)
    baseline = statistics.median(times[PAGES[0][0]])
    print(f"{'page':<38}{'median ms':>10}{'worst ms':>10}{'times the baseline':>20}")
    for name, _ in PAGES:
        middle = statistics.median(times[name])
        print(f"{name:<38}{1000 * middle:>10.1f}{1000 * max(times[name]):>10.1f}{middle / baseline:>20.1f}")


def rules(addresses: postgres.Addresses) -> None:
    """Rules without a page: a year of candidate days judged one by one, against counting to the same number of days."""
    from almanaque.commands import context

    database = Database(addresses.app, max_size=1)
    database.open()
    with database.school(NORTH) as connection:
        school = context.load(connection)
    database.close()
    crop: Crop = school.crops["radish"]
    days = [date(2026, 8, 26) + timedelta(days=n) for n in range(364)]

    def judge_all() -> None:
        for day in days:
            fit.judge(crop, "direct", day, school.setting)

    def count_all() -> None:
        for day in days:
            school.calendar.school_days_between(day, days[-1])

    judged, counted = timed(judge_all), timed(count_all)
    print(
        f"{'a verdict, 364 candidate days':<38}{1000 * judged:>10.1f}{'':>10}{judged / counted:>20.1f}  (baseline: 364 counts of school days)"
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
