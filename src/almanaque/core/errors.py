"""The one error of the core: what was given cannot be read or cannot be.

    CoreError
    └── BadInput    a value that a person typed; carries the field and what would be allowed

A judgement on a plan that can be read is a finding, not an error.
"""


class CoreError(Exception):
    """Anything the rules refuse."""


class BadInput(CoreError):
    """Say what is wrong, where, and what to do, in one sentence; `field` names the form field or option."""

    def __init__(self, message: str, *, field: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.field = field

    def at(self, field: str) -> "BadInput":
        """Return the same error, placed at a field."""
        return BadInput(self.message, field=field)
