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


@pytest.mark.parametrize(
    ("header", "asked", "kind"),
    [
        ("date,bed,crop,weight", "plantings", "pickings"),
        ("date,bed,crop", "plantings", "plantings"),
        ("date,bed,crop,amount", "pickings", "pickings"),
        ("harvest date,bed,crop,weight", "plantings", "pickings"),
        ("bed,crop,planting date", "pickings", "plantings"),
        ("bed,crop,planting date", "plantings", "plantings"),
        ("a,b,c", "pickings", "pickings"),
        ("a,b,c", "plantings", "plantings"),
    ],
)
def test_a_file_is_what_was_asked_for_unless_its_columns_say_otherwise(
    header: str, asked: history_csv.What, kind: history_csv.What
) -> None:
    assert history_csv.kind_of(f"{header}\n1,2,3,4\n".encode(), "x.csv", asked) == kind


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


@pytest.mark.parametrize(
    ("what", "header", "meaning"),
    [
        ("pickings", "Harvest date", "day"),
        ("pickings", "Garden bed", "bed"),
        ("pickings", "Bed #", "bed"),
        ("pickings", "Veggie", "crop"),
        ("pickings", "Item", "crop"),
        ("pickings", "Pounds", "amount"),
        ("pickings", "Weight in pounds", "amount"),
        ("pickings", "Planting date", ""),
        ("pickings", "Teacher", ""),
        ("plantings", "Planting date", "started"),
        ("plantings", "Date seeded", "started"),
        ("plantings", "Date removed", "cleared"),
        ("plantings", "How planted", "method"),
        ("plantings", "Plant", "crop"),
    ],
)
def test_columns_have_the_names_that_schools_give_them(what: history_csv.What, header: str, meaning: str) -> None:
    assert history_csv.split(f"{header},x\n1,2\n".encode(), "x.csv", what).meanings == (meaning, "")


@pytest.mark.parametrize(
    ("header", "unit"),
    [
        ("Weight (lbs)", "lbs"),
        ("Weight in pounds", "pounds"),
        ("Total weight oz", "oz"),
        ("Kg", "kg"),
        ("Weight", "weight"),
        ("Number picked", "number"),
        ("Quantity", None),
    ],
)
def test_a_bare_amount_has_the_unit_that_its_column_names(header: str, unit: str | None) -> None:
    rows = history_csv.split(f"date,{header}\n2026-06-01,3.5\n2026-06-02,3 oz\n".encode(), "x.csv", "pickings").read()
    assert [row.cells.get("unit") for row in rows] == [unit, None]
    apart = history_csv.split(f"{header},unit\n3.5,head\n".encode(), "x.csv", "pickings").read()
    assert apart[0].cells["unit"] == "head"
