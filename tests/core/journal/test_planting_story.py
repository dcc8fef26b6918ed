"""A planting told to those who are away: by whom it began, what changed, what comes, and whether they are back by then."""

from datetime import date, time

import pytest

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.journal.planting_story import PickedLot, PlantingStory, ahead, began, changes, height, look_for
from almanaque.core.journal.sightings import Sighting
from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.data import catalogue

TODAY = date(2027, 5, 20)
YEAR = SchoolYear(
    "2026-27",
    date(2026, 8, 24),
    date(2027, 8, 22),
    (Span("Autumn", date(2026, 8, 24), date(2026, 12, 18)), Span("Spring", date(2027, 1, 5), date(2027, 6, 18))),
)
NEXT = SchoolYear(
    "2027-28", date(2027, 8, 23), date(2028, 8, 20), (Span("Autumn", date(2027, 8, 23), date(2027, 12, 17)),)
)
CALENDAR = Calendar((YEAR, NEXT), (Slot("g", 0, time(9), 45),))


def story(key: str = "radish", sown: date = date(2027, 5, 1), **more: object) -> PlantingStory:
    crop = catalogue()[key]
    method = "starts" if key == "tomato" else crop.methods[0]
    given: dict[str, object] = {"events": {"started": sown}, "dates": forecast(crop, method, sown), **more}
    return PlantingStory(crop, method, "in the ground", sown, **given)  # type: ignore[arg-type]


def test_who_planted_it_is_told_that_and_nobody_else() -> None:
    assert began(story()) == "Sown on 1 May 2027."
    assert began(story(planted_as="Grade 2")) == "Planted by you on 1 May 2027, when you were Grade 2."
    assert began(story(events={})) == ""


def test_what_changed_is_told_in_order_and_only_since_then() -> None:
    events = {"started": date(2027, 3, 1), "emerged": date(2027, 3, 9), "in flower": date(2027, 5, 12)}
    seen = [
        Sighting("1", "height", date(2027, 5, 3), amount=120.0, team="The Moles"),
        Sighting("2", "height", date(2027, 5, 17), amount=310.0, team="The Moles"),
        Sighting("3", "height", date(2027, 5, 18), amount=90.0, team="The Owls"),
        Sighting("4", "pest", date(2027, 5, 10), what="aphids"),
    ]
    lots = [PickedLot(date(2027, 5, 19), "2 bunch", 300.0), PickedLot(date(2027, 5, 20), "1 bunch", 150.0)]
    told = changes(story("pea", events=events, seen=seen, picked=lots), date(2027, 5, 1), TODAY, "metric")
    assert told == [
        "We found aphids on the pea on 10 May.",
        "Pea opened its first flowers on 12 May.",
        "Pea grew from 12 cm on 3 May to 31 cm on 17 May.",
        "Pea was picked 2 times: 450 g.",
    ]
    assert "The Moles" not in " ".join(told)
    unweighed = [*lots, PickedLot(TODAY, "3 heads", None)]
    assert changes(story(picked=unweighed), TODAY, TODAY, "metric") == ["Radish was picked 2 times: 1 bunch, 3 heads."]
    assert changes(story(), date(2027, 5, 2), TODAY, "metric") == []


def test_a_height_that_was_seen_stands_beside_what_was_expected() -> None:
    seen = [Sighting("1", "height", date(2027, 5, 18), amount=80.0)]
    assert height(story(seen=seen), TODAY, "metric").startswith(
        "It was 8 cm high on 18 May; by its forecast it should be about"
    )
    assert height(story(), TODAY, "us").startswith("By its forecast it should be about")
    assert height(story(sown=TODAY), TODAY, "metric") == ""
    assert height(story("apple"), TODAY, "metric") == ""


@pytest.mark.parametrize(
    ("key", "sown", "today", "expected"),
    [
        ("radish", date(2027, 5, 10), date(2027, 5, 20), "It should be ready from"),
        ("tomato", date(2027, 5, 15), date(2027, 5, 20), ", while school is closed"),
        ("pumpkin", date(2027, 5, 25), date(2027, 7, 10), ", when you are back."),
        ("radish", date(2027, 4, 1), date(2027, 5, 5), "It may be ready now."),
        ("cosmos", date(2027, 5, 10), date(2027, 5, 20), "It should flower from"),
        ("cosmos", date(2027, 3, 1), date(2027, 5, 20), "It should be in flower now."),
    ],
)
def test_what_comes_is_told_with_whether_they_are_there(key: str, sown: date, today: date, expected: str) -> None:
    assert expected in ahead(story(key, sown), today, CALENDAR)


def test_what_ripens_in_the_summer_and_stands_until_they_are_back_says_so() -> None:
    told = ahead(story("tomato", date(2027, 5, 10)), TODAY, CALENDAR)
    assert "some of it should wait until 23 Aug 2027, when school is open" in told


def test_what_is_over_planned_or_being_picked_says_that() -> None:
    picking = story("kale", date(2027, 3, 1), events={"started": date(2027, 3, 1), "first picking": date(2027, 5, 10)})
    assert ahead(picking, TODAY, CALENDAR).startswith("It is being picked, until about")
    crop = catalogue()["radish"]
    planned = PlantingStory(crop, "direct", "planned", date(2027, 7, 5), forecast(crop, "direct", date(2027, 7, 5)))
    assert ahead(planned, TODAY, CALENDAR) == "It is to be sown on 5 Jul 2027, while school is closed."
    over = PlantingStory(crop, "direct", "finished", date(2027, 3, 5), events={"started": date(2027, 3, 5)})
    assert ahead(over, TODAY, CALENDAR) == "Its time in the bed is over for this year."


def test_what_was_never_sown_and_what_has_run_to_seed_are_not_promised_as_a_harvest() -> None:
    crop = catalogue()["lettuce"]
    late = PlantingStory(crop, "direct", "planned", date(2027, 5, 1), forecast(crop, "direct", date(2027, 5, 1)))
    assert ahead(late, TODAY, CALENDAR) == "It was to be sown on 1 May 2027, and has not been yet."
    bolted = story("lettuce", date(2027, 3, 1), events={"started": date(2027, 3, 1), "bolted": date(2027, 5, 18)})
    assert ahead(bolted, TODAY, CALENDAR).startswith("It has run to seed")
    assert "seed" in look_for(bolted, TODAY)


def test_there_is_one_thing_to_look_for_by_how_far_it_is() -> None:
    assert "seed leaves" in look_for(story(sown=TODAY), TODAY)
    assert "new leaves" in look_for(story("tomato"), date(2027, 5, 25))
    assert look_for(story(sown=date(2027, 4, 20)), TODAY) == catalogue()["radish"].ready_sign
    assert "visits its flowers" in look_for(story("cosmos", date(2027, 3, 1)), TODAY)
