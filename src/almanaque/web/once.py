"""The number that every form is drawn with, so that what it sends is written once however often it is sent.

The number stands for what was in the form as well: a form that the browser kept, filled in anew and sent again is another one.
"""

import hashlib
from uuid import UUID, uuid4

from fastapi import Request
from starlette.datastructures import UploadFile

FIELD = "once"
PART = 1 << 16
NOT_CONTENT = frozenset({FIELD, "form_token"})


def new_number() -> str:
    """For a form that is being drawn."""
    return str(uuid4())


def number_of(request: Request) -> UUID | None:
    """What a write of this request is known by; None for one that carries no number, and after it was asked for."""
    if getattr(request.state, "number_asked", False):
        return None
    request.state.number_asked = True  # what follows shows what came of it
    return peeked(request)


def peeked(request: Request) -> UUID | None:
    """The same, for whoever only looks whether it was written before."""
    form = getattr(request.state, "form", None)
    if form is None:
        return None
    drawn = form.get(FIELD, "")
    try:
        UUID(drawn)
    except (ValueError, TypeError, AttributeError):
        return None
    digest = hashlib.sha256(f"{drawn} {request.url.path}".encode())
    for name, value in form.multi_items():
        if name not in NOT_CONTENT:
            digest.update(f"\0{name}\0".encode())
            _take_in(digest, value)
    return UUID(bytes=digest.digest()[:16])


def _take_in(digest: "hashlib._Hash", value: UploadFile | str) -> None:
    """A field's content; of a file its name and all of it, since two photos may have the same name and size."""
    if isinstance(value, str):
        digest.update(value.encode())
        return
    digest.update(f"{value.filename}\0".encode())
    for part in iter(lambda: value.file.read(PART), b""):
        digest.update(part)
    value.file.seek(0)


def lead_to(request: Request, address: str) -> None:
    """Keep where this request leads, for whoever sends it again."""
    request.state.leads_to = address


def leads_to(request: Request) -> str:
    found: str = getattr(request.state, "leads_to", "")
    return found[:2000]
