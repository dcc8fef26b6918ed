"""The local office's month-by-month chart as a table, in and out: `crop,month,what`, or a column for each month."""

from collections.abc import Iterable

from almanaque.core.errors import BadInput
from almanaque.formats import csv_table, table_in
from almanaque.formats.table_in import MONTHS

MOST_BYTES = 300_000
MOST_ROWS = 3_000
WHAT = ("indoors", "sow", "set out", "pick")
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


def read(body: bytes, name: str) -> list[tuple[str, int, str]]:
    """(crop, month, what) of each entry. Raises BadInput with file and line for what cannot be read."""
    table = table_in.read(body, name, most_bytes=MOST_BYTES, most_rows=MOST_ROWS, too_many="place.keep_the_crops")
    header = [cell.lower() for cell in table.header]
    by_month = {i: MONTHS.index(cell[:3]) + 1 for i, cell in enumerate(header) if cell[:3] in MONTHS}
    long = {"crop", "month", "what"} <= set(header)
    if "crop" not in header or not (long or by_month):
        raise BadInput("place.chart_header", field="file", name=name)
    at = header.index("crop")
    found: list[tuple[str, int, str]] = []
    for line, row in table.rows:
        where = table.where(line)
        if len(found) > MOST_ROWS:
            raise BadInput("place.chart_too_long", field="file", name=name, most=MOST_ROWS)
        crop = " ".join(row[at].split()).lower()[:60] if at < len(row) else ""
        if not crop:
            raise BadInput("place.chart_crop_missing", field="file", where=where)
        if long:
            cells = dict(zip(header, row, strict=False))
            found.append((crop, _month(cells.get("month", ""), where), _what(cells.get("what", ""), where)))
        else:
            for index, month in by_month.items():
                words = row[index].replace("/", ",").replace("+", ",").split(",") if index < len(row) else []
                found += [(crop, month, _what(word, where)) for word in words if word.strip()]
    if not found:
        raise BadInput("place.chart_empty", field="file", name=name)
    return found


def write(entries: Iterable[tuple[str, int, str]]) -> str:
    """The chart as a table that `read` takes back."""
    return csv_table.write(("crop", "month", "what"), entries)


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
