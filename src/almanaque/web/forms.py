"""What forms send, read into values, or refused in a sentence that names the field."""

import re
from collections.abc import Callable, Collection, Sequence
from datetime import date, time
from fractions import Fraction
from typing import Any, Literal, ParamSpec, TypeVar
from uuid import UUID

from starlette.datastructures import UploadFile

from almanaque.core.errors import BadInput
from almanaque.core.garden.outline import CORNERS, Point, l_shape
from almanaque.core.units import (
    DECIMAL,
    LITRES_PER_CUBIC_FOOT,
    Units,
    format_length,
    parse_length,
    plain_number,
    plain_quantity,
    with_unit_of,
)
from almanaque.core.words import Phrase
from almanaque.web.request_scope import parse_day

LITRES = {
    **dict.fromkeys(("l", "litre", "litres", "liter", "liters"), 1.0),
    **dict.fromkeys(("gal", "gallon", "gallons"), 3.785411784),
    **dict.fromkeys(("qt", "quart", "quarts"), 0.946352946),
    **dict.fromkeys(("cu ft", "cubic foot", "cubic feet"), LITRES_PER_CUBIC_FOOT),
    **dict.fromkeys(("cu yd", "cubic yard", "cubic yards", "yard", "yards"), 27 * LITRES_PER_CUBIC_FOOT),
    **dict.fromkeys(("m3", "m³", "cubic metre", "cubic metres"), 1000.0),
    "ml": 0.001,
}  # exact, from the US gallon of 231 cubic inches
MOST_LITRES = 100_000
P = ParamSpec("P")
T = TypeVar("T")
WHOLE = re.compile(r"-?[0-9]{1,9}")


class Problems:
    """Reads the fields of a form one after another, and keeps what is wrong with each, so that all is told at once."""

    def __init__(self) -> None:
        self.by_field: dict[str, str] = {}

    def read(self, reads: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T | None:
        """What is read, or None for what is refused."""
        try:
            return reads(*args, **kwargs)
        except BadInput as error:
            self.by_field[error.field] = error.message
            return None


def row_id(text: str) -> UUID:
    """An id that a form of ours carries."""
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("forms.incomplete") from None


def is_id(text: str) -> bool:
    try:
        return bool(UUID(text))
    except ValueError:
        return False


def optional_id(text: str) -> UUID | None:
    return row_id(text) if text.strip() else None


def group(text: str, groups: Collection[UUID]) -> UUID | None:
    """One of these groups, or none."""
    group_id = optional_id(text)
    if group_id is not None and group_id not in groups:
        raise BadInput("garden.no_such_group", field="group")
    return group_id


def optional_day(text: str, *, field: str) -> date | None:
    return parse_day(text, field=field) if text.strip() else None


def clock_time(text: str, *, field: str) -> time:
    """`13:10`, `9:20`, `9.20`, `1:10 pm`, `2 pm`."""
    match = re.fullmatch(
        r"(\d{1,2})(?:[:.](\d{1,2})(?:[:.]\d\d)?)? ?(?:([ap])\.?m\.?)?", plain_quantity(text).lower(), re.ASCII
    )
    try:
        if match is None or not (match[2] or match[3]) or (match[3] and not 1 <= int(match[1]) <= 12):
            raise ValueError
        hour = int(match[1]) % 12 + 12 * (match[3] == "p") if match[3] else int(match[1])
        return time(hour, int(match[2] or 0))
    except ValueError:
        raise BadInput("forms.not_a_time_of_day", field=field, text=text.strip()[:20]) from None


def _label(what: str, of: str = "") -> Phrase:
    return Phrase(f"labels.{what}", {"of": of} if of else {})


def whole(text: str, *, field: str, least: int, most: int, what: str, of: str = "") -> int:
    """A whole number within limits; the label `what`, with its name `of`, begins the sentence that refuses it."""
    plain = text.strip()
    if not WHOLE.fullmatch(plain) or not least <= int(plain) <= most:
        raise BadInput("forms.not_a_whole_number", field=field, what=_label(what, of), least=least, most=most)
    return int(plain)


def number(
    text: str,
    *,
    field: str,
    what: str,
    of: str = "",
    within: tuple[float, float] = (-999_999_999.0, 999_999_999.0),
) -> float | None:
    """A number with a point or a comma, within limits; None when empty.

    `1,200` is twelve hundred, unless only 1.2 lies within the limits.
    """
    sign, plain = ("-", text.strip()[1:]) if text.strip()[:1] in ("-", "−") else ("", text.strip())
    if not sign + plain:
        return None
    try:
        value, small = (float(sign + plain_number(plain, thousandths=fine)) for fine in (False, True))
        value = value if within[0] <= value <= within[1] else small
    except ValueError:
        raise BadInput("forms.not_a_decimal", field=field, text=text.strip()[:20], what=_label(what, of)) from None
    if not abs(value) < 1e9:
        raise BadInput("forms.number_too_large", field=field, what=_label(what, of))
    if not within[0] <= value <= within[1]:
        raise BadInput("forms.number_out_of_range", field=field, what=_label(what, of), least=within[0], most=within[1])
    return value


def length(text: str, units: Units, *, field: str, us: Literal["ft", "in"] = "in") -> float:
    """A length [mm]; a bare number is in centimetres, or in a US school in `us`."""
    try:
        return float(parse_length(text, bare_unit=us if units == "us" else "cm"))
    except BadInput as error:
        raise error.at(field) from None


def length_again(text: str, known_mm: float, units: Units, *, field: str) -> float:
    """A length [mm] from a box that showed `known_mm`: what comes back as it was shown keeps its exact value, not the rounded one."""
    return known_mm if text == format_length(known_mm, units) else length(text, units, field=field, us="ft")


def pair(text: str, units: Units, *, field: str) -> tuple[float, float]:
    """Two lengths with an x between them; one of them may be 0."""
    parts = text.lower().replace("×", "x").split("x")
    if len(parts) != 2:
        example = "8 ft x 4 ft" if units == "us" else "2.4 m x 1.2 m"
        raise BadInput("forms.not_two_lengths", field=field, example=example)
    first = with_unit_of(parts[1], parts[0])
    return length(first, units, field=field, us="ft"), length(parts[1], units, field=field, us="ft")


def outline(text: str, length_mm: float, width_mm: float, units: Units, *, field: str = "outline") -> tuple[Point, ...]:
    """Nothing for the whole box, `L: 4 ft x 2 ft at top right` for a box without a corner, or the corners in order."""
    plain = text.strip()
    if not plain:
        return ()
    if plain.lower().startswith("l:"):
        notch, word, at = plain[2:].partition(" at ")
        corner = next((c for c in CORNERS if c == at.strip().lower()), None)
        if not word or corner is None:
            example = "4 ft x 2 ft" if units == "us" else "1.2 m x 60 cm"
            raise BadInput("forms.not_an_l", field=field, example=example)
        across, down = pair(notch, units, field=field)
        return l_shape(length_mm, width_mm, across, down, corner)
    return tuple(pair(word, units, field=field) for word in plain.replace("\n", ";").split(";") if word.strip())


def volume(text: str, units: Units, *, field: str) -> float | None:
    """Litres from gallons, quarts, litres, cubic feet or yards; a bare number is gallons in a US school, else litres. None when empty."""
    if not text.strip():
        return None
    match = re.fullmatch(rf"((?:\d+ )?\d+/[1-9]\d*|{DECIMAL}) ?((?:[a-z][a-z0-9³. ]*)?)", plain_quantity(text).lower())
    word = (match[2].replace(".", "").strip() or ("gal" if units == "us" else "l")) if match else ""
    if match is None or word not in LITRES:
        raise BadInput("forms.not_a_volume", field=field)
    parts = match[1].split() if "/" in match[1] else [plain_number(match[1])]
    litres = float(sum(Fraction(part) for part in parts)) * LITRES[word]
    if not 0 < litres <= MOST_LITRES:
        raise BadInput("forms.volume_out_of_range", field=field, most=MOST_LITRES)
    return litres


def one_of(text: str, allowed: Sequence[str], *, field: str) -> str:
    """One of the values that a form of ours offers."""
    if text not in allowed:
        raise BadInput("forms.none_of_the_choices", field=field, text=text[:30], allowed=", ".join(allowed))
    return text


def name(text: str, *, field: str = "name", what: str = "name", most: int = 80) -> str:
    """Words that must be there, on one line."""
    plain = " ".join(text.split())
    if not plain:
        raise BadInput("forms.text_missing", field=field, what=_label(what))
    if len(plain) > most:
        raise BadInput("forms.text_too_long", field=field, most=most)
    return plain


def optional_name(text: str, *, field: str, most: int = 80) -> str:
    """Words on one line, or none."""
    return name(text, field=field, most=most) if text.strip() else ""


def file(sent: Any) -> tuple[str, bytes]:
    """Name and bytes of a file that was sent; the limits on its size are the request's."""
    if not isinstance(sent, UploadFile) or not sent.filename:
        raise BadInput("forms.file_missing", field="file")
    shown = "".join(c for c in sent.filename.rsplit("/", 1)[-1].rsplit("\\", 1)[-1] if c.isprintable())[-80:]
    return shown or "the file", sent.file.read()
