import re
from pathlib import Path

import psycopg
import pytest

import almanaque.store
from almanaque.host.postgres import Addresses
from almanaque.store import sql
from almanaque.store.sql import SqlFileError

FOLDER = Path(almanaque.store.__file__).parent
FILES = sorted(
    str(path.relative_to(FOLDER).with_suffix("")) for path in FOLDER.glob("*/*.sql") if path.parent.name != "migrations"
)


@pytest.mark.parametrize("name", FILES)
def test_postgresql_understands_every_block(demo: Addresses, name: str) -> None:
    with psycopg.connect(demo.owner) as connection:
        for block, text in sql.load(name).items():
            names = list(dict.fromkeys(re.findall(r"%\((\w+)\)s", text)))
            plain = re.sub(r"%\((\w+)\)s", lambda match: f"${names.index(match[1]) + 1}", text).rstrip(";")  # noqa: B023
            connection.execute(f"PREPARE {block} AS {plain}".encode())


@pytest.mark.parametrize("name", FILES)
def test_every_block_is_called_and_no_other(name: str) -> None:
    called = set(re.findall(r'SQL\["(\w+)"\]', (FOLDER / f"{name}.py").read_text(encoding="utf-8")))
    assert called == set(sql.load(name))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("-- a: one\nSELECT 1;\n-- a: two\nSELECT 2;", "second block is called a"),
        ("SELECT 1;", "before the first block"),
        ("-- a: one\n-- Not A Head\nSELECT 1;", "not a block's head"),
        ("-- a: one\n-- b: two\nSELECT 2;", "block a is empty"),
    ],
)
def test_a_statement_file_that_cannot_be_trusted_is_refused(text: str, says: str) -> None:
    with pytest.raises(SqlFileError, match=says):
        sql.parse(text, name="x")
