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
from almanaque.store.journal import phone_entries, photos
from almanaque.store.journal.phone_entries import Before, Received
from almanaque.store.journal.photos import Photo


@dataclass(frozen=True)
class Sent:
    """A photo as it was sent, with what it shows: a planting, a bed, or the whole garden."""

    id: UUID
    body: bytes
    name: str
    bed_id: UUID | None
    planting_id: UUID | None
    caption: str
    noted_on: date
    noted_at: datetime


def read(body: bytes, name: str) -> Jpeg:
    """The picture made small, by a process of its own; before any transaction, since others may be waiting for their turn.

    Raises BadInput for what is no picture, or too large a one.
    """
    return confined(formats.made_small)(body, name)


def keep(connection: Connection[Any], context: Context, sent: Sent, made: Jpeg, *, by: UUID, today: date) -> Before:
    """Keep a photo once, however often it is sent. `made` is what `read` made of it. Raises BadInput."""
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
    row = Photo(sent.id, bed_id, sent.planting_id, day, sent.caption.strip(), made.width, made.height, "", "")
    photos.save(connection, context.school.id, row, picture=made.picture, small=made.small, by=by, at=sent.noted_at)
    return before
