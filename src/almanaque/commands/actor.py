"""Who does something, and what they saw when they did it."""

from dataclasses import dataclass
from datetime import date
from uuid import UUID


@dataclass(frozen=True)
class Actor:
    """Who does it, on which day, and the version of the bed that they saw."""

    by: UUID | None
    today: date
    version: int | None = None
