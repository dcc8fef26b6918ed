"""Neighbours on purpose against a real database: a row beside a planting, the question on the tour, what all of them say."""

from datetime import date, timedelta
from uuid import UUID, uuid4

from almanaque.commands.actor import Actor
from almanaque.commands.garden import bed_findings, neighbour_trials, planting_events
from almanaque.commands.journal import tour, tour_answers
from almanaque.commands.journal.tour_answers import Given
from almanaque.core.journal.sightings import Sighting
from almanaque.store.garden import garden
from almanaque.store.garden import neighbour_trials as store
from tests.refuses import refuses
from tests.store.journal.test_tending import BED, STARTS_ON, grown, on
from tests.store.year.test_schedule import ACTOR, InSchool, paint


def test_a_row_is_pencilled_on_the_free_squares_beside_it(in_school: InSchool) -> None:
    connection, school = in_school
    tomato = grown(in_school, "tomato", "starts", "B2")
    made = neighbour_trials.row_beside(connection, school, tomato.id, "marigold", " Aphids ", Actor(None, STARTS_ON))
    row = garden.planting(connection, made)
    assert row.status == "pencilled"
    assert row.bed_id == tomato.bed_id
    assert not row.cells & tomato.cells
    assert all(any(max(abs(a - c), abs(b - d)) == 1 for c, d in tomato.cells) for a, b in row.cells)
    assert len({a for a, _ in row.cells}) == 1 or len({b for _, b in row.cells}) == 1
    (kept,) = store.trials(connection)
    assert (kept.planting_id, kept.beside_id, kept.against, kept.outcome) == (tomato.id, made, "Aphids", None)


def test_it_is_asked_about_once_the_first_is_due_and_the_answer_stands_beside_tradition(in_school: InSchool) -> None:
    connection, school = in_school
    tomato = grown(in_school, "tomato", "starts", "B2")
    made = neighbour_trials.row_beside(connection, school, tomato.id, "alyssum", "aphids", Actor(None, STARTS_ON))
    assert tomato.dates is not None

    def asked(day: date) -> list[UUID]:
        stop = next(s for s in tour.tour(connection, school, today=day) if s.bed.id == BED)
        return [UUID(q.subject) for q, _ in stop.asked if q.code == "beside"]

    day = tomato.dates.first_pick
    assert not asked(day - timedelta(days=3))
    (trial,) = asked(day)
    aphids = Sighting(str(uuid4()), "pest", day, planting=str(tomato.id), what="Aphids")
    tour_answers.see(connection, school, aphids, on(day))
    tour_answers.answer(connection, school, Given(uuid4(), "beside", trial, "helped"), on(day))
    assert not asked(day + timedelta(days=1))
    (own,) = neighbour_trials.own(connection, school)
    assert (own.helped, own.n, own.seen_with, own.with_n) == (1, 1, 1, 1)
    present = garden.plantings(connection, bed_id=BED)
    facts = bed_findings.facts(connection, school, garden.bed(connection, BED), present, today=day)
    assert any("helped in 1 of 1" in pair.reason for pair in facts.pairs)
    with refuses("journal.answer_unknown", field="answer"):
        tour_answers.answer(connection, school, Given(uuid4(), "beside", trial, "maybe"), on(day))
    planting_events.happened(connection, school, tomato.id, "cleared", day, Actor(None, day))
    assert garden.planting(connection, made).status == "pencilled"


def test_what_is_no_neighbour_is_refused(in_school: InSchool) -> None:
    connection, school = in_school
    tomato = grown(in_school, "tomato", "starts", "B2")
    twin = grown(in_school, "tomato", "starts", "A1")
    late = paint(in_school, "A4", "radish", date(2028, 4, 10))
    for other in (tomato, twin):
        with refuses("garden.not_neighbours", field="beside"):
            neighbour_trials.put_beside(connection, school, tomato.id, other.id, "", ACTOR)
    with refuses("garden.neighbours_never_meet", field="beside"):
        neighbour_trials.put_beside(connection, school, late.id, tomato.id, "", ACTOR)
    with refuses("garden.against_too_long", field="against"):
        neighbour_trials.put_beside(connection, school, tomato.id, late.id, "x" * 61, ACTOR)
    with refuses("garden.not_neighbours", field="beside"):
        neighbour_trials.row_beside(connection, school, tomato.id, "tomato", "", ACTOR)
