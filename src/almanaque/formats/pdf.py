"""A page of ours as a PDF, accurate on paper. Nothing outside the files that ship with the application is ever read."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

BASE = (
    "http://almanaque.invalid/"  # addresses on the page are below it; no host of that name can exist, and none is asked
)
STATIC = "/static/"
KINDS = {".css": "text/css", ".woff2": "font/woff2", ".svg": "image/svg+xml"}
_SVG = re.compile(r"<svg\b[^>]*>")


class PdfRefused(Exception):
    """The page asked for something that does not ship with the application."""


@dataclass(frozen=True)
class Pdf:
    """A PDF and how many pages it has."""

    body: bytes
    pages: int


def make(
    html: str, *, static: Path, drawings: str = "", given: Callable[[str], tuple[bytes, str]] | None = None
) -> Pdf:
    """Turn a whole page into a PDF. `static` is the folder behind /static/.

    `drawings` are style rules for the drawings on the page, which take none from outside them. `given` answers for pictures under
    other addresses, such as the photos of a letter, with their bytes and kind; without it they are left out. Raises Refused
    for nothing that is reached.
    """
    from weasyprint import HTML  # a second to import, and only the worker needs it
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Shipped(URLFetcher):  # type: ignore[misc]
        def fetch(self, url: str, headers: Any = None) -> Any:
            body, kind = _body(url, static, given)
            return URLFetcherResponse(url, body=body, headers={"Content-Type": kind})

    styled = _SVG.sub(lambda found: f"{found[0]}<style>{drawings}</style>", html) if drawings else html
    document = HTML(string=styled, base_url=BASE, url_fetcher=Shipped()).render()
    return Pdf(document.write_pdf(), len(document.pages))


def _body(url: str, static: Path, given: Callable[[str], tuple[bytes, str]] | None) -> tuple[bytes, str]:
    """What stands behind an address on the page: a file that ships, or what `given` answers."""
    path = unquote(urlsplit(url).path)
    if url.startswith(BASE) and path.startswith(STATIC):
        file = (static / path.removeprefix(STATIC)).resolve()
        if file.is_relative_to(static.resolve()) and file.suffix in KINDS and file.is_file():
            return file.read_bytes(), KINDS[file.suffix]
    elif url.startswith(BASE) and given is not None:
        return given(path)
    raise PdfRefused(f"{url[:80]} does not ship with the application.")
