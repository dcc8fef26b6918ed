"""Answers from home: taken in by a link within limits, then let into the journal as *from home*, or deleted."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from itertools import groupby
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.journal.notes import LONGEST
from almanaque.core.errors import BadInput
from almanaque.core.journal import home_tasks
from almanaque.core.journal.home_tasks import HomeAnswer, HomeTask
from almanaque.formats.journal.photo import Jpeg
from almanaque.store.garden import garden
from almanaque.store.journal import home_answers, journal_entries, photos
from almanaque.store.journal.home_answers import HeldAnswer, HomePhoto, SentAnswer
from almanaque.store.journal.open_gardens import OpenGarden
from almanaque.store.journal.photos import Photo

MOST_WAITING = 300  # answers by one link that nobody has looked at yet: our own rule
MOST_IN_AN_HOUR = 120  # answers by one link, a class and its families: our own rule
FROM_HOME = "From home"


@dataclass(frozen=True)
class FromHome:
    """An answer as it came: to which task at which bed, from which browser (a hash, nobody's name)."""

    id: UUID
    bed_id: UUID
    reader: bytes
    said: HomeAnswer
    made: Jpeg | None


def check_room(connection: Connection[Any], link: OpenGarden) -> None:
    """Raise BadInput when so much has come by a link that nothing more is taken for now. Holds the link until the transaction ends."""
    waiting, of_late = home_answers.waiting(connection, link.id)
    if waiting >= MOST_WAITING or of_late >= MOST_IN_AN_HOUR:
        raise BadInput("journal.home_too_many", field="done")


def take(connection: Connection[Any], context: Context, link: OpenGarden, sent: FromHome, *, today: date) -> None:
    """Hold an answer. Raises BadInput beyond the limits, and when this browser's answer to the task is in the journal already."""
    check_room(connection, link)
    held = home_answers.keep(
        connection,
        context.school.id,
        SentAnswer(sent.id, link.id, sent.bed_id, link.tasks[str(sent.bed_id)], sent.reader, sent.said, today),
        HomePhoto(sent.made.picture, sent.made.small, sent.made.width, sent.made.height) if sent.made else None,
    )
    if not held:
        raise BadInput("journal.home_let_in_already", field="done")


@dataclass(frozen=True)
class HeldTask:
    """Answers to one task at one bed by one link that wait, and what they come to."""

    link_id: UUID
    bed: str
    task: HomeTask
    answers: list[HeldAnswer]
    told: list[str]


def waiting(connection: Connection[Any]) -> list[HeldTask]:
    """What waits, task by task."""
    names = {bed.id: bed.name for bed in garden.beds(connection)}
    found = []
    for (link, bed_id, key), some in groupby(sorted(home_answers.held(connection), key=_order), key=_group):
        task, mine = home_tasks.task_named(key), list(some)
        told = home_tasks.told(task, [answer.said for answer in mine])
        found.append(HeldTask(link, names.get(bed_id, "") if bed_id else "", task, mine, told))
    return found


def let_in(
    connection: Connection[Any], context: Context, ids: Sequence[UUID], *, by: UUID, now: datetime, today: date
) -> int:
    """Put answers into the journal, notes for each task and the photos one by one; how many. Those let in before are left alone."""
    found = home_answers.hold(connection, ids)
    for (_, bed_id, key), some in groupby(sorted(found, key=_order), key=_group):
        task, mine = home_tasks.task_named(key), list(some)
        told = home_tasks.told(task, [answer.said for answer in mine])
        for number, body in enumerate(home_tasks.notes_of(told, LONGEST - len(FROM_HOME) - 2)):
            journal_entries.save(
                connection,
                context.school.id,
                entry_id=uuid5(mine[0].id, f"note {number}"),
                bed_id=bed_id,
                noted_on=today,
                body=f"{FROM_HOME}. {body}",
                come_back_on=None,
                by=by,
            )
        for answer in mine:
            if answer.pictured:
                _photo(connection, context, answer, task, by=by, now=now)
    home_answers.let_in(connection, [answer.id for answer in found], by=by)
    return len(found)


def _photo(
    connection: Connection[Any], context: Context, answer: HeldAnswer, task: HomeTask, *, by: UUID, now: datetime
) -> None:
    kept, caption = home_answers.photo(connection, answer.id), f"{FROM_HOME}: {task.title}"
    photo_id = uuid5(answer.id, "photo")
    row = Photo(photo_id, answer.bed_id, None, answer.sent_on, caption, kept.width, kept.height, "", "")
    photos.save(connection, context.school.id, row, picture=kept.picture, small=kept.small, by=by, at=now)


def _group(answer: HeldAnswer) -> tuple[UUID, UUID | None, str]:
    return answer.open_garden_id, answer.bed_id, answer.task


def _order(answer: HeldAnswer) -> tuple[str, str, str]:
    return str(answer.open_garden_id), str(answer.bed_id), answer.task
