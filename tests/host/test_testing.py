"""How tests are chosen and shared out, and that runs in one clone leave each other's database alone."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.host import testing
from almanaque.host.errors import HostError
from almanaque.host.postgres import Cluster
from tests.database import CLONE, Run

FILES = st.dictionaries(
    st.from_regex(r"tests/(core|store|web|browser)/test_[a-z]{1,6}\.py", fullmatch=True), st.floats(0.1, 300)
)


@given(FILES, st.integers(1, 4))
def test_every_file_is_in_one_share_and_no_share_is_longer_than_it_must_be(seconds: dict, processes: int) -> None:
    shares = testing.shared_out(list(seconds), seconds, processes=processes)
    assert sorted(file for share in shares for file in share) == sorted(seconds)
    loads = [sum(seconds[file] for file in share) for share in shares]
    if len(seconds) >= processes:
        # The longest file is given out first, so the shares differ by no more than one file.
        assert max(loads) - min(loads) <= max(seconds.values()) + 1e-6


def test_a_share_begins_with_the_rules_and_ends_with_the_browser() -> None:
    files = [f"tests/{floor}/test_x.py" for floor in ("browser", "web", "core", "store")]
    (share,) = testing.shared_out(files, {}, processes=1)
    assert [Path(file).parts[1] for file in share] == ["core", "store", "web", "browser"]


def test_a_package_is_run_on_all_its_floors() -> None:
    files, names = testing.chosen(CLONE, ["harvest"])
    assert {Path(file).parts[1] for file in files} == {"core", "store", "web"}
    assert all(Path(file).parts[2] == "harvest" for file in files)
    assert names == []
    assert testing.chosen(CLONE, ["tests/core/test_units.py"])[0] == ["tests/core/test_units.py"]
    assert testing.chosen(CLONE, ["core"])[0][0].startswith("tests/core/")
    with pytest.raises(HostError, match="no tests of orchard"):
        testing.chosen(CLONE, ["orchard"])


def test_every_file_of_the_whole_run_is_chosen() -> None:
    files, _ = testing.chosen(CLONE, [])
    assert set(files) == {str(path.relative_to(CLONE)) for path in (CLONE / "tests").rglob("test_*.py")}


def test_a_run_that_ends_leaves_the_database_to_the_others(cluster: Cluster) -> None:
    other = Run(cluster)
    other.leave()
    assert cluster.running()
