"""A whole school as one JSON file: its shape, written and read. docs/bundle.md describes it."""

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from almanaque.core import findings
from almanaque.core.errors import BadInput

FORMAT = "almanaque school"
VERSION = 1
MOST_ROWS = 400_000
INSIDE = re.compile(r"^/[a-z][a-z0-9/_?=&%.\-]*$")  # an address within the application


@dataclass(frozen=True)
class Bundle:
    """The school's own values and the rows of each table; `schema` is the version of the database it came from."""

    schema: int
    school: dict[str, Any]
    tables: dict[str, list[dict[str, Any]]]
    made_on: str = ""
    photos: bool = True


def write(bundle: Bundle) -> bytes:
    """The file: UTF-8, one row a line, so that two of them can be compared."""
    head = {
        "format": FORMAT,
        "version": VERSION,
        "schema": bundle.schema,
        "made_on": bundle.made_on,
        "photos": bundle.photos,
    }
    parts = [
        json.dumps(head, ensure_ascii=False)[:-1],
        ', "school": ',
        json.dumps(bundle.school, ensure_ascii=False, sort_keys=True),
        ', "tables": {',
    ]
    for number, (name, rows) in enumerate(bundle.tables.items()):
        lines = ",\n".join(json.dumps(row, ensure_ascii=False, sort_keys=True) for row in rows)
        parts.append(
            f"{',' if number else ''}\n{json.dumps(name)}: [\n{lines}\n]"
            if rows
            else f"{',' if number else ''}\n{json.dumps(name)}: []"
        )
    parts.append("\n}}\n")
    return "".join(parts).encode()


def read(body: bytes, *, known: Mapping[str, Sequence[str]], schema: int) -> Bundle:
    """Read a bundle; `known` are the tables and columns of this version, `schema` its database's.

    Raises BadInput for another file, a newer version, tables and columns that are not there, and rows that are none.
    """
    try:
        given = json.loads(body)
    except (ValueError, RecursionError):
        raise BadInput("school.bundle_not_json", field="file") from None
    if not isinstance(given, dict) or given.get("format") != FORMAT:
        raise BadInput("school.not_a_bundle", field="file")
    version, made_by = given.get("version"), given.get("schema")
    if not isinstance(version, int) or not isinstance(made_by, int) or isinstance(version, bool):
        raise BadInput("school.bundle_without_version", field="file")
    if version > VERSION or made_by > schema:
        raise BadInput("school.bundle_of_newer_version", field="file")
    school, tables = given.get("school"), given.get("tables")
    if not isinstance(school, dict) or not isinstance(tables, dict):
        raise BadInput("school.bundle_without_tables", field="file")
    found: dict[str, list[dict[str, Any]]] = {}
    total = 0
    for name, rows in tables.items():
        if name not in known:
            raise BadInput("school.bundle_table_unknown", field="file", name=str(name)[:40])
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise BadInput("school.bundle_table_not_rows", field="file", name=name)
        total += len(rows)
        for number, row in enumerate(rows, start=1):
            if strange := set(row) - set(known[name]):
                raise BadInput(
                    "school.bundle_field_unknown",
                    field="file",
                    number=number,
                    name=name,
                    unknown=str(min(strange))[:40],
                )
        found[name] = rows
    if total > MOST_ROWS:
        raise BadInput("school.bundle_too_large", field="file", most=MOST_ROWS)
    if "forecast" in found:
        found["forecast"] = [_forecast(row) for row in found["forecast"]]
    return Bundle(made_by, school, found, str(given.get("made_on", ""))[:20], bool(given.get("photos", True)))


def _forecast(row: dict[str, Any]) -> dict[str, Any]:
    """A forecast whose findings have codes and words, and links that lead inside the application only."""
    given = row.get("findings", [])
    try:
        kept = [findings.as_written(one) for one in given]
        for one in map(findings.from_store, kept):
            findings.in_words(one)
            if any(fix.action == "page" and not INSIDE.match(fix.value) for fix in one.fixes):
                raise BadInput("school.bundle_link", field="file")
    except (KeyError, TypeError, ValueError, AttributeError, RecursionError):
        raise BadInput("school.bundle_finding", field="file") from None
    return {**row, "findings": kept}
