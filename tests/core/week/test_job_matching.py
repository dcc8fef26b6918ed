"""Jobs shared out over lessons: as many as can be, the own class first, nothing dropped, what is set stays."""

from datetime import date, time, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import LinearConstraint, linear_sum_assignment, milp
from scipy.sparse import lil_matrix

from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.core.week.job_matching import Job, Match, match

D = date.fromisoformat
MONDAY = D("2027-04-05")
YEAR = SchoolYear("y", D("2026-08-26"), D("2027-08-24"), (Span("t", D("2026-08-26"), D("2027-06-16")),), ())
NAMES = {"a": "Grade 2", "b": "Grade 5", "c": "Grade 1"}


def calendar(*slots: tuple[str, int, int]) -> Calendar:
    """Slots as (class, weekday, minutes)."""
    return Calendar(
        [YEAR], [Slot(group, weekday, time(9 + n, 0), minutes) for n, (group, weekday, minutes) in enumerate(slots)]
    )


def job(key: str, minutes: int = 20, days: tuple[int, int] = (0, 4), **more: object) -> Job:
    return Job(key, MONDAY + timedelta(days=days[0]), MONDAY + timedelta(days=days[1]), minutes, **more)  # type: ignore[arg-type]


def loads(found: list[Match]) -> dict[str, int]:
    """Minutes of work that each class has been given."""
    given: dict[str, int] = {}
    for item in found:
        if item.lesson is not None:
            given[item.lesson.group_id] = given.get(item.lesson.group_id, 0) + item.job.minutes
    return given


def where(found: list[Match]) -> dict[str, str | None]:
    return {m.job.key: m.lesson.group_id if m.lesson else None for m in found}


def test_the_bed_s_own_class_comes_first_and_the_reason_says_so() -> None:
    found = match([job("1", adopted_by="b")], calendar(("a", 0, 45), ("b", 4, 45)), names=NAMES)
    assert found[0].lesson is not None
    assert (found[0].lesson.group_id, found[0].why) == ("b", "Grade 5 adopted this bed.")


def test_when_the_own_class_is_full_another_one_helps() -> None:
    found = match(
        [job(str(n), 30, adopted_by="a") for n in range(2)], calendar(("a", 0, 45), ("b", 4, 45)), names=NAMES
    )
    assert sorted(str(v) for v in where(found).values()) == ["a", "b"]
    assert "Grade 5 has time; the bed's own class is full." in [m.why for m in found]


def test_work_is_spread_over_the_classes() -> None:
    found = match([job(str(n), 10) for n in range(12)], calendar(("a", 0, 45), ("b", 2, 45), ("c", 4, 45)), names=NAMES)
    assert loads(found) == {"a": 40, "b": 40, "c": 40}


def test_a_job_that_can_only_be_done_on_one_day_pushes_on_one_that_can_wait() -> None:
    wide, narrow = job("wide", 40, (0, 4)), job("narrow", 40, (0, 0))
    for order in ([wide, narrow], [narrow, wide]):
        found = match(order, calendar(("a", 0, 45), ("b", 3, 45)), names=NAMES)
        assert where(found) == {"wide": "b", "narrow": "a"}


def test_own_work_is_not_handed_on_to_make_room_for_others() -> None:
    mine, other = job("mine", 40, adopted_by="a"), job("other", 40, (0, 0))
    found = match([other, mine], calendar(("a", 0, 45), ("b", 3, 45)), names=NAMES)
    assert where(found) == {"mine": "a", "other": None}


def test_what_somebody_chose_stays_and_takes_its_minutes() -> None:
    fixed = job("fixed", 40, (0, 4), fixed=(MONDAY, "a"))
    found = match([fixed, job("other", 20, adopted_by="a")], calendar(("a", 0, 45), ("b", 3, 45)), names=NAMES)
    assert where(found) == {"fixed": "a", "other": "b"}
    assert found[0].why == "Somebody chose this lesson."


def test_nothing_is_dropped_carers_and_nobody_are_told_apart() -> None:
    found = match([job("full", 60), job("holiday", 20, (100, 104))], calendar(("a", 0, 45)), names=NAMES)
    assert [(m.job.key, m.carer) for m in found] == [("full", False), ("holiday", True)]
    assert "nobody has it yet" in found[0].why
    assert "a carer is wanted" in found[1].why
    assert match([], calendar(("a", 0, 45)), names=NAMES) == []


@st.composite
def cases(draw: st.DrawFn) -> tuple[Calendar, list[Job]]:
    slots = [(draw(st.sampled_from("abc")), draw(st.integers(0, 4)), 30) for _ in range(draw(st.integers(1, 5)))]
    jobs = []
    for number in range(draw(st.integers(1, 12))):
        first = draw(st.integers(0, 9))
        jobs.append(job(str(number), 30, (first, first + draw(st.integers(0, 6)))))
    return calendar(*slots), jobs


@given(cases())
def test_of_jobs_that_fill_a_lesson_as_many_are_done_as_scipy_finds(case: tuple[Calendar, list[Job]]) -> None:
    """Reference: scipy.optimize.linear_sum_assignment on who can do what."""
    days, jobs = case
    lessons = days.lessons(MONDAY, MONDAY + timedelta(days=30))
    can = np.array([[j.from_day <= lesson.day <= j.to_day for lesson in lessons] for j in jobs], dtype=float)
    rows, columns = linear_sum_assignment(can, maximize=True)
    found = match(jobs, days, names=NAMES)
    assert sum(m.lesson is not None for m in found) == int(can[rows, columns].sum())


@settings(max_examples=60)
@given(
    st.lists(
        st.tuples(st.sampled_from([5, 10, 15, 20, 25]), st.integers(0, 9), st.integers(0, 6)), min_size=1, max_size=14
    )
)
def test_of_jobs_of_all_lengths_hardly_more_could_be_done(drawn: list[tuple[int, int, int]]) -> None:
    """Reference: the most minutes of work in all, by integer programming (scipy.optimize.milp, HiGHS)."""
    days = calendar(("a", 0, 45), ("b", 2, 30), ("c", 3, 40))
    jobs = [job(str(n), minutes, (first, first + span)) for n, (minutes, first, span) in enumerate(drawn)]
    lessons = days.lessons(MONDAY, MONDAY + timedelta(days=20))
    found = match(jobs, days, names=NAMES)
    for lesson in lessons:
        inside = [m.job for m in found if m.lesson == lesson]
        assert sum(j.minutes for j in inside) <= lesson.minutes
        assert all(j.from_day <= lesson.day <= j.to_day for j in inside)
    pairs = [
        (j, k)
        for j, one in enumerate(jobs)
        for k, lesson in enumerate(lessons)
        if one.from_day <= lesson.day <= one.to_day
    ]
    if not pairs:
        assert all(m.lesson is None for m in found)
        return
    rules = lil_matrix((len(jobs) + len(lessons), len(pairs)))
    for column, (j, k) in enumerate(pairs):
        rules[j, column] = 1
        rules[len(jobs) + k, column] = jobs[j].minutes
    most = [1] * len(jobs) + [lesson.minutes for lesson in lessons]
    best = milp(
        -np.ones(len(pairs)),
        constraints=LinearConstraint(rules.tocsr(), -np.inf, most),
        integrality=np.ones(len(pairs)),
        bounds=(0, 1),
    )
    assert sum(m.lesson is not None for m in found) >= round(-best.fun) - 1


@pytest.mark.parametrize("seed", [1, 2])
def test_the_same_jobs_in_another_order_are_shared_out_alike(seed: int) -> None:
    days = calendar(("a", 0, 45), ("b", 2, 30), ("c", 3, 40))
    jobs = [job(str(n), 5 + 5 * (n % 4), (n % 5, n % 5 + 6), adopted_by="abc"[n % 3]) for n in range(14)]
    shuffled = [jobs[n] for n in np.random.default_rng(seed).permutation(len(jobs))]
    assert where(match(jobs, days, names=NAMES)) == where(match(shuffled, days, names=NAMES))
