"""Ask for a refusal by its code, so that a better sentence breaks no test."""

from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from almanaque.core.errors import BadInput


@contextmanager
def refuses(code: str, *, field: str | None = None, **params: object) -> Iterator[pytest.ExceptionInfo[BadInput]]:
    """What is done within is refused with that code; the field and the parameters named are those given."""
    with pytest.raises(BadInput) as info:
        yield info
    error = info.value
    assert error.code == code, f"refused with {error.code}: {error}"
    assert field is None or error.field == field
    given = {name: error.params.get(name) for name in params}
    assert given == params
    assert str(error)
