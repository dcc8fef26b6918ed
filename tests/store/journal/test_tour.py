"""The tour against a real database: what is asked, what the answers do, and what a phone sends."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest

from almanaque.commands.garden import planting_events
from almanaque.commands.journal import phone, tour, tour_answers
from almanaque.commands.journal.tour_answers import When
from almanaque.commands.week import carer_rounds
from almanaque.core.errors import BadInput
from almanaque.core.journal.sightings import Sighting, latest, tally
from almanaque.core.journal.tour import Question
from almanaque.core.week.carer_rounds import Round
from almanaque.demo import load
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.store.journal import journal_entries, sightings
from almanaque.store.week import tasks
from tests.database import bed_id
from tests.refuses import refuses
from tests.store.year.test_schedule import ACTOR, TODAY, InSchool

BY = load.account_id("helper")
NOW = datetime(2027, 4, 14, 9, 30, tzinfo=UTC)
WHEN = When(TODAY, NOW, ACTOR)


def planting_of(in_school: InSchool, bed: str, crop: str) -> Planting:
    return next(
        p for p in garden.plantings(in_school[0], bed_id=bed_id(bed)) if p.crop == crop and p.status == "in the ground"
    )


def asked(in_school: InSchool, bed: str, code: str, today: date = TODAY) -> list[tuple[Question, str]]:
    stop = next(s for s in tour.tour(in_school[0], in_school[1], today=today) if s.bed.name == bed)
    return [(q, given) for q, given in stop.asked if q.code == code]


def send(in_school: InSchool, kind: str, day: date = TODAY, id: UUID | None = None, **say: Any) -> phone.TakenEntry:
    entry = phone.read(
        {"id": str(id or uuid4()), "kind": kind, "noted_at": NOW.isoformat(), "noted_on": day.isoformat(), **say}
    )
    return phone.take(in_school[0], in_school[1], entry, by=BY, today=TODAY, now=NOW)


def test_the_tour_walks_all_beds_in_order_and_asks_once_about_each_job(in_school: InSchool) -> None:
    stops = tour.tour(in_school[0], in_school[1], today=TODAY)
    assert [s.bed.ordinal for s in stops] == sorted(s.bed.ordinal for s in stops)
    assert {s.bed.id for s in stops} == {b.id for b in garden.beds(in_school[0])}
    for stop in stops:
        questioned = {q.subject for q, _ in stop.asked}
        assert not questioned & {str(t.id) for t in stop.jobs}


def test_peas_seen_up_have_come_up_and_taken_back_the_same_day_have_not(in_school: InSchool) -> None:
    (question, given), *_ = [(q, g) for q, g in asked(in_school, "Bed 2", "up") if q.title == "Pea up?"]
    assert given == ""
    send(in_school, "answer", code="up", subject=question.subject, answer="all")
    pea = garden.planting(in_school[0], UUID(question.subject))
    assert pea.events["emerged"] == TODAY
    assert pea.dates is not None
    assert pea.dates.emerge_to == TODAY
    send(in_school, "answer", code="up", subject=question.subject, answer="some")
    assert "emerged" not in garden.planting(in_school[0], pea.id).events
    again = [(q, g) for q, g in asked(in_school, "Bed 2", "up") if q.title == "Pea up?"]
    assert [g for _, g in again] == ["some"]  # answered today: shown with its answer
    assert [g for q, g in asked(in_school, "Bed 2", "up", TODAY + timedelta(days=1)) if q.title == "Pea up?"] == [""]


@pytest.mark.parametrize("seen", ["emerged", "in flower", "ready", "first picking", "bolted"])
def test_what_was_seen_up_has_no_seedbed_to_keep_moist(in_school: InSchool, seen: str) -> None:
    connection, school = in_school
    radish = next(
        garden.planting(connection, job.planting_id)
        for job in tasks.tasks(connection, start=TODAY, end=TODAY, status="open")
        if job.step == "keep moist" and job.planting_id
    )
    planting_events.happened(connection, school, radish.id, seen, TODAY, ACTOR)
    jobs = tasks.tasks(connection, start=TODAY, end=TODAY + timedelta(days=60), status="open")
    assert not [job for job in jobs if job.planting_id == radish.id and job.step == "keep moist"]
    walk = Round(TODAY, 1, TODAY, TODAY + timedelta(days=60), "")
    standing = [garden.planting(connection, radish.id)]
    assert carer_rounds._watch(school, standing, walk) == []


def test_thin_now_is_due_at_once_and_done_is_ticked_off(in_school: InSchool) -> None:
    question = asked(in_school, "Bed 2", "step")[0][0]
    job = tasks.task(in_school[0], UUID(question.subject))
    send(in_school, "answer", code="step", subject=question.subject, answer="now")
    assert job.planting_id is not None
    assert garden.planting(in_school[0], job.planting_id).steps[job.step] == TODAY
    send(in_school, "answer", code="step", subject=question.subject, answer="done")
    assert tasks.task(in_school[0], job.id).done_on == TODAY
    send(in_school, "answer", code="step", subject=question.subject, answer="not yet")
    assert tasks.task(in_school[0], job.id).status == "open"


def test_a_pest_comes_back_until_it_is_gone_and_its_remedy_is_asked_about(in_school: InSchool) -> None:
    spinach = planting_of(in_school, "Bed 7", "spinach")
    first = uuid4()
    send(
        in_school,
        "sighting",
        id=first,
        what_kind="pest",
        planting=str(spinach.id),
        what="Leaf miners",
        part="leaf",
        severity=2,
        amount=4,
        of_amount=20,
        remedy="Net over it",
        square="b2",
    )
    found = sightings.sighting(in_school[0], first)
    assert (found.square, found.seen.bed, found.seen.come_back_on) == (
        "B2",
        str(spinach.bed_id),
        TODAY + timedelta(days=7),
    )
    week = TODAY + timedelta(days=7)
    assert asked(in_school, "Bed 7", "trouble") == []
    assert [q.title for q, _ in asked(in_school, "Bed 7", "trouble", week)] == ["Leaf miners on spinach, 14 Apr"]
    ((remedy, _),) = asked(in_school, "Bed 7", "remedy", week)
    assert remedy.title == "Did “Net over it” help against Leaf miners?"
    later = When(week, NOW + timedelta(days=7), replace(ACTOR, today=week))
    tour_answers.answer(in_school[0], in_school[1], tour_answers.Given(uuid4(), "trouble", first, "worse"), later)
    chain = sightings.of_plantings(in_school[0], [spinach.id])[str(spinach.id)]
    assert [s.severity for s in chain if s.root == str(first)] == [2, 3]
    tour_answers.answer(
        in_school[0], in_school[1], tour_answers.Given(uuid4(), "remedy", UUID(remedy.subject), "did not"), later
    )
    assert [
        (r.what, r.words)
        for r in tally(r for r, _, _ in sightings.remedies(in_school[0]))
        if r.against == "Leaf miners"
    ] == [("Net over it", "helped 0 of 1 times")]
    tour_answers.answer(in_school[0], in_school[1], tour_answers.Given(uuid4(), "trouble", first, "gone"), later)
    assert [
        s for s in latest(sightings.of_plantings(in_school[0], [spinach.id])[str(spinach.id)]) if s.root == str(first)
    ] == []
    assert asked(in_school, "Bed 7", "trouble", week + timedelta(days=7)) == []


def test_bolted_spinach_is_over_and_its_squares_are_free_again_within_a_week(in_school: InSchool) -> None:
    spinach = planting_of(in_school, "Bed 7", "spinach")
    tour_answers.see(
        in_school[0],
        in_school[1],
        Sighting(str(uuid4()), "stage", TODAY, planting=str(spinach.id), what="bolted"),
        WHEN,
    )
    after = garden.planting(in_school[0], spinach.id)
    assert after.dates is not None
    assert (after.dates.last_pick, after.dates.clear_by) == (TODAY, TODAY + timedelta(days=7))


def test_a_found_plant_is_decided_on_and_a_note_comes_back_later_or_is_settled(in_school: InSchool) -> None:
    plant, _ = asked(in_school, "Bed 3", "found")[0]
    assert (plant.ask, plant.title) == ("name", "Unknown plant at E3: what is it?")
    send(in_school, "answer", code="found", subject=plant.subject, name="  Corn   poppy ")
    (named, given), *_ = asked(in_school, "Bed 3", "found")
    assert (named.title, given) == ("Corn poppy at E3: keep it?", "")
    send(in_school, "answer", code="found", subject=plant.subject, answer="keep")
    assert asked(in_school, "Bed 3", "found") == []
    note, _ = asked(in_school, "Bed 4", "note")[0]
    send(in_school, "answer", code="note", subject=note.subject, answer="still")
    assert asked(in_school, "Bed 4", "note") == []
    assert [q.subject for q, _ in asked(in_school, "Bed 4", "note", TODAY + timedelta(days=7))] == [note.subject]
    send(in_school, "answer", code="note", subject=note.subject, answer="settled")
    assert asked(in_school, "Bed 4", "note", TODAY + timedelta(days=7)) == []


def test_the_same_entry_is_taken_once_and_another_one_under_its_id_is_held_back(in_school: InSchool) -> None:
    entry = uuid4()
    assert send(in_school, "note", id=entry, body="Worms under the mulch", bed=str(bed_id("Bed 1"))).before == "new"
    assert send(in_school, "note", id=entry, body="Worms under the mulch", bed=str(bed_id("Bed 1"))).before == "same"
    with pytest.raises(errors.IdTaken, match="Another entry"):
        send(in_school, "note", id=entry, body="Something else")
    assert [e.body for e in journal_entries.entries(in_school[0], until=TODAY) if e.id == entry] == [
        "Worms under the mulch"
    ]


def test_a_note_is_dated_by_the_day_it_was_noted_and_a_clock_that_runs_ahead_is_put_right(in_school: InSchool) -> None:
    early = TODAY - timedelta(days=3)
    assert send(in_school, "note", early, body="Seen on Sunday").noted_on == early
    assert send(in_school, "note", TODAY + timedelta(days=9), body="From the future").noted_on == TODAY
    assert {e.body: e.noted_on for e in journal_entries.entries(in_school[0], until=TODAY)}["From the future"] == TODAY
    with refuses("journal.entry_too_old"):
        send(in_school, "note", TODAY - timedelta(days=500), body="From a drawer")


@pytest.mark.parametrize(
    ("say", "words"),
    [
        ({"kind": "dance"}, "journal.entry_field"),
        ({"kind": "note"}, "journal.entry_field"),
        ({"kind": "note", "body": "x", "admin": True}, "journal.entry_field"),
        ({"kind": "answer", "code": "up", "subject": "nobody"}, "journal.entry_field"),
        ({"kind": "note", "body": "x", "noted_at": "2027-04-14T09:00:00"}, "journal.entry_field"),
        ({"kind": "note", "body": "x" * 4001}, "journal.entry_field"),
        ({"kind": "note", "body": "a\0b"}, "journal.entry_character"),
        ({"kind": "note", "body": "half \ud83c"}, "journal.entry_field"),
        ({"kind": "sighting", "what_kind": "pest", "what": "\0"}, "journal.entry_character"),
        ({"kind": "sighting", "what_kind": "count", "amount": 10**400}, "journal.entry_field"),
        ({"kind": "answer", "code": "flowers", "subject": str(uuid4()), "second": -1}, "journal.entry_field"),
        ("not even an object", "journal.entry_field"),
    ],
)
def test_what_is_no_entry_is_refused_with_the_field_that_is_wrong(say: Any, words: str) -> None:
    given = (
        {"id": str(uuid4()), "noted_at": NOW.isoformat(), "noted_on": "2027-04-14", **say}
        if isinstance(say, dict)
        else say
    )
    with refuses(words):
        phone.read(given)


@pytest.mark.parametrize(
    "answer",
    [
        {"code": "up", "answer": "maybe"},
        {"code": "sing", "answer": "all"},
        {"code": "ending", "answer": "eat"},
        {"code": "height", "length": "tall"},
    ],
)
def test_an_answer_that_a_question_does_not_have_is_refused(in_school: InSchool, answer: dict[str, str]) -> None:
    with pytest.raises(BadInput):
        send(in_school, "answer", subject=str(planting_of(in_school, "Bed 7", "spinach").id), **answer)


def test_a_planting_with_a_sighting_is_history_that_cannot_be_rubbed_out(in_school: InSchool) -> None:
    spinach = planting_of(in_school, "Bed 7", "spinach")
    for kind in list(spinach.events):
        planting_events.did_not_happen(in_school[0], in_school[1], spinach.id, kind, ACTOR)
    in_school[0].execute("DELETE FROM task WHERE planting_id = %s AND status <> 'open'", [spinach.id])
    in_school[0].execute("DELETE FROM harvest WHERE planting_id = %s", [spinach.id])
    assert not garden.has_history(in_school[0], spinach.id)
    tour_answers.see(
        in_school[0],
        in_school[1],
        Sighting(str(uuid4()), "count", TODAY, planting=str(spinach.id), amount=30),
        replace(WHEN, actor=ACTOR),
    )
    assert garden.has_history(in_school[0], spinach.id)
