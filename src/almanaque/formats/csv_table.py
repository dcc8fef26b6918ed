"""Tables as CSV (RFC 4180) that open right in a spreadsheet: units in the header, UTF-8 with its mark, no live formulas."""

import csv
import io
from collections.abc import Iterable, Sequence

BYTE_ORDER_MARK = "\ufeff"
# A cell that begins like this is run as a formula by spreadsheets.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def write(header: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """The table as text. Words that a spreadsheet would take for a formula get an apostrophe in front; numbers do not."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow([defused(cell) if isinstance(cell, str) else cell for cell in row])
    return BYTE_ORDER_MARK + out.getvalue()


def defused(text: str) -> str:
    """The text, harmless to a spreadsheet."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text
