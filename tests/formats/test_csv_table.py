import csv
import io
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.formats.csv_table import defused, write


@given(
    st.lists(
        st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\r\0")), min_size=2, max_size=2), max_size=8
    )
)
def test_whatever_people_write_reads_back(rows: list[list[str]]) -> None:
    text = write(["a", "b"], rows).removeprefix("\ufeff")
    back = list(csv.reader(io.StringIO(text, newline="")))
    assert back == [["a", "b"], *[[defused(cell) for cell in row] for row in rows]]


@pytest.mark.parametrize(
    "cell",
    [
        "=1+1",
        "+1",
        "-1",
        "@x",
        "\tx",
        "\nx",
        " =1+1",
        "\u00a0 +1",
        "\ufeff=1",
        " \u200b \u2060@x",
        "＝1+1",
        "　－1",
        "＠x",
        "＋1",
    ],
)
def test_words_that_would_run_as_a_formula_are_defused(cell: str) -> None:
    """OWASP, CSV Injection; white space and full-width signs: seen in spreadsheets, no source."""
    assert defused(cell) == f"'{cell}"
    assert defused(f"Bed 1 {cell}") == f"Bed 1 {cell}"
    assert write(["a"], [[cell]]).split("\r\n")[1].strip('"').startswith("'")


def test_numbers_stay_numbers() -> None:
    assert write(["a", "b"], [[Decimal("-1.5"), None]]) == "\ufeffa,b\r\n-1.5,\r\n"
