"""Rows in PostgreSQL by plain SQL. Frozen dataclasses come out; core values and ids go in.

`db` opens transactions that belong to one school, `migrations` is the only source of the schema, `constraints` turns
the database's refusals into sentences. Each room has `<room>.py` and, for its longer statements, `<room>.sql`.
"""
