"""Measured: sharing out a year of jobs over the lessons of a large school. Run by `./almanaque bench`."""

from datetime import date, time, timedelta

import numpy as np

from almanaque.core.matching import Job, match
from almanaque.core.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.core.steps import Step
from almanaque.core.tasks import Load, assign
from tests.bench_fit import row, timed

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
    row("sharing out a year of jobs, 60 beds, 30 groups", took,
        f"{took / plain:.1f} times one after the other ({1000 * plain:.0f} ms); {done} of {JOBS} have a lesson ({in_turn()}), {own} their own class")  # fmt: skip
