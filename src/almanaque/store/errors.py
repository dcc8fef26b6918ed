"""What can go wrong below the pages.

StoreError
├── Unreachable        the database does not answer
├── Busy               somebody else is writing the same for too long, or the answer took too long
├── SchemaMismatch     the database is of another version than the code
├── UnsafeRole         the application would run with the owner's or a superuser's rights
├── Refused            a named constraint said no; `constraint` is its name
├── NotFound           no such row in this school
├── Stale              the row was changed by someone else since it was read
├── IdTaken            the same id was already used for something else
└── TakenBefore        this was done before; `led_to` is the page that it led to
"""


class StoreError(Exception):
    """`str(error)` is a sentence for the person at the screen."""


class Unreachable(StoreError):
    pass


class Busy(StoreError):
    pass


class SchemaMismatch(StoreError):
    pass


class UnsafeRole(StoreError):
    pass


class NotFound(StoreError):
    pass


class Stale(StoreError):
    pass


class IdTaken(StoreError):
    pass


class TakenBefore(StoreError):
    def __init__(self, led_to: str) -> None:
        super().__init__("This was done before.")
        self.led_to = led_to


class Refused(StoreError):
    def __init__(self, sentence: str, *, constraint: str) -> None:
        super().__init__(sentence)
        self.constraint = constraint
