import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.place import site_rating
from almanaque.core.place.site_rating import Criterion, Score, ranking, turnings
from tests.refuses import refuses

SUN, WATER, DOOR = (
    Criterion("sun", "Hours of sun", 5),
    Criterion("water", "Water", 4),
    Criterion("door", "Near the door", 3),
)
CRITERIA = [SUN, WATER, DOOR]


def scores(table: dict[str, tuple[float, ...]], rater: str = "r") -> list[Score]:
    return [
        Score(place, c.id, rater, value, "counted")
        for place, values in table.items()
        for c, value in zip(CRITERIA, values, strict=False)
    ]


def test_the_weighted_mean_ranks_and_raters_are_averaged() -> None:
    given_scores = scores({"lawn": (4, 5, 5), "gym": (5, 1, 2)}) + scores({"lawn": (2, 5, 5)}, "s")
    first, second = ranking(["gym", "lawn"], CRITERIA, given_scores)
    assert (first.place, first.mean) == ("lawn", pytest.approx((5 * 3 + 4 * 5 + 3 * 5) / 12))
    assert (second.place, second.mean) == ("gym", pytest.approx((25 + 4 + 6) / 12))


def test_what_nobody_scored_is_left_out_and_said() -> None:
    (standing, empty) = ranking(["roof", "none"], CRITERIA, scores({"roof": (4,)}))
    assert (standing.mean, standing.scored, standing.of) == (4, 1, 3)
    assert (empty.mean, empty.scored) == (None, 0)


def test_it_says_at_which_weight_another_place_takes_the_lead() -> None:
    table = scores({"lawn": (4, 5, 4), "gym": (5, 4, 4)})
    assert ranking(["lawn", "gym"], CRITERIA, table)[0].place == "gym"
    (water, sun) = sorted(turnings(["lawn", "gym"], CRITERIA, table), key=lambda t: t.criterion != "water")
    assert (water.criterion, water.weight, water.now, water.then) == ("water", 5, "gym", "lawn")
    assert (sun.criterion, sun.weight, sun.above, water.above) == ("sun", 4, False, True)


@given(st.lists(st.tuples(*[st.integers(0, 5)] * 3), min_size=2, max_size=5))
def test_just_beyond_a_turning_the_named_place_leads(values: list[tuple[int, int, int]]) -> None:
    places = [f"p{n}" for n in range(len(values))]
    given_scores = scores(dict(zip(places, values, strict=True)))
    for turning in turnings(places, CRITERIA, given_scores):
        beyond = turning.weight + (0.001 if turning.above else -0.001)
        if beyond <= 0:
            continue
        changed = [Criterion(c.id, c.name, beyond if c.id == turning.criterion else c.weight) for c in CRITERIA]
        means = {s.place: s.mean for s in ranking(places, changed, given_scores)}
        assert means[turning.then] >= means[turning.now] - 1e-9


@pytest.mark.parametrize(
    ("score", "evidence", "says"),
    [(6, "x", "place.score_out_of_range"), (-1, "x", "place.score_out_of_range"), (3, " ", "place.evidence_missing")],
)
def test_a_score_wants_evidence_and_lies_from_0_to_5(score: float, evidence: str, says: str) -> None:
    with refuses(says):
        site_rating.check_score(score, evidence)
