"""The tables of the database as entity-relationship drawings in Mermaid's words, one for each package, made from the catalogue."""

import re
from dataclasses import dataclass
from importlib.resources import files
from importlib.resources.abc import Traversable
from typing import Any

from psycopg import Connection

PACKAGES = ("accounts", "school", "place", "garden", "crops", "year", "planner", "week", "journal", "harvest", "seeds")
HEAD = """# Tables

Drawn from the database by `python -m tests.draw_tables`; a test holds it to the schema. Every table of a school has
`school_id` first in its key, which is left out here. A line leads from a table to the one it points to.
"""
# Written by the schema's own functions and triggers, or by the queue's command; by no package's SQL.
AT_THE_FLOOR = {
    "schema_migration": "accounts",
    "book_version": "harvest",
    "print_job": "week",
    "login_attempt": "accounts",
}


@dataclass(frozen=True)
class Column:
    table: str
    name: str
    type: str
    key: bool


def drawing(connection: Connection[Any]) -> str:
    """The whole page. Needs a role that sees the catalogue; changes nothing."""
    columns = [
        Column(*row)
        for row in connection.execute(
            """SELECT c.relname, a.attname, format_type(a.atttypid, NULL),
                      EXISTS (SELECT FROM pg_index i WHERE i.indrelid = c.oid AND i.indisprimary AND a.attnum = ANY (i.indkey))
               FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
               WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' ORDER BY 1, a.attnum"""
        ).fetchall()
    ]
    points = connection.execute(
        """SELECT DISTINCT conrelid::regclass::text, confrelid::regclass::text FROM pg_constraint
           WHERE contype = 'f' AND connamespace = 'public'::regnamespace ORDER BY 1, 2"""
    ).fetchall()
    by_table: dict[str, list[Column]] = {}
    for column in columns:
        by_table.setdefault(column.table, []).append(column)
    homes = {table: home(table) for table in by_table}
    parts = [HEAD]
    for package in PACKAGES:
        own = sorted(table for table, where in homes.items() if where == package)
        if own:
            parts.append(_part(package, own, by_table, [(a, b) for a, b in points if a in own and b != "school"]))
    return "\n".join(parts)


def _part(package: str, own: list[str], by_table: dict[str, list[Column]], points: list[tuple[str, str]]) -> str:
    lines = [f"## {package}", "", "```mermaid", "erDiagram"]
    for table in own:
        lines.append(f"  {table} {{")
        for column in by_table[table]:
            if column.name != "school_id" or table == "membership":
                kind = re.sub(r"\W+", "_", column.type)
                lines.append(f"    {kind} {column.name}{' PK' if column.key else ''}")
        lines.append("  }")
    lines += [f"  {a} }}o--|| {b} : in" for a, b in points]
    return "\n".join([*lines, "```", ""])


def home(table: str) -> str:
    """The package whose SQL writes a table. Raises LookupError for one that nobody writes."""
    if table in AT_THE_FLOOR:
        return AT_THE_FLOOR[table]
    store = files("almanaque.store")
    for package in PACKAGES:
        if any(re.search(rf"\b(?:INTO|UPDATE) {table}\b", text) for text in _texts(store / package)):
            return package
    for package in PACKAGES:
        if any(re.search(rf"[\"' ]{table}[\"' ,.(]", text) for text in _texts(store / package)):
            return package
    migrations = "\n".join(_texts(store / "migrations"))
    if re.search(rf"\b(?:INTO|UPDATE) {table}\b", migrations):
        return "accounts"
    raise LookupError(f"no package of the store writes {table}")


def _texts(folder: Traversable) -> list[str]:
    return [e.read_text(encoding="utf-8") for e in folder.iterdir() if e.name.endswith((".py", ".sql"))]
