"""What a phone sends from the garden, entry by entry: each is taken once, dated by when it was noted, whole or not at all."""

import hashlib
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Annotated, Any, Literal
from uuid import UUID

from psycopg import Connection
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.harvest import pickings
from almanaque.commands.harvest.pickings import PickingWish
from almanaque.commands.journal import tour_answers
from almanaque.commands.journal.tour_answers import Given, When
from almanaque.commands.school import turn_of_year
from almanaque.commands.week import jobs
from almanaque.core.errors import BadInput
from almanaque.core.harvest.picking import USES
from almanaque.core.journal.sightings import TROUBLE, Kind, Sighting, next_look
from almanaque.core.units import Units, parse_length
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.journal import journal_entries, phone_entries, sightings
from almanaque.store.journal.phone_entries import Before, Received
from almanaque.store.week.tasks import TaskStatus

MOST_LATE = timedelta(days=400)  # a phone that lay in a drawer for longer is asked about: our own rule
REMEDY_WAITS = timedelta(days=7)  # for what it was done against, which another phone may still have: our own rule


class Waits(Exception):
    """An entry that comes before the one it belongs to: it is to be sent again later."""


Count = Annotated[int, Field(ge=0, le=1_000_000)]


class _Entry(BaseModel):
    """What every entry has: its own id, and when it was noted, as an instant and as a day in the school's zone."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=4000)

    id: UUID
    noted_at: AwareDatetime
    noted_on: date


class AnswerEntry(_Entry):
    """An answer to a question of the tour. A height is written as people write it."""

    kind: Literal["answer"]
    code: str = Field(max_length=20)
    subject: UUID
    answer: str = Field(default="", max_length=40)
    length: str = Field(default="", max_length=30)
    amount: Count | None = None
    second: Count | None = None
    name: str = Field(default="", max_length=80)


class SightingEntry(_Entry):
    """Something seen that nobody asked about. Trouble comes back in a week unless it is told not to."""

    kind: Literal["sighting"]
    what_kind: Kind
    bed: UUID | None = None
    planting: UUID | None = None
    square: str = Field(default="", max_length=6)
    what: str = ""
    part: str = ""
    severity: Count | None = None
    length: str = Field(default="", max_length=30)
    amount: Count | None = None
    second: Count | None = None
    of_amount: Count | None = None
    team: str = ""
    note: str = ""
    remedy: str = ""
    come_back: bool = True


class NoteEntry(_Entry):
    kind: Literal["note"]
    bed: UUID | None = None
    body: str
    come_back_on: date | None = None


class JobEntry(_Entry):
    kind: Literal["job"]
    task: UUID
    status: Literal["open", "done", "partly", "not needed"]
    amount: str = Field(default="", max_length=80)
    minutes: int | None = Field(default=None, ge=0, le=1000)


class PickingEntry(_Entry):
    kind: Literal["picking"]
    planting: UUID
    amount: str = Field(max_length=30)
    unit: str = Field(max_length=20)
    use: str = Field(max_length=20)
    part: str = Field(default="", max_length=30)
    group: UUID | None = None
    quality: str = Field(default="", max_length=60)
    note: str = Field(default="", max_length=1000)
    lost_to: str = Field(default="", max_length=80)
    sure: bool = False
    last: bool = False


class RemedyEntry(_Entry):
    """What was done against something found before."""

    kind: Literal["remedy"]
    sighting: UUID
    what: str = Field(max_length=80)


Entry = Annotated[
    AnswerEntry | SightingEntry | NoteEntry | JobEntry | PickingEntry | RemedyEntry, Field(discriminator="kind")
]
_entry: TypeAdapter[Entry] = TypeAdapter(Entry)
CAME_LATER = {"picking": ("part", "group", "quality", "note", "lost_to", "sure", "last")}


def read(given: Any) -> Entry:
    """An entry as it was sent. Raises BadInput for what is none."""
    try:
        entry = _entry.validate_python(given, strict=False)
        for name, value in entry:
            if isinstance(value, str) and ("\0" in value or not _writable(value)):
                raise BadInput("journal.entry_character", name=name)
        return entry
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"][1:]) or "the entry"
        raise BadInput("journal.entry_field", where=where) from None


def _writable(text: str) -> bool:
    """False for half a character, as a broken phone may send one."""
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


@dataclass(frozen=True)
class TakenEntry:
    """What became of an entry: taken now, taken before, or held back because another one has its number."""

    before: Before
    noted_on: date


def take(
    connection: Connection[Any], context: Context, entry: Entry, *, by: UUID, today: date, now: datetime
) -> TakenEntry:
    """Take an entry once. A day ahead of the school's is the fault of the phone's clock, and becomes today.

    Raises BadInput, Refused or NotFound for what cannot be, Waits for what comes too early; the caller's transaction is then undone,
    the entry not taken.
    """
    day = min(entry.noted_on, today)
    if day < today - MOST_LATE:
        raise BadInput("journal.entry_too_old")
    question, answer = "", ""
    if isinstance(entry, AnswerEntry) and (entry.answer or not entry.name):  # a name alone leaves the question open
        question, answer = f"{entry.code}:{entry.subject}", entry.answer or "given"
    at = min(entry.noted_at, now)
    before = phone_entries.take(
        connection,
        context.school.id,
        Received(entry.id, entry.kind, digest(entry), by, day, at, question, answer),
    )
    if before == "other":
        raise errors.IdTaken("Another entry with this number is kept already. Enter this one anew and delete it here.")
    if before == "new":
        turn_of_year.let_late_in(connection, day, at)
        _do(connection, context, entry, When(day, at, Actor(by, today)), now)
    return TakenEntry(before, day)


def digest(entry: Entry) -> str:
    """The same for the same words, whatever their order, and whether or not the phone knew fields that came later."""
    unused = {
        name
        for name in CAME_LATER.get(entry.kind, ())
        if getattr(entry, name) == type(entry).model_fields[name].default
    }
    return hashlib.sha256(entry.model_dump_json(exclude=unused).encode()).hexdigest()


def _do(connection: Connection[Any], context: Context, entry: Entry, when: When, now: datetime) -> None:
    units = context.school.units
    match entry:
        case AnswerEntry():
            amount = _height(entry.length, units) if entry.length else _float(entry.amount)
            tour_answers.answer(
                connection,
                context,
                Given(
                    entry.id,
                    entry.code,
                    entry.subject,
                    entry.answer,
                    amount,
                    _float(entry.second),
                    " ".join(entry.name.split()),
                ),
                when,
            )
        case SightingEntry():
            _see(connection, context, entry, when, units)
        case NoteEntry():
            if not entry.body.strip():
                raise BadInput("journal.note_empty", field="body")
            back = entry.come_back_on if entry.come_back_on and entry.come_back_on > when.day else None
            if entry.bed is not None:
                garden.bed(connection, entry.bed)
            journal_entries.save(
                connection,
                context.school.id,
                entry_id=entry.id,
                bed_id=entry.bed,
                noted_on=when.day,
                body=entry.body.strip(),
                come_back_on=back,
                by=when.actor.by,
            )
        case JobEntry():
            status: TaskStatus = "open" if entry.status == "partly" else entry.status
            told = jobs.JobReport(
                status, partly=entry.status == "partly", minutes=entry.minutes, amount=entry.amount.strip(), note=""
            )
            jobs.tell(connection, context, entry.task, told, when.day, when.actor, at=when.at)
        case PickingEntry():
            if entry.use not in USES:
                raise BadInput("journal.picking_use_unknown", field="use", uses=", ".join(USES))
            pickings.pick(
                connection,
                context,
                PickingWish(
                    entry.id,
                    entry.planting,
                    entry.amount,
                    entry.unit,
                    entry.use,
                    when.day,
                    entry.group,
                    entry.note,
                    entry.part,
                    entry.quality,
                    lost_to=entry.lost_to,
                    sure=entry.sure,
                    last=entry.last,
                ),
                when.actor,
            )
        case RemedyEntry():
            if not sightings.known(connection, entry.sighting) and when.at > now - REMEDY_WAITS:
                raise Waits
            tour_answers.cure(connection, context, entry.id, entry.sighting, entry.what, when)


def _see(connection: Connection[Any], context: Context, entry: SightingEntry, when: When, units: Units) -> None:
    trouble = entry.what_kind in TROUBLE
    seen = Sighting(
        str(entry.id),
        entry.what_kind,
        when.day,
        str(entry.bed or ""),
        str(entry.planting or ""),
        " ".join(entry.what.split()),
        entry.part,
        entry.severity,
        _height(entry.length, units) if entry.what_kind == "height" else _float(entry.amount),
        _float(entry.second),
        _float(entry.of_amount),
        entry.note.strip(),
        come_back_on=next_look(when.day) if trouble and entry.come_back else None,
        team=entry.team.strip(),
    )
    tour_answers.see(connection, context, seen, when, square=entry.square.strip().upper())
    if trouble and entry.remedy.strip():
        # The remedy's id follows from the sighting's, so that both are one entry.
        remedy_id = UUID(bytes=hashlib.sha256(entry.id.bytes + b"remedy").digest()[:16])
        tour_answers.cure(connection, context, remedy_id, entry.id, entry.remedy, when)


def _height(text: str, units: Units) -> float:
    return float(parse_length(text, bare_unit="in" if units == "us" else "cm"))


def _float(value: int | None) -> float | None:
    return None if value is None else float(value)
