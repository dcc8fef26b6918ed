"""What the answers of a tour do: sightings kept, stages that move the plan, remedies, notes settled, jobs ticked off."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import neighbour_trials, planting_events, tending
from almanaque.commands.garden.held_bed import hold_of
from almanaque.commands.week import bed_care, jobs
from almanaque.commands.week.jobs import JobReport
from almanaque.commands.year import schedule
from almanaque.core.errors import BadInput
from almanaque.core.journal import sightings as core
from almanaque.core.journal.sightings import Remedy, Sighting
from almanaque.core.year.steps import SETTABLE
from almanaque.core.year.tending import VISITS_DAYS
from almanaque.store.garden import garden, volunteer_plants
from almanaque.store.journal import journal_entries, sightings
from almanaque.store.journal.sightings import NotedBy
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task

POLLINATORS = ("bees", "bumblebees", "hoverflies")  # visitors that carry pollen from flower to flower


@dataclass(frozen=True)
class When:
    """When something was noted: its day in the school's zone, the instant, and who did."""

    day: date
    at: datetime
    actor: Actor

    @property
    def noted(self) -> NotedBy:
        return NotedBy(self.actor.by, self.at)


def see(connection: Connection[Any], context: Context, seen: Sighting, when: When, *, square: str = "") -> Sighting:
    """Keep what was seen; a stage moves the planting's dates, heights and flowers its tending.

    Raises BadInput for what cannot be, or lies in the future.
    """
    seen = core.check(seen)
    if seen.planting:
        planting = garden.planting(connection, UUID(seen.planting))
        if seen.day < planting.bed_from and planting.status != "in the ground":
            raise BadInput("journal.not_in_bed_yet", field="day")
        seen = replace(seen, bed=str(planting.bed_id))
    elif seen.bed:
        garden.bed(connection, UUID(seen.bed))
    sightings.save(connection, context.school.id, seen, replace(when.noted, square=square))
    if seen.kind == "stage" and seen.planting:
        _stage(connection, context, UUID(seen.planting), seen.what, when)
    if seen.kind == "height" and seen.planting and seen.amount is not None:
        tending.measured(connection, context, UUID(seen.planting), seen.amount, when.day, when.actor)
    if seen.kind == "flowers" and seen.planting:
        _pollen(connection, context, seen, when)
    return seen


def _stage(connection: Connection[Any], context: Context, planting_id: UUID, stage: str, when: When) -> None:
    """What a stage makes of the planting; a stage noted by mistake today is taken back by the next word on it."""
    planting = hold_of(connection, context, planting_id, when.actor).planting(planting_id)
    if planting.status != "in the ground":
        return
    kind = core.EVENT_OF.get(stage)
    if kind is not None and kind not in planting.events:
        planting_events.happened(connection, context, planting_id, kind, when.day, when.actor)
    takes_back = {"not up": "emerged", "coming up": "emerged", "nearly ready": "ready"}.get(stage)
    if takes_back is not None and planting.events.get(takes_back) == when.day:
        planting_events.did_not_happen(connection, context, planting_id, takes_back, when.actor)


def cure(
    connection: Connection[Any], context: Context, remedy_id: UUID, sighting_id: UUID, what: str, when: When
) -> None:
    """Note what was done against something that was found; it is asked about a week later. Raises BadInput for nothing."""
    found = sightings.sighting(connection, sighting_id).seen
    if found.kind not in core.TROUBLE:
        raise BadInput("journal.remedy_for_nothing", field="what")
    if not what.strip():
        raise BadInput("journal.remedy_missing", field="what")
    remedy = Remedy(
        str(remedy_id), " ".join(what.split()), found.what, when.day, when.day + timedelta(days=core.ASK_AFTER_DAYS)
    )
    sightings.save_remedy(connection, context.school.id, remedy, sighting_id=UUID(found.root), by=when.actor.by)


@dataclass(frozen=True)
class Given:
    """An answer to a question of the tour. `amount` and `second` are what was measured or counted, `name` what a plant is called."""

    id: UUID
    code: str
    subject: UUID
    answer: str = ""
    amount: float | None = None
    second: float | None = None
    name: str = ""


def answer(connection: Connection[Any], context: Context, given: Given, when: When) -> None:
    """Do what an answer means. Raises BadInput for one that the question does not have, NotFound for what is gone."""
    match given.code:
        case "up":
            _see_stage(connection, context, given, when, {"not yet": "not up", "some": "coming up", "all": "up"})
        case "ready":
            _see_stage(connection, context, given, when, {"not yet": "", "nearly": "nearly ready", "ready": "ready"})
        case "bolted":
            _see_stage(connection, context, given, when, {"no": "", "some": "", "yes": "bolted"})
        case "height":
            seen = Sighting(str(given.id), "height", when.day, planting=str(given.subject), amount=given.amount)
            see(connection, context, seen, when)
        case "flowers":
            seen = Sighting(
                str(given.id),
                "flowers",
                when.day,
                planting=str(given.subject),
                amount=given.amount,
                second=given.second,
            )
            see(connection, context, seen, when)
        case "trouble":
            _trouble(connection, context, given, when)
        case "remedy":
            outcome = next((o for o in core.OUTCOMES if o == given.answer), None)
            sightings.answer_remedy(connection, given.subject, _known(outcome), when.day)
        case "note":
            _note(connection, given, when)
        case "step":
            _step(connection, context, given, when)
        case "weed":
            done = _one_of(given.answer, ("not yet", "done")) == "done"
            told = JobReport("done" if done else "open", False, None, given.name.strip()[:80] if done else "", "")
            jobs.tell(connection, context, given.subject, told, when.day, when.actor)
        case "beside":
            neighbour_trials.answer(connection, given.subject, given.answer, when.actor)
        case "drip":
            bed_care.drip_found(
                connection,
                context,
                given.subject,
                given.answer,
                given.name,
                sighting_id=given.id,
                at=when.at,
                day=when.day,
                actor=when.actor,
            )
        case "ending":
            if given.answer != "later":
                sightings.set_ending(connection, given.subject, _one_of(given.answer, ("deadhead", "seed")))
        case "found":
            _found(connection, given, when)
        case _:
            raise BadInput("journal.question_unknown", field="code")


def _known(value: Any) -> Any:
    if value is None:
        raise BadInput("journal.answer_unknown", field="answer")
    return value


def _one_of(text: str, allowed: Sequence[str]) -> str:
    return str(_known(text if text in allowed else None))


def _see_stage(connection: Connection[Any], context: Context, given: Given, when: When, stages: dict[str, str]) -> None:
    stage = stages[_one_of(given.answer, tuple(stages))]
    if stage:
        see(
            connection,
            context,
            Sighting(str(given.id), "stage", when.day, planting=str(given.subject), what=stage),
            when,
        )
    elif given.code in ("ready", "bolted"):
        _take_back(connection, context, given, when)


def _take_back(connection: Connection[Any], context: Context, given: Given, when: When) -> None:
    planting = hold_of(connection, context, given.subject, when.actor).planting(given.subject)
    if planting.events.get(given.code) == when.day:
        planting_events.did_not_happen(connection, context, planting.id, given.code, when.actor)


def _trouble(connection: Connection[Any], context: Context, given: Given, when: When) -> None:
    """How something found before is now: a sighting that follows it, until it is gone."""
    said = _one_of(given.answer, ("worse", "same", "better", "gone"))
    first = sightings.sighting(connection, given.subject).seen
    chain = [
        first,
        *(
            s
            for s in sightings.of_plantings(connection, [UUID(first.planting)] if first.planting else []).get(
                first.planting, ()
            )
            if s.root == first.root and s.id != first.id
        ),
    ]
    now = next((s.severity for s in reversed(chain) if s.severity), None)
    step = {"worse": 1, "same": 0, "better": -1}.get(said)
    gone = step is None
    severity = None if step is None or now is None else max(1, min(3, now + step))
    seen = Sighting(
        str(given.id),
        first.kind,
        when.day,
        first.bed,
        first.planting,
        first.what,
        first.part,
        severity,
        note="" if gone else said,
        follows=first.root,
        come_back_on=None if gone else core.next_look(when.day),
        closed_on=when.day if gone else None,
    )
    see(connection, context, seen, when)
    if gone:
        sightings.close(connection, first.root, when.day)


def _note(connection: Connection[Any], given: Given, when: When) -> None:
    if _one_of(given.answer, ("still", "settled")) == "settled":
        journal_entries.close(connection, given.subject, when.day)
    else:
        journal_entries.come_back(connection, given.subject, core.next_look(when.day))


def _step(connection: Connection[Any], context: Context, given: Given, when: When) -> None:
    """Done ticks the job off; now lets it be due at once; not yet leaves it, and opens one ticked off by mistake today."""
    said = _one_of(given.answer, ("not yet", "now", "done", "no more"))
    task = tasks.task(connection, given.subject)
    if said == "no more":
        jobs.no_more(connection, context, task.id, when.day, when.actor)
        return
    if task.status == "not needed" and task.planting_id is not None:
        if garden.planting(connection, task.planting_id).tended.ended.get(task.step) == when.day:
            jobs.tick(connection, context, task.id, "open", when.day, when.actor)
            tending.go_on(connection, context, task.planting_id, task.step, when.actor)
        task = tasks.task(connection, given.subject)
    if said == "done" and _goes_on(connection, context, task, when.day):
        if task.status == "open":
            part = JobReport("open", True, task.minutes_taken, task.amount, task.note)
            jobs.tell(connection, context, task.id, part, when.day, when.actor)
        return
    if said == "done":
        if task.status == "open":
            jobs.tick(connection, context, task.id, "done", when.day, when.actor)
        return
    if task.status == "done" and task.done_on == when.day:
        jobs.tick(connection, context, task.id, "open", when.day, when.actor)
    if said == "now" and task.planting_id is not None and task.step in SETTABLE and task.ordinal == 1:
        schedule.set_step(connection, context, task.planting_id, task.step, when.actor.today, when.actor)


def _goes_on(connection: Connection[Any], context: Context, task: Task, day: date) -> bool:
    """True for tending that is wanted once more within the job's own days."""
    if task.planting_id is None:
        return False
    planting = garden.planting(connection, task.planting_id)
    practice = tending.practice_of(context, planting.crop, planting.cover, task.step)
    return bool(practice and practice.every) and task.to_day >= day + timedelta(days=practice.every if practice else 0)


def _pollen(connection: Connection[Any], context: Context, seen: Sighting, when: When) -> None:
    """What a count of flowers calls for. Visitors count that were seen in the bed in the last days."""
    lately = sightings.sightings(connection, since=when.day - timedelta(days=VISITS_DAYS), until=when.day)
    visited = any(
        row.seen.kind == "visitors" and row.seen.bed == seen.bed and row.seen.what in POLLINATORS for row in lately
    )
    tending.flowers_counted(
        connection,
        context,
        UUID(seen.planting),
        seen.amount or 0,
        seen.second or 0,
        when.day,
        when.actor,
        visited=visited,
    )


def _found(connection: Connection[Any], given: Given, when: When) -> None:
    if given.name:
        volunteer_plants.name_found(connection, given.subject, given.name)
    if given.name and not given.answer:
        return
    said = _one_of(given.answer, ("keep", "weed out", "gone"))
    volunteer_plants.decide_found(
        connection, given.subject, "keep" if said == "keep" else "weed out", when.day if said == "gone" else None
    )
