"""How a table that comes in is read: each column with what it is taken for, the same for weather, earlier years and the
local chart.

`templates/table_preview.html` draws it; the formats guess the meanings.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanaque.formats.table_in import Rows
from almanaque.web.view import View

SAMPLES, LONGEST_SAMPLE = 3, 60


@dataclass(frozen=True)
class TableColumnView(View):
    """A column: its number, its heading, what it is taken for and in which unit, and its first values."""

    index: int
    header: str
    meaning: str
    sample: str
    unit: str = ""
    units: Sequence[tuple[str, str]] = ()
    stated: bool = True


def sample(rows: Rows, column: int) -> str:
    """The first values of a column that are not empty."""
    values = (cells[column].strip() for _, cells in rows if column < len(cells) and cells[column].strip())
    return ", ".join(value for value, _ in zip(values, range(SAMPLES), strict=False))[:LONGEST_SAMPLE]


def meanings(form: Mapping[str, Any]) -> dict[int, str]:
    """What each column is said to be in a form that was sent, by its number."""
    said = {key.removeprefix("column_"): str(value) for key, value in form.items() if key.startswith("column_")}
    return {int(number): value for number, value in said.items() if number.isdecimal() and len(number) < 5}
