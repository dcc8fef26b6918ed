"""What is asked for as a PDF: the pack for a planting day; the page that waits for it, and the file."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from markupsafe import Markup
from pydantic import BaseModel

from almanaque.commands.week import planting_day as commands
from almanaque.core.errors import BadInput
from almanaque.store import print_jobs, queue
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import Named, View
from almanaque.web.week import planting_day
from almanaque.web.week import planting_day_prints as sheets
from almanaque.web.week.planting_day_prints import LabelView

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
PAPERS = (("letter", "Letter"), ("a4", "A4"))
PARTS = (("run", "run sheet"), ("mats", "seed mats"), ("labels", "labels"), ("sums", "sums about the bed"))
MOST_BEDS = 12
SOON = timedelta(days=14)
ROWS = {"letter": 10, "a4": 7}  # rows of three labels on a common sheet of each paper: from memory


@router.get("/garden/prints")
def page(scope: Look, bed: str = "", on: str = "", part: str = "") -> Response:
    """Choose the beds and what to print for them; what a link asked for is ticked and nothing else."""
    with scope.open() as work:
        return _page(work, {bed} if bed else set(), on, part)


class PrintPackForm(BaseModel):
    """What the form sends, as it was typed."""

    beds: list[str] | None = None
    parts: list[str] | None = None
    paper: str = ""
    on: str = ""


@router.post("/garden/prints")
def make(scope: Look, form: Annotated[PrintPackForm, Form()]) -> Response:
    """Ask for the pack; the worker makes it."""
    with scope.open() as work:
        chosen = [forms.row_id(text) for text in form.beds or []]
        if not 1 <= len(chosen) <= MOST_BEDS:
            raise BadInput("week.beds_out_of_range", field="beds", most=MOST_BEDS)
        wanted = [key for key, _ in PARTS if key in (form.parts or [])]
        if not wanted:
            raise BadInput("week.print_part_missing", field="parts")
        sheet = forms.one_of(form.paper, [key for key, _ in PAPERS], field="paper")
        drawn = [part for bed_id in chosen for part in _parts(work, bed_id, form.on, wanted, sheet)]
        if not drawn:
            raise BadInput("week.nothing_to_print", field="beds")
        job_id = ask(
            work,
            "Planting day" if len(chosen) == 1 else f"Planting day, {words.count(len(chosen), 'bed')}",
            drawn,
            paper=sheet,
        )
        return frame.go(work, f"/prints/{job_id}")


def ask(work: UnitOfWork, title: str, parts: Sequence[Markup], *, paper: str) -> UUID:
    """Keep a document and ask the worker to make a PDF of it; return the job's id."""
    job_id = uuid4()
    html = frame.paper_document(title, parts, paper=paper)
    print_jobs.ask(
        work.connection, work.context.school.id, job_id, title=title, html=html, by=work.scope.visitor.account_id
    )
    queue.make_pdf(work.connection, work.context.school.id, job_id)
    return job_id


def usual_paper(work: UnitOfWork) -> str:
    return "letter" if work.context.school.units == "us" else "a4"


@router.get("/prints/{job_id}.pdf")
def pdf(scope: Look, job_id: UUID) -> Response:
    with scope.open() as work:
        title, body = print_jobs.pdf(work.connection, job_id)
        name = "".join(c if c.isalnum() and c.isascii() else "-" for c in title).strip("-").lower()
        return Response(
            body, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}.pdf"'}
        )


@router.get("/prints/{job_id}")
def wait(scope: Look, job_id: UUID) -> Response:
    """The page that waits until the PDF is there."""
    with scope.open() as work:
        job = print_jobs.job(work.connection, job_id)
        pages = words.count(job.pages, "page") if job.pages else ""
        return frame.page(work, "garden", job.title, {"job": job, "pages": pages}, template="paper/wait.html")


def _page(work: UnitOfWork, chosen: set[str], on: str, part: str) -> Response:
    values = {
        "beds": [_choice(work, b, chosen) for b in garden.beds(work.connection)],
        "parts": [(key, name, part in ("", key)) for key, name in PARTS],
        "papers": PAPERS,
        "paper": usual_paper(work),
        "on": on,
    }
    return frame.page(work, "garden", "Print a pack", values, template="week/print_pack.html")


@dataclass(frozen=True)
class PrintChoiceView(View):
    """Filled by `_choice`, read by its template."""

    id: str
    name: str
    when: str
    chosen: bool


def _choice(work: UnitOfWork, bed: Bed, chosen: set[str]) -> PrintChoiceView:
    """A bed with its next planting day; those due soon are chosen at first."""
    days = commands.days(work.connection, bed.id, work.today)
    soon = not chosen and bool(days) and days[0] <= work.today + SOON
    return PrintChoiceView(
        id=str(bed.id),
        name=bed.name,
        when=words.weekday_day(days[0]) if days else "nothing to come",
        chosen=str(bed.id) in chosen or soon,
    )


def _parts(work: UnitOfWork, bed_id: UUID, on: str, wanted: Sequence[str], paper: str) -> list[Markup]:
    """The sheets of one bed, those with nothing on them left out."""
    drawn = []

    def draw(template: str, title: str, values: Named, paper_class: str = "") -> None:
        drawn.append(frame.paper_part(work, template, title, values, paper=paper, paper_class=paper_class))

    if "run" in wanted:
        bed, run = planting_day.page_values(work, bed_id, on)
        if run.sheet:
            draw("week/planting_day.html", f"Planting day, {bed.name}", run)
    if "mats" in wanted:
        bed, mats = sheets.mats_values(work, bed_id, on)
        if mats.mats:
            draw("week/seed_mats.html", f"Seed mats, {bed.name}", mats)
    if "labels" in wanted:
        labels = sheets.label_rows(work, bed_id, on)
        if labels:
            draw("paper/labels.html", "Labels", {"label_sheets": label_sheets(labels, paper)}, "has-labels")
    if "sums" in wanted:
        bed, sums = sheets.sums_values(work, bed_id)
        if sums.sums:
            draw("week/sheet_of_sums.html", f"Sums about {bed.name}", sums)
    return drawn


def label_sheets(labels: Sequence[LabelView], paper: str) -> list[list[list[LabelView]]]:
    """Labels in rows of three, rows in sheets."""
    rows = [list(labels[at : at + 3]) for at in range(0, len(labels), 3)]
    a_sheet = ROWS[paper]
    return [rows[at : at + a_sheet] for at in range(0, len(rows), a_sheet)]
