"""The one reader under every table that comes in: bytes to cells with their lines, a meaning for each column, days in any order.

Cells are separated by semicolons, tabs, commas or blanks, whichever the first line has most of, and may be quoted
(RFC 4180), so that a name may hold the separator. What the cells mean is said by the format that asks.
"""

import csv
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from almanaque.core.errors import BadInput
from almanaque.core.words import Phrase
from almanaque.formats import text_file

Order = Literal["ymd", "dmy", "mdy"]
Rows = Sequence[tuple[int, tuple[str, ...]]]
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")


@dataclass(frozen=True)
class TableIn:
    """A file split into cells; each row with the number of its line, the first of which is 1."""

    name: str
    header: tuple[str, ...]
    header_line: int
    rows: tuple[tuple[int, tuple[str, ...]], ...]

    def where(self, line: int) -> str:
        """A line as messages name it."""
        return f"{self.name}, line {line}"


def read(body: bytes, name: str, *, most_bytes: int, most_rows: int, too_many: str, comments: bool = False) -> TableIn:
    """The cells of a file. `comments` leaves out lines that begin with #; empty lines are left out always.

    Raises BadInput with field `file` for what is no text, no table, or too large; `too_many` is the code of what to do then.
    """
    text = text_file.read(body, name, most_bytes=most_bytes).lstrip("\ufeff")
    first = next((line for line in text.splitlines() if line.strip() and not (comments and line.startswith("#"))), "")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(first), skipinitialspace=True)
    header: tuple[str, ...] = ()
    rows: list[tuple[int, tuple[str, ...]]] = []
    header_line, last = 1, 0
    try:
        for cells in reader:
            begins, last = last + 1, reader.line_num
            if not any(cell.strip() for cell in cells) or (comments and cells[0].startswith("#")):
                continue
            plain = tuple(cell.strip() for cell in cells)
            if not header:
                header, header_line = plain, begins
                continue
            if len(rows) >= most_rows:
                raise BadInput(
                    "files.too_many_lines", field="file", name=name, most=most_rows, too_many=Phrase(too_many)
                )
            rows.append((begins, plain))
    except csv.Error as error:
        raise BadInput("files.not_a_table", field="file", name=name, line=reader.line_num, problem=error) from error
    return TableIn(name, header, header_line, tuple(rows))


def _delimiter(line: str) -> str:
    outside = re.sub(r'"[^"]*"', "", line)
    marks = [mark for mark in (";", "\t", ",") if mark in outside]
    return max(marks, key=outside.count) if marks else " " if " " in outside.strip() else ","


def guess(header: str, names: Mapping[str, Sequence[str]]) -> str:
    """What a column is taken for by its name: one of the keys of `names`, or empty. Signs and case do not count.

    A name that is a key or one of its other words wins over one that only begins with such a word.
    """
    plain = plain_name(header)
    for meaning, others in names.items():
        if plain == meaning.replace("_", " ") or plain in others:
            return meaning
    return next(
        (
            meaning
            for meaning, others in names.items()
            if any(plain.startswith(word) for word in (meaning, *others) if len(word) > 3)
        ),
        "",
    )


def plain_name(header: str) -> str:
    """A column's name in small letters without signs."""
    return " ".join(re.sub(r"[_\-.()\[\]/]+", " ", header).casefold().split())


def day_order(cells: Iterable[str], *, us: bool) -> tuple[Order, bool]:
    """In which order days are written in a column, and whether the file leaves that open; `us` settles it then."""
    parts = [
        (int(found[1]), int(found[2]))
        for cell in cells
        if (found := re.match(r"\s*(\d{1,2})[./-](\d{1,2})[./-]\d{2,4}", cell))
    ]
    if not parts:
        return "ymd", False
    if any(first > 12 for first, _ in parts):
        return "dmy", False
    if any(second > 12 for _, second in parts):
        return "mdy", False
    return ("mdy" if us else "dmy"), True


def read_day(text: str, *, order: Order) -> date:
    """A day as spreadsheets and offices write it; a time after it is left out. Raises ValueError for what is none.

    `2026-04-30`, `20260430`, `30.04.2026`, `4/30/2026`, `30 April 2026`, `Apr 30, 2026`. Two numbers that could be day or
    month are read in the order given, which `day_order` finds.
    """
    plain = " ".join(text.split())
    if named := _named_day(plain):
        return named
    plain = plain.split("T")[0].split(" ")[0]
    if re.fullmatch(r"\d{8}", plain):
        return date(int(plain[:4]), int(plain[4:6]), int(plain[6:]))
    first, second, third = (int(part) for part in re.split(r"[./-]", plain))
    if first > 31:
        return date(first, second, third)
    year = third + 2000 if third < 100 else third
    return date(year, second, first) if order == "dmy" else date(year, first, second)


def _named_day(plain: str) -> date | None:
    for pattern, day, month in (
        (r"(\d{1,2})\.? ([A-Za-z]{3,9})\.?,? (\d{4})", 1, 2),
        (r"([A-Za-z]{3,9})\.? (\d{1,2}),? (\d{4})", 2, 1),
    ):
        found = re.fullmatch(pattern, plain)
        if found and found[month][:3].casefold() in MONTHS:
            return date(int(found[3]), MONTHS.index(found[month][:3].casefold()) + 1, int(found[day]))
    return None
