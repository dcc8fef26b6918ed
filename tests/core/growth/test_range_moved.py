from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth.range_moved import Moved, PromisedRange, moved
from tests.places import D

MADE = PromisedRange(D("2027-04-04"), D("2027-06-03"), D("2027-06-10"), D("2027-06-17"))
SAME = (MADE.early, MADE.first, MADE.late)
LATER = (D("2027-06-08"), D("2027-06-13"), D("2027-06-18"))


def test_nothing_is_said_of_a_promise_that_stands() -> None:
    assert moved(MADE, SAME, {"started": MADE.made_on}) is None


@pytest.mark.parametrize(
    ("day", "inside"), [("2027-06-02", False), ("2027-06-03", True), ("2027-06-17", True), ("2027-06-18", False)]
)
def test_a_first_picking_is_within_the_range_or_not_whatever_the_range_is_now(day: str, inside: bool) -> None:
    said = moved(MADE, LATER, {"first picking": D(day), "in flower": D("2027-05-20")})
    assert said == Moved((D(day) - MADE.first).days, 0, "picked", on=D(day), inside=inside)


def test_what_was_seen_since_is_the_cause_before_the_season_is_and_the_last_of_it() -> None:
    events = {"emerged": D("2027-04-20"), "in flower": D("2027-05-28")}
    assert moved(MADE, LATER, events, warmer=-0.1) == Moved(3, -4, "seen", "in flower", D("2027-05-28"))
    before = {"emerged": D("2027-04-01")}
    assert moved(MADE, LATER, before, warmer=-0.1) == Moved(3, -4, "season")
    assert moved(MADE, LATER, before) == Moved(3, -4, "other")


def test_a_season_is_no_cause_of_what_goes_against_it_or_of_a_correction() -> None:
    assert moved(MADE, LATER, {}, warmer=0.1) == Moved(3, -4, "other")
    assert moved(MADE, LATER, {}, warmer=-0.1, corrected=5) == Moved(3, -4, "correction")
    surer = (MADE.early + timedelta(days=2), MADE.first, MADE.late - timedelta(days=2))
    assert moved(MADE, surer, {}, warmer=0.1) == Moved(0, -4, "season")


@given(st.lists(st.integers(0, 60), min_size=3, max_size=3), st.lists(st.integers(0, 60), min_size=3, max_size=3))
def test_days_later_lead_from_the_promise_to_the_range_of_now(made: list[int], now: list[int]) -> None:
    begin = date(2027, 5, 1)
    a, b, c = (begin + timedelta(days=n) for n in sorted(made))
    early, first, late = (begin + timedelta(days=n) for n in sorted(now))
    said = moved(PromisedRange(begin, a, b, c), (early, first, late), {})
    if said is None:
        assert (first, late - early) == (b, c - a)
    else:
        assert b + timedelta(days=said.later) == first
        assert c - a + timedelta(days=said.wider) == late - early
