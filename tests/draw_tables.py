"""Write docs/tables.md anew from the schema."""

import psycopg

from almanaque.store import table_drawing
from tests.database import CLONE, EMPTY, enter_cluster, fresh_copy, leave_cluster

PAGE = CLONE / "docs/tables.md"


def main() -> None:
    for addresses in fresh_copy(enter_cluster(), EMPTY):
        with psycopg.connect(addresses.owner) as connection:
            PAGE.write_text(table_drawing.drawing(connection), encoding="utf-8")
    leave_cluster()


if __name__ == "__main__":
    main()
