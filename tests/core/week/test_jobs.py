from dataclasses import replace
from datetime import date, time

import pytest

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.core.week.jobs import Load, assign
from almanaque.core.year.steps import from_today, steps
from almanaque.data import catalogue

CROPS = catalogue()
D = date.fromisoformat
YEAR = SchoolYear(
    "y",
    D("2026-08-26"),
    D("2027-08-24"),
    (Span("t", D("2026-08-26"), D("2027-06-16")),),
    (Span("Spring break", D("2027-03-20"), D("2027-03-28")),),
)
CALENDAR = Calendar([YEAR], [Slot("a", 1, time(9, 40), 45), Slot("b", 3, time(9, 40), 45)])
NAMES = {"a": "Grade 2", "b": "Grade 5"}


def steps_of(key: str, method: str, start: str) -> list:
    crop = CROPS[key]
    return list(steps(crop, method, forecast(crop, method, D(start)), plants=9, squares=1, units="us"))


def test_radish_sown_in_place_gives_its_steps_in_order() -> None:
    found = steps_of("radish", "direct", "2027-04-13")
    assert [step.step for step in found] == [
        "prepare bed",
        "sow",
        "keep moist",
        "keep moist",
        "scout",
        "thin",
        "first picking",
        "clear",
    ]
    sow = found[1]
    assert (sow.title, sow.from_day) == ("Sow radish: 9 plants, 1/2 in deep", D("2027-04-13"))


def test_indoors_begins_indoors_and_hardens_off_before_setting_out() -> None:
    found = {step.step: step for step in steps_of("tomato", "indoors", "2027-03-30")}
    assert found["start indoors"].from_day < found["harden off"].from_day < found["transplant"].from_day
    assert "eye height" in found["support"].caution


def test_a_crop_picked_many_times_gives_weekly_pickings_and_a_perennial_is_not_cleared() -> None:
    names = [step.step for step in steps_of("chard", "direct", "2027-04-13")]
    assert names.count("picking") == 12  # weekly for 90 days, after the first
    assert "clear" not in [step.step for step in steps_of("strawberry", "starts", "2027-04-13")]


@pytest.mark.parametrize("crop", list(CROPS), ids=lambda crop: crop.key)
def test_every_step_has_an_identity_of_its_own_and_a_window_in_order(crop: object) -> None:
    for method in crop.methods:
        found = steps_of(crop.key, method, "2027-04-13")
        assert len({(step.step, step.ordinal) for step in found}) == len(found)
        assert all(step.from_day <= step.to_day and 1 <= step.minutes <= 45 for step in found)


def test_what_is_overdue_is_due_today_and_a_series_goes_on() -> None:
    today = D("2027-04-22")
    wanted = steps_of("radish", "direct", "2027-04-13")
    left = list(from_today(wanted, today))
    assert [(step.step, step.ordinal) for step in left if step.step != "keep moist"] == [
        (step.step, step.ordinal) for step in wanted if step.step != "keep moist"
    ]
    assert [step.ordinal for step in left if step.step == "keep moist"] == []  # up by 21 April at the latest
    assert all(today <= step.from_day <= step.to_day for step in left)
    assert next(step for step in left if step.step == "sow").to_day == today
    assert list(from_today(wanted, D("2027-01-01"))) == wanted


def test_the_class_that_adopted_the_bed_comes_first() -> None:
    given = assign(steps_of("radish", "direct", "2027-04-13"), CALENDAR, adopted_by="b", names=NAMES, load=Load())
    assert {a.group_id for a in given if a.step.step == "sow"} == {"b"}
    assert next(a for a in given if a.step.step == "sow").why == "Grade 5 adopted this bed."


def test_a_full_lesson_takes_no_more_and_work_spreads() -> None:
    load = Load()
    sow = [step for step in steps_of("radish", "direct", "2027-04-13") if step.step == "sow"]
    days = [assign(sow, CALENDAR, adopted_by="a", names=NAMES, load=load)[0] for _ in range(3)]
    assert [(a.group_id, a.on_day) for a in days] == [("a", D("2027-04-13")), ("b", D("2027-04-15")), (None, None)]
    assert days[2].why.endswith("nobody has it yet.")


def test_in_a_break_a_carer_is_wanted() -> None:
    moist = [
        step for step in steps_of("carrot", "direct", "2027-03-16") if step.step == "keep moist" and step.ordinal == 2
    ]
    late = assign(
        [replace(moist[0], from_day=D("2027-03-22"), to_day=D("2027-03-26"))],
        CALENDAR,
        adopted_by=None,
        names=NAMES,
        load=Load(),
    )[0]
    assert (late.carer, late.on_day, late.group_id) == (True, D("2027-03-22"), None)


def test_no_step_is_dropped() -> None:
    wanted = steps_of("kale", "starts", "2027-03-01")
    given = assign(wanted, Calendar([]), adopted_by=None, names={}, load=Load())
    assert [a.step for a in given] == wanted


def test_a_job_that_no_lesson_has_time_for_waits_for_somebody_and_is_not_a_carers() -> None:
    full = Load()
    long = replace(next(s for s in steps_of("radish", "direct", "2027-04-13") if s.step == "sow"), minutes=300)
    (given,) = assign([long], CALENDAR, adopted_by=None, names=NAMES, load=full)
    assert (given.group_id, given.on_day, given.carer) == (None, None, False)
    assert given.why.startswith("No lesson with time left")


def test_who_does_it_is_told_with_why() -> None:
    sow = next(s for s in steps_of("radish", "direct", "2027-04-13") if s.step == "sow")
    (any_class,) = assign([sow], CALENDAR, adopted_by=None, names=NAMES, load=Load())
    assert any_class.why.endswith("has the most time free in those days.")
    full = Load()
    for lesson in CALENDAR.lessons(sow.from_day, sow.to_day):
        if lesson.group_id == "a":
            full.minutes[lesson.day, lesson.group_id] = lesson.minutes
    (other,) = assign([sow], CALENDAR, adopted_by="a", names=NAMES, load=full)
    assert (other.group_id, other.why) == ("b", "Grade 5 has time; the bed's own class is full.")
