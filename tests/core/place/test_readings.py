from datetime import date, timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.place.readings import Reading, check

D = date.fromisoformat
TODAY = D("2027-04-14")


def reading(
    day: str, low: float | None = 1.0, high: float | None = 9.0, rain: float | None = 0.0, where: str = "line 2"
) -> Reading:
    return Reading(D(day), low, high, rain, where=where)


def test_what_cannot_be_is_listed_with_its_line_and_left_out() -> None:
    checked = check(
        [
            reading("2027-01-01"),
            reading("2027-01-02", 12, 3, where="line 3"),
            reading("2027-01-03", -95, where="line 4"),
            reading("2027-01-04", 1, 61, where="line 5"),
            reading("2027-01-05", rain=-1, where="line 6"),
            reading("2027-04-15", where="line 7"),
            reading("2027-01-06", None, None, None, where="line 8"),
            reading("2027-01-07"),
        ],
        today=TODAY,
    )
    assert [r.day.day for r in checked.readings] == [1, 7]
    assert [(p.where, p.message.split(",")[0][:34]) for p in checked.problems] == [
        ("line 3", "the least temperature (12 °C) is a"),
        ("line 4", "a least temperature of -95 °C cann"),
        ("line 5", "a greatest temperature of 61 °C ca"),
        ("line 6", "-1 mm of rain in a day cannot be"),
        ("line 7", "2027-04-15 is still to come"),
        ("line 8", "there is no value in the line"),
    ]
    assert (checked.gaps, checked.missing_days, checked.swapped) == (((D("2027-01-02"), D("2027-01-06")),), 5, False)


def test_two_readings_for_one_day_count_once_when_alike_and_not_at_all_when_not() -> None:
    alike = check([reading("2027-01-01"), reading("2027-01-01", where="line 3")], today=TODAY)
    assert (len(alike.readings), alike.problems) == (1, ())
    differ = check([reading("2027-01-01"), reading("2027-01-01", 2, where="line 3")], today=TODAY)
    assert differ.readings == ()
    assert "differs from that of line 2" in differ.problems[0].message


def test_swapped_columns_are_told_from_single_faults() -> None:
    days = [reading(f"2027-01-{n:02}", 9, 1) for n in range(1, 11)]
    assert check(days, today=TODAY).swapped
    assert not check([*days[:3], *(reading(f"2027-02-{n:02}") for n in range(1, 11))], today=TODAY).swapped


@given(st.lists(st.tuples(st.integers(0, 40), st.floats(-100, 70), st.floats(-100, 70)), max_size=40))
def test_every_line_is_kept_or_explained_and_nothing_is_invented(lines: list[tuple[int, float, float]]) -> None:
    given_readings = [
        Reading(D("2027-01-01") + timedelta(n), low, high, None, where=f"line {i}")
        for i, (n, low, high) in enumerate(lines)
    ]
    checked = check(given_readings, today=TODAY)
    kept = [(r.day, r.tmin_c, r.tmax_c) for r in checked.readings]
    assert len({day for day, *_ in kept}) == len(kept)
    assert set(kept) <= {(r.day, r.tmin_c, r.tmax_c) for r in given_readings}
    span = (kept[-1][0] - kept[0][0]).days + 1 if kept else 0
    assert len(kept) + checked.missing_days == span


def test_a_still_day_is_a_reading_and_half_the_days_the_wrong_way_round_are_a_swap() -> None:
    assert check([Reading(D("2027-04-01"), 3.0, 12.0, None, wind_ms=0.0, where="line 2")], today=TODAY).problems == ()
    two = [
        Reading(D("2027-04-01"), 12.0, 3.0, None, where="line 2"),
        Reading(D("2027-04-02"), 3.0, 12.0, None, where="line 3"),
    ]
    assert check(two, today=TODAY).swapped
    lone = [
        *two,
        Reading(D("2027-04-03"), None, 12.0, None, where="line 4"),
        Reading(D("2027-04-04"), 4.0, 12.0, None, where="line 5"),
    ]
    assert not check(lone, today=TODAY).swapped
