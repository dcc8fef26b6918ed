"""What htmx says in its request headers, and what we answer in ours."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request, Response


@dataclass(frozen=True)
class Htmx:
    """`part` is True when only a part of the page is wanted: not on a plain visit and not on history restore."""

    part: bool


def read_htmx(request: Request) -> Htmx:
    wanted = request.headers.get("HX-Request") == "true" and request.headers.get("HX-History-Restore-Request") != "true"
    return Htmx(wanted)


HtmxRequest = Annotated[Htmx, Depends(read_htmx)]


def vary(response: Response) -> Response:
    """The same address gives a part or a page, so caches must tell them apart."""
    response.headers["Vary"] = "HX-Request"
    return response


def retarget(response: Response, selector: str) -> Response:
    """Put the answer into another element than the request asked for, replacing what is in it."""
    response.headers["HX-Retarget"] = selector
    response.headers["HX-Reselect"] = "unset"
    response.headers["HX-Push-Url"] = "false"
    response.headers["HX-Reswap"] = "innerHTML show:window:top"
    return response


def led(request: Request, response: Response) -> Response:
    """A redirect to a page of another kind than the open one: htmx loads it whole instead of into it."""
    if request.headers.get("HX-Request") == "true":
        response.headers["HX-Redirect"] = response.headers["Location"]
        del response.headers["Location"]
        response.status_code = 204
    return response
