"""Rows in PostgreSQL by plain SQL. Frozen dataclasses come out; core values and ids go in.

`db` opens transactions that belong to one school, `migrations` is the only source of the schema, `constraints` turns
the database's refusals into sentences. Each module has, for its longer statements, an SQL file of its name beside it.
"""

import almanaque.store.words  # noqa: F401  the words of this floor's codes
