"""The cadence of a cage tomato and a squash, from sowing to clearing, day by day; and what a bed wants as a whole."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import date, datetime, time, timedelta
from itertools import pairwise
from uuid import UUID, uuid4

from almanaque.commands.actor import Actor
from almanaque.commands.garden import painting, planting_events, renewal
from almanaque.commands.garden.painting import Paint
from almanaque.commands.growth import forecasts
from almanaque.commands.journal import tour, tour_answers
from almanaque.commands.journal.tour_answers import Given, When
from almanaque.commands.week import bed_care, carer_rounds, jobs
from almanaque.core.crops.crop import Method
from almanaque.core.journal.sightings import Sighting
from almanaque.core.journal.tour import Question
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.store.journal import sightings
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task
from tests.database import bed_id
from tests.refuses import refuses
from tests.store.year.test_schedule import TODAY, InSchool

BED = bed_id("Bed 4")
STARTS_ON = date(2027, 5, 20)


def on(day: date) -> When:
    return When(day, datetime.combine(day, time(9, 30)).astimezone(), Actor(None, day))


def grown(in_school: InSchool, crop: str, method: Method, squares: str) -> Planting:
    """Something that really went into the bed."""
    connection, school = in_school
    wish = Paint(squares, crop, method, STARTS_ON, True)
    made = painting.paint(connection, school, BED, wish, Actor(None, TODAY))
    planting_events.happened(connection, school, made, "started", STARTS_ON, Actor(None, STARTS_ON))
    return garden.planting(connection, made)


def asked(in_school: InSchool, planting: Planting, day: date) -> dict[str, Question]:
    """The tour's questions on tending of a planting, by the step of their job."""
    connection, school = in_school
    stop = next(s for s in tour.tour(connection, school, today=day) if s.bed.id == BED)
    found = [q for q, _ in stop.asked if q.code == "step" and q.planting == str(planting.id)]
    return {tasks.task(connection, UUID(q.subject)).step: q for q in found}


def answer(in_school: InSchool, question: Question, said: str, day: date) -> None:
    given = Given(uuid4(), question.code, UUID(question.subject), said)
    tour_answers.answer(in_school[0], in_school[1], given, on(day))


def days(first: date, last: date) -> Iterator[date]:
    yield from (first + timedelta(days=n) for n in range((last - first).days + 1))


def open_jobs(in_school: InSchool, planting: Planting, step: str) -> list[Task]:
    found = tasks.tasks(in_school[0], planting_id=planting.id, status="open")
    return [t for t in found if t.step == step]


def test_a_cage_tomato_is_asked_about_every_few_days_until_it_is_at_the_top(in_school: InSchool) -> None:
    tomato = grown(in_school, "tomato", "starts", "A4")
    first = open_jobs(in_school, tomato, "thread")[0].from_day
    threaded = []
    for day in days(first, first + timedelta(days=20)):
        if day.weekday() == 0:
            renewal.renew_bed(in_school[0], in_school[1], BED, today=day)
        question = asked(in_school, tomato, day).get("thread")
        if question is not None:
            answer(in_school, question, "done", day)
            threaded.append(day)
    gaps = {(after - before).days for before, after in pairwise(threaded)}
    assert gaps <= {3, 4, 5}
    assert len(threaded) >= 5
    day = first + timedelta(days=25)
    (question,) = [q for step, q in asked(in_school, tomato, day).items() if step == "thread"]
    assert [a.label for a in question.answers] == ["Not yet", "Done", "At the top"]
    assert "wash hands" in question.detail
    answer(in_school, question, "no more", day)
    assert not open_jobs(in_school, tomato, "thread")
    assert "thread" not in asked(in_school, tomato, day + timedelta(days=7))
    assert open_jobs(in_school, tomato, "side-shoot")
    answer(in_school, question, "not yet", day)  # taken back the same day
    assert open_jobs(in_school, tomato, "thread")


def test_what_was_done_on_a_sunday_is_not_asked_again_on_the_monday(in_school: InSchool) -> None:
    tomato = grown(in_school, "tomato", "starts", "A4")
    sunday = next(t.to_day for t in open_jobs(in_school, tomato, "thread") if t.to_day.weekday() == 6)
    answer(in_school, asked(in_school, tomato, sunday)["thread"], "done", sunday)
    assert "thread" not in asked(in_school, tomato, sunday + timedelta(days=1))
    assert "thread" in asked(in_school, tomato, sunday + timedelta(days=3))


def test_flowers_and_heights_that_nobody_asked_about_count_as_well(in_school: InSchool) -> None:
    squash, tomato = grown(in_school, "zucchini", "direct", "A4"), grown(in_school, "tomato", "starts", "C4")
    day = STARTS_ON + timedelta(days=50)
    count = Sighting(str(uuid4()), "flowers", day, planting=str(squash.id), amount=0, second=1)
    tour_answers.see(in_school[0], in_school[1], count, on(day))
    assert open_jobs(in_school, squash, "pollinate")
    tall = Sighting(str(uuid4()), "height", day, planting=str(tomato.id), amount=in_school[1].crops["tomato"].height_mm)
    tour_answers.see(in_school[0], in_school[1], tall, on(day))
    assert not open_jobs(in_school, tomato, "thread")


def test_a_tomato_that_was_measured_at_the_top_is_threaded_no_more(in_school: InSchool) -> None:
    tomato = grown(in_school, "tomato", "starts", "A4")
    top = in_school[1].crops["tomato"].height_mm
    for amount, left in ((top * 0.5, True), (top, False)):
        given = Given(uuid4(), "height", tomato.id, amount=amount)
        tour_answers.answer(in_school[0], in_school[1], given, on(STARTS_ON + timedelta(days=50)))
        assert bool(open_jobs(in_school, tomato, "thread")) is left


def test_a_squash_is_pollinated_by_hand_when_females_are_open_and_nobody_flies(in_school: InSchool) -> None:
    squash = grown(in_school, "zucchini", "direct", "A4")
    day = STARTS_ON + timedelta(days=50)
    count = Given(uuid4(), "flowers", squash.id, amount=3, second=2)
    tour_answers.answer(in_school[0], in_school[1], count, on(day))
    (job,) = open_jobs(in_school, squash, "pollinate")
    assert (job.from_day, job.to_day) == (day + timedelta(days=1), day + timedelta(days=3))
    answer(in_school, asked(in_school, squash, day + timedelta(days=1))["pollinate"], "done", day + timedelta(days=1))
    assert tasks.task(in_school[0], job.id).status == "done"
    bees = Sighting(str(uuid4()), "visitors", day + timedelta(days=7), bed=str(BED), what="bees", amount=4)
    tour_answers.see(in_school[0], in_school[1], bees, on(day + timedelta(days=7)))
    again = Given(uuid4(), "flowers", squash.id, amount=3, second=2)
    tour_answers.answer(in_school[0], in_school[1], again, on(day + timedelta(days=8)))
    assert not open_jobs(in_school, squash, "pollinate")


def test_what_bolted_is_asked_about_and_all_tending_ends_with_the_clearing(in_school: InSchool) -> None:
    lettuce = grown(in_school, "lettuce", "direct", "A4")
    day = STARTS_ON + timedelta(days=40)
    assert not open_jobs(in_school, lettuce, "bait")
    planting_events.happened(in_school[0], in_school[1], lettuce.id, "bolted", day, Actor(None, day))
    assert open_jobs(in_school, lettuce, "bait")
    planting_events.happened(in_school[0], in_school[1], lettuce.id, "cleared", day, Actor(None, day))
    assert not tasks.tasks(in_school[0], planting_id=lettuce.id, status="open")


def test_a_step_without_an_end_of_its_own_is_not_ended(in_school: InSchool) -> None:
    tomato = grown(in_school, "tomato", "starts", "A4")
    (support,) = open_jobs(in_school, tomato, "support")
    with refuses("garden.tending_has_no_end", field="answer"):
        jobs.no_more(in_school[0], in_school[1], support.id, STARTS_ON, Actor(None, STARTS_ON))


def bed_jobs(in_school: InSchool, kind: str) -> list[Task]:
    found = tasks.tasks(in_school[0], status="open")
    return [t for t in found if t.routine == kind and t.bed_id == BED]


def weeding(in_school: InSchool) -> tuple[date, Task]:
    """Radishes of three weeks: the day, and the job to weed their bed."""
    grown(in_school, "radish", "direct", "A4")
    day = STARTS_ON + timedelta(days=20)
    bed_care.renew_all(*in_school, today=day)
    (job,) = bed_jobs(in_school, "weeding")
    return day, job


def test_a_bed_is_weeded_by_its_youngest_plants_and_told_how_much(in_school: InSchool) -> None:
    connection, school = in_school
    _, job = weeding(in_school)
    stop = next(s for s in tour.tour(connection, school, today=job.from_day) if s.bed.id == BED)
    (question,) = [q for q, _ in stop.asked if q.code == "weed"]
    assert question.subject not in {str(t.id) for t in stop.jobs}
    given = Given(uuid4(), "weed", UUID(question.subject), "done", name="half a barrow")
    tour_answers.answer(connection, school, given, on(job.from_day))
    bed_care.renew_all(connection, school, today=job.from_day)
    (again,) = bed_jobs(in_school, "weeding")
    assert again.from_day == job.from_day + timedelta(days=7)
    assert tasks.task(connection, job.id).amount == "half a barrow"
    bed_care.renew_all(connection, school, today=job.from_day)
    assert len(bed_jobs(in_school, "weeding")) == 1


def test_a_drip_line_is_asked_about_and_what_leaks_comes_back(in_school: InSchool) -> None:
    connection, school = in_school
    garden.save_bed(connection, school.school.id, replace(garden.bed(connection, BED), drip_l_h=12.0))
    grown(in_school, "radish", "direct", "A4")
    day = STARTS_ON + timedelta(days=20)
    bed_care.renew_all(connection, school, today=day)
    stop = next(s for s in tour.tour(connection, school, today=day) if s.bed.id == BED)
    (question,) = [q for q, _ in stop.asked if q.code == "drip"]
    given = Given(uuid4(), "drip", UUID(question.subject), "leaking", name="the third elbow")
    tour_answers.answer(connection, school, given, on(day))
    look = bed_care.drip_looks(connection)[BED]
    assert (look.result, look.place, look.day) == ("leaking", "the third elbow", day)
    (seen,) = [
        r.seen for r in sightings.sightings(connection, since=day, until=day) if r.seen.what == "drip line leaking"
    ]
    assert seen.come_back_on == day + timedelta(days=1)
    for said, place in (("leaking", "the third elbow"), ("blocked", "at its end"), ("blocked", "at its end")):
        tour_answers.answer(connection, school, replace(given, id=uuid4(), answer=said, name=place), on(day))
    stop = next(s for s in tour.tour(connection, school, today=day + timedelta(days=1)) if s.bed.id == BED)
    (trouble,) = [q for q, _ in stop.asked if q.code == "trouble" and not q.planting]
    assert trouble.title == "Drip line blocked in Bed 4, 9 Jun"
    tour_answers.answer(connection, school, replace(given, id=uuid4(), answer="in order", name=""), on(day))
    assert not [r for r in sightings.open_ones(connection, until=day) if r.seen.what.startswith("drip line")]
    with refuses("week.job_ticked_too_early", field="day"):
        tomorrow = replace(on(day + timedelta(days=1)), actor=Actor(None, day))
        bed_care.renew_all(connection, school, today=day + timedelta(days=20))
        (again,) = bed_jobs(in_school, "drip")
        tour_answers.answer(connection, school, replace(given, id=uuid4(), subject=again.id), tomorrow)
    with refuses("journal.answer_unknown", field="answer"):
        tour_answers.answer(connection, school, replace(given, id=uuid4(), answer="fine"), on(day))


def test_a_lemon_in_a_pot_that_is_carried_in_is_not_judged_by_the_winter_outdoors(in_school: InSchool) -> None:
    connection, school = in_school
    found = {}
    for bed, squares in (("Half barrel", "A1"), ("Bed 4", "A4")):
        wish = Paint(squares, "lemon", "starts", STARTS_ON, True)
        made = garden.planting(connection, painting.paint(connection, school, bed_id(bed), wish, Actor(None, TODAY)))
        found[bed] = {finding.code for finding in made.findings if finding.severity == "fault"}
        steps = {
            step.step
            for step in forecasts.steps_of(school, made, garden.bed(connection, made.bed_id), made.dates, TODAY)
        }  # type: ignore[arg-type]
        assert ("bring in" in steps) is (bed == "Half barrel")
    assert "frost_risk" in found["Bed 4"]
    assert "frost_risk" not in found["Half barrel"]


def test_jobs_of_beds_are_no_jobs_of_stations_on_a_carers_round(in_school: InSchool) -> None:
    connection, school = in_school
    grown(in_school, "radish", "direct", "A4")
    day = date(2027, 6, 21)  # school is out
    bed_care.renew_all(connection, school, today=day)
    (job,) = bed_jobs(in_school, "weeding")
    assert job.carer
    walk = next(w for w in carer_rounds.rota(connection, school, day, day + timedelta(days=6)).rounds if not w.seedbed)
    assert job.id not in {t.id for t in carer_rounds.station_jobs(connection, walk)}
    assert job.id in {t.id for stop in carer_rounds.stops(connection, school, walk, today=day) for t in stop.jobs}


def test_what_was_not_needed_comes_again_and_what_was_ticked_by_mistake_is_the_same_job(in_school: InSchool) -> None:
    connection, school = in_school
    day, job = weeding(in_school)
    bed_care.renew_all(connection, school, today=day + timedelta(days=9))  # a week later it is still the same job
    assert [t.id for t in bed_jobs(in_school, "weeding")] == [job.id]
    later = Actor(None, day + timedelta(days=9))
    jobs.tick(connection, school, job.id, "done", later.today, later)
    jobs.tick(connection, school, job.id, "open", later.today, later)
    bed_care.renew_all(connection, school, today=later.today)
    assert [t.id for t in bed_jobs(in_school, "weeding")] == [job.id]
    jobs.tick(connection, school, job.id, "not needed", later.today, later)
    bed_care.renew_all(connection, school, today=later.today)
    (again,) = bed_jobs(in_school, "weeding")
    assert again.from_day > later.today
