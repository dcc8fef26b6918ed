"""What the core's tests share: only refusals and judgements that are written down may come of them."""

from collections.abc import Iterator

import pytest

from tests.contracts import judgements


@pytest.fixture(autouse=True)
def _held() -> Iterator[None]:
    judgements.held = True
    yield
    judgements.held = False
