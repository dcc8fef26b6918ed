"""Class counts are checked, compared fairly with ties, and told over the years without claiming why."""

from datetime import date

import pytest

from almanaque.core.journal import visitor_counts
from almanaque.core.journal.class_counts import COUNT_KEYS, KINDS, ClassCount, CountKey, check, standings, watched
from almanaque.core.journal.visitor_counts import before_and_after, rate, weeks, years
from tests.refuses import refuses

DAY = date(2027, 5, 3)


def count(
    kind: CountKey, team: str, amount: float, of: float | None = None, what: str = "", day: date = DAY
) -> ClassCount:
    return ClassCount(kind, team, day, amount, of, what)


def test_every_kind_is_known_by_its_key() -> None:
    assert set(KINDS) == set(COUNT_KEYS)
    assert all(bool(kind.per) == bool(kind.of) for kind in KINDS.values())


@pytest.mark.parametrize(
    ("wrong", "code"),
    [
        (count("height", "a", 0.0), "journal.class_length_out_of_range"),
        (count("height", "a", 30_000.0), "journal.class_length_out_of_range"),
        (count("rain", "a", 501.0), "journal.class_rain_out_of_range"),
        (count("worms", "a", -1.0, 1.0), "journal.class_count_out_of_range"),
        (count("worms", "a", 3.0), "journal.class_count_of_missing"),
        (count("seeds up", "a", 12.0, 10.0), "journal.class_more_up_than_sown"),
        (count("visitors", "a", 3.0, 10.0, "dragons"), "journal.class_count_of_what"),
    ],
)
def test_what_cannot_be_is_refused(wrong: ClassCount, code: str) -> None:
    with refuses(code):
        check(wrong)


def test_a_short_watch_is_compared_with_a_long_one_by_the_same_ten_minutes() -> None:
    counts = [
        count("visitors", "a", 6, 5, "bees"),
        count("visitors", "b", 10, 10, "bees"),
        count("visitors", "c", 12, 10, "bees"),
    ]
    found = standings(KINDS["visitors"], counts, ["a", "b", "c", "d"])
    assert [(one.team, one.fair, one.place, one.tied) for one in found] == [
        ("a", 12.0, 1, True),
        ("c", 12.0, 1, True),
        ("b", 10.0, 3, False),
    ]


def test_measures_count_by_the_last_and_barrows_add_up() -> None:
    tall = standings(
        KINDS["height"], [count("height", "a", 300), count("height", "a", 250), count("height", "b", 280)], ["a", "b"]
    )
    assert [(one.team, one.total, one.place) for one in tall] == [("b", 280, 1), ("a", 250, 2)]
    weeds = standings(
        KINDS["weeds"], [count("weeds", "a", 2, what="barrows"), count("weeds", "a", 1.5, what="barrows")], ["a"]
    )
    assert weeds[0].total == 3.5
    assert weeds[0].fair is None


def test_seeds_up_are_compared_by_what_was_sown() -> None:
    found = standings(KINDS["seeds up"], [count("seeds up", "a", 18, 20), count("seeds up", "b", 19, 30)], ["a", "b"])
    assert [(one.team, round(one.fair or 0, 2)) for one in found] == [("a", 9.0), ("b", 6.33)]


def test_bees_and_butterflies_of_one_watch_have_its_minutes_once() -> None:
    both = [count("visitors", "a", 4, 10, "bees"), count("visitors", "a", 2, 10, "butterflies")]
    assert [(one.amount, one.of) for one in watched(both)] == [(6.0, 10)]
    assert rate(both).in_ten == 6.0


def spring(year: int, each: float, times: int, month: int = 5) -> list[ClassCount]:
    return [count("visitors", f"team {n}", each, 10, "bees", date(year, month, 3 + n)) for n in range(times)]


def test_before_and_after_are_told_in_one_sentence_of_the_same_months() -> None:
    told = str(
        before_and_after([*spring(2026, 3, 4), *spring(2027, 7, 3), *spring(2027, 90, 5, month=8)], date(2027, 1, 1))
    )
    assert told == (
        "Before 1 Jan 2027 classes watched flowers 4 times, 40 minutes in all, and saw 3.0 visitors in ten minutes; since then "
        "3 times, 30 minutes, and 7.0. Compared are May only, which were counted on both sides. Children counted, on other days and "
        "in other weather: it shows what was seen, not why."
    )


def test_too_few_counts_are_not_compared() -> None:
    told = before_and_after([*spring(2026, 3, 2), *spring(2027, 7, 5)], date(2027, 1, 1))
    assert told.code == "journal.visitors_too_few"
    assert "2 before 1 Jan and 5 since" in str(told)
    nothing = before_and_after([*spring(2026, 3, 4, month=9), *spring(2027, 7, 5)], date(2027, 1, 1))
    assert nothing.code == "journal.visitors_too_few"


def test_visitors_are_drawn_by_the_week_and_told_by_the_year() -> None:
    seen = [(date(2027, 1, 1), 2.0), (date(2027, 1, 7), 3.0), (date(2027, 1, 8), 4.0), (date(2028, 1, 1), 9.0)]
    assert weeks(seen, date(2027, 1, 1), date(2027, 12, 31)) == [(date(2027, 1, 1), 5.0), (date(2027, 1, 8), 4.0)]
    found = years([*spring(2026, 3, 4), *spring(2027, 7, 3)])
    assert [(year, one.watches, one.in_ten) for year, one in found] == [(2026, 4, 3.0), (2027, 3, 7.0)]
    assert visitor_counts.VisitorRate(0, 0.0, 0.0).in_ten == 0.0
