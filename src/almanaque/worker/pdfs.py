"""A page that somebody asked for as a PDF, made where it holds up nobody."""

from functools import cache
from pathlib import Path
from uuid import UUID

import structlog

from almanaque.formats import pdf
from almanaque.formats.crops import portraits
from almanaque.store import print_jobs
from almanaque.store.db import Database
from almanaque.store.journal import photos

log = structlog.get_logger()
STATIC = Path(__file__).parents[1] / "web/static"
PORTRAITS = "/portraits/"
FAILED = "The PDF could not be made; that was our fault. Print the page from the browser instead."


def make(database: Database, school_id: UUID, job_id: UUID) -> None:
    """Make one PDF; asked twice it is made once. What goes wrong is kept as a sentence for whoever waits for it."""
    with database.school(school_id) as connection:
        html = print_jobs.html(connection, job_id)
    if html is None:
        return

    def picture(path: str) -> tuple[bytes, str]:
        if path.startswith(PORTRAITS):
            return drawing(path), "image/svg+xml"
        with database.school(school_id) as connection:
            return photos.picture(connection, UUID(path.rsplit("/", 1)[-1]), "picture"), "image/jpeg"

    try:
        made = pdf.make(html, static=STATIC, drawings=_drawings(), given=picture)
    except Exception as error:  # whoever waits for it must hear of it, whatever it was
        log.error("pdf failed", job=str(job_id), exc_info=error)
        with database.school(school_id) as connection:
            print_jobs.failed(connection, job_id, FAILED)
        return
    with database.school(school_id) as connection:
        print_jobs.made(connection, job_id, made.body, made.pages)


def drawing(path: str) -> bytes:
    """The portrait of a crop at an address of ours; nothing where there is none."""
    key, _, name = path.removeprefix(PORTRAITS).removesuffix(".svg").partition("/")
    return (portraits.file(key, name) or "").encode()


@cache
def _drawings() -> str:
    """Style rules for drawings, which take none from the page they stand on."""
    return (STATIC / "css/drawings.css").read_text(encoding="utf-8")
