"""Putting a letter to a class together from the journal, the forecasts and its lessons."""

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.commands.journal import stories, timeline
from almanaque.commands.journal.timeline import TimelineEntry
from almanaque.commands.week import lessons as lesson_commands
from almanaque.core.errors import BadInput
from almanaque.core.journal import letters as core
from almanaque.core.journal import planting_story
from almanaque.core.journal.letters import BedPart, Letter
from almanaque.core.journal.planting_story import PlantingStory
from almanaque.core.units import Units
from almanaque.core.words.days import short_day
from almanaque.core.year.steps import SERIES, as_they_stand
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import letters, photos
from almanaque.store.journal.letters import Kept
from almanaque.store.journal.photos import Photo
from almanaque.store.week import tasks

AHEAD = timedelta(days=28)  # what comes next is looked for so far ahead
LASTS = timedelta(days=120)  # how long a letter can be read
MOST_PHOTOS = 12


def since_when(connection: Connection[Any], group_id: UUID | None, today: date) -> date:
    """The day of the group's last letter, or of the last to all, else two weeks ago."""
    made = [kept.to_day for kept in letters.letters(connection) if kept.class_group_id == group_id]
    return max(made, default=today - timedelta(days=14))


def suggested_task(connection: Connection[Any], context: Context, group_id: UUID | None, today: date) -> str:
    """The question of a lesson that suits the group now, else a task of our own."""
    if group_id is None:
        return core.default_task("", today)
    slots = context.calendar.carried_on.lessons(today, today + timedelta(days=28), group_id=str(group_id))[:1]
    week = tasks.tasks(connection, start=today, end=today + timedelta(days=28), status="open")
    offers = [offer for found in lesson_commands.offered(connection, context, slots, week).values() for offer in found]
    return core.default_task(next((o.lesson.question for o in offers if o.lesson.question), ""), today)


@dataclass(frozen=True)
class LetterWish:
    """What a letter is asked to be: for a class, or for all with none; `photos` are those that were chosen one by one."""

    group_id: UUID | None
    since: date
    greeting: str
    task: str
    with_notes: bool = False
    photos: frozenset[UUID] = frozenset()


def compose(connection: Connection[Any], context: Context, wish: LetterWish, *, today: date) -> Letter:
    """The letter. Raises BadInput when there is no bed and nothing planted to tell of, or the days are out of order."""
    if wish.since > today:
        raise BadInput("journal.letter_in_future", field="since")
    core.check(wish.greeting, wish.task)
    if len(wish.photos) > MOST_PHOTOS:
        raise BadInput("journal.too_many_photos", field="photos", most=MOST_PHOTOS)
    if wish.group_id is not None and wish.group_id not in {g.id for g in context.groups}:
        raise BadInput("journal.no_such_class", field="group")
    beds = garden.beds(connection)
    told = _told_of(connection, beds, wish, today)
    known = stories.read(
        connection, context, beds, [p for mine in told.values() for p in mine], group_id=wish.group_id, today=today
    )
    chosen = [p for p in photos.photos(connection, until=today, limit=1000) if p.id in wish.photos]
    parts = [
        _bed(connection, context, bed, told[bed.id], known, chosen, wish, today=today) for bed in beds if bed.id in told
    ]
    if not parts:
        raise BadInput("journal.nothing_to_tell", field="group")
    name = context.group_names(today).get(str(wish.group_id), core.ALL) if wish.group_id else core.ALL
    return Letter(
        context.school.name, name, _day(today), _day(wish.since), wish.greeting.strip(), wish.task.strip(), parts
    )


def _told_of(connection: Connection[Any], beds: list[Bed], wish: LetterWish, today: date) -> dict[UUID, list[Planting]]:
    """Beds that the letter tells of with their plantings: those in the ground, planned, or over since it begins."""
    every = garden.plantings(connection, since=wish.since, until=today + timedelta(days=365))
    known = [p for p in every if p.draft_id is None and p.status in ("in the ground", "planned", "finished")]
    found = {}
    for bed in beds:
        mine = [p for p in known if p.bed_id == bed.id]
        if wish.group_id is not None:
            if bed.class_group_id != wish.group_id:
                mine = [p for p in mine if p.class_group_id == wish.group_id]
            if not mine and bed.class_group_id != wish.group_id:
                continue
        elif not mine:
            continue
        found[bed.id] = mine
    return found


def photos_to_choose(connection: Connection[Any], wish: LetterWish, *, today: date) -> list[Photo]:
    """Photos since the letter begins of the beds that it tells of, newest first."""
    told = _told_of(connection, garden.beds(connection), wish, today)
    return [p for p in photos.photos(connection, since=wish.since, until=today, limit=200) if p.bed_id in told]


def _day(day: date) -> str:
    return f"{short_day(day)} {day.year}"


def _bed(
    connection: Connection[Any],
    context: Context,
    bed: Bed,
    mine: list[Planting],
    known: dict[UUID, PlantingStory],
    pictures: list[Photo],
    wish: LetterWish,
    *,
    today: date,
) -> BedPart:
    whole = wish.group_id is None or bed.class_group_id == wish.group_id
    told = [words for p in mine for words in _since(known[p.id], wish.since, today, context.school.units)]
    if whole:
        entries = timeline.entries(connection, context, until=today, since=wish.since, bed_id=bed.id, limit=400)
        told += [_of_the_bed(e) for e in reversed(entries) if _is_told(e, with_notes=wish.with_notes)]
    there = [p for p in mine if p.status == "in the ground"]
    names = list(dict.fromkeys(context.crops[p.crop].name.en for p in there))
    calendar = context.calendar.carried_on
    ahead = [
        planting_story.named(known[p.id], planting_story.ahead(known[p.id], today, calendar))
        for p in mine
        if p.status != "finished"
    ]
    chosen = [p for p in pictures if p.bed_id == bed.id]
    return BedPart(
        bed.name,
        ", ".join(names) if names else "nothing at the moment",
        told[-core.MOST_CHANGES :],
        [words for words in [*ahead, *_coming(context, bed, mine, today)] if words][: core.MOST_NEXT],
        [(str(p.id), ": ".join(word for word in (_day(p.noted_on), p.caption) if word)) for p in reversed(chosen)],
    )


def _since(story: PlantingStory, since: date, today: date, units: Units) -> list[str]:
    """What became of a planting: that it began, what changed, and how high it is."""
    started = story.events.get("started")
    begun = [planting_story.named(story, planting_story.began(story))] if started and started >= since else []
    high = planting_story.named(story, planting_story.height(story, today, units))
    return [*begun, *planting_story.changes(story, since, today, units), *([high] if high else [])]


def _is_told(entry: TimelineEntry, *, with_notes: bool) -> bool:
    """What is noted of the bed itself; of its plantings the stories tell."""
    if entry.planting_id is not None:
        return with_notes and entry.what == "note"
    return (entry.what == "seen" and not entry.words.endswith("nothing new")) or (with_notes and entry.what == "note")


def _of_the_bed(entry: TimelineEntry) -> str:
    if entry.what == "note":
        return f"On {short_day(entry.day)} we wrote: “{entry.words}”"
    return f"On {short_day(entry.day)} we saw {entry.words}."


def _coming(context: Context, bed: Bed, mine: list[Planting], today: date) -> list[str]:
    """What is due on the bed in the next weeks, by day."""
    rows: list[tuple[date, str]] = []
    for planting in mine:
        if planting.dates is None or planting.status == "finished":
            continue
        steps = forecasts.steps_of(context, planting, bed, planting.dates, today)
        for dated in as_they_stand(
            steps, events=planting.events, by_hand=planting.steps, today=today, method=planting.method
        ):
            step = dated.step
            if (
                dated.state in ("planned", "set by hand")
                and step.step not in SERIES
                and not step.again
                and step.job
                and step.to_day >= today
                and step.from_day <= today + AHEAD
            ):
                when = f"between {short_day(step.from_day)} and {short_day(step.to_day)}"
                rows.append((step.from_day, f"{step.title} {when}."))
    return [line for _, line in sorted(rows)]


def send(
    connection: Connection[Any],
    context: Context,
    letter_id: UUID,
    letter: Letter,
    wish: LetterWish,
    *,
    today: date,
    token_hash: bytes,
    now: datetime,
    by: UUID | None,
) -> None:
    """Keep a letter as it is now, to be read under its secret address."""
    ids = [UUID(photo) for bed in letter.beds for photo, _ in bed.photos]
    kept = Kept(letter_id, wish.group_id, wish.since, today, letter.out(), ids, now + LASTS)
    letters.save(connection, context.school.id, kept, token_hash=token_hash, by=by)
