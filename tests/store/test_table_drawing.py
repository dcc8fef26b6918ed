import psycopg
import pytest
from procrastinate.schema import SchemaManager

from almanaque.host.postgres import Addresses
from almanaque.store import table_drawing
from tests.draw_tables import PAGE


def test_the_drawing_of_the_tables_is_that_of_the_schema(empty: Addresses) -> None:
    with psycopg.connect(empty.owner) as connection:
        assert PAGE.read_text(encoding="utf-8") == table_drawing.drawing(connection)


def test_a_table_that_nobody_writes_is_found() -> None:
    with pytest.raises(LookupError, match="nobody_writes"):
        table_drawing.home("nobody_writes")


QUEUE = {
    "columns": """SELECT table_name, column_name, udt_name, column_default, is_nullable FROM information_schema.columns
                  WHERE table_schema = %s ORDER BY 1, ordinal_position""",
    "indexes": "SELECT indexname, replace(indexdef, schemaname || '.', '') FROM pg_indexes WHERE schemaname = %s ORDER BY 1",
    "functions": """SELECT proname, pg_get_function_identity_arguments(oid), prosrc FROM pg_proc
                    WHERE pronamespace = %s::regnamespace ORDER BY 1, 2""",
    "types": """SELECT t.typname, e.enumlabel FROM pg_enum e JOIN pg_type t ON t.oid = e.enumtypid
                WHERE t.typnamespace = %s::regnamespace ORDER BY 1, e.enumsortorder""",
}


def test_the_queue_has_the_tables_that_the_installed_package_expects(empty: Addresses) -> None:
    with psycopg.connect(empty.owner) as connection:
        connection.execute("CREATE SCHEMA published")
        connection.execute("SET search_path = published")
        connection.execute(SchemaManager.get_schema().encode())
        for what, asked in QUEUE.items():
            theirs, ours = (
                [
                    tuple(str(value).replace(f"{schema}.", "") for value in row)
                    for row in connection.execute(asked.encode(), [schema]).fetchall()
                ]
                for schema in ("published", "queue")
            )
            assert ours == theirs, what
            assert ours, what
