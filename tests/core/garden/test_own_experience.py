"""A school's own experience of neighbours, with its number, beside tradition and evidence."""

import pytest

from almanaque.core.garden.companions import Pair, of_crops
from almanaque.core.garden.own_experience import (
    LookedAt,
    NeighbourTrial,
    Outcome,
    experiences,
    sentence,
    with_experience,
)
from almanaque.data import catalogue

CROPS = catalogue()
FAMILIES = {crop.key: crop.family for crop in CROPS}


def trial(planting: str, outcome: Outcome | None, beside: str = "marigold", against: str = "aphids") -> NeighbourTrial:
    return NeighbourTrial(planting, "tomato", beside, against, outcome)


def looked(planting: str, *troubles: str, crop: str = "tomato") -> LookedAt:
    return LookedAt(planting, crop, frozenset(troubles))


def test_trials_are_counted_beside_the_same_crop_without_the_neighbour() -> None:
    tried = [trial("a", "helped"), trial("b", "did not", against="Aphids "), trial("c", None), trial("d", "cannot say")]
    seen = [looked("a"), looked("b", "aphids"), looked("x", "aphids"), looked("y", "rust"), looked("z", crop="pepper")]
    (found,) = experiences(tried, seen)
    assert (found.n, found.helped, found.did_not, found.unsaid) == (4, 1, 1, 2)
    assert (found.seen_with, found.with_n, found.seen_without, found.without_n) == (1, 2, 1, 2)
    assert found.few
    assert str(sentence(found)) == (
        "helped in 1 of 2 plantings; aphids on 1 of 2 looked at beside it, on 1 of 2 without (few: a hint, no proof)"
    )


def test_a_planting_of_the_same_pair_against_something_else_is_not_one_without() -> None:
    found = experiences([trial("a", "helped"), trial("b", "helped", against="rust")], [looked("a"), looked("b")])
    assert {(e.against, e.with_n, e.without_n) for e in found} == {("aphids", 1, 0), ("rust", 1, 0)}


def test_what_nobody_answered_yet_says_so() -> None:
    (found,) = experiences([trial("a", None, against="")], [])
    assert str(sentence(found)).startswith("tried in 1 planting, not answered yet")


@pytest.mark.parametrize(
    ("outcomes", "effect"),
    [(("helped", "helped", "did not"), ["good"]), (("did not", "did not"), []), (("cannot say",), [])],
)
def test_what_only_this_school_knows_becomes_a_pair_of_its_own_where_it_helped(
    outcomes: tuple[Outcome, ...], effect: list[str]
) -> None:
    own = experiences([trial(str(n), one, beside="alyssum") for n, one in enumerate(outcomes)], [])
    pairs = with_experience([], own, FAMILIES)
    assert [p.effect for p in pairs] == effect
    assert all(p.kind == "own" for p in pairs)


def test_a_pair_that_is_told_of_elsewhere_keeps_its_source_and_gains_what_was_seen_here() -> None:
    told = Pair("carrot", "family:Amaryllidaceae", "good", "evidence", "fewer flies.", "a paper")
    own = experiences([NeighbourTrial("a", "carrot", "chives", "carrot fly", "did not")], [])
    (pair,) = with_experience([told], own, FAMILIES)
    assert (pair.kind, pair.source) == ("evidence", "a paper")
    assert pair.reason.startswith("fewer flies; here: helped in 0 of 1 plantings")


def test_ones_own_experience_is_heard_wherever_evidence_is() -> None:
    own = Pair("tomato", "alyssum", "good", "own", "helped", "own_record")
    for practice, heard in (("evidence", 1), ("traditional", 1), ("off", 0)):
        assert len(of_crops(CROPS["tomato"], CROPS["alyssum"], [own], practice)) == heard  # type: ignore[arg-type]
