from almanaque.core.garden.bed_planting import BedPlanting
from almanaque.core.year.bed_promises import Promised, in_the_way, last_day_to_clear
from almanaque.data import catalogue
from tests.places import D

PROMISE = Promised(D("2027-05-18"), "pumpkins")


def grown(crop: str, bed_from: str, first: str, bed_to: str) -> BedPlanting:
    days = [D(day) for day in (bed_from, bed_to, first, bed_to)]
    return BedPlanting(
        "k", catalogue()[crop], frozenset({(0, 0)}), ((1.0, 1.0),), 100.0, days[0], days[1], days[2], days[3]
    )


def test_what_stands_beyond_the_day_is_told_with_the_last_day_to_clear_it() -> None:
    found = in_the_way(grown("radish", "2027-04-07", "2027-05-12", "2027-05-30"), [PROMISE])
    assert [(f.code, f.severity) for f in found] == [("bed_promised", "care")]
    assert "promised for pumpkins from 18 May" in found[0].message
    assert "Clear it by 16 May; it is ready by then." in found[0].reason
    late = in_the_way(grown("carrot", "2027-04-07", "2027-06-12", "2027-07-30"), [PROMISE])
    assert "it is not ready by then" in late[0].reason
    assert last_day_to_clear(PROMISE) == D("2027-05-16")


def test_what_is_gone_begins_later_or_stays_for_years_is_no_matter() -> None:
    assert in_the_way(grown("radish", "2027-03-07", "2027-04-12", "2027-05-10"), [PROMISE]) == []
    assert in_the_way(grown("pumpkin", "2027-05-18", "2027-09-12", "2027-10-10"), [PROMISE]) == []
    assert in_the_way(grown("rhubarb", "2025-04-07", "2026-04-12", "2030-05-30"), [PROMISE]) == []
