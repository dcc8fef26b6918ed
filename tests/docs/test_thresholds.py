"""The table of thresholds: drawn from the source, each with its unit or source, and no rule's number twice."""

from collections import defaultdict

from tests import draw_thresholds


def test_the_table_is_as_the_source_has_it() -> None:
    assert draw_thresholds.PAGE.read_text(encoding="utf-8") == draw_thresholds.page()


def test_every_threshold_says_what_it_is() -> None:
    assert [f"{module}.{name}" for module, name, _, said in draw_thresholds.rows() if not said] == []


def test_no_threshold_stands_twice_under_one_name() -> None:
    where = defaultdict(set)
    for module, name, value, _ in draw_thresholds.rows():
        where[name, value].add(module)
    assert {name: modules for name, modules in where.items() if len(modules) > 1} == {}
