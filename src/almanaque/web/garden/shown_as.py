"""How plants are drawn on beds and maps: as they look, unless codes were chosen last in this browser."""

from typing import Literal

from fastapi import Request, Response

from almanaque.web import security

COOKIE = "almanaque_plants"
Drawn = Literal["plants", "looks"]  # with codes and hatches, or as they look
DRAWN: tuple[Drawn, ...] = ("plants", "looks")


def drawn(request: Request) -> Drawn:
    """What was chosen last, else as they look."""
    kept = security.cookie(request, COOKIE)
    return kept if kept in DRAWN else "looks"


def keep(response: Response, request: Request, asked: str | None) -> Response:
    """Let the browser remember a choice that an address named."""
    if asked in DRAWN and asked != security.cookie(request, COOKIE):
        security.set_cookie(response, request, COOKIE, asked, lasts=None)
    return response
