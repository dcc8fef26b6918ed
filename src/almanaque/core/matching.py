"""Sharing jobs out over lessons, all at once: as many as can be done, the bed's own class first, then fairly.

A lesson holds so many minutes. A job that finds its lessons full may push others on to a later or another class's lesson, as
long as each of them still has one: so that nothing is left over that could have been done.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.school_year import Calendar, Lesson

TRIED = 60  # lessons that are tried for the sake of one job: our own rule; more is hardly ever of use


@dataclass(frozen=True)
class Job:
    """A job with the days in which it may be done and the class whose bed it is in, if any.

    `fixed` is a lesson's (day, class) that somebody chose: the job stays there and takes its minutes.
    """

    key: str
    from_day: date
    to_day: date
    minutes: int
    adopted_by: str | None = None
    fixed: tuple[date, str] | None = None


@dataclass(frozen=True)
class Match:
    """A job's lesson, and why that one; without a lesson a carer is wanted where no child is at school, else nobody has it."""

    job: Job
    lesson: Lesson | None
    carer: bool
    why: str


def match(jobs: Iterable[Job], calendar: Calendar, *, names: Mapping[str, str]) -> list[Match]:
    """Give every job a lesson, in the order of the jobs given.

    `names` maps group ids to the names used in the explanation. A fixed job keeps its place and says so.
    **Source:** our own rules; jobs with the fewest lessons choose first, later ones push earlier ones on (Kuhn's augmenting
    paths, with minutes instead of single places).
    """
    wanted = list(jobs)
    table = _Table(calendar)
    fixed = {job.key: table.fix(job) for job in wanted if job.fixed}
    free = [job for job in wanted if not job.fixed]
    # Those with the least choice first; of those alike the earlier and the longer.
    free.sort(key=lambda job: (len(table.lessons(job)), job.to_day, -job.minutes, job.key))
    left = [job for job in free if not (job.adopted_by and table.place(job, own=True))]
    for job in sorted(left, key=lambda job: (len(table.lessons(job)), job.to_day, -job.minutes, job.key)):
        table.place(job, own=False)
    return [
        Match(job, fixed[job.key], False, "Somebody chose this lesson.")
        if job.fixed
        else _explained(job, table, calendar, names)
        for job in wanted
    ]


def _explained(job: Job, table: "_Table", calendar: Calendar, names: Mapping[str, str]) -> Match:
    lesson = table.of.get(job.key)
    if lesson is None:
        if calendar.days_here_between(job.from_day, job.to_day) == 0:
            return Match(job, None, True, "No school in those days: a carer is wanted.")
        return Match(job, None, False, "No lesson with time left in those days: nobody has it yet.")
    name = names.get(lesson.group_id, "This class")
    if lesson.group_id == job.adopted_by:
        return Match(job, lesson, False, f"{name} adopted this bed.")
    if any(other.group_id == job.adopted_by for other in table.lessons(job)):
        return Match(job, lesson, False, f"{name} has time; the bed's own class is full.")
    return Match(job, lesson, False, f"{name} has the most time free in those days.")


class _Table:
    """Lessons with the jobs in them and the minutes that are left."""

    def __init__(self, calendar: Calendar) -> None:
        self._calendar = calendar
        self._windows: dict[tuple[date, date], list[Lesson]] = {}
        self._left: dict[Lesson, int] = {}
        self._inside: dict[Lesson, list[Job]] = {}
        self.of: dict[str, Lesson] = {}

    def lessons(self, job: Job) -> list[Lesson]:
        """The lessons in a job's window that are long enough for it."""
        window = (job.from_day, job.to_day)
        if window not in self._windows:
            self._windows[window] = self._calendar.lessons(*window)
        return [lesson for lesson in self._windows[window] if lesson.minutes >= job.minutes]

    def fix(self, job: Job) -> Lesson | None:
        """Let a job take its minutes where somebody put it, also beyond what the lesson holds; None outside any lesson."""
        assert job.fixed is not None
        day, group_id = job.fixed
        lesson = next(iter(self._calendar.lessons(day, day, group_id=group_id)), None)
        if lesson is not None:
            self._left[lesson] = self._room(lesson) - job.minutes
        return lesson

    def place(self, job: Job, *, own: bool) -> bool:
        """Find a job a lesson, of its bed's own class only or of any, pushing others on if need be."""
        return self._place(job, own, frozenset(), set())

    def _place(self, job: Job, own: bool, path: frozenset[Lesson], seen: set[Lesson]) -> bool:
        """`path` are the lessons that are being cleared for others, `seen` those that were tried for this one's sake."""
        choice = [
            lesson for lesson in self.lessons(job)
            if lesson not in path and (not own or lesson.group_id == job.adopted_by)
        ]  # fmt: skip
        choice.sort(key=lambda lesson: (self._used(lesson), lesson.day, lesson.starts_at, lesson.group_id))
        for lesson in choice:
            if self._room(lesson) >= job.minutes:
                self._put(job, lesson)
                return True
        for lesson in choice:
            if lesson not in seen and len(seen) < TRIED:
                seen.add(lesson)
                if self._push(job, lesson, path | {lesson}, seen):
                    return True
        return False

    def _push(self, job: Job, lesson: Lesson, path: frozenset[Lesson], seen: set[Lesson]) -> bool:
        """Make room for a job in a full lesson by finding one of those in it another lesson of the same kind."""
        for other in sorted(self._inside.get(lesson, ()), key=lambda o: (o.minutes, o.key)):
            if self._room(lesson) + other.minutes < job.minutes:
                continue
            self._take(other)
            if self._place(other, self._is_own(other, lesson), path, seen):
                self._put(job, lesson)
                return True
            self._put(other, lesson)
        return False

    def _is_own(self, job: Job, lesson: Lesson) -> bool:
        """Work that a class does in its own bed is not handed to another."""
        return job.adopted_by is not None and lesson.group_id == job.adopted_by

    def _room(self, lesson: Lesson) -> int:
        return self._left.get(lesson, lesson.minutes)

    def _used(self, lesson: Lesson) -> int:
        return lesson.minutes - self._room(lesson)

    def _put(self, job: Job, lesson: Lesson) -> None:
        self._left[lesson] = self._room(lesson) - job.minutes
        self._inside.setdefault(lesson, []).append(job)
        self.of[job.key] = lesson

    def _take(self, job: Job) -> None:
        lesson = self.of.pop(job.key)
        self._left[lesson] = self._room(lesson) + job.minutes
        self._inside[lesson].remove(job)


def loads(found: Sequence[Match]) -> dict[str, int]:
    """Minutes of work that each class has been given."""
    given: dict[str, int] = {}
    for item in found:
        if item.lesson is not None:
            given[item.lesson.group_id] = given.get(item.lesson.group_id, 0) + item.job.minutes
    return given
