from datetime import UTC, datetime, timedelta

import pytest

from almanaque.host.errors import HostError
from almanaque.host.keeping import Keeping, name_of, read, to_drop

NOW = datetime(2027, 4, 14, 3, tzinfo=UTC)


def names(*days_ago: float) -> list[str]:
    return [name_of(NOW - timedelta(days=days)) for days in days_ago]


def test_what_to_keep_is_read_as_days_weeks_and_months() -> None:
    assert read("7d,4w,12m") == Keeping(7, 4, 12)
    assert read(" 3d ") == Keeping(3, 0, 0)
    for wrong in ("", "7", "d", "0d", "7d,,4w", "7y", "-1d"):
        with pytest.raises(HostError, match="Write it like 7d,4w,12m"):
            read(wrong)


def test_the_last_of_each_day_week_and_month_is_kept() -> None:
    # Wednesday 14 April: two on this day, one each on the two days before, then one a week ago and two of last month.
    here = names(0, 0.1, 1, 2, 9, 20, 25)
    assert to_drop(here, Keeping(2, 0, 0)) == names(25, 20, 9, 2, 0.1)
    assert to_drop(here, Keeping(0, 2, 0)) == names(25, 20, 2, 1, 0.1)
    assert to_drop(here, Keeping(0, 0, 2)) == names(25, 9, 2, 1, 0.1)


def test_days_without_a_backup_do_not_count_and_the_newest_always_stays() -> None:
    seldom = names(100, 200, 300)
    assert to_drop(seldom, Keeping(2, 0, 0)) == names(300)
    assert to_drop(names(400), Keeping(0, 1, 0)) == []


def test_files_of_other_names_are_left_alone() -> None:
    others = ["garden.backup", "almanaque-20270101.backup", "almanaque-20260101-000000.backup.part", "notes.txt"]
    assert to_drop([*others, *names(0, 1)], Keeping(1, 0, 0)) == names(1)


def test_a_year_of_nights_keeps_as_many_as_were_asked_for() -> None:
    nights = names(*range(400))
    left = set(nights) - set(to_drop(nights, Keeping(7, 4, 12)))
    assert set(names(*range(7))) <= left
    assert len(left) <= 7 + 4 + 12
    months = {name[10:16] for name in left}
    assert len(months) == 12
