from datetime import timedelta

import pytest

from almanaque.core.errors import BadInput
from almanaque.core.week.stations import (
    Routine,
    StationReading,
    check_limits,
    check_reading,
    head_count,
    jobs,
    judge,
    running_low,
)
from almanaque.data import lessons, station_kinds
from tests.places import D

WARMTH = StationReading("warmth", "°C", 8, 27, "Bring it indoors", "Into the shade")
MOISTURE = StationReading("moisture", choices=("dry", "right", "wet"), bad={"wet": "Add card"})


@pytest.mark.parametrize(
    ("value", "words", "fix"),
    [
        (7.9, "below 8", "Bring it indoors"),
        (27.5, "above 27", "Into the shade"),
        (8, "", ""),
        (27, "", ""),
        (None, "", ""),
    ],
)
def test_a_number_beyond_its_limits_is_told_with_what_to_do(value: float | None, words: str, fix: str) -> None:
    found = judge("Worm box", WARMTH, value, "")
    assert bool(found) == bool(words)
    if found:
        assert words in found.message
        assert found.fixes[0].label == fix


def test_a_bad_choice_is_told_and_the_others_are_in_order() -> None:
    assert judge("Worm box", MOISTURE, None, "right") is None
    wet = judge("Worm box", MOISTURE, None, "wet")
    assert wet is not None
    assert (wet.message, wet.fixes[0].label) == ("Worm box: moisture is wet.", "Add card")


def test_a_missing_head_is_a_fault_and_a_new_one_is_not() -> None:
    heads = StationReading("head count", "count")
    lost = head_count("Hens", heads, [6, 6, 5])
    assert lost is not None
    assert lost.severity == "fault"
    assert "1 fewer than last time (5 instead of 6)" in lost.message
    assert head_count("Hens", heads, [6, 7]) is None
    assert head_count("Hens", heads, [6]) is None
    assert head_count("Feeders", StationReading("birds at once", "count"), [9, 3]) is None


@pytest.mark.parametrize(
    ("reading", "value", "choice"),
    [
        (MOISTURE, None, "soggy"),
        (WARMTH, None, ""),
        (WARMTH, float("nan"), ""),
        (WARMTH, 1e9, ""),
        (StationReading("hens", "count"), 2.5, ""),
        (StationReading("hens", "count"), -1, ""),
        (StationReading("level", "%"), 101, ""),
    ],
)
def test_what_cannot_be_read_is_refused_at_its_field(reading: StationReading, value: float | None, choice: str) -> None:
    with pytest.raises(BadInput) as refused:
        check_reading(reading, value, choice)
    assert refused.value.field == reading.name


def test_routines_rest_while_the_station_sleeps_half_a_year_on_in_the_south() -> None:
    routines = [(1, Routine("Turn it", "week", 20)), (2, Routine("Cover it", "month", 10, resting=True))]
    first, last = D("2026-11-02"), D("2027-03-29")
    north = list(jobs("Compost", routines, "", (12, 1, 2), first, last, southern=False))
    assert {step.from_day.month for n, step in north if n == 1} == {11, 3}
    assert [step.from_day.month for n, step in north if n == 2] == [12, 1, 2]
    south = list(jobs("Compost", routines, "", (12, 1, 2), first, last, southern=True))
    assert {n for n, _ in south} == {1}


def test_a_week_is_one_job_with_the_same_number_whenever_it_is_asked_for() -> None:
    routine = [(1, Routine("Water, feed, count", "day", 10))]
    early = {
        step.ordinal: step
        for _, step in jobs("Hens", routine, "Wash hands", (), D("2027-04-12"), D("2027-05-09"), southern=False)
    }
    late = {
        step.ordinal: step
        for _, step in jobs("Hens", routine, "Wash hands", (), D("2027-04-21"), D("2027-05-16"), southern=False)
    }
    assert len(early) == 4
    assert set(early) & set(late) == {step for step in early if early[step].to_day >= D("2027-04-21")}
    assert all((step.to_day - step.from_day) <= timedelta(days=6) for step in early.values())
    assert early[min(early)].title == "Hens: water, feed, count, every day"
    assert early[min(early)].caution == "Wash hands"


def test_a_supply_at_its_mark_names_who_is_told() -> None:
    low = running_low("bird seed", 2, "kg", 2, "the office")
    assert low is not None
    assert (low.message, low.fixes[0].label) == ("Bird seed: 2 kg left.", "Tell the office")
    assert running_low("bird seed", 2.1, "kg", 2, "") is None
    assert running_low("bird seed", 0, "kg", None, "") is None


def test_every_kind_that_ships_can_be_judged_and_has_its_cautions() -> None:
    kinds = station_kinds()
    assert {
        "worm box",
        "compost",
        "feeders",
        "butterfly",
        "sensory",
        "barrel",
        "animals",
        "weather corner",
        "weeding",
        "watering",
        "scouting",
        "own",
    } == set(kinds)
    for kind in kinds.values():
        for reading in kind.readings:
            assert set(reading.bad) <= set(reading.choices), (kind.key, reading.name)
            assert bool(reading.choices) != bool(reading.unit), (kind.key, reading.name)
            if reading.least is not None and reading.most is not None:
                assert reading.least < reading.most
        assert kind.routines or kind.key == "own"
        assert all(r.resting is False or kind.asleep or kind.key == "worm box" for r in kind.routines)
    for key in ("worm box", "animals", "barrel", "butterfly"):
        assert kinds[key].caution
    assert {step for lesson in lessons().values() for step in lesson.steps} & set(kinds)  # lessons are offered for them


def test_a_second_count_is_held_against_the_first() -> None:
    reading = StationReading("head count")
    found = head_count("Hens", reading, [6, 5])
    assert found is not None
    assert (found.params["missing"], found.params["before"]) == (1, 6)
    assert head_count("Hens", reading, [6]) is None
    assert head_count("Hens", reading, [5, 6]) is None


def test_a_share_of_all_is_a_share_and_a_reading_without_advice_offers_none() -> None:
    check_reading(StationReading("cover", "%"), 100, "")
    check_reading(StationReading("cover", "%"), 0, "")
    found = judge("Worm box", StationReading("warmth", "°C", 8, 27, "Bring it indoors", ""), 30, "")
    assert found is not None
    assert found.fixes == ()


def test_a_routine_that_rests_does_not_stop_those_behind_it() -> None:
    routines = [
        (1, Routine("Rest", "week", 5, resting=True)),
        (2, Routine("Feed", "week", 5)),
        (3, Routine("Clean", "month", 5)),
        (4, Routine("Look", "week", 5)),
    ]
    found = jobs("Box", routines, "", (), D("2027-04-19"), D("2027-04-25"), southern=False)
    assert [number for number, _ in found] == [2, 4]


def test_limits_are_in_order_or_there_is_only_one() -> None:
    for least, most in ((None, None), (8, None), (None, 27), (8, 8), (8, 27)):
        check_limits(StationReading("warmth", "°C", least, most), 1)
    with pytest.raises(BadInput):
        check_limits(StationReading("warmth", "°C", 27, 8), 1)
