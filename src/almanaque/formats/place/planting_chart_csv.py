"""The local office's month-by-month chart as a table, in and out: `crop,month,what`, or a column for each month.

What each column is taken for is guessed from its name and can be said otherwise; a line that cannot be read is told apart.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from almanaque.core.errors import BadInput
from almanaque.formats import csv_table, table_in
from almanaque.formats.table_in import MONTHS, TableIn

MOST_BYTES = 300_000
MOST_ROWS = 3_000
WHAT = ("indoors", "sow", "set out", "pick")
# What a column can be: the crop, the month, what is done in it, or one of the months with what is done in that one.
NAMES: dict[str, tuple[str, ...]] = {
    "crop": ("plant", "vegetable", "kind", "name"),
    "month": (),
    "what": ("task", "to do", "activity"),
    **dict.fromkeys(MONTHS, ()),
}
_SPELLINGS = {
    "i": "indoors",
    "indoors": "indoors",
    "start indoors": "indoors",
    "seed indoors": "indoors",
    "s": "sow",
    "sow": "sow",
    "direct": "sow",
    "direct sow": "sow",
    "seed": "sow",
    "plant": "sow",
    "o": "set out",
    "t": "set out",
    "set out": "set out",
    "transplant": "set out",
    "plant out": "set out",
    "p": "pick",
    "h": "pick",
    "pick": "pick",
    "harvest": "pick",
}
Entry = tuple[str, int, str]


@dataclass(frozen=True)
class ChartTable:
    """A file with what each of its columns is taken for: a key of NAMES, or nothing."""

    table: TableIn
    meanings: tuple[str, ...]

    @property
    def complete(self) -> bool:
        """Whether there is a crop, and either months or a month and what is done in it."""
        given = set(self.meanings)
        return "crop" in given and bool({"month", "what"} <= given or given & set(MONTHS))

    def read(self) -> tuple[list[Entry], list[BadInput]]:
        """(crop, month, what) of each entry, and what is wrong with the lines that cannot be read.

        Raises BadInput for columns that do not make a chart, and for one without an entry.
        """
        if not self.complete:
            raise BadInput("place.chart_header", field="file", name=self.table.name)
        found: list[Entry] = []
        problems: list[BadInput] = []
        for line, cells in self.table.rows:
            try:
                found += self._entries(cells, self.table.where(line))
            except BadInput as error:
                problems.append(error)
            if len(found) > MOST_ROWS:
                raise BadInput("place.chart_too_long", field="file", name=self.table.name, most=MOST_ROWS)
        if not found and not problems:
            raise BadInput("place.chart_empty", field="file", name=self.table.name)
        return found, problems

    def _entries(self, cells: tuple[str, ...], where: str) -> list[Entry]:
        given = {meaning: cell for meaning, cell in zip(self.meanings, cells, strict=False) if meaning}
        crop = " ".join(given.get("crop", "").split()).lower()[:60]
        if not crop:
            raise BadInput("place.chart_crop_missing", field="file", where=where)
        if {"month", "what"} <= set(self.meanings):
            return [(crop, _month(given.get("month", ""), where), _what(given.get("what", ""), where))]
        return [
            (crop, number, _what(word, where))
            for number, month in enumerate(MONTHS, start=1)
            for word in given.get(month, "").replace("/", ",").replace("+", ",").split(",")
            if word.strip()
        ]


def split(body: bytes, name: str, *, meanings: Mapping[int, str] | None = None) -> ChartTable:
    """The cells of a file; what each column is taken for is guessed, or said by number in `meanings`.

    Raises BadInput with field `file` for what is no table, and for two columns that are taken for the same.
    """
    table = table_in.read(body, name, most_bytes=MOST_BYTES, most_rows=MOST_ROWS, too_many="place.keep_the_crops")
    said = tuple(
        (meanings.get(n, "") if meanings is not None else _guess(header)) for n, header in enumerate(table.header)
    )
    twice = next((meaning for meaning in said if meaning and said.count(meaning) > 1), None)
    if twice and meanings is not None:
        raise BadInput("place.chart_column_twice", field="file", meaning=twice)
    first = tuple(meaning if said.index(meaning) == n else "" for n, meaning in enumerate(said))
    return ChartTable(table, tuple(meaning if meaning in NAMES else "" for meaning in first))


def read(body: bytes, name: str) -> list[Entry]:
    """(crop, month, what) of each entry. Raises BadInput with file and line for what cannot be read."""
    found, problems = split(body, name).read()
    if problems:
        raise problems[0]
    return found


def write(entries: Iterable[Entry]) -> str:
    """The chart as a table that `read` takes back."""
    return csv_table.write(("crop", "month", "what"), entries)


def _guess(header: str) -> str:
    plain = table_in.plain_name(header)
    return plain[:3] if plain[:3] in MONTHS else table_in.guess(header, NAMES)


def _month(text: str, where: str) -> int:
    plain = text.strip().lower()
    if plain[:3] in MONTHS:
        return MONTHS.index(plain[:3]) + 1
    if plain.isdigit() and 1 <= int(plain[:3]) <= 12:
        return int(plain)
    raise BadInput("place.chart_month_unknown", field="file", where=where, text=text.strip()[:20])


def _what(text: str, where: str) -> str:
    found = _SPELLINGS.get(" ".join(text.lower().split()))
    if found is None:
        raise BadInput("place.chart_word_unknown", field="file", where=where, text=text.strip()[:20])
    return found
