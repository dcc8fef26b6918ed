"""A class page's code can be read out, its teams are made-up names, and it ends with the lesson."""

from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest

from almanaque.core.journal import class_page
from almanaque.core.journal.class_page import (
    check_activities,
    check_dream,
    code_words,
    open_from_to,
    plain_code,
    read_teams,
    suggested_teams,
)
from almanaque.data import code_words as words
from tests.refuses import refuses

ZONE = ZoneInfo("America/Denver")
NOW = datetime(2027, 4, 14, 9, 50, tzinfo=ZONE)
TODAY = NOW.date()


def test_words_of_codes_can_be_told_apart_when_one_letter_is_wrong() -> None:
    known = words()
    assert len(set(known)) == len(known) > 400
    assert all(3 <= len(word) <= 8 and word.isascii() and word.islower() and word.isalpha() for word in known)
    by_length: dict[int, list[str]] = {}
    for word in known:
        by_length.setdefault(len(word), []).append(word)
    for word in known:
        for other in by_length[len(word)]:
            assert other == word or sum(a != b for a, b in zip(word, other, strict=True)) > 1, (word, other)
        shorter = {word[:n] + word[n + 1 :] for n in range(len(word))}
        assert not shorter & set(by_length.get(len(word) - 1, ())), word


def test_a_code_is_three_words_and_every_number_below_the_count_has_its_own() -> None:
    few = ("pea", "drum", "river")
    codes = {code_words(drawn, few) for drawn in range(27)}
    assert len(codes) == 27
    assert code_words(0, few) == "pea-pea-pea"
    assert code_words(27, few) == code_words(0, few)


@pytest.mark.parametrize("typed", ["Pea Drum, river", "pea-drum-river", "  PEA   drum\nriver ", "pea, drum & river!"])
def test_a_code_is_understood_however_it_is_typed(typed: str) -> None:
    assert plain_code(typed) == "pea-drum-river"


def test_teams_are_named_once_and_briefly() -> None:
    assert read_teams("The Wrens\nThe Newts, The  Hares;") == ("The Wrens", "The Newts", "The Hares")
    with refuses("journal.class_team_twice", field="teams"):
        read_teams("The Wrens\nthe wrens")
    with refuses("journal.class_team_too_long", field="teams"):
        read_teams("x" * 31)
    for text in ("", "\n".join(f"Team {n}" for n in range(13))):
        with refuses("journal.class_teams_how_many", field="teams"):
            read_teams(text)


def test_a_class_keeps_its_own_teams_and_gets_others_besides() -> None:
    found = suggested_teams(["The Moles", "The Wrens"])
    assert found[:2] == ["The Moles", "The Wrens"]
    assert len(found) == len(set(found)) == 6
    assert len(suggested_teams([f"Team {n}" for n in range(9)])) == 9


def test_something_must_be_done_and_a_dream_has_its_limits() -> None:
    assert check_activities(["vote", "draw", "fly"]) == ("draw", "vote")
    with refuses("journal.class_page_does_nothing", field="does"):
        check_activities(["fly"])
    assert check_dream(3, 16) == class_page.Dream(3, 16)
    for size in ((2, 5), (5, 17)):
        with refuses("journal.dream_size"):
            check_dream(*size)


def test_a_code_opens_at_once_today_and_in_the_morning_of_another_day() -> None:
    assert open_from_to(TODAY, time(10, 50), today=TODAY, now=NOW) == (NOW, NOW.replace(hour=10, minute=50))
    opens, ends = open_from_to(TODAY + timedelta(days=2), time(9, 0), today=TODAY, now=NOW)
    assert (opens, ends) == (datetime(2027, 4, 16, tzinfo=ZONE), datetime(2027, 4, 16, 9, tzinfo=ZONE))


def test_a_school_whose_day_is_another_one_than_the_clocks_still_has_its_lesson_now() -> None:
    opens, ends = open_from_to(date(2030, 1, 7), time(10, 50), today=date(2030, 1, 7), now=NOW)
    assert opens == NOW
    assert ends - NOW == timedelta(hours=1)


def test_a_page_for_the_afternoon_can_be_made_before_breakfast_and_is_open_at_once() -> None:
    early = NOW.replace(hour=0, minute=1)
    assert open_from_to(TODAY, time(23, 59), today=TODAY, now=early) == (early, NOW.replace(hour=23, minute=59))


def test_a_lesson_lasts_longer_from_its_end_and_one_that_is_over_from_now() -> None:
    def longer(opens: datetime, ends: datetime, minutes: int = 30) -> datetime:
        return class_page.let_last(opens, ends, minutes, now=NOW)

    half, hour = timedelta(minutes=30), timedelta(hours=1)
    assert longer(NOW - hour, NOW + hour) == NOW + hour + half
    assert longer(NOW - 3 * hour, NOW - hour) == NOW + half
    friday = NOW + timedelta(days=2)
    assert longer(friday, friday + hour) == friday + hour + half
    assert longer(friday, friday + 24 * hour) == friday + 24 * hour
    assert longer(NOW - hour, NOW + 23 * hour + half, 45) == NOW + 24 * hour
    assert longer(NOW - hour, NOW + 25 * hour) == NOW + 25 * hour


def test_what_is_over_or_too_far_ahead_is_refused() -> None:
    with refuses("journal.class_lesson_over", field="until"):
        open_from_to(TODAY, time(9, 50), today=TODAY, now=NOW)
    for away in (-1, 15):
        with refuses("journal.class_day_out_of_range", field="on_day"):
            open_from_to(TODAY + timedelta(days=away), time(10), today=TODAY, now=NOW)
