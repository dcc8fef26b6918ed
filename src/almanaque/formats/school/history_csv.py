"""Pickings and plantings of earlier years from the spreadsheet that a school has: columns by their names, in any order."""

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from importlib.resources import files
from typing import Literal, get_args

from almanaque.core.errors import BadInput
from almanaque.formats import table_in

MOST_BYTES = 4_000_000
MOST_ROWS = 20_000
What = Literal["pickings", "plantings"]
# What the name of a column of amounts says of their unit: `Weight (lbs)`. A weight alone is in the school's own unit.
UNIT_IN_NAME = re.compile(
    r"\b(lbs?|pounds?|oz|ounces?|kgs?|kilos?|kilograms?|g|grams?|bunch(?:es)?|heads?|pieces|count|number|weight)\b"
)
WHATS: tuple[What, ...] = get_args(What)
_TABLE = tomllib.loads((files("almanaque.formats.school") / "history_columns.toml").read_text(encoding="utf-8"))
NAMES = {what: {meaning: tuple(names) for meaning, names in _TABLE[what].items()} for what in WHATS}
NEEDED: dict[What, tuple[str, ...]] = {
    "pickings": ("day", "bed", "crop", "amount"),
    "plantings": ("bed", "crop", "started"),
}


@dataclass(frozen=True)
class HistoryRow:
    """A line of the file: its number and its cells by meaning."""

    line: int
    cells: Mapping[str, str]


@dataclass(frozen=True)
class HistoryTable:
    """Header and rows as they stand; `meanings` says what each column is taken for, empty for one that is left out."""

    name: str
    header: tuple[str, ...]
    meanings: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]

    def read(self) -> list[HistoryRow]:
        """The rows with their cells by meaning; a unit that only the name of the column says is put beside a bare amount."""
        rows = [
            HistoryRow(
                line, {meaning: _tame(cell) for meaning, cell in zip(self.meanings, cells, strict=False) if meaning}
            )
            for line, cells in self.rows
        ]
        unit = self._unit_of_amounts()
        if unit:
            rows = [
                replace(row, cells={"unit": unit, **row.cells}) if _is_bare(row.cells.get("amount", "")) else row
                for row in rows
            ]
        return rows

    def _unit_of_amounts(self) -> str:
        """What the column of amounts says of their unit, the unit itself before a mere weight; empty where it says nothing."""
        if "amount" not in self.meanings or "unit" in self.meanings:
            return ""
        said = UNIT_IN_NAME.findall(table_in.plain_name(self.header[self.meanings.index("amount")]))
        return next((word for word in said if word != "weight"), said[0] if said else "")

    def missing(self, what: What) -> list[str]:
        return [name for name in NEEDED[what] if name not in self.meanings]


def split(body: bytes, name: str, what: What, *, meanings: Mapping[int, str] | None = None) -> HistoryTable:
    """The file as cells with a meaning for each column, guessed from its name or as a person says.

    Raises BadInput for what is no table, is too large, or has two columns of one meaning.
    """
    table = table_in.read(body, name, most_bytes=MOST_BYTES, most_rows=MOST_ROWS, too_many="school.bring_in_by_year")
    if not table.rows:
        raise BadInput("school.history_empty", field="file", name=name)
    header = tuple(cell[:60] for cell in table.header)
    known = NAMES[what]
    taken = [meanings.get(n, "") if meanings is not None else _guess(cell, known) for n, cell in enumerate(header)]
    used: list[str] = []
    for meaning in taken:
        if meaning and meaning not in known:
            raise BadInput("school.column_meaning_unknown", field="file", meaning=meaning[:20])
        if meaning and meaning in used and meanings is not None:
            raise BadInput("school.history_two_columns_for_one", field="file", meaning=meaning)
        used.append("" if meaning in used else meaning)
    return HistoryTable(name, header, tuple(used), table.rows)


def kind_of(body: bytes, name: str, asked: What) -> What:
    """What a file holds: of the kinds that lack no column the one that understands most of them, else what was asked for."""
    tables = {what: split(body, name, what) for what in (asked, *WHATS)}
    whole = [what for what, table in tables.items() if not table.missing(what)]
    return max(whole, key=lambda what: sum(map(bool, tables[what].meanings)), default=asked)


def _guess(header: str, known: Mapping[str, tuple[str, ...]]) -> str:
    """What a column is taken for; one of dates is no other thing: a `Planting date` beside pickings is no crop."""
    found = table_in.guess(header, known)
    is_date = "date" in table_in.plain_name(header).split()
    return "" if is_date and found not in ("day", "started", "cleared") else found


def _is_bare(amount: str) -> bool:
    return not any(sign.isalpha() or sign == "#" for sign in amount)


def _tame(cell: str) -> str:
    """A cell without the apostrophe that keeps a formula from running, on one line."""
    plain = " ".join(cell.split())
    return plain[1:] if plain[:1] == "'" and plain[1:2] in "=+-@" else plain
