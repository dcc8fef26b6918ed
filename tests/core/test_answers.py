"""The answers of the rules, as written down: a change of any of them is seen, read and meant."""

import difflib

import pytest

from tests import write_answers


def test_what_is_written_down_is_what_is_asked() -> None:
    assert {path.stem for path in write_answers.FOLDER.iterdir()} == set(write_answers.makers())


@pytest.mark.parametrize("name", sorted(write_answers.makers()))
def test_answers_are_as_written_down(name: str) -> None:
    kept = (write_answers.FOLDER / f"{name}.txt").read_text(encoding="utf-8").splitlines()
    now = write_answers.answer(name).splitlines()
    changed = list(difflib.unified_diff(kept, now, "written down", "now", n=0, lineterm=""))
    assert not changed, "\n".join(["Run python -m tests.write_answers, and read what changes:", *changed[:40]])
