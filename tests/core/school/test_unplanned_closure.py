from datetime import date

from almanaque.core.school import unplanned_closure
from almanaque.core.school.school_year import SchoolYear, Span
from almanaque.core.school.unplanned_closure import JobAhead, PlantingAhead

D = date.fromisoformat
CLOSED = Span("Storm", D("2027-04-14"), D("2027-04-30"), "until further notice")


def planting(name: str, **dates: object) -> PlantingAhead:
    usual = {
        "sown": D("2027-04-07"),
        "up_by": D("2027-04-20"),
        "first_pick": D("2027-06-01"),
        "last_pick": D("2027-06-10"),
        "in_the_ground": True,
    }
    return PlantingAhead(name, name, **{**usual, **dates})  # type: ignore[arg-type]


def test_it_names_jobs_seedbeds_and_pickings() -> None:
    jobs = [
        JobAhead("2", "Thin", D("2027-04-20"), "Grade 2"),
        JobAhead("1", "Sow", D("2027-04-15"), "Grade 1"),
        JobAhead("3", "Pick", D("2027-05-03"), "Grade 3"),
    ]
    plantings = [
        planting("Radish in Bed 4"),
        planting("Up already", up_by=None),
        planting("Planned", in_the_ground=False),
        planting("Lettuce in the trough", up_by=None, first_pick=D("2027-04-28"), last_pick=D("2027-05-10")),
    ]
    found = unplanned_closure.effects(CLOSED, jobs, plantings)
    assert [job.title for job in found.jobs] == ["Sow", "Thin"]
    assert [f.subject for f in found.seedbeds] == ["Radish in Bed 4"]
    assert "up by 20 Apr" in found.seedbeds[0].reason
    assert [f.message for f in found.pickings] == ["Lettuce in the trough is ready while nobody is at school."]
    assert "from 28 Apr to 30 Apr moves to carers" in found.pickings[0].reason
    assert not found.nothing


def test_a_closure_that_meets_nothing_says_so() -> None:
    assert unplanned_closure.effects(CLOSED, [], []).nothing


def test_lost_days_are_those_that_would_have_been_school() -> None:
    year = SchoolYear(
        "y",
        D("2026-08-26"),
        D("2027-08-24"),
        (Span("T", D("2027-01-04"), D("2027-06-16")),),
        (CLOSED, Span("Break", D("2027-04-26"), D("2027-04-30"))),
    )
    assert unplanned_closure.days_lost([year], CLOSED) == 8
