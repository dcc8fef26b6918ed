"""The one error of the core: what was given cannot be read or cannot be.

    CoreError
    └── BadInput    a value that a person typed; carries a code, its parameters and the field

A judgement on a plan that can be read is a finding, not an error.
"""

from functools import partial

from almanaque.core.words import Phrase


class CoreError(Exception):
    """Anything the rules refuse."""


class BadInput(CoreError):
    """Say what is wrong, where, and what to do: a code of `words`, its parameters, and the form field or option."""

    def __init__(self, code: str, *, field: str = "", **params: object) -> None:
        super().__init__(code)
        self.code = code
        self.params = params
        self.field = field

    def __reduce__(self) -> tuple[object, ...]:
        """How it is sent from a process that read a file to the one that asked."""
        return partial(BadInput, self.code, field=self.field, **self.params), ()

    @property
    def phrase(self) -> Phrase:
        """The code and its parameters, to stand in another sentence."""
        return Phrase(self.code, self.params)

    @property
    def message(self) -> str:
        """The sentence for the person who typed it."""
        return str(self.phrase)

    def __str__(self) -> str:
        return self.message

    def at(self, field: str) -> "BadInput":
        """Return the same error, placed at a field."""
        return BadInput(self.code, field=field, **self.params)
