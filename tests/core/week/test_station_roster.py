"""The roster says who has a station on which days of a term, and fills what is empty fairly."""

from collections import Counter
from datetime import date

from almanaque.core.week.station_roster import Care, RosterTerm, cell, fair, homeless

AUTUMN = RosterTerm("Autumn", date(2026, 8, 26), date(2027, 1, 3))
SPRING = RosterTerm("Spring", date(2027, 1, 4), date(2027, 6, 16))


def test_a_cell_names_who_and_the_days_on_which_nobody_has_it() -> None:
    cares = [
        Care("worms", "docks", date(2026, 10, 1), date(2026, 10, 31)),
        Care("worms", "alders", date(2026, 8, 1), date(2026, 9, 15)),
        Care("barrel", "docks", date(2026, 8, 26), date(2027, 1, 3)),
    ]
    found = cell("worms", AUTUMN, cares)
    assert [care.group for care in found.cares] == ["alders", "docks"]
    assert found.gaps == ((date(2026, 9, 16), date(2026, 9, 30)), (date(2026, 11, 1), date(2027, 1, 3)))
    assert cell("barrel", AUTUMN, cares).gaps == ()
    assert cell("feeder", SPRING, cares).gaps == ((SPRING.starts, SPRING.ends),)


def test_empty_terms_go_round_so_that_nobody_has_many_or_the_same_one_again() -> None:
    stations, groups = ["worms", "compost", "feeder", "barrel"], ["alders", "birches", "docks", "elders"]
    found = fair(stations, [AUTUMN, SPRING], groups, [])
    assert len(found) == 8
    assert set(Counter(care.group for care in found).values()) == {2}
    assert len({(care.station, care.group) for care in found}) == 8
    by_term = [Counter(c.group for c in found if c.starts == term.starts) for term in (AUTUMN, SPRING)]
    assert all(max(one.values()) == 1 for one in by_term)


def test_what_is_given_for_some_days_is_left_as_it_is() -> None:
    given = [Care("worms", "docks", date(2026, 9, 1), date(2026, 9, 5))]
    found = fair(["worms", "barrel"], [AUTUMN], ["docks", "alders"], given)
    assert [(care.station, care.group) for care in found] == [("barrel", "alders")]
    assert fair(["worms"], [AUTUMN], [], []) == []


def test_a_break_without_a_home_is_seen() -> None:
    winter = (date(2026, 12, 19), date(2027, 1, 3))
    assert homeless(*winter, [])
    assert homeless(*winter, [(date(2026, 11, 1), date(2026, 12, 18))])
    assert not homeless(*winter, [(date(2026, 12, 1), date(2027, 2, 1))])
