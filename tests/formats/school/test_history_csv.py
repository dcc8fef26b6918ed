"""The spreadsheet of earlier years: columns by their names or as a person says."""

import pytest

from almanaque.formats.school import history_csv
from tests.refuses import refuses


def test_columns_are_known_by_many_names_and_in_any_order() -> None:
    table = history_csv.split(
        b"Vegetable;Weight;Plot;Picked on;Remarks\nKale;3 lb;Bed 5;14.5.2026;=1+1\n", "x.csv", "pickings"
    )
    assert table.meanings == ("crop", "amount", "bed", "day", "note")
    assert table.read()[0].cells == {
        "crop": "Kale",
        "amount": "3 lb",
        "bed": "Bed 5",
        "day": "14.5.2026",
        "note": "=1+1",
    }
    assert table.missing("pickings") == []
    assert history_csv.split(b"\xef\xbb\xbfplot,sown\r\nBed 1,2025-04-01\r\n", "x.csv", "plantings").missing(
        "plantings"
    ) == ["crop"]


def test_a_person_says_what_a_column_is() -> None:
    table = history_csv.split(b"a,b,c\n1,2,3\n", "x.csv", "pickings", meanings={0: "day", 2: "crop"})
    assert table.meanings == ("day", "", "crop")
    with refuses("school.history_two_columns_for_one"):
        history_csv.split(b"a,b\n1,2\n", "x.csv", "pickings", meanings={0: "day", 1: "day"})
    with refuses("school.column_meaning_unknown"):
        history_csv.split(b"a,b\n1,2\n", "x.csv", "pickings", meanings={0: "colour"})


def test_an_apostrophe_before_a_formula_is_taken_off() -> None:
    table = history_csv.split(b"day,note\n2026-05-01,'=1+1\n2026-05-02,'tis\n", "x.csv", "pickings")
    assert [row.cells["note"] for row in table.read()] == ["=1+1", "'tis"]


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"", "files.file_empty"),
        (b"day,bed\n", "school.history_empty"),
        (b"\xff\xff,\n1", "files.not_utf8"),
        (b"a\x00b,c\n1,2", "files.not_text"),
        (b"day\n" + b"1\n" * 20_001, "files.too_many_lines"),
        (b'day,bed\n"' + b"x" * 200_000 + b'",1\n', "files.not_a_table"),
    ],
)
def test_other_files_are_refused(body: bytes, says: str) -> None:
    with refuses(says):
        history_csv.split(body, "x.csv", "pickings")
