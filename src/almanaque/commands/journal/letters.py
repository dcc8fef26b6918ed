"""Putting a letter to a class together from the journal, the forecasts and its lessons."""

from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.commands.journal import timeline
from almanaque.commands.journal.timeline import TimelineEntry
from almanaque.commands.week import lessons as lesson_commands
from almanaque.core.errors import BadInput
from almanaque.core.journal import letters as core
from almanaque.core.journal.letters import BedPart, Letter
from almanaque.core.journal.sightings import Sighting
from almanaque.core.words.days import short_day
from almanaque.core.year.steps import SERIES, as_they_stand
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import letters, sightings
from almanaque.store.journal.letters import Kept
from almanaque.store.week import tasks

AHEAD = timedelta(days=28)  # what comes next is looked for so far ahead
LASTS = timedelta(days=120)  # how long a letter can be read
MOST_PHOTOS = 12


def since_when(connection: Connection[Any], group_id: UUID, today: date) -> date:
    """The day of the group's last letter, or two weeks ago."""
    made = [kept.to_day for kept in letters.letters(connection) if kept.class_group_id == group_id]
    return max(made, default=today - timedelta(days=14))


def suggested_task(connection: Connection[Any], context: Context, group_id: UUID, today: date) -> str:
    """The question of a lesson that suits the group now, else a task of our own."""
    slots = context.calendar.carried_on.lessons(today, today + timedelta(days=28), group_id=str(group_id))[:1]
    week = tasks.tasks(connection, start=today, end=today + timedelta(days=28), status="open")
    offers = [offer for found in lesson_commands.offered(connection, context, slots, week).values() for offer in found]
    return core.default_task(next((o.lesson.question for o in offers if o.lesson.question), ""), today)


def compose(
    connection: Connection[Any],
    context: Context,
    group_id: UUID,
    *,
    since: date,
    today: date,
    greeting: str,
    task: str,
    with_notes: bool,
) -> Letter:
    """The letter for one group. Raises BadInput when it has no bed and nothing planted, or the days are out of order."""
    if since > today:
        raise BadInput("journal.letter_in_future", field="since")
    core.check(greeting, task)
    group = next((g for g in context.groups if g.id == group_id), None)
    if group is None:
        raise BadInput("journal.no_such_class", field="group")
    standing = [
        p for p in garden.plantings(connection, since=today, until=today) if p.status in ("in the ground", "planned")
    ]
    parts, photos = [], 0
    for bed in garden.beds(connection):
        own = bed.class_group_id == group_id
        mine = [p for p in standing if p.bed_id == bed.id and (own or p.class_group_id == group_id)]
        if not own and not mine:
            continue
        part = _bed(
            connection,
            context,
            bed,
            mine,
            since=since,
            today=today,
            with_notes=with_notes,
            whole=own,
            room=MOST_PHOTOS - photos,
        )
        photos += len(part.photos)
        parts.append(part)
    if not parts:
        raise BadInput("journal.nothing_to_tell", field="group")
    name = context.group_names(today).get(str(group_id), group.name)
    return Letter(context.school.name, name, _day(today), _day(since), greeting.strip(), task.strip(), parts)


def _day(day: date) -> str:
    return f"{short_day(day)} {day.year}"


def _bed(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    mine: list[Planting],
    *,
    since: date,
    today: date,
    with_notes: bool,
    whole: bool,
    room: int,
) -> BedPart:
    ids = {p.id for p in mine}
    entries = timeline.entries(connection, context, until=today, since=since, bed_id=bed.id, limit=400)
    happened = [e for e in entries if whole or e.planting_id in ids]
    told = [
        e for e in reversed(happened) if e.what in ("seen", "happened", "picked") or (with_notes and e.what == "note")
    ]
    heights = sightings.of_plantings(connection, list(ids))
    grown = [
        line
        for p in mine
        if (
            line := core.grown_since(
                _heights(heights.get(str(p.id), []), since), context.crops[p.crop].name.en, context.school.units
            )
        )
    ]
    lines = [_line(e) for e in told if not (e.what == "seen" and e.words.endswith("nothing new"))]
    names = list(dict.fromkeys(context.crops[p.crop].name.en for p in mine))
    return BedPart(
        bed.name,
        ", ".join(names) if names else "nothing at the moment",
        (grown + lines[-core.MOST_CHANGES :])[-core.MOST_CHANGES :],
        _coming(context, bed, mine, today),
        [(str(e.id), e.words) for e in happened if e.what == "photo"][: max(0, min(4, room))],
    )


def _heights(seen: list[Sighting], since: date) -> list[Sighting]:
    return [s for s in seen if s.kind == "height" and s.day >= since - timedelta(days=14)]


def _line(entry: TimelineEntry) -> str:
    what = f"{entry.crop}: {entry.words}" if entry.crop else entry.words
    return f"{short_day(entry.day)}. {what}"


def _coming(context: Context, bed: Bed, mine: list[Planting], today: date) -> list[str]:
    """What is due on the bed in the next weeks, by day."""
    rows: list[tuple[date, str]] = []
    for planting in mine:
        if planting.dates is None:
            continue
        steps = forecasts.steps_of(context, planting, bed, planting.dates, today)
        for dated in as_they_stand(
            steps, events=planting.events, by_hand=planting.steps, today=today, method=planting.method
        ):
            step = dated.step
            if (
                dated.state in ("planned", "set by hand")
                and step.step not in SERIES
                and step.job
                and step.to_day >= today
                and step.from_day <= today + AHEAD
            ):
                rows.append((step.from_day, f"{step.title}: {short_day(step.from_day)} to {short_day(step.to_day)}"))
    return [line for _, line in sorted(rows)][: core.MOST_NEXT]


def send(
    connection: Connection[Any],
    context: Context,
    letter_id: UUID,
    group_id: UUID,
    letter: Letter,
    *,
    since: date,
    today: date,
    token_hash: bytes,
    now: datetime,
    by: UUID | None,
) -> None:
    """Keep a letter as it is now, to be read under its secret address."""
    ids = [UUID(photo) for bed in letter.beds for photo, _ in bed.photos]
    kept = Kept(letter_id, group_id, since, today, letter.out(), ids, now + LASTS)
    letters.save(connection, context.school.id, kept, token_hash=token_hash, by=by)
