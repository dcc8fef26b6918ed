from dataclasses import replace
from datetime import date

import pytest

from almanaque.core.errors import BadInput
from almanaque.core.journal import sightings
from almanaque.core.journal.sightings import Outcome, Remedy, Sighting, check, latest, say, tally
from tests.places import D

DAY = D("2027-04-14")
APHIDS = Sighting(
    "a", "pest", DAY, what="aphids", part="leaf", severity=2, amount=6, of_amount=20, come_back_on=D("2027-04-21")
)


@pytest.mark.parametrize(
    ("seen", "field"),
    [
        (Sighting("a", "stage", DAY, what="wilting"), "what"),
        (Sighting("a", "pest", DAY, what="  "), "what"),
        (Sighting("a", "visitors", DAY, amount=3), "what"),
        (Sighting("a", "visitors", DAY, what="bees"), "amount"),
        (Sighting("a", "count", DAY), "amount"),
        (Sighting("a", "count", DAY, amount=2.5), "amount"),
        (Sighting("a", "height", DAY, amount=0), "amount"),
        (Sighting("a", "height", DAY, amount=30_000), "amount"),
        (Sighting("a", "flowers", DAY), "amount"),
        (replace(APHIDS, amount=21), "of_amount"),
        (replace(APHIDS, amount=None), "of_amount"),
        (replace(APHIDS, severity=4), "severity"),
        (replace(APHIDS, part="knee"), "part"),
        (replace(APHIDS, note="x" * 1001), "note"),
    ],
)
def test_what_cannot_be_seen_is_refused_at_its_field(seen: Sighting, field: str) -> None:
    with pytest.raises(BadInput) as refused:
        check(seen)
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("seen", "words"),
    [
        (APHIDS, "aphids on the leaf 6 of 20, some"),
        (Sighting("a", "height", DAY, amount=304.8), "12 in tall"),
        (Sighting("a", "flowers", DAY, amount=3, second=0), "3 male and 0 female flowers open"),
        (Sighting("a", "flowers", DAY, amount=12), "12 flowers open"),
        (Sighting("a", "count", DAY, amount=1), "1 plant stands"),
        (Sighting("a", "visitors", DAY, what="bees", amount=0, note="too windy"), "0 bees. too windy"),
        (Sighting("a", "pest", DAY, what="aphids", closed_on=DAY), "aphids gone"),
        (Sighting("a", "damage", DAY, what="frost", part="seedlings", severity=3), "frost seedlings, bad"),
    ],
)
def test_it_is_said_in_a_few_words(seen: Sighting, words: str) -> None:
    assert check(seen) is seen
    assert say(seen, "us") == words


def test_a_trouble_is_open_until_its_last_word_is_that_it_is_gone() -> None:
    later = replace(APHIDS, id="b", day=D("2027-04-21"), follows="a", severity=1, come_back_on=D("2027-04-28"))
    gone = replace(later, id="c", day=D("2027-04-28"), severity=None, come_back_on=None, closed_on=D("2027-04-28"))
    other = replace(APHIDS, id="x", what="rust")
    assert [s.id for s in latest([later, APHIDS, other])] == ["b", "x"]
    assert [s.id for s in latest([APHIDS, later, gone, other])] == ["x"]


def test_remedies_are_summed_over_seasons_by_what_they_were_for() -> None:
    def remedy(what: str, outcome: Outcome | None, on: date = DAY) -> Remedy:
        return Remedy(what + str(on), what, "aphids", on, on, outcome)

    rows = tally(
        [
            remedy("Soap spray", "helped"),
            remedy("soap  spray", "did not", D("2026-05-01")),
            remedy("Soap Spray", "cannot say", D("2025-05-01")),
            remedy("soap spray", None, D("2024-05-01")),
            remedy("Net", None),
        ]
    )
    assert [(r.what, r.n, r.words) for r in rows] == [
        ("Soap spray", 4, "helped 1 of 2 times (1 unclear, 1 not asked yet)"),
        ("Net", 1, "nobody could tell yet (1 not asked yet)"),
    ]


def test_every_stage_that_moves_dates_is_one_that_can_be_seen() -> None:
    assert set(sightings.EVENT_OF) <= set(sightings.STAGES)
