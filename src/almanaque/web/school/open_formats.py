"""School: open formats. The whole school as a bundle, tables as CSV, and pickings and plantings of earlier years from a spreadsheet."""

import io
import zipfile
from typing import Annotated, Any, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Response

from almanaque.commands.school import history_import, school_bundle
from almanaque.core.errors import BadInput
from almanaque.formats.school import history_csv
from almanaque.formats.school.history_csv import NAMES, What
from almanaque.store.school import uploads, whole_school
from almanaque.web import forms, frame, words
from almanaque.web.desk import Desk, Room, may

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
Head = Annotated[Desk, Depends(may("calendar"))]
SHOWN = 400  # lines of a preview
WHATS: tuple[What, ...] = ("pickings", "plantings")


@router.get("/school/formats")
def page(desk: Look) -> Response:
    with desk.open() as room:
        return _page(room)


def _page(
    room: Room, *, error: BadInput | None = None, brought: dict[str, int] | None = None, status: int = 200
) -> Response:
    values = {
        "tables": [
            {"name": table.name, "rows": f"{count:,}"}
            for table, count in sorted(school_bundle.tables(room.connection), key=lambda pair: pair[0].name)
            if count
        ],
        "used": whole_school.is_used(room.connection),
        "error": error.message if error else "",
        "brought": f"{sum(brought.values()):,} rows of {len(brought)} tables were brought in." if brought else "",
    }
    return frame.page(room, "school", "Open formats", values, template="school/open_formats.html", status=status)


@router.get("/school/formats/school.json")
def as_bundle(desk: Head, photos: str = "yes") -> Response:
    """The whole school as one file."""
    with desk.open() as room:
        body = school_bundle.export(room.connection, day=room.today, photos=photos != "no")
        name = (
            "".join(c if c.isascii() and c.isalnum() else "-" for c in room.context.school.name).strip("-").lower()
            or "school"
        )
        headers = {"Content-Disposition": f"attachment; filename={name}-{room.today.isoformat()}.json"}
        return Response(body, media_type="application/json", headers=headers)


@router.post("/school/formats/school")
def bring_in(desk: Head) -> Response:
    """Fill this unused school from a bundle: all of it, or nothing."""
    try:
        with desk.open() as room:
            _, body = forms.file(desk.request.state.form.get("file"))
            brought = school_bundle.bring_in(room.connection, room.context, body)
        with desk.open() as room:
            return _page(room, brought=brought)
    except BadInput as error:
        with desk.open() as room:
            return _page(room, error=error, status=422)


@router.get("/school/formats/tables.zip")
def all_tables(desk: Head) -> Response:
    """Every table that holds something as CSV, in one file."""
    with desk.open() as room:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            for table, count in school_bundle.tables(room.connection):
                text = school_bundle.table_csv(room.connection, table.name)
                if count and text is not None:
                    packed.writestr(f"{table.name}.csv", text)
        headers = {"Content-Disposition": "attachment; filename=tables.zip"}
        return Response(out.getvalue(), media_type="application/zip", headers=headers)


@router.get("/school/formats/tables/{name}.csv")
def one_table(desk: Head, name: str) -> Response:
    """One table with units in the header."""
    with desk.open() as room:
        text = school_bundle.table_csv(room.connection, name)
        if text is None:
            raise BadInput(f"There is no table “{name[:40]}”. Choose one from the list.")
        headers = {"Content-Disposition": f"attachment; filename={name}.csv"}
        return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/school/formats/past")
def send(desk: Head) -> Response:
    """Take a spreadsheet of earlier years and show what each line would become."""
    form = desk.request.state.form
    try:
        with desk.open() as room:
            what = _what(str(form.get("what", "")))
            name, body = forms.file(form.get("file"))
            history_csv.split(body, name, what)
            upload_id = uuid4()
            uploads.save(room.connection, room.context.school.id, upload_id, what, name=name, body=body)
            return frame.go(room, "/school/formats/past", file=str(upload_id), what=what)
    except BadInput as error:
        with desk.open() as room:
            return _page(room, error=error, status=422)


@router.get("/school/formats/past")
def preview(desk: Head, file: str = "", what: str = "") -> Response:
    """What each line of the file would become."""
    with desk.open() as room:
        chosen = _what(what)
        upload = uploads.get(room.connection, forms.row_id(file), chosen)
        return _preview(room, upload.id, chosen, history_csv.split(upload.body, upload.name, chosen))


@router.post("/school/formats/past/save")
def save(desk: Head) -> Response:
    """Read the columns as they are said to be, or bring the lines in."""
    form = {key: str(value) for key, value in desk.request.state.form.items()}
    what = _what(form.get("what", ""))
    with desk.open() as room:
        upload = uploads.get(room.connection, forms.row_id(form.get("upload", "")), what)
        meanings = {
            int(key.removeprefix("column-")): value
            for key, value in form.items()
            if key.startswith("column-") and key[7:].isdigit()
        }
    try:
        with desk.open() as room:
            table = history_csv.split(upload.body, upload.name, what, meanings=meanings or None)
            if form.get("action") != "bring in":
                return _preview(room, upload.id, what, table)
            if missing := table.missing(what):
                raise BadInput(f"No column is taken for {' and '.join(missing)}. Choose one for each.", field="file")
            looks = history_import.look(
                room.connection,
                room.context,
                table.read(),
                what,
                today=room.today,
                month_first=_month_first(room),
            )
            done = history_import.bring_in(room.connection, room.context, looks, room.hand())
            if not done:
                raise BadInput("No line can come in as it stands. Look at the reasons below.", field="file")
            uploads.delete(room.connection, upload.id)
            return frame.go(room, "/harvest/book" if what == "pickings" else "/school/formats")
    except BadInput as error:
        with desk.open() as room:
            try:
                table = history_csv.split(upload.body, upload.name, what, meanings=meanings or None)
            except BadInput:
                table = history_csv.split(upload.body, upload.name, what)
            return _preview(room, upload.id, what, table, error=error, status=422)


def _what(text: str) -> What:
    return cast(What, forms.one_of(text, WHATS, field="what"))


def _month_first(room: Room) -> bool:
    return room.context.school.units == "us"


def _preview(
    room: Room,
    upload_id: UUID,
    what: What,
    table: history_csv.Table,
    *,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    missing = table.missing(what)
    looks = (
        []
        if missing
        else history_import.look(
            room.connection,
            room.context,
            table.read(),
            what,
            today=room.today,
            month_first=_month_first(room),
        )
    )
    good = sum(not one.problem for one in looks)
    said = (
        f"No column is taken for {' and '.join(missing)} yet."
        if missing
        else f"{words.count(good, 'line')} can come in, {len(looks) - good} cannot."
    )
    if history_import.swapped(looks):
        said += " Nearly no line can be read: look whether the columns are taken for one another."
    values: dict[str, Any] = {
        "upload": str(upload_id),
        "what": what,
        "file_name": table.name,
        "said": said,
        "good": good,
        "error": error.message if error else "",
        "columns": [
            {
                "n": n,
                "name": name or f"column {n + 1}",
                "meaning": table.meanings[n],
                "sample": next((cells[n][:30] for _, cells in table.rows if n < len(cells) and cells[n].strip()), ""),
            }
            for n, name in enumerate(table.header)
        ],
        "meanings": [("", "left out"), *((meaning, meaning.replace("_", " ")) for meaning in NAMES[what])],
        "looks": sorted(looks, key=lambda one: (not one.problem, one.line))[:SHOWN],
        "more": max(0, len(looks) - SHOWN),
    }
    return frame.page(room, "school", f"Bring in {what}", values, template="school/history_import.html", status=status)
