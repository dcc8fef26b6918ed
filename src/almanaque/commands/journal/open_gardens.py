"""The whole garden for those who are away: made once as a link, put together anew whenever it is read. No people, no notes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.journal import stories
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.journal import home_tasks, planting_story
from almanaque.core.journal.home_tasks import HomeTask
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import open_gardens, photos
from almanaque.store.journal.open_gardens import Audience, OpenGarden
from almanaque.store.journal.photos import Photo
from almanaque.store.school import turn_of_year as ballots

LONGEST = 2000  # characters of a greeting: our own rule
MOST_PHOTOS = 40
FREEZES = 0.1  # chance of a freezing night in the week from which a jar may burst: our own rule
LONGEST_OPEN = timedelta(days=400)  # a link ends after a year and a little at the latest: our own rule


@dataclass(frozen=True)
class OpenPlanting:
    """A planting as those who are away read of it. `picture` is an address that pages add."""

    crop: Crop
    dates: GrowthDates | None
    variety: str
    is_up: bool
    theirs: bool
    began: str
    changes: list[str]
    height: str
    ahead: str
    look_for: str
    caution: str


@dataclass(frozen=True)
class OpenBed:
    """A bed of the walk with what stands in it, the photos chosen for it, oldest first, and a task for home."""

    bed: Bed
    theirs: bool
    plantings: list[Planting]
    told: list[OpenPlanting]
    photos: list[Photo]
    task: HomeTask | None


def read(connection: Connection[Any], context: Context, made: OpenGarden, *, today: date) -> list[OpenBed]:
    """All beds in the order of the walk, as they are today."""
    beds = [bed for bed in garden.beds(connection) if bed.stood_on(today)]
    present = _present(connection, beds, today)
    known = stories.read(
        connection,
        context,
        beds,
        present,
        group_id=made.class_group_id if made.audience == "class" else None,
        today=today,
    )
    chosen = set(made.photos)
    pictures = [p for p in photos.photos(connection, until=today, limit=1000) if p.id in chosen]
    found = []
    for bed in beds:
        mine = [p for p in present if p.bed_id == bed.id]
        theirs = made.audience == "class" and bed.class_group_id == made.class_group_id
        told = [
            _told(
                context,
                p,
                known[p.id],
                made,
                today,
                theirs=stories.is_theirs(p, bed.class_group_id, made.class_group_id),
            )
            for p in mine
        ]
        of_bed = sorted((p for p in pictures if p.bed_id == bed.id), key=lambda p: p.noted_on)
        found.append(OpenBed(bed, theirs, mine, told, of_bed, home_tasks.task_of(made.tasks.get(str(bed.id), ""))))
    return found


def _present(connection: Connection[Any], beds: Sequence[Bed], today: date) -> list[Planting]:
    """What stands in the beds, and what is planned in ink."""
    known = {bed.id for bed in beds}
    every = garden.plantings(connection, since=today, until=today + timedelta(days=120))
    return [p for p in every if p.bed_id in known and p.status in ("in the ground", "planned") and p.draft_id is None]


def _told(
    context: Context,
    planting: Planting,
    story: planting_story.PlantingStory,
    made: OpenGarden,
    today: date,
    *,
    theirs: bool,
) -> OpenPlanting:
    crop, units, calendar = story.crop, context.school.units, context.calendar.carried_on
    return OpenPlanting(
        crop,
        planting.dates,
        planting.variety,
        planting.status == "in the ground",
        theirs and made.audience == "class",
        planting_story.began(story),
        planting_story.changes(story, made.from_day, today, units),
        planting_story.height(story, today, units),
        planting_story.ahead(story, today, calendar),
        planting_story.look_for(story, today),
        planting_story.cautions(crop),
    )


def suggested_tasks(connection: Connection[Any], context: Context, *, today: date) -> dict[UUID, HomeTask]:
    """A task for each bed that suits what grows there, so that neighbours have different ones."""
    beds = [bed for bed in garden.beds(connection) if bed.stood_on(today)]
    present = _present(connection, beds, today)
    freezes = context.climate is not None and context.climate.freeze_chance(today) >= FREEZES
    tasks = home_tasks.suggested(
        [[context.crops[p.crop] for p in present if p.bed_id == bed.id] for bed in beds], freezes=freezes
    )
    return {bed.id: task for bed, task in zip(beds, tasks, strict=True)}


@dataclass(frozen=True)
class OpenGardenWish:
    """What somebody asks a link for."""

    audience: Audience
    group_id: UUID | None
    greeting: str
    from_day: date
    until: date
    tasks: Mapping[UUID, str]
    photos: Sequence[UUID]
    ballot_id: UUID | None = None


def make(
    connection: Connection[Any],
    context: Context,
    garden_id: UUID,
    wish: OpenGardenWish,
    *,
    token_hash: bytes,
    now: datetime,
    today: date,
    by: UUID | None,
) -> OpenGarden:
    """Keep a link. Raises BadInput for a class that is not there, days out of order, too many words or photos."""
    if wish.audience == "class" and wish.group_id not in {group.id for group in context.groups}:
        raise BadInput("journal.no_such_class", field="group")
    if len(wish.greeting) > LONGEST:
        raise BadInput("journal.letter_too_long", field="greeting", most=LONGEST)
    if wish.from_day > today:
        raise BadInput("journal.letter_in_future", field="since")
    if not today <= wish.until <= today + LONGEST_OPEN:
        raise BadInput("journal.open_until_out_of_range", field="until", most=LONGEST_OPEN.days)
    if len(wish.photos) > MOST_PHOTOS:
        raise BadInput("journal.too_many_photos", field="photos", most=MOST_PHOTOS)
    ballot_id = wish.ballot_id if wish.audience == "class" else None  # only a class votes
    if ballot_id is not None:
        ballots.ballot(connection, ballot_id)
    beds = {bed.id for bed in garden.beds(connection)}
    known = {p.id for p in photos.photos(connection, until=today, limit=1000)}
    made = OpenGarden(
        garden_id,
        wish.audience,
        wish.group_id if wish.audience == "class" else None,
        wish.greeting.strip(),
        wish.from_day,
        {str(bed): key for bed, key in wish.tasks.items() if bed in beds and home_tasks.task_of(key)},
        [photo for photo in wish.photos if photo in known],
        wish.until,
        now + (wish.until - today + timedelta(days=1)),
        None,
        ballot_id,
    )
    open_gardens.save(connection, context.school.id, made, token_hash=token_hash, by=by)
    return made
