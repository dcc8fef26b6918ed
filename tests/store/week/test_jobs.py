"""Jobs against a real database: set by hand, left to the rules, shared out anew, and told about."""

from datetime import date, timedelta
from uuid import UUID

import pytest

from almanaque.commands.growth import forecasts
from almanaque.commands.week import jobs
from almanaque.commands.week.jobs import JobReport
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from tests.refuses import refuses
from tests.store.year.test_schedule import ACTOR, TODAY, InSchool


def ahead(in_school: InSchool) -> list[Task]:
    return [t for t in tasks.tasks(in_school[0], start=TODAY, status="open") if t.planting_id]


def places(in_school: InSchool) -> dict[UUID, tuple[date | None, UUID | None, bool]]:
    return {t.id: (t.on_day, t.class_group_id, t.carer) for t in ahead(in_school)}


def other_lesson(in_school: InSchool, task: Task) -> tuple[date, UUID]:
    """A lesson that is not the job's own."""
    for lesson in in_school[1].calendar.lessons(TODAY, TODAY + timedelta(days=40)):
        if (lesson.day, UUID(lesson.group_id)) != (task.on_day, task.class_group_id):
            return lesson.day, UUID(lesson.group_id)
    raise AssertionError("the demo has lessons to come")


def test_every_job_is_in_a_lesson_of_its_days_that_holds_it_or_is_told_to_be_nobodys(in_school: InSchool) -> None:
    jobs.share_out(in_school[0], in_school[1], today=TODAY)
    minutes: dict[tuple[date, str], int] = {}
    for task in tasks.tasks(in_school[0], start=TODAY, status="open"):
        if task.on_day and task.class_group_id:
            key = (task.on_day, str(task.class_group_id))
            minutes[key] = minutes.get(key, 0) + task.minutes
            if task.planting_id and task.on_day >= TODAY:
                assert task.from_day <= task.on_day <= task.to_day, task.title
    held = {(x.day, x.group_id): x.minutes for x in in_school[1].calendar.lessons(TODAY, TODAY + timedelta(days=400))}
    assert minutes
    assert {key for key, used in minutes.items() if used > held[key] and key[0] > TODAY} == set()
    for task in ahead(in_school):
        if task.class_group_id is None:
            assert ("carer is wanted" in task.why) == task.carer
            assert task.carer or "nobody has it yet" in task.why


def test_sharing_out_leaves_no_more_to_nobody_than_before_and_twice_changes_nothing(in_school: InSchool) -> None:
    def nobodys() -> int:
        return sum(t.class_group_id is None and not t.carer for t in ahead(in_school))

    before = nobodys()
    jobs.share_out(in_school[0], in_school[1], today=TODAY)
    assert nobodys() <= before
    kept = places(in_school)
    assert jobs.share_out(in_school[0], in_school[1], today=TODAY) == 0
    assert places(in_school) == kept


def test_a_job_set_by_hand_stays_when_jobs_are_shared_out_and_plans_are_reckoned_anew(in_school: InSchool) -> None:
    task = next(t for t in ahead(in_school) if t.class_group_id and t.on_day and t.on_day > TODAY)
    day, group = other_lesson(in_school, task)
    jobs.set_by_hand(in_school[0], in_school[1], task.id, day, group, carer=False, actor=ACTOR)
    jobs.share_out(in_school[0], in_school[1], today=TODAY)
    planting = garden.planting(in_school[0], task.planting_id)  # type: ignore[arg-type]
    forecasts.refresh(
        in_school[0], in_school[1], planting, garden.bed(in_school[0], planting.bed_id), today=TODAY, force=True
    )
    found = tasks.task(in_school[0], task.id)
    assert (found.on_day, found.class_group_id, found.hand_set, found.why) == (day, group, True, "Set by hand.")
    jobs.leave_to_rules(in_school[0], in_school[1], task.id, today=TODAY)
    found = tasks.task(in_school[0], task.id)
    assert not found.hand_set
    assert found.why != "Set by hand."
    assert found.on_day is None or task.from_day <= found.on_day <= task.to_day


def test_leaving_one_to_the_rules_moves_no_other(in_school: InSchool) -> None:
    task = next(t for t in ahead(in_school) if t.class_group_id)
    before = places(in_school)
    jobs.leave_to_rules(in_school[0], in_school[1], task.id, today=TODAY)
    after = places(in_school)
    assert {key: place for key, place in after.items() if key != task.id} == {
        k: p for k, p in before.items() if k != task.id
    }


def test_carers_and_nobody_can_be_chosen(in_school: InSchool) -> None:
    task = next(t for t in ahead(in_school) if t.class_group_id)
    jobs.set_by_hand(in_school[0], in_school[1], task.id, None, None, carer=True, actor=ACTOR)
    found = tasks.task(in_school[0], task.id)
    assert (found.carer, found.class_group_id, found.on_day) == (True, None, max(task.from_day, TODAY))
    jobs.set_by_hand(in_school[0], in_school[1], task.id, None, None, carer=False, actor=ACTOR)
    assert tasks.task(in_school[0], task.id).on_day is None


def test_a_day_without_a_lesson_a_day_gone_and_a_job_that_is_over_are_refused(in_school: InSchool) -> None:
    task = next(t for t in ahead(in_school) if t.class_group_id)
    _, group = other_lesson(in_school, task)
    sunday = date(2027, 4, 18)
    for day, of in ((sunday, group), (TODAY - timedelta(days=1), group), (None, group)):
        with pytest.raises(BadInput):
            jobs.set_by_hand(in_school[0], in_school[1], task.id, day, of, carer=False, actor=ACTOR)
    tasks.set_status(in_school[0], task.id, "not needed", day=None, by=None)
    for act in (
        lambda: jobs.set_by_hand(in_school[0], in_school[1], task.id, None, None, carer=True, actor=ACTOR),
        lambda: jobs.leave_to_rules(in_school[0], in_school[1], task.id, today=TODAY),
    ):
        with refuses("week.job_over"):
            act()


def test_done_in_part_it_stays_open_and_done_it_is_done(in_school: InSchool) -> None:
    task = next(t for t in ahead(in_school) if t.from_day <= TODAY and t.step not in jobs.TELLS)
    jobs.tell(
        in_school[0],
        in_school[1],
        task.id,
        JobReport("open", True, 15, "two barrows", "the rest next week"),
        TODAY,
        ACTOR,
    )
    found = tasks.task(in_school[0], task.id)
    assert (found.status, found.part_done_on, found.minutes_taken, found.amount) == ("open", TODAY, 15, "two barrows")
    jobs.tell(in_school[0], in_school[1], task.id, JobReport("done", False, 25, "", ""), TODAY, ACTOR)
    found = tasks.task(in_school[0], task.id)
    assert (found.status, found.done_on, found.part_done_on, found.note) == ("done", TODAY, None, "")


def test_a_day_to_come_cannot_have_seen_it_done(in_school: InSchool) -> None:
    task = ahead(in_school)[0]
    for told in (JobReport("open", True, None, "", ""), JobReport("done", False, None, "", "")):
        with pytest.raises(BadInput, match="from its day on"):
            jobs.tell(in_school[0], in_school[1], task.id, told, TODAY + timedelta(days=1), ACTOR)


@pytest.mark.parametrize("more", [{"minutes": -1}, {"minutes": 1001}, {"amount": "x" * 81}, {"note": "x" * 401}])
def test_what_cannot_be_is_refused_by_the_database_too(in_school: InSchool, more: dict) -> None:
    usual = {"part_done_on": None, "minutes": None, "amount": "", "note": "", **more}
    with pytest.raises(Exception, match="task_") as refused:
        tasks.tell(in_school[0], ahead(in_school)[0].id, **usual)
    assert not isinstance(refused.value, errors.NotFound)
