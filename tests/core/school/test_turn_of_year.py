from datetime import date, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.garden.rotation import Stood
from almanaque.core.school import turn_of_year
from almanaque.core.school.school_year import HalfDay, SchoolYear, Span, check_year
from almanaque.core.school.turn_of_year import Tally, winners
from almanaque.core.year.next_season_map import MapWish, RestedBed, propose

YEAR = SchoolYear(
    "2026–27",
    date(2026, 8, 26),
    date(2027, 8, 24),
    (Span("Autumn", date(2026, 8, 26), date(2026, 12, 18)), Span("Spring", date(2027, 1, 4), date(2027, 6, 16))),
    (
        Span("Snow", date(2027, 2, 2), date(2027, 2, 3), "weather"),
        Span("Spring break", date(2027, 3, 20), date(2027, 3, 28), "break"),
    ),
    (HalfDay("Last day", date(2027, 6, 16), time(11, 30)),),
    (Span("Soup day", date(2026, 11, 18), date(2026, 11, 18)),),
)


def test_next_years_calendar_keeps_weekdays_and_what_was_planned() -> None:
    made = turn_of_year.next_year(YEAR)
    check_year(made)
    assert (made.name, made.starts, made.ends) == ("2027–28", date(2027, 8, 25), date(2028, 8, 22))
    assert [t.starts for t in made.terms] == [date(2027, 8, 25), date(2028, 1, 3)]
    assert [c.name for c in made.closures] == ["Spring break"]
    assert made.half_days[0].day.weekday() == YEAR.half_days[0].day.weekday()
    assert made.feasts[0].starts == date(2027, 11, 17)


@given(st.dates(date(2020, 1, 1), date(2030, 1, 1)), st.integers(200, 380))
def test_the_years_follow_each_other_without_overlap(first: date, days: int) -> None:
    year = SchoolYear(
        "x",
        first,
        first + timedelta(days=days),
        (Span("Term", first + timedelta(days=3), first + timedelta(days=150)),),
    )
    made = turn_of_year.next_year(year)
    check_year(made)
    assert made.starts > year.ends
    assert made.starts - year.ends <= timedelta(days=1) or made.starts == year.starts + turn_of_year.WEEKS_ON


def test_votes_are_added_up_class_by_class() -> None:
    found = turn_of_year.tally(
        [("a", "kale", 5), ("b", "kale", 3), ("a", "pea", 9), ("a", "gone", 9)], ["pea", "kale", "beet"]
    )
    assert [(t.crop, t.total) for t in found] == [("pea", 9), ("kale", 8), ("beet", 0)]


def test_every_class_gets_its_favourite_before_the_second_of_a_large_class() -> None:
    votes = [("big", "kale", 20), ("big", "pea", 19), ("small", "beet", 4), ("small", "pea", 1)]
    assert [t.crop for t in turn_of_year.winners(turn_of_year.tally(votes, ["kale", "pea", "beet", "corn"]))] == [
        "kale",
        "beet",
        "pea",
    ]


def test_a_bed_begins_with_a_sentence_from_the_book() -> None:
    assert (
        turn_of_year.bed_sentence("Bed 1", [("Kale", "12.1 lb"), ("Radish", "2 lb")], ["Garlic"])
        == "Bed 1 gave 12.1 lb of kale, 2 lb of radish. Garlic still stands."
    )
    assert turn_of_year.bed_sentence("Sill", [], []) == "Nothing was picked from Sill."
    assert (
        turn_of_year.bed_sentence("Bed 2", [], ["Pea", "Pea", "Mint"])
        == "Nothing was picked from Bed 2. Pea, mint still stand."
    )


START = date(2027, 9, 1)


def squares(count: int) -> tuple[tuple[int, int], ...]:
    return tuple((n % 4, n // 4) for n in range(count))


def stood(family: str, year: int) -> Stood:
    return Stood(family, family, frozenset(squares(2)), date(year, 6, 1))


def wish(crop: str, family: str, count: int = 4, **change: object) -> MapWish:
    return MapWish(crop, family, count, START, "grew", **change)  # type: ignore[arg-type]


def test_a_family_moves_to_where_it_has_rested_longest() -> None:
    ground = [
        RestedBed("1", "Bed 1", squares(8), [stood("Brassicaceae", 2027)]),
        RestedBed("2", "Bed 2", squares(8), [stood("Brassicaceae", 2024)]),
        RestedBed("3", "Bed 3", squares(8), []),
    ]
    placed, left = propose([wish("kale", "Brassicaceae")], ground, rest_years=3)
    assert [(p.name, p.rested) for p in placed] == [("Bed 3", None)]
    assert left == []
    placed, _ = propose([wish("kale", "Brassicaceae", 8), wish("radish", "Brassicaceae", 8)], ground, rest_years=3)
    assert {p.name for p in placed} == {"Bed 2", "Bed 3"}


def test_kin_stay_together_while_there_is_room() -> None:
    ground = [RestedBed("1", "Bed 1", squares(12), []), RestedBed("2", "Bed 2", squares(12), [])]
    placed, _ = propose(
        [wish("kale", "Brassicaceae"), wish("pea", "Fabaceae"), wish("radish", "Brassicaceae")], ground, rest_years=3
    )
    beds = {p.wish.crop: p.name for p in placed}
    assert beds["kale"] == beds["radish"]


@pytest.mark.parametrize(
    ("change", "ground", "says"),
    [
        ({"count": 9}, {}, "no bed has that much room"),
        ({"depth_least_mm": 2000.0}, {}, "deep enough"),
        ({"sun_least_h": 7.0}, {"sun_h": 4.0}, "sun enough"),
        ({}, {"history": [stood("Solanaceae", 2027)]}, "has not rested 3 years"),
    ],
)
def test_what_has_no_place_names_the_rule(change: dict, ground: dict, says: str) -> None:
    placed, left = propose(
        [wish("tomato", "Solanaceae", **change)],
        [RestedBed(**{"bed": "1", "name": "Bed 1", "cells": squares(8), "history": [], **ground})],
        rest_years=3,
    )
    assert placed == []
    assert says in left[0].reason


@given(
    st.lists(st.tuples(st.sampled_from("ABCD"), st.integers(1, 6)), max_size=12),
    st.lists(st.integers(0, 16), min_size=1, max_size=5),
)
def test_no_square_is_given_twice_and_no_wish_is_lost(wanted: list[tuple[str, int]], rooms: list[int]) -> None:
    ground = [RestedBed(str(n), f"Bed {n}", squares(size), []) for n, size in enumerate(rooms)]
    wishes = [wish(f"{family}{n}", family, count) for n, (family, count) in enumerate(wanted)]
    placed, left = propose(wishes, ground, rest_years=3)
    taken = [(p.bed, cell) for p in placed for cell in p.cells]
    assert len(taken) == len(set(taken))
    assert sorted(w.crop for w in wishes) == sorted([p.wish.crop for p in placed] + [w.wish.crop for w in left])
    assert all(len(p.cells) == p.wish.squares for p in placed)


def test_a_class_without_a_vote_has_no_favourite() -> None:
    tallies = [Tally("kale", {"a": 3}), Tally("pea", {"a": 0, "b": 2}), Tally("okra", {"a": 1})]
    assert [tally.crop for tally in winners(tallies)] == ["kale", "pea", "okra"]
    only = [Tally("pea", {"b": 2}), Tally("kale", {"c": 5}), Tally("okra", {"c": 4})]
    assert [tally.crop for tally in winners(only)] == ["kale", "pea", "okra"]
