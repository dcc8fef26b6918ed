from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.place.readings import Reading
from almanaque.core.place.weather_station import MOST_DAYS, examine, parse
from tests.places import D
from tests.refuses import refuses

TODAY = D("2027-04-14")
FINE = {"day": "2027-04-13", "tmin_c": 3.0, "tmax_c": 14.0, "rain_mm": 0.4, "wind_ms": 2.1}


def only(**changed: Any) -> tuple[Reading | None, list[tuple[str, str]]]:
    found = examine([{**FINE, **changed}], before=[], today=TODAY)
    return (found.readings[0] if found.readings else None), [(d.what, d.why) for d in found.doubts]


def test_a_reading_in_order_is_kept_as_it_is() -> None:
    assert only() == (Reading(D("2027-04-13"), 3.0, 14.0, 0.4, 2.1), [])


@pytest.mark.parametrize(
    ("changed", "what", "why"),
    [
        ({"tmax_c": 85.0}, "tmax_c", "cannot be"),
        ({"tmin_c": -127.0}, "tmin_c", "cannot be"),
        ({"rain_mm": -1.0}, "rain_mm", "cannot be"),
        ({"rain_mm": 6553.5}, "rain_mm", "cannot be"),
        ({"rain_mm": 351}, "rain_mm", "cannot be"),
        ({"wind_ms": "--"}, "wind_ms", "is no wind"),
        ({"tmin_c": float("nan")}, "tmin_c", "is no least"),
        ({"tmax_c": True}, "tmax_c", "is no greatest"),
        ({"rain_mm": [1]}, "rain_mm", "is no rain"),
    ],
)
def test_a_value_that_cannot_be_is_marked_and_left_out_and_the_others_stay(
    changed: dict[str, Any], what: str, why: str
) -> None:
    reading, doubts = only(**changed)
    assert len(doubts) == 1
    assert doubts[0][0] == what
    assert why in doubts[0][1]
    assert reading is not None
    assert getattr(reading, what) is None
    assert sum(getattr(reading, f) is None for f in ("tmin_c", "tmax_c", "rain_mm", "wind_ms")) == 1


def test_a_missing_value_is_a_gap_and_no_doubt() -> None:
    reading, doubts = only(rain_mm=None)
    assert doubts == []
    assert reading is not None
    assert reading.rain_mm is None


@pytest.mark.parametrize(
    ("day", "why"),
    [
        ("2028-05-18", "still to come"),
        ("2027-04-15", "still to come"),
        ("yesterday", "is no day"),
        (None, "is no day"),
        (20270413, "is no day"),
        ("0001-01-01", "is no day"),
    ],
)
def test_a_day_to_come_or_none_at_all_is_left_out_whole(day: Any, why: str) -> None:
    reading, doubts = only(day=day)
    assert reading is None
    assert why in doubts[0][1]


def test_a_least_above_the_greatest_loses_both() -> None:
    reading, doubts = only(tmin_c=15.0)
    assert reading is not None
    assert (reading.tmin_c, reading.tmax_c) == (None, None)
    assert [what for what, _ in doubts] == ["tmin_c", "tmax_c"]


def test_a_jump_from_the_day_before_is_doubtful_also_from_what_is_on_file() -> None:
    before = [Reading(D("2027-04-12"), 2.0, 12.0, 0.0)]
    found = examine([{**FINE, "tmax_c": 35.0}], before=before, today=TODAY)
    assert found.readings[0].tmax_c is None
    assert "jumps by 23 °C" in found.doubts[0].why
    assert examine([{**FINE, "tmax_c": 34.0}], before=before, today=TODAY).doubts == ()
    later = [Reading(D("2027-04-10"), 2.0, 12.0, 0.0)]  # nobody read the day between
    assert examine([{**FINE, "tmax_c": 35.0}], before=later, today=TODAY).doubts == ()


def test_a_sensor_that_hangs_is_found_on_the_fourth_day() -> None:
    days = [{**FINE, "day": f"2027-04-{n}"} for n in (10, 11, 12, 13)]
    found = examine(days, before=[], today=TODAY)
    assert [r.tmin_c for r in found.readings] == [3.0, 3.0, 3.0, None]
    assert {d.why for d in found.doubts} == {"has not moved for 4 days"}


@pytest.mark.parametrize("answer", [None, [], "days", {"days": 3}, {"days": [1]}, {"days": [{}] * (MOST_DAYS + 1)}, {}])
def test_what_is_no_answer_is_refused(answer: Any) -> None:
    with refuses("place.station_answer"):
        parse(answer)


@given(
    st.lists(
        st.fixed_dictionaries(
            {},
            optional={
                "day": st.one_of(
                    st.dates(date(2027, 3, 1), date(2027, 5, 30)).map(date.isoformat), st.text(max_size=12), st.none()
                ),
                "tmin_c": st.one_of(st.floats(), st.none(), st.text(max_size=4)),
                "tmax_c": st.one_of(st.floats(), st.integers(), st.none()),
                "rain_mm": st.one_of(st.floats(-10, 1000), st.none()),
                "wind_ms": st.one_of(st.floats(-5, 500), st.booleans()),
            },
        ),
        max_size=12,
    )
)
def test_whatever_a_station_says_only_what_can_be_is_kept(days: list[dict[str, Any]]) -> None:
    found = examine(days, before=[], today=TODAY)
    assert [r.day for r in found.readings] == sorted({r.day for r in found.readings})
    for r in found.readings:
        assert r.day <= TODAY
        assert r.tmin_c is None or -90 <= r.tmin_c <= 60
        assert r.tmin_c is None or r.tmax_c is None or r.tmin_c <= r.tmax_c
        assert r.rain_mm is None or 0 <= r.rain_mm <= 350
        assert r.wind_ms is None or 0 <= r.wind_ms <= 120
    assert timedelta(0) <= TODAY - min((r.day for r in found.readings), default=TODAY)


def test_a_day_that_is_none_is_doubted_today_with_what_was_said() -> None:
    found = examine([{**FINE, "day": "x" * 60}, {**FINE, "day": "2027-04-20"}], before=[], today=TODAY)
    assert [(doubt.day, doubt.what, doubt.value, doubt.why) for doubt in found.doubts] == [
        (TODAY, "day", "x" * 40, "is no day"),
        (D("2027-04-20"), "day", "2027-04-20", "is still to come"),
    ]
