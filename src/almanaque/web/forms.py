"""What forms send, read into values, or refused in a sentence that names the field."""

from collections.abc import Sequence
from datetime import date, time
from typing import Any
from uuid import UUID

from starlette.datastructures import UploadFile

from almanaque.core.errors import BadInput
from almanaque.web.desk import parse_day

INCOMPLETE = "The form was incomplete. Load the page again."


def row_id(text: str) -> UUID:
    """An id that a form of ours carries."""
    try:
        return UUID(text)
    except ValueError:
        raise BadInput(INCOMPLETE) from None


def optional_id(text: str) -> UUID | None:
    return row_id(text) if text.strip() else None


def optional_day(text: str, *, field: str) -> date | None:
    return parse_day(text, field=field) if text.strip() else None


def clock_time(text: str, *, field: str) -> time:
    """`13:10`, `9:20`, `9.20`."""
    try:
        hour, minute = text.strip().replace(".", ":").split(":")[:2]
        return time(int(hour), int(minute))
    except ValueError:
        raise BadInput(f"“{text.strip()[:20]}” is not a time of day. Write it as 13:10.", field=field) from None


def whole(text: str, *, field: str, least: int, most: int, what: str) -> int:
    """A whole number within limits; `what` begins the sentence that refuses it."""
    plain = text.strip()
    if not plain.lstrip("-").isdigit() or len(plain) > 9 or not least <= int(plain) <= most:
        raise BadInput(f"{what} is a whole number from {least} to {most}.", field=field)
    return int(plain)


def number(text: str, *, field: str, what: str) -> float | None:
    """A number with a point or a comma; None when empty."""
    plain = text.strip().replace(",", ".").replace("−", "-")
    if not plain:
        return None
    try:
        value = float(plain)
    except ValueError:
        raise BadInput(f"“{text.strip()[:20]}” is not a number. {what} is written as 12.5.", field=field) from None
    if not abs(value) < 1e9:
        raise BadInput(f"{what} is too large. Check it.", field=field)
    return value


def one_of(text: str, allowed: Sequence[str], *, field: str) -> str:
    """One of the values that a form of ours offers."""
    if text not in allowed:
        raise BadInput(f"“{text[:30]}” is none of the choices: {', '.join(allowed)}.", field=field)
    return text


def name(text: str, *, field: str = "name", what: str = "a name", most: int = 80) -> str:
    """Words that must be there, on one line."""
    plain = " ".join(text.split())
    if not plain:
        raise BadInput(f"Give it {what}.", field=field)
    if len(plain) > most:
        raise BadInput(f"That is longer than {most} characters. Shorten it.", field=field)
    return plain


def optional_name(text: str, *, field: str, most: int = 80) -> str:
    """Words on one line, or none."""
    return name(text, field=field, most=most) if text.strip() else ""


def file(sent: Any) -> tuple[str, bytes]:
    """Name and bytes of a file that was sent; the limits on its size are the request's."""
    if not isinstance(sent, UploadFile) or not sent.filename:
        raise BadInput("Choose a file first.", field="file")
    shown = "".join(c for c in sent.filename.rsplit("/", 1)[-1].rsplit("\\", 1)[-1] if c.isprintable())[-80:]
    return shown or "the file", sent.file.read()
