"""An invented school in a northern valley with three years of beds, jobs and pickings, and a small one in the south.

No real person, school, place, brand or variety. `brindlecombe` and `tallowbank` say what they hold; `load` writes it by
the same commands that the pages use.
"""

from datetime import date

import psycopg

DEMO_DAY = date(2027, 4, 14)


def is_empty(owner_url: str) -> bool:
    """True until a demo has been written to its end: the logins are written last."""
    with psycopg.connect(owner_url) as connection:
        row = connection.execute("SELECT EXISTS (SELECT FROM membership)").fetchone()
        return row is None or not row[0]
