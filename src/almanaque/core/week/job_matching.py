"""Sharing jobs out over lessons, all at once: as many as can be done, the bed's own class first, then fairly.

A lesson holds so many minutes. A job that finds its lessons full may push others on to a later or another class's lesson, as
long as each of them still has one: so that nothing is left over that could have been done.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import date

from almanaque.core.school.school_year import Calendar, Lesson

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
    able: frozenset[str] | None = None  # the classes that can do it; None for all
    lapses: bool = False  # tending, which takes what time the others leave


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
    for some in ([job for job in free if not job.lapses], [job for job in free if job.lapses]):
        # Those with the least choice first; of those alike the earlier and the longer.
        some.sort(key=lambda job: (len(table.choice(job)), job.to_day, -job.minutes, job.key))
        left = [job for job in some if not (job.adopted_by and table.place(job, own=True))]
        for job in sorted(left, key=lambda job: (len(table.choice(job)), job.to_day, -job.minutes, job.key)):
            table.place(job, own=False)
    return [
        Match(job, fixed[job.key], False, "Somebody chose this lesson.")
        if job.fixed
        else _explained(job, table, calendar, names)
        for job in wanted
    ]


def _explained(job: Job, table: "_Table", calendar: Calendar, names: Mapping[str, str]) -> Match:
    lesson = table.lesson_of(job)
    if lesson is None:
        if calendar.days_here_between(job.from_day, job.to_day) == 0:
            return Match(job, None, True, "No school in those days: a carer is wanted.")
        who = "class that can do it has a lesson" if job.able is not None else "lesson"
        return Match(job, None, False, f"No {who} with time left in those days: nobody has it yet.")
    name = names.get(lesson.group_id, "This class")
    if lesson.group_id == job.adopted_by:
        return Match(job, lesson, False, f"{name} adopted this bed.")
    if table.choice(job, own=True):
        return Match(job, lesson, False, f"{name} has time; the bed's own class is full.")
    return Match(job, lesson, False, f"{name} has the most time free in those days.")


class _Table:
    """Lessons, by number, with the jobs in them and the minutes that are left."""

    def __init__(self, calendar: Calendar) -> None:
        self._calendar = calendar
        self._numbers: dict[Lesson, int] = {}
        self._lessons: list[Lesson] = []
        self._left: list[int] = []
        self._inside: list[list[Job]] = []
        self._windows: dict[tuple[date, date], list[int]] = {}
        self._choices: dict[tuple[str, bool], list[int]] = {}
        self._of: dict[str, int] = {}

    def lesson_of(self, job: Job) -> Lesson | None:
        number = self._of.get(job.key)
        return None if number is None else self._lessons[number]

    def choice(self, job: Job, *, own: bool = False) -> list[int]:
        """The lessons in a job's window that are long enough for it, of any class or of its bed's own, in order of time."""
        key = (job.key, own)
        if key not in self._choices:
            window = (job.from_day, job.to_day)
            if window not in self._windows:
                self._windows[window] = [self._number(lesson) for lesson in self._calendar.lessons(*window)]
            self._choices[key] = [
                number
                for number in self._windows[window]
                if self._lessons[number].minutes >= job.minutes
                and (job.able is None or self._lessons[number].group_id in job.able)
                and (not own or self._lessons[number].group_id == job.adopted_by)
            ]
        return self._choices[key]

    def fix(self, job: Job) -> Lesson | None:
        """Let a job take its minutes where somebody put it, also beyond what the lesson holds; None outside any lesson."""
        assert job.fixed is not None
        day, group_id = job.fixed
        lesson = next(iter(self._calendar.lessons(day, day, group_id=group_id)), None)
        if lesson is not None:
            self._left[self._number(lesson)] -= job.minutes
        return lesson

    def place(self, job: Job, *, own: bool) -> bool:
        """Find a job a lesson, of its bed's own class only or of any, pushing others on if need be."""
        return self._place(job, own, frozenset(), set())

    def _place(self, job: Job, own: bool, path: frozenset[int], seen: set[int]) -> bool:
        """`path` are the lessons that are being cleared for others, `seen` those that were tried for this one's sake."""
        left, choice = self._left, self.choice(job, own=own)
        free = [number for number in choice if left[number] >= job.minutes and number not in path]
        if free:  # the least busy, then the first of them
            self._put(job, min(free, key=self._used))
            return True
        for number in sorted(choice, key=self._used):
            if number not in seen and number not in path and len(seen) < TRIED:
                seen.add(number)
                if self._push(job, number, path | {number}, seen):
                    return True
        return False

    def _push(self, job: Job, number: int, path: frozenset[int], seen: set[int]) -> bool:
        """Make room for a job in a full lesson by finding one of those in it another lesson of the same kind."""
        for other in sorted(self._inside[number], key=lambda o: (o.minutes, o.key)):
            if self._left[number] + other.minutes < job.minutes:
                continue
            # Work that a class does in its own bed is not handed to another.
            own = other.adopted_by is not None and self._lessons[number].group_id == other.adopted_by
            self._take(other)
            if self._place(other, own, path, seen):
                self._put(job, number)
                return True
            self._put(other, number)
        return False

    def _number(self, lesson: Lesson) -> int:
        if lesson not in self._numbers:
            self._numbers[lesson] = len(self._lessons)
            self._lessons.append(lesson)
            self._left.append(lesson.minutes)
            self._inside.append([])
        return self._numbers[lesson]

    def _used(self, number: int) -> int:
        return self._lessons[number].minutes - self._left[number]

    def _put(self, job: Job, number: int) -> None:
        self._left[number] -= job.minutes
        self._inside[number].append(job)
        self._of[job.key] = number

    def _take(self, job: Job) -> None:
        number = self._of.pop(job.key)
        self._left[number] += job.minutes
        self._inside[number].remove(job)
