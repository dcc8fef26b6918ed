"""School: the local office's chart, month by month, as a table of one's own or from a file that is looked at first."""

from collections.abc import Sequence
from datetime import date
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response, UploadFile

from almanaque.core.crops.crop_names import CropNames
from almanaque.core.errors import BadInput
from almanaque.formats.confined import confined
from almanaque.formats.place import planting_chart_csv
from almanaque.formats.place.planting_chart_csv import ChartTable
from almanaque.formats.table_in import MONTHS
from almanaque.store import queue
from almanaque.store.place import planting_chart
from almanaque.store.place.planting_chart import ChartEntry
from almanaque.store.school import uploads
from almanaque.web import forms, frame, table_preview, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.table_preview import TableColumnView

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
CHART_WORDS = {"indoors": "start indoors", "sow": "sow in place", "set out": "set out", "pick": "pick"}
CHART_MARKS = {"indoors": "I", "sow": "S", "set out": "O", "pick": "P"}
MEANINGS = [("", "left out"), ("crop", "crop"), ("month", "month"), ("what", "what is done")]
SHOWN = 20  # lines that cannot be read: our own rule


@router.get("/school/chart")
def chart(scope: Look) -> Response:
    with scope.open() as work:
        values = {
            "lines": _lines(work.context.chart, work.context.crop_names),
            "months": _months(),
            "legend": [(CHART_MARKS[what], said) for what, said in CHART_WORDS.items()],
            "empty_line": [""] * 12,
            "has_record": bool(work.context.climate and work.context.climate.seasons),
        }
        return frame.page(work, "school", "The local chart", values, template="place/planting_chart.html")


@router.get("/school/chart.csv")
def chart_file(scope: Look) -> Response:
    with scope.open() as work:
        text = planting_chart_csv.write((e.crop, e.month, e.what) for e in work.context.chart)
        return Response(
            text,
            media_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": 'attachment; filename="planting-chart.csv"'},
        )


@router.post("/school/chart")
def save_line(scope: Plan, request: Request, crop: Annotated[str, Form()] = "") -> Response:
    """One crop's line of the chart, month by month; a line without months goes."""
    with scope.open() as work:
        plain = forms.name(crop, field="crop", most=60).lower()
        entries = []
        for month in range(1, 13):
            for what in str(request.state.form.get(f"month_{month}", "")).upper().replace(",", "").split():
                entries += [ChartEntry(plain, month, kind) for kind in _marks(what, month)]
        planting_chart.save_chart(work.connection, work.context.school.id, entries, only_crop=plain)
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/chart")


@router.post("/school/chart/import")
def send(scope: Plan, file: UploadFile | None = None) -> Response:
    """Take a file and show how it is read."""
    name, body = forms.file(file)
    with scope.open() as work:
        confined(planting_chart_csv.split)(body, name)
        upload_id = uuid4()
        uploads.save(work.connection, work.context.school.id, upload_id, "chart", name=name, body=body)
        return frame.go(work, "/school/chart/preview", file=str(upload_id))


@router.get("/school/chart/preview")
def preview(scope: Plan, request: Request, file: str = "") -> Response:
    """How a file is read, and the chart that it makes."""
    with scope.open() as work:
        upload = uploads.get(work.connection, forms.row_id(file), "chart")
        return _preview(work, upload.id, confined(planting_chart_csv.split)(upload.body, upload.name))


@router.post("/school/chart/keep")
def keep(
    scope: Plan, request: Request, upload: Annotated[str, Form()] = "", action: Annotated[str, Form()] = "look"
) -> Response:
    """Read the columns as they are said to be, or put the chart of the file in the place of the one on file."""
    meanings = table_preview.meanings(request.state.form)
    with scope.open() as work:
        held = uploads.hold(work.connection, forms.row_id(upload), "chart")
        try:
            table = confined(planting_chart_csv.split)(held.body, held.name, meanings=meanings or None)
            if action != "keep":
                return _preview(work, held.id, table)
            found, _ = table.read()
            if not found:
                raise BadInput("place.chart_empty", field="file", name=held.name)
        except BadInput as error:
            guessed = confined(planting_chart_csv.split)(held.body, held.name)
            return _preview(work, held.id, guessed, error=error.message, status=422)
        entries = [ChartEntry(*row) for row in found]
        planting_chart.save_chart(work.connection, work.context.school.id, entries)
        queue.recompute_school(work.connection, work.context.school.id)
        done = frame.address(work, "/school/chart")
        uploads.taken(work.connection, held.id, done)
        return frame.arrive(work, done)


def _preview(work: UnitOfWork, upload_id: UUID, table: ChartTable, *, error: str = "", status: int = 200) -> Response:
    found: list[planting_chart_csv.Entry] = []
    problems: list[BadInput] = []
    try:
        found, problems = table.read()
    except BadInput as refused:
        error = error or refused.message
    lines = _lines([ChartEntry(*row) for row in found], work.context.crop_names)
    coming = {crop for crop, _, _ in lines}
    values = {
        "upload": str(upload_id),
        "file_name": table.table.name,
        "error": error,
        "columns": [
            TableColumnView(
                index=n,
                header=name or f"column {n + 1}",
                meaning=table.meanings[n],
                sample=table_preview.sample(table.table.rows, n),
            )
            for n, name in enumerate(table.table.header)
        ],
        "meanings": [*MEANINGS, *((key, words.month_name(date(2001, n, 1))) for n, key in enumerate(MONTHS, start=1))],
        "lines": lines,
        "months": _months(),
        "going": sorted({entry.crop for entry in work.context.chart} - coming),
        "problem_count": words.count(len(problems), "line") + " cannot be read",
        "problems": [problem.message for problem in problems[:SHOWN]],
        "more_problems": max(0, len(problems) - SHOWN),
        "keep_words": f"Put {words.count(len(lines), 'crop')} in the place of this chart",
    }
    return frame.page(
        work, "school", "The local chart", values, template="place/planting_chart_preview.html", status=status
    )


def _lines(entries: Sequence[ChartEntry], names: CropNames) -> list[tuple[str, list[str], str]]:
    """Each crop of the chart with its marks by month, and which of ours it is said of where that has another name."""
    crops: dict[str, list[list[str]]] = {}
    for entry in entries:
        crops.setdefault(entry.crop, [[] for _ in range(12)])[entry.month - 1].append(CHART_MARKS[entry.what])
    return [
        (crop, ["".join(sorted(set(cell))) for cell in months], _said_of(crop, names)) for crop, months in crops.items()
    ]


def _said_of(crop: str, names: CropNames) -> str:
    found = names.find(crop)
    if found is not None:
        return "" if found.name.en.lower() == crop.lower() else f"for {found.name.en}"
    near = names.near(crop)
    return f"for none of ours; write {' or '.join(one.name.en for one in near)}" if near else "for none of ours"


def _months() -> list[tuple[int, str]]:
    return [(n, words.month(date(2001, n, 1))) for n in range(1, 13)]


def _marks(text: str, month: int) -> list[str]:
    kinds = {mark: what for what, mark in CHART_MARKS.items()}
    unknown = next((letter for letter in text if letter not in kinds), None)
    if unknown:
        raise BadInput(
            "place.chart_letter_unknown",
            field=f"month_{month}",
            letter=unknown,
            month=words.month_name(date(2001, month, 1)),
        )
    return [kinds[letter] for letter in text]
