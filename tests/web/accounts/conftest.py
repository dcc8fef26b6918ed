from datetime import UTC, datetime

import pytest

from almanaque.clock import Clock


@pytest.fixture(autouse=True)
def still_clock(monkeypatch: pytest.MonkeyPatch) -> None:
    """The pages' clock stands still: a code of the second step outlives a slow machine."""
    instant = datetime.now(UTC)
    monkeypatch.setattr(Clock, "now", lambda _: instant)
