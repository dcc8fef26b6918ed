"""A school's list of curriculum codes as CSV: code, words, subject and grades, columns in any order."""

from collections.abc import Iterable

from almanaque.core.errors import BadInput
from almanaque.core.week import standards
from almanaque.core.week.standards import Standard
from almanaque.formats import csv_table, table_in

MOST_BYTES = 2_000_000
COLUMNS = {
    "code": ("id", "standard", "number", "reference"),
    "words": ("text", "description", "statement", "standard text", "what"),
    "subject": ("area", "domain", "strand", "content area"),
    "grades": ("grade", "grade level", "year", "level", "years"),
}
HEADER = ("code", "words", "subject", "grades")
LONGEST = {"code": 40, "words": 600, "subject": 80, "grades": 40}


def read(body: bytes, name: str) -> list[Standard]:
    """The list of a file. Raises BadInput that names the line for one without a code or with a cell that is too long."""
    table = table_in.read(body, name, most_bytes=MOST_BYTES, most_rows=standards.MOST, too_many="week.standards_split")
    meanings = [table_in.guess(head, COLUMNS) for head in table.header]
    if "code" not in meanings:
        raise BadInput("week.standards_no_code", field="file", names=", ".join(HEADER))
    found = []
    for line, cells in table.rows:
        values = {meaning: cell for meaning, cell in zip(meanings, cells, strict=False) if meaning}
        if not values.get("code"):
            raise BadInput("week.standard_without_code", field="file", where=table.where(line))
        for meaning, cell in values.items():
            if len(cell) > LONGEST[meaning]:
                raise BadInput(
                    "week.standard_too_long", field="file", where=table.where(line), what=meaning, most=LONGEST[meaning]
                )
        found.append(Standard(**values))
    return standards.check(found)


def write(rows: Iterable[Standard]) -> str:
    """The list as CSV, as `read` takes it."""
    return csv_table.write(HEADER, ((row.code, row.words, row.subject, row.grades) for row in rows))
