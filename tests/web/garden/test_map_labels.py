"""Names on a map, near their thing, on the map and clear of one another."""

from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from almanaque.web.garden.map_labels import LabelPlace, NamedThing, place

WIDTH, HEIGHT = 800.0, 500.0


def box(thing: NamedThing, at: LabelPlace) -> tuple[float, float, float, float]:
    left = {"is-start": at.x, "is-middle": at.x - thing.width / 2, "is-end": at.x - thing.width}[at.anchor]
    return left, at.y - 0.8 * thing.height, left + thing.width, at.y + 0.2 * thing.height


def overlap(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    return min(a[2], b[2]) - max(a[0], b[0]) > 0.01 and min(a[3], b[3]) - max(a[1], b[1]) > 0.01


def bed(left: float, top: float, name: float = 90) -> NamedThing:
    return NamedThing((left, top, left + 80, top + 40), name, 24, inside=False)


def test_a_bed_alone_is_named_above_its_left_corner() -> None:
    assert place([bed(100, 100)], WIDTH, HEIGHT) == [LabelPlace(100, 95, "is-start")]


def test_a_name_stays_on_the_map_at_every_edge() -> None:
    for left, top in ((0, 0), (720, 0), (0, 460), (720, 460)):
        thing = bed(left, top, name=150)
        found = box(thing, place([thing], WIDTH, HEIGHT)[0])
        assert found[0] >= 0
        assert found[1] >= 0
        assert found[2] <= WIDTH
        assert found[3] <= HEIGHT


def test_a_building_is_named_within_but_not_across_the_bed_on_it() -> None:
    school = NamedThing((50, 20, 450, 120), 140, 20, inside=True)
    sill = bed(210, 60)
    at = place([sill, school], WIDTH, HEIGHT)
    inside = box(school, at[1])
    assert inside[0] >= 50
    assert inside[3] <= 120
    assert not overlap(inside, sill.body)


@given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=2, max_size=10, unique=True))
def test_names_of_beds_with_paths_between_never_run_over_one_another(cells: list[tuple[int, int]]) -> None:
    things = [bed(40 + 190 * column, 60 + 110 * row, name=150) for column, row in cells]
    boxes = [box(thing, at) for thing, at in zip(things, place(things, WIDTH, HEIGHT), strict=True)]
    assert not any(overlap(a, b) for a, b in combinations(boxes, 2))
