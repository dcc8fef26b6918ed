"""Almanaque lays out school garden beds, fits every sowing and picking to the school year, and keeps the book.

Read from the bottom: `core` holds the rules of the job, `data` its reference tables, `store` keeps rows in
PostgreSQL, `web` draws pages, `worker` recomputes in the background, `host` starts and stops it all.
"""

__version__ = "0.2.0"
