"""School: open formats. The whole school as a bundle, tables as CSV, and pickings and plantings of earlier years from a spreadsheet."""

import io
import zipfile
from typing import Annotated, Any, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Response

from almanaque.commands.school import history_import, school_bundle
from almanaque.core.errors import BadInput
from almanaque.formats.confined import confined
from almanaque.formats.school import history_csv
from almanaque.formats.school.history_csv import NAMES, WHATS, What
from almanaque.store.accounts import audit
from almanaque.store.school import uploads, whole_school
from almanaque.web import forms, frame, security, table_preview, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.table_preview import TableColumnView

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Head = Annotated[RequestScope, Depends(may("calendar"))]
SHOWN = 400  # lines of a preview


@router.get("/school/formats")
def page(scope: Look) -> Response:
    with scope.open() as work:
        return _page(work)


def _page(
    work: UnitOfWork, *, error: BadInput | None = None, brought: dict[str, int] | None = None, status: int = 200
) -> Response:
    values = {
        "tables": [
            {"name": table.name, "rows": f"{count:,}"}
            for table, count in sorted(school_bundle.tables(work.connection), key=lambda pair: pair[0].name)
            if count
        ],
        "used": whole_school.is_used(work.connection),
        "error": error.message if error else "",
        "brought": f"{sum(brought.values()):,} rows of {len(brought)} tables were brought in." if brought else "",
    }
    return frame.page(work, "school", "Open formats", values, template="school/open_formats.html", status=status)


@router.get("/school/formats/school.json")
def as_bundle(scope: Head, photos: str = "yes") -> Response:
    """The whole school as one file."""
    with scope.open() as work:
        body = school_bundle.export(work.connection, day=work.today, photos=photos != "no")
        name = (
            "".join(c if c.isascii() and c.isalnum() else "-" for c in work.context.school.name).strip("-").lower()
            or "school"
        )
        headers = {"Content-Disposition": f"attachment; filename={name}-{work.today.isoformat()}.json"}
        _noted(work, "exported", "the whole school, as one file")
        return Response(body, media_type="application/json", headers=headers)


@router.post("/school/formats/school")
@security.takes(size=64_000_000)
def bring_in(scope: Head) -> Response:
    """Fill this unused school from a bundle: all of it, or nothing."""
    try:
        with scope.open() as work:
            _, body = forms.file(scope.request.state.form.get("file"))
            brought = school_bundle.bring_in(work.connection, work.context, body)
            _noted(work, "restored", "a whole school from a file")
        with scope.open() as work:
            return _page(work, brought=brought)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error, status=422)


@router.get("/school/formats/tables.zip")
def all_tables(scope: Head) -> Response:
    """Every table that holds something as CSV, in one file."""
    with scope.open() as work:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            for table, count in school_bundle.tables(work.connection):
                text = school_bundle.table_csv(work.connection, table.name)
                if count and text is not None:
                    packed.writestr(f"{table.name}.csv", text)
        headers = {"Content-Disposition": "attachment; filename=tables.zip"}
        _noted(work, "exported", "all tables")
        return Response(out.getvalue(), media_type="application/zip", headers=headers)


@router.get("/school/formats/tables/{name}.csv")
def one_table(scope: Head, name: str) -> Response:
    """One table with units in the header."""
    with scope.open() as work:
        text = school_bundle.table_csv(work.connection, name)
        if text is None:
            raise BadInput("school.no_such_table", name=name[:40])
        headers = {"Content-Disposition": f"attachment; filename={name}.csv"}
        _noted(work, "exported", f"the table {name}")
        return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/school/formats/past")
@security.takes(size=history_csv.MOST_BYTES + security.FORM_BYTES)
def send(scope: Head) -> Response:
    """Take a spreadsheet of earlier years and show what each line would become."""
    form = scope.request.state.form
    try:
        with scope.open() as work:
            asked = _what(str(form.get("what", "")))
            name, body = forms.file(form.get("file"))
            what = confined(history_csv.kind_of)(body, name, asked)
            upload_id = uuid4()
            uploads.save(work.connection, work.context.school.id, upload_id, what, name=name, body=body)
            return frame.go(work, "/school/formats/past", file=str(upload_id), what=what, asked=asked)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error, status=422)


@router.get("/school/formats/past")
def preview(scope: Head, file: str = "", what: str = "", asked: str = "") -> Response:
    """What each line of the file would become."""
    with scope.open() as work:
        chosen = _what(what)
        upload = uploads.get(work.connection, forms.row_id(file), chosen)
        table = confined(history_csv.split)(upload.body, upload.name, chosen)
        return _preview(work, upload.id, chosen, table, found_by_columns=asked in WHATS and asked != chosen)


@router.post("/school/formats/past/save")
def save(scope: Head) -> Response:
    """Read the columns as they are said to be, or bring the lines in."""
    form = {key: str(value) for key, value in scope.request.state.form.items()}
    what = _what(form.get("what", ""))
    with scope.open(only_looks=True) as work:
        upload = uploads.get(work.connection, forms.row_id(form.get("upload", "")), what)
        meanings = table_preview.meanings(form)
    try:
        with scope.open() as work:
            table = confined(history_csv.split)(upload.body, upload.name, what, meanings=meanings or None)
            if form.get("action") != "bring in":
                return _preview(work, upload.id, what, table)
            uploads.hold(work.connection, upload.id, what)
            if missing := table.missing(what):
                raise BadInput("school.no_column_for", field="file", missing=tuple(missing))
            looks = history_import.look(
                work.connection,
                work.context,
                table.read(),
                what,
                today=work.today,
                month_first=_month_first(work),
            )
            came = history_import.bring_in(work.connection, work.context, looks, work.actor())
            if not came:
                raise BadInput("school.no_line_can_come_in", field="file")
            done = frame.address(work, "/harvest/book" if what == "pickings" else "/school/formats")
            uploads.taken(work.connection, upload.id, done)
            return frame.arrive(work, done)
    except BadInput as error:
        with scope.open() as work:
            try:
                table = confined(history_csv.split)(upload.body, upload.name, what, meanings=meanings or None)
            except BadInput:
                table = confined(history_csv.split)(upload.body, upload.name, what)
            return _preview(work, upload.id, what, table, error=error, status=422)


def _noted(work: UnitOfWork, what: audit.What, about: str) -> None:
    audit.note(work.connection, work.context.school.id, work.scope.visitor.account_id, what, about)


def _what(text: str) -> What:
    return cast(What, forms.one_of(text, WHATS, field="what"))


def _month_first(work: UnitOfWork) -> bool:
    return work.context.school.units == "us"


def _preview(
    work: UnitOfWork,
    upload_id: UUID,
    what: What,
    table: history_csv.HistoryTable,
    *,
    found_by_columns: bool = False,
    error: BadInput | None = None,
    status: int = 200,
) -> Response:
    missing = table.missing(what)
    looks = (
        []
        if missing
        else history_import.look(
            work.connection,
            work.context,
            table.read(),
            what,
            today=work.today,
            month_first=_month_first(work),
        )
    )
    good = sum(not one.problem for one in looks)
    said = (
        f"No column is taken for {' and '.join(missing)} yet."
        if missing
        else f"{words.count(good, 'line')} can come in, {len(looks) - good} cannot."
    )
    if found_by_columns:
        said = f"Its columns speak of {what}, so it is read as such. {said}"
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
            TableColumnView(
                index=n,
                header=name or f"column {n + 1}",
                meaning=table.meanings[n],
                sample=table_preview.sample(table.rows, n),
            )
            for n, name in enumerate(table.header)
        ],
        "meanings": [("", "left out"), *((meaning, meaning.replace("_", " ")) for meaning in NAMES[what])],
        "looks": sorted(looks, key=lambda one: (not one.problem, one.line))[:SHOWN],
        "more": max(0, len(looks) - SHOWN),
    }
    return frame.page(work, "school", f"Bring in {what}", values, template="school/history_import.html", status=status)
