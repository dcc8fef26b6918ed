from dataclasses import replace
from datetime import date

import pytest

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.journal.sightings import Remedy, Sighting
from almanaque.core.journal.tour import Question, Toured, found_plant, questions
from almanaque.core.year.steps import as_they_stand, steps
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()


def toured(key: str, method: str, start: str, *, today: str = "2027-05-01", **events: str) -> Toured:
    crop, day = CROPS[key], D(start)
    dates = forecast(crop, method, day)  # type: ignore[arg-type]
    happened = {kind.replace("_", " "): D(on) for kind, on in events.items()}
    standing = as_they_stand(
        steps(crop, method, dates, plants=9, squares=1, units="us"),
        events=happened,
        by_hand={},
        today=D(today),
        method=method,
    )  # type: ignore[arg-type]
    return Toured("p", crop, method, "1 square", dates, happened, [(d, f"job {d.step.step}") for d in standing])  # type: ignore[arg-type]


def ask(planting: Toured, day: str) -> list[Question]:
    return list(questions(planting, D(day), "us"))


def titles(planting: Toured, day: str) -> list[str]:
    return [q.title for q in ask(planting, day)]


def test_seed_is_looked_for_when_it_is_due_until_somebody_saw_it() -> None:
    radish = toured("radish", "direct", "2027-04-01", started="2027-04-01")
    due = radish.dates.emerge_from
    assert due is not None
    assert "Radish up?" not in titles(radish, "2027-04-02")
    first = next(q for q in ask(radish, due.isoformat()) if q.code == "up")
    assert [a.key for a in first.answers] == ["not yet", "some", "all"]
    assert "sown 1 Apr, due since" in first.detail
    late = next(q for q in ask(radish, "2027-04-28") if q.code == "up")
    assert "should have been up by" in late.detail
    assert "up" not in {
        q.code for q in ask(replace(radish, events={**radish.events, "emerged": D("2027-04-08")}), "2027-04-09")
    }
    assert "up" not in {
        q.code for q in ask(toured("radish", "direct", "2027-04-01"), "2027-04-28")
    }  # nobody sowed it yet


def test_plants_set_out_are_not_asked_whether_they_are_up() -> None:
    tomato = toured("tomato", "indoors", "2027-03-20", started="2027-03-20", set_out="2027-05-10")
    assert "up" not in {q.code for q in ask(tomato, "2027-05-12")}


def test_thinning_is_asked_only_of_what_is_up() -> None:
    carrot = toured("carrot", "direct", "2027-04-01", started="2027-04-01")
    day = next(d.step for d, _ in carrot.steps if d.step.step == "thin").to_day.isoformat()
    assert "step" not in {q.code for q in ask(carrot, day)}
    up = replace(carrot, events={**carrot.events, "emerged": D("2027-04-18")})
    asked = next(q for q in ask(up, day) if q.code == "step")
    assert asked.subject == "job thin"
    assert asked.title.startswith("Thin carrot to")
    assert [a.key for a in asked.answers] == ["not yet", "now", "done"]


def test_what_was_found_is_asked_about_on_its_day_with_what_was_done_against_it() -> None:
    holes = Sighting(
        "s",
        "pest",
        D("2027-04-06"),
        planting="p",
        what="flea beetles",
        part="leaf",
        amount=6,
        of_amount=20,
        come_back_on=D("2027-04-13"),
    )
    net = Remedy("r", "Net", "flea beetles", D("2027-04-06"), D("2027-04-13"))
    radish = replace(
        toured("radish", "direct", "2027-03-28", started="2027-03-28", emerged="2027-04-05"),
        seen=[holes],
        remedies=[net],
    )
    assert {q.code for q in ask(radish, "2027-04-12")} & {"trouble", "remedy"} == set()
    trouble, remedy = ask(radish, "2027-04-13")[:2]
    assert (trouble.code, trouble.subject, trouble.detail) == (
        "trouble",
        "s",
        "flea beetles on the leaf 6 of 20. Net on 6 Apr",
    )
    assert (remedy.code, remedy.title) == ("remedy", "Did “Net” help against flea beetles?")
    answered = replace(radish, remedies=[replace(net, outcome="helped")])
    assert "remedy" not in {q.code for q in ask(answered, "2027-04-13")}


def test_ripeness_is_asked_for_from_shortly_before_it_is_due_until_it_is_picked() -> None:
    radish = toured("radish", "direct", "2027-04-01", started="2027-04-01", emerged="2027-04-08")
    early = radish.dates.first_pick_early
    assert "ready" not in {q.code for q in ask(radish, date.fromordinal(early.toordinal() - 5).isoformat())}
    asked = next(q for q in ask(radish, date.fromordinal(early.toordinal() - 4).isoformat()) if q.code == "ready")
    assert CROPS["radish"].ready_sign in asked.detail
    for kind in ("ready", "first picking", "bolted"):
        known = replace(radish, events={**radish.events, kind: early})
        assert "ready" not in {q.code for q in ask(known, early.isoformat())}


def test_cool_leaf_crops_are_asked_about_bolting_in_heat_and_not_every_day() -> None:
    lettuce = toured("lettuce", "direct", "2027-04-01", started="2027-04-01", emerged="2027-04-10")
    assert "bolted" not in {q.code for q in ask(lettuce, "2027-04-20")}
    hot = replace(lettuce, hot=True)
    assert "bolted" in {q.code for q in ask(hot, "2027-04-20")}
    seen = Sighting("s", "stage", D("2027-04-18"), planting="p", what="up")
    assert "bolted" not in {q.code for q in ask(replace(hot, seen=[seen]), "2027-04-20")}
    assert "bolted" not in {
        q.code
        for q in ask(replace(toured("tomato", "starts", "2027-05-10", set_out="2027-05-10"), hot=True), "2027-06-10")
    }


def test_male_and_female_flowers_are_counted_once_a_week() -> None:
    squash = replace(
        toured("zucchini", "direct", "2027-05-10", started="2027-05-10", emerged="2027-05-20"), in_flower=True
    )
    asked = next(q for q in ask(squash, "2027-06-25") if q.code == "flowers")
    assert asked.ask == "flowers"
    counted = Sighting("s", "flowers", D("2027-06-22"), planting="p", amount=3, second=1)
    assert "flowers" not in {q.code for q in ask(replace(squash, seen=[counted]), "2027-06-25")}
    assert "flowers" in {q.code for q in ask(replace(squash, seen=[counted]), "2027-06-30")}


def test_faded_flowers_are_decided_on_once_per_planting() -> None:
    flower = replace(
        toured("calendula", "direct", "2027-04-20", started="2027-04-20", emerged="2027-05-01"), in_flower=True
    )
    assert [a.key for q in ask(flower, "2027-06-20") if q.code == "ending" for a in q.answers] == [
        "deadhead",
        "seed",
        "later",
    ]
    assert "ending" not in {q.code for q in ask(replace(flower, ending="seed"), "2027-06-20")}


def test_heights_are_asked_every_other_week_beside_what_to_expect() -> None:
    bean = toured("sunflower", "direct", "2027-05-10", started="2027-05-10", emerged="2027-05-20")
    asked = next(q for q in ask(bean, "2027-06-20") if q.code == "height")
    assert "to expect" in asked.detail
    measured = Sighting("s", "height", D("2027-06-12"), planting="p", amount=400)
    assert "height" not in {q.code for q in ask(replace(bean, seen=[measured]), "2027-06-20")}
    assert "height" not in {
        q.code
        for q in ask(toured("radish", "direct", "2027-04-01", started="2027-04-01", emerged="2027-04-08"), "2027-04-25")
    }


@pytest.mark.parametrize("key", sorted(CROPS.crops))
def test_no_crop_asks_anything_impossible_on_any_day(key: str) -> None:
    crop = CROPS[key]
    method = crop.methods[0]
    planting = toured(key, method, "2027-04-10", started="2027-04-10")
    for week in range(0, 60, 4):
        day = date.fromordinal(D("2027-04-10").toordinal() + 7 * week)
        for q in questions(planting, day, "metric"):
            assert q.title
            assert q.answers or q.ask in ("length", "flowers")


def test_a_step_set_by_hand_is_asked_as_one_that_is_planned() -> None:
    planned = toured("carrot", "direct", "2027-04-13", emerged="2027-05-01")
    thin = next(d for d, _ in planned.steps if d.step.step == "thin")
    day = thin.step.from_day
    by_hand = replace(planned, steps=[(replace(d, state="set by hand"), job) for d, job in planned.steps])
    done = replace(planned, steps=[(replace(d, state="done"), job) for d, job in planned.steps])
    asked = [[q for q in questions(p, day, "us") if q.code == "step"] for p in (planned, by_hand, done)]
    assert asked[0]
    assert asked[0] == asked[1]
    assert asked[2] == []


def test_a_plant_that_nobody_sowed_is_asked_after_until_it_has_a_name() -> None:
    unknown = found_plant("f", "", "Bed 1, A2", D("2027-04-20"))
    known = found_plant("f", "Borage", "Bed 1, A2", D("2027-04-20"))
    assert (unknown.code, unknown.subject, unknown.planting, unknown.ask) == ("found", "f", "", "name")
    assert unknown.title == "Unknown plant at Bed 1, A2: what is it?"
    assert unknown.detail == "Nobody sowed it; seen since 20 Apr. Nobody tastes it before it is known"
    assert (known.code, known.subject, known.planting, known.ask) == ("found", "f", "", "choice")
    assert (known.title, known.detail) == ("Borage at Bed 1, A2: keep it?", "Nobody sowed it; seen since 20 Apr")
    assert known.answers == unknown.answers != ()
