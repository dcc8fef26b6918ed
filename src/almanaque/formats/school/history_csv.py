"""Pickings and plantings of earlier years from the spreadsheet that a school has: columns by their names, in any order."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from almanaque.core.errors import BadInput
from almanaque.formats import table_in

MOST_BYTES = 4_000_000
MOST_ROWS = 20_000
What = Literal["pickings", "plantings"]
# Meanings of columns, with other words that spreadsheets have for them.
NAMES: dict[What, dict[str, tuple[str, ...]]] = {
    "pickings": {
        "day": ("date", "picked on", "picked", "when"),
        "bed": ("plot", "place", "where", "box"),
        "crop": ("plant", "what", "vegetable", "produce"),
        "amount": ("quantity", "qty", "weight", "yield", "how much"),
        "unit": ("units", "measure"),
        "use": ("went to", "used for", "goes to"),
        "part": ("part picked",),
        "note": ("notes", "comment", "comments", "remarks"),
        "quality": (),
        "lost_to": ("lost to",),
    },
    "plantings": {
        "bed": ("plot", "place", "where", "box"),
        "crop": ("plant", "what", "vegetable"),
        "started": ("sown", "planted", "date", "start", "sown on", "planted on", "set out"),
        "method": ("how", "way"),
        "squares": ("cells", "square"),
        "cleared": ("cleared on", "removed", "end", "pulled"),
        "variety": (),
        "note": ("notes", "comment"),
    },
}
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
        return [
            HistoryRow(
                line, {meaning: _tame(cell) for meaning, cell in zip(self.meanings, cells, strict=False) if meaning}
            )
            for line, cells in self.rows
        ]

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
    taken = [
        meanings.get(n, "") if meanings is not None else table_in.guess(cell, known) for n, cell in enumerate(header)
    ]
    used: list[str] = []
    for meaning in taken:
        if meaning and meaning not in known:
            raise BadInput("school.column_meaning_unknown", field="file", meaning=meaning[:20])
        if meaning and meaning in used and meanings is not None:
            raise BadInput("school.history_two_columns_for_one", field="file", meaning=meaning)
        used.append("" if meaning in used else meaning)
    return HistoryTable(name, header, tuple(used), table.rows)


def _tame(cell: str) -> str:
    """A cell without the apostrophe that keeps a formula from running, on one line."""
    plain = " ".join(cell.split())
    return plain[1:] if plain[:1] == "'" and plain[1:2] in "=+-@" else plain
