from datetime import UTC, date, datetime, time
from itertools import pairwise

import pytest

from almanaque import passwords
from almanaque.clock import Clock
from almanaque.core.accounts.permissions import RIGHTS
from almanaque.core.words import terms
from almanaque.web import words


def test_days_and_spans_are_written_shortly() -> None:
    assert words.span(date(2027, 6, 2), date(2027, 6, 9)) == "2 – 9 Jun"
    assert words.span(date(2027, 5, 28), date(2027, 6, 9)) == "28 May – 9 Jun"
    assert words.span(date(2026, 12, 28), date(2027, 12, 28)) == "28 Dec – 28 Dec"
    assert words.span(date(2027, 6, 2), date(2027, 6, 2)) == "2 Jun"
    assert words.long_day(date(2027, 4, 14)) == "Wednesday, 14 April 2027"
    assert words.clock(time(9, 5)) == "9:05"


def test_counts_agree_with_their_words() -> None:
    assert [words.count(n, "square") for n in (0, 1, 1200)] == ["0 squares", "1 square", "1,200 squares"]
    assert words.count(2, "child", "children") == "2 children"
    assert words.joined(["a", "", "b"]) == "a · b"


def test_today_is_the_day_at_the_school_not_at_the_server(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Clock, "now", lambda _: datetime(2027, 4, 14, 23, 30, tzinfo=UTC))
    assert Clock().today("Pacific/Auckland") == date(2027, 4, 15)
    assert Clock().today("America/New_York") == date(2027, 4, 14)
    assert Clock(date(2020, 1, 1)).today("Pacific/Auckland") == date(2020, 1, 1)


def test_a_password_is_kept_as_argon2id_and_matches_only_itself() -> None:
    kept = passwords.hash_password("soup")
    assert kept.startswith("$argon2id$")
    assert passwords.matches(kept, "soup")
    assert not passwords.matches(kept, "soap")
    assert not passwords.matches("not a hash", "soup")
    assert not passwords.matches(passwords.nobody(), "")


def test_each_role_may_do_all_that_the_one_below_may() -> None:
    order = ["viewer", "helper", "educator", "coordinator"]
    for low, high in pairwise(order):
        assert RIGHTS[low] < RIGHTS[high]
    assert RIGHTS["carer"] == RIGHTS["helper"]
    assert RIGHTS["pass"] == {"pass"}
    assert set(terms("right")) == RIGHTS["coordinator"] | {"pass"}
