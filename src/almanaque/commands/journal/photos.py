"""Keeping a photo: looked at before it is decoded, made smaller, and stripped of all that the camera wrote beside the picture."""

import hashlib
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.formats.confined import confined
from almanaque.formats.journal import photo as formats
from almanaque.formats.journal.photo import Jpeg
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import phone_entries, photos, viewpoints
from almanaque.store.journal.phone_entries import Before, Received
from almanaque.store.journal.photos import Photo

LONGEST_VIEWPOINT = 60  # letters of a place's name


@dataclass(frozen=True)
class Sent:
    """A photo as it was sent, with what it shows: a planting, a bed, or the whole garden; and the marked place it was taken from.

    `people` when somebody can be recognised in it.
    """

    id: UUID
    body: bytes
    name: str
    bed_id: UUID | None
    planting_id: UUID | None
    caption: str
    noted_on: date
    noted_at: datetime
    viewpoint_id: UUID | None = None
    viewpoint: str = ""
    people: bool = False
    station_id: UUID | None = None


def read(body: bytes, name: str) -> Jpeg:
    """The picture made small, by a process of its own; before any transaction, since others may be waiting for their turn.

    Raises BadInput for what is no picture, or too large a one.
    """
    return confined(formats.made_small)(body, name)


def keep(connection: Connection[Any], context: Context, sent: Sent, made: Jpeg, *, by: UUID, today: date) -> Before:
    """Keep a photo once, however often it is sent. `made` is what `read` made of it. Raises BadInput."""
    if sent.people:
        raise BadInput("journal.people_in_photo", field="people")
    facts = f"{sent.bed_id}|{sent.planting_id}|{sent.caption}|{sent.noted_on}".encode()
    digest = hashlib.sha256(hashlib.sha256(sent.body).digest() + facts).hexdigest()
    day = min(sent.noted_on, today)
    before = phone_entries.take(
        connection, context.school.id, Received(sent.id, "photo", digest, by, day, sent.noted_at)
    )
    if before == "other":
        raise errors.IdTaken("Another entry with this number is kept already. Take the photo anew and delete this one.")
    if before == "same":
        return before
    bed_id = sent.bed_id
    if sent.planting_id is not None:
        bed_id = garden.planting(connection, sent.planting_id).bed_id
    elif bed_id is not None:
        garden.bed(connection, bed_id)
    if len(sent.caption) > 200:
        raise BadInput("journal.caption_too_long", field="caption")
    viewpoint_id = None
    if bed_id is not None and sent.viewpoint_id is not None and sent.viewpoint.strip():
        name = " ".join(sent.viewpoint.split())[:LONGEST_VIEWPOINT]
        viewpoint_id = viewpoints.ensure(connection, context.school.id, sent.viewpoint_id, bed_id, name)
    caption = sent.caption.strip()
    row = Photo(
        sent.id,
        bed_id,
        sent.planting_id,
        day,
        caption,
        made.width,
        made.height,
        "",
        "",
        viewpoint_id=viewpoint_id,
    )
    photos.save(connection, context.school.id, row, picture=made.picture, small=made.small, by=by, at=sent.noted_at)
    if sent.station_id is not None:
        photos.save_of_station(connection, context.school.id, row.id, sent.station_id)
    return before
