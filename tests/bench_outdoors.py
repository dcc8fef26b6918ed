"""Measured: sharing out a year of jobs over the lessons of a large school, and a pack of PDFs. Run by `./almanaque bench`."""

import re
from datetime import date, time, timedelta
from uuid import UUID

import httpx2
import numpy as np

from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.core.week.job_matching import Job, match
from almanaque.core.week.jobs import Load, assign
from almanaque.core.year.steps import Step
from almanaque.demo import load
from almanaque.formats import pdf
from almanaque.host.postgres import Addresses
from almanaque.store.db import Database
from almanaque.worker import pdfs
from tests.bench_fit import row, timed
from tests.browser.conftest import serve
from tests.database import NORTH, bed_id

FIRST, LAST = date(2026, 8, 31), date(2027, 6, 18)
GROUPS, BEDS, JOBS = 30, 60, 3200  # about eight jobs for each of 400 plantings


def jobs() -> None:
    """60 beds, 30 groups, a year: all jobs at once, beside giving each in turn to the least busy lesson."""
    random = np.random.default_rng(4)
    names = {str(n): f"Group {n}" for n in range(GROUPS)}
    year = SchoolYear("year", FIRST, LAST, (Span("all of it", FIRST, LAST, "term"),), ())
    calendar = Calendar([year], [Slot(str(n), n % 5, time(8 + n // 5, 0), 45) for n in range(GROUPS)])
    wanted = []
    for n in range(JOBS):
        start = FIRST + timedelta(days=int(random.integers(0, 280)))
        minutes = int(random.choice([5, 10, 15, 20, 25, 30]))
        bed = n % BEDS
        wanted.append(
            Job(str(n), start, start + timedelta(days=int(random.integers(3, 14))), minutes, str(bed % GROUPS))
        )
    steps = [Step("job", 1, "Job", job.from_day, job.to_day, job.minutes) for job in wanted]

    def in_turn() -> int:
        load = Load()
        return sum(
            given.group_id is not None
            for step, job in zip(steps, wanted, strict=True)
            for given in assign([step], calendar, adopted_by=job.adopted_by, names=names, load=load)
        )

    found = match(wanted, calendar, names=names)
    done = sum(m.lesson is not None for m in found)
    own = sum(m.lesson is not None and m.lesson.group_id == m.job.adopted_by for m in found)
    took, plain = timed(lambda: match(wanted, calendar, names=names), rounds=3), timed(in_turn, rounds=3)
    row(
        "sharing out a year of jobs, 60 beds, 30 groups",
        took,
        (
            f"{took / plain:.1f} times one after the other ({1000 * plain:.0f} ms); "
            f"{done} of {JOBS} have a lesson ({in_turn()}), {own} their own class"
        ),
    )


def pack(addresses: Addresses) -> None:
    """Run sheet, mats, labels and sums of four beds as one PDF, from asking to the file, beside an empty page as a PDF."""
    database = Database(addresses.app, max_size=2)
    database.open()
    for base in serve(addresses):
        with httpx2.Client(base_url=base, follow_redirects=True) as client:
            field = re.compile(r'name="form_token" value="([^"]+)"')
            token = field.findall(client.get("/login").text)[0]
            client.post("/login", data={"form_token": token, "login": "educator", "password": load.PASSWORD})
            token = field.findall(client.get("/account").text)[0]
            data = {
                "form_token": token,
                "beds": [str(bed_id(f"Bed {n}")) for n in (4, 5, 6, 7)],
                "parts": ["run", "mats", "labels", "sums"],
                "paper": "letter",
                "on": "",
            }

            def make(client: httpx2.Client = client, data: dict[str, object] = data) -> None:
                asked = client.post("/garden/prints", data=data)
                pdfs.make(database, NORTH, UUID(asked.url.path.rsplit("/", 1)[1]))
                assert client.get(f"{asked.url.path}.pdf").status_code == 200

            took, empty = timed(make, rounds=3), timed(lambda: pdf.make("<p>.", static=pdfs.STATIC), rounds=3)
            row(
                "a pack of PDFs for four beds",
                took,
                f"{took / empty:.0f} times an empty page as a PDF ({1000 * empty:.0f} ms)",
            )
    database.close()
