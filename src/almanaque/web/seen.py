"""What somebody saw when a form was drawn, so that a form filled in over something older does not undo what others wrote since."""

import hashlib
from collections.abc import Callable

from almanaque.store import errors

FIELD = "seen"


def fingerprint(*values: object) -> str:
    """Changes when one of these values does; for a form's hidden field."""
    return hashlib.sha256(repr(values).encode()).hexdigest()[:16]


def still(given: str, now: Callable[[], str], what: str) -> None:
    """Raise Stale, naming what it is about, unless it is still as the form showed it. A form that says nothing is believed."""
    if given and given != now():
        raise errors.Stale(
            f"Someone else changed {what} in the meantime. Nothing of yours was written; "
            "here it is as it is now, with what you wrote below."
        )
