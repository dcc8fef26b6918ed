"""Tables as CSV (RFC 4180) that open right in a spreadsheet: units in the header, UTF-8 with its mark, no live formulas."""

import csv
import io
from collections.abc import Iterable, Sequence

BYTE_ORDER_MARK = "\ufeff"
# A cell that begins like this is run as a formula by spreadsheets: OWASP, CSV Injection. Some take the full-width signs too, and
# some pass over white space before them.
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "\n", "＝", "＋", "－", "＠")

UNSEEN = "\ufeff\u200b\u200c\u200d\u2060\u00ad"  # characters that take no room


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
    first = next((letter for letter in text if not letter.isspace() and letter not in UNSEEN), "")
    return f"'{text}" if text.startswith(FORMULA_STARTS) or first in FORMULA_STARTS else text
