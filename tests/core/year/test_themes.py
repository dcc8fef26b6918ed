from dataclasses import replace

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.year.themes import IDEAS, ThemePart, findings
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()


def part(crop: str, first: str, last: str, years: int = 30, of: int = 37) -> ThemePart:
    dates = replace(
        forecast(CROPS[crop], CROPS[crop].methods[0], D("2027-03-01")), first_pick=D(first), last_pick=D(last)
    )
    return ThemePart(CROPS[crop].name.en, CROPS[crop], dates, years, of)


def test_a_part_that_is_early_late_or_unsure_is_named_and_one_that_is_there_is_not() -> None:
    day = D("2027-06-11")
    parts = [
        part("lettuce", "2027-06-01", "2027-06-20", 35),
        part("carrot", "2027-06-20", "2027-08-01"),
        part("spinach", "2027-05-01", "2027-06-01"),
        part("radish", "2027-06-01", "2027-06-20", 20),
    ]
    said = {f.subject: f.message for f in findings(parts, day)}
    assert set(said) == {"Carrot", "Spinach", "Radish"}
    assert "not ready yet" in said["Carrot"]
    assert "over by then" in said["Spinach"]
    assert "only in 20 of 37 years" in said["Radish"]


def test_what_keeps_may_have_been_picked_before() -> None:
    assert part("onion", "2027-04-01", "2027-05-01").ready_on(D("2027-06-11"))
    assert not part("lettuce", "2027-04-01", "2027-05-01").ready_on(D("2027-06-11"))
    assert part("carrot", "2027-04-01", "2027-05-01").ready_on(D("2027-06-11"))  # cool and damp, without curing
    assert not part("carrot", "2027-06-12", "2027-07-01").ready_on(D("2027-06-11"))
    assert not part("onion", "2027-04-01", "2027-05-01").ready_on(D("2028-06-11"))


def test_what_still_stands_is_there() -> None:
    kale = part("kale", "2026-09-10", "2026-11-01")
    kale = replace(kale, dates=replace(kale.dates, stands_until=None))
    assert not kale.ready_on(D("2027-02-01"))
    standing = replace(kale, dates=replace(kale.dates, stands_until=D("2027-03-01")))
    assert standing.ready_on(D("2027-02-01"))


def test_the_themes_to_begin_from_name_crops_of_the_catalogue() -> None:
    assert all(key in CROPS for keys in IDEAS.values() for key in keys)
    assert {"popcorn", "pole-bean", "winter-squash"} <= set(IDEAS["Maize, beans and squash"])
