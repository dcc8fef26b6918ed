"""Journal: notes from the beds, newest first, and what to come back to."""

from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response

from almanaque.core.errors import BadInput
from almanaque.store import garden, journal
from almanaque.store.constraints import SENTENCES
from almanaque.web import frame
from almanaque.web.desk import Desk, Room, may, parse_day

router = APIRouter()
Write = Annotated[Desk, Depends(may("note"))]
LONGEST = 4000


@router.get("/journal")
def entries(desk: Annotated[Desk, Depends(may("look"))], bed: str = "") -> Response:
    with desk.open() as room:
        return _page(room, {"id": str(uuid4()), "bed": bed, "body": "", "come_back_on": ""})


@router.post("/journal")
def write(
    desk: Write,
    id: Annotated[str, Form()] = "",
    bed: Annotated[str, Form()] = "",
    body: Annotated[str, Form()] = "",
    come_back_on: Annotated[str, Form()] = "",
) -> Response:
    """Keep a note, dated today. What cannot be kept stays in the form."""
    try:
        with desk.open() as room:
            if not body.strip():
                raise BadInput("The note is empty. Write what you saw.", field="body")
            if len(body) > LONGEST:
                raise BadInput(f"{SENTENCES['journal_entry_length']} It has {len(body):,} now.", field="body")
            back = parse_day(come_back_on, field="come_back_on") if come_back_on else None
            if back is not None and back <= room.today:
                raise BadInput(SENTENCES["journal_entry_comes_back_later"], field="come_back_on")
            bed_id = garden.bed(room.connection, _id(bed)).id if bed else None
            journal.save(
                room.connection, room.context.school.id, entry_id=_id(id), bed_id=bed_id, noted_on=room.today,
                body=body.strip(), come_back_on=back, by=desk.visitor.account_id,
            )  # fmt: skip
            return frame.go(room, "/journal")
    except BadInput as error:
        with desk.open() as room:
            values = {"id": id, "bed": bed, "body": body, "come_back_on": come_back_on}
            return _page(room, values, error=error, status=422)


@router.post("/journal/{entry_id}/close")
def close(desk: Write, entry_id: UUID, to: Annotated[str, Form()] = "") -> Response:
    """Settle a note that was to come back."""
    with desk.open() as room:
        journal.close(room.connection, entry_id, room.today)
        return frame.go(room, "/week" if to == "week" else "/journal")


def _page(room: Room, form: dict[str, str], *, error: BadInput | None = None, status: int = 200) -> Response:
    values: dict[str, Any] = {
        "entries": journal.entries(room.connection, until=room.day),
        "come_back": journal.to_come_back_to(room.connection, day=room.day),
        "beds": [(str(bed.id), f"{bed.name}, {bed.purpose.lower()}") for bed in garden.beds(room.connection)],
        "form": form,
        "error": error.message if error else "",
        "error_field": error.field if error else "",
        "dated": frame.later_than_today(room),
        "longest": LONGEST,
    }
    return frame.page(room, "journal", "Journal", values, status=status)


def _id(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("The form was incomplete. Load the page again; your text is kept below.") from None
