"""A whole school as one JSON file: its shape, written and read. docs/bundle.md describes it."""

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

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
        raise BadInput(
            "That is no bundle of a school: it is not JSON. Choose the file that Almanaque wrote.", field="file"
        ) from None
    if not isinstance(given, dict) or given.get("format") != FORMAT:
        raise BadInput("That is JSON, but no bundle of a school. Choose the file that Almanaque wrote.", field="file")
    version, made_by = given.get("version"), given.get("schema")
    if not isinstance(version, int) or not isinstance(made_by, int) or isinstance(version, bool):
        raise BadInput("The bundle does not say its version. Choose the file as Almanaque wrote it.", field="file")
    if version > VERSION or made_by > schema:
        raise BadInput(
            "The bundle was made by a newer version of Almanaque. Bring this one up to date first, then bring it in.",
            field="file",
        )
    school, tables = given.get("school"), given.get("tables")
    if not isinstance(school, dict) or not isinstance(tables, dict):
        raise BadInput(
            "The bundle lacks its school or its tables. Choose the file as Almanaque wrote it.", field="file"
        )
    found: dict[str, list[dict[str, Any]]] = {}
    total = 0
    for name, rows in tables.items():
        if name not in known:
            raise BadInput(f"The bundle has a table “{str(name)[:40]}” that this version does not know.", field="file")
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise BadInput(f"The table “{name}” of the bundle is not a list of rows.", field="file")
        total += len(rows)
        for number, row in enumerate(rows, start=1):
            if strange := set(row) - set(known[name]):
                raise BadInput(
                    f"Row {number} of “{name}” has a field “{str(min(strange))[:40]}” that this version does not know.",
                    field="file",
                )
        found[name] = rows
    if total > MOST_ROWS:
        raise BadInput(
            f"The bundle has more than {MOST_ROWS:,} rows. Use backup and restore for so large a school.", field="file"
        )
    _check_findings(found.get("forecast", []))
    return Bundle(made_by, school, found, str(given.get("made_on", ""))[:20], bool(given.get("photos", True)))


def _check_findings(rows: Sequence[Mapping[str, Any]]) -> None:
    """Links in findings that were kept lead inside the application only."""
    for row in rows:
        findings = row.get("findings", [])
        fixes = (
            [fix for f in findings if isinstance(f, dict) for fix in f.get("fixes", []) if isinstance(fix, dict)]
            if isinstance(findings, list)
            else []
        )
        for fix in fixes:
            if fix.get("action") == "page" and not INSIDE.match(str(fix.get("value", ""))):
                raise BadInput(
                    "A forecast of the bundle has a link that leads elsewhere. Take the file as Almanaque wrote it.",
                    field="file",
                )
