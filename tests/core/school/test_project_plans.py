from datetime import date, timedelta
from itertools import pairwise

from almanaque.core.school.project_plans import Stage, schedule, state
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.data import kinds_of_place, plan_templates

D = date.fromisoformat
YEAR = SchoolYear(
    "2026–27",
    D("2026-08-26"),
    D("2027-08-24"),
    (Span("T", D("2026-08-26"), D("2027-06-16")),),
    (Span("Winter break", D("2026-12-19"), D("2027-01-03")),),
)
CALENDAR = Calendar([YEAR])


def dated(*stages: Stage, start: str = "2026-12-07", last: date | None = None):
    return schedule(stages, D(start), CALENDAR, last_freeze=last, first_freeze=None)


def test_school_weeks_step_over_a_break() -> None:
    (first,) = dated(Stage(name="a", weeks=3))
    assert (first.starts, first.ends, first.reaches) == (D("2026-12-07"), D("2027-01-08"), True)


def test_a_stage_for_the_holidays_runs_through_them() -> None:
    (first,) = dated(Stage(name="a", weeks=3, in_holidays=True))
    assert first.ends == D("2026-12-25")


def test_one_stage_follows_the_other_and_waits_for_the_freeze() -> None:
    first, second = dated(
        Stage(name="a", weeks=1), Stage(name="b", weeks=1, anchor="last freeze", weeks_after=-3), last=D("2027-05-10")
    )
    assert first.ends < second.starts == D("2027-04-19")


def test_it_begins_on_a_day_with_children_and_says_when_the_calendar_ends() -> None:
    (first,) = dated(Stage(name="a", weeks=1), start="2026-12-24")
    assert first.starts == D("2027-01-04")
    (late,) = dated(Stage(name="a", weeks=2), start="2027-08-20")
    assert not late.reaches
    assert late.starts == D("2027-08-20")


def test_every_template_can_be_dated_from_every_month() -> None:
    assert set(plan_templates()) == {"pots", "one-bed", "plot", "grain", "pollinators"}
    for template in plan_templates().values():
        for month in range(12):
            start = D("2026-09-01") + timedelta(days=30 * month)
            found = schedule(
                template.stages, start, CALENDAR, last_freeze=D("2027-05-10"), first_freeze=D("2026-10-05")
            )
            assert all(before.ends < after.starts and after.starts <= after.ends for before, after in pairwise(found))
        assert all(stage.to_do for stage in template.stages)
        assert any(stage.caution for stage in template.stages)


def test_every_kind_of_place_says_what_it_asks_for_and_its_caution() -> None:
    kinds = kinds_of_place()
    assert {"rooftop", "plot", "raised", "indoors", "pots"} <= set(kinds)
    assert all(kind.asks.endswith(".") and kind.caution.endswith(".") for kind in kinds.values())
    assert "engineer" in kinds["rooftop"].caution
    assert "lead" in kinds["plot"].caution
    assert "treated" in kinds["raised"].caution


def test_a_stage_is_done_late_now_or_to_come() -> None:
    span = (D("2027-03-01"), D("2027-03-12"))
    assert [
        state(*span, done=n, to_do=2, day=D(day))
        for n, day in ((2, "2027-03-20"), (1, "2027-03-13"), (0, "2027-03-12"), (0, "2027-02-28"))
    ] == ["done", "late", "now", "to come"]
    assert state(*span, done=0, to_do=0, day=D("2027-03-05")) == "now"
