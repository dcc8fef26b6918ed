import json
import re
from datetime import date
from pathlib import Path

import pytest

from almanaque.calc import answer
from almanaque.cli import main
from tests.refuses import refuses

DOC = Path(__file__).parents[2] / "docs/calc.md"
SEATTLE = Path(__file__).parents[1] / "reference/data/seattle-2012-2015.csv"


@pytest.mark.parametrize(
    ("spacing", "plants", "along", "per_square", "left_over"),
    [
        ("12 in", 12, 1, 1, 0),
        ("4 in", 108, 3, 9, 0),
        ("3 in", 192, 4, 16, 0),
        ("24 in", 2, 0, 0, 4),
    ],
)
@pytest.mark.parametrize("cell", ["12 in", "30 cm"])
def test_spacing_counts_a_bed_of_four_by_three_feet(
    spacing: str, plants: int, along: int, per_square: int, left_over: int, cell: str
) -> None:
    found = answer(["spacing", "--bed", "4 ft x 3 ft", "--spacing", spacing, "--method", "squares", "--cell", cell])
    assert (found["plants"], found["along"], found["per_square"], found["left_over_squares"]) == (
        plants,
        along,
        per_square,
        left_over,
    )
    assert (found["squares"], len(found["positions_mm"])) == (12, plants)


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["spacing", "--bed", "4 ft x", "--spacing", "4 in"], "units.not_a_size"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "-3 ft"], "units.below_zero"),
        (["spacing", "--bed", "4 ft x 3 ft"], "calc.calc_call"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "0 in"], "garden.spacing_of_nothing"),
        (["spacing", "--bed", "4 ft x 3 ft", "--spacing", "4 in", "--method", "spiral"], "calc.calc_call"),
        (["daylength", "--lat", "91", "--date", "2027-01-01"], "place.latitude_out_of_range"),
        (["daylength", "--lat", "x", "--date", "2027-01-01"], "calc.not_a_number"),
        (["daylength", "--lat", "-41.6", "--date", "2027-02-29"], "calc.not_a_day"),
        (["freeze", "--weather", "/nowhere/x.csv", "--lat", "40"], "calc.file_unreadable"),
        (
            ["degree-days", "--weather", str(SEATTLE), "--base", "10C", "--from", "2012-02-01", "--to", "2012-01-01"],
            "calc.to_before_from",
        ),
        (
            ["et0", "--method", "penman", "--tmin", "20", "--tmax", "10", "--lat", "0", "--date", "2027-01-01"],
            "calc.temperatures_swapped",
        ),
        (
            [
                "et0",
                "--method",
                "penman",
                "--tmin",
                "1",
                "--tmax",
                "10",
                "--lat",
                "0",
                "--date",
                "2027-01-01",
                "--wind",
                "-3",
            ],
            "calc.wind_out_of_range",
        ),
        (
            ["spacing", "--bed", "4 ft x 3 ft", "--spacing", "4 in", "--keep", "0,0,2 ft"],
            "calc.keep_form",
        ),
        (
            ["spacing", "--bed", "4 ft x 3 ft", "--spacing", "4 in", "--method", "rows", "--edge", "-1 in"],
            "units.below_zero",
        ),
        (["seeds", "--plants", "3.5", "--germination", "1"], "calc.plants_out_of_range"),
        (["seeds", "--plants", "3", "--germination", "0"], "garden.share_out_of_range"),
        (["sun", "--lat", "91", "--date", "2027-01-01"], "place.latitude_out_of_range"),
        (["sun", "--lat", "0", "--date", "2027-01-01", "--obstacles", "/nowhere.json"], "calc.file_unreadable"),
        (["volume", "--bed", "0 ft x 4 ft", "--depth", "1 in"], "units.side_of_nothing"),
        (["moon"], "calc.calc_call"),
        ([], "calc.calc_call"),
    ],
)
def test_bad_input_is_one_sentence_and_exit_two(
    arguments: list[str], says: str, capsys: pytest.CaptureFixture[str]
) -> None:
    with refuses(says):
        answer(arguments)
    assert main(["calc", *arguments]) == 2
    said = capsys.readouterr()
    assert said.out == ""
    assert len(said.err.strip().splitlines()) == 1


def test_crops_prints_the_whole_catalogue() -> None:
    found = answer(["crops"])
    assert len(found["crops"]) >= 20
    assert all(crop["sources"]["default"] in found["sources"] for crop in found["crops"])


def examples() -> list[tuple[str, dict]]:
    text = DOC.read_text(encoding="utf-8")
    return [(call, json.loads(reply)) for call, reply in re.findall(r"\$ \./almanaque calc (.+)\n(\{.*\})\n", text)]


DATA = DOC.parents[1] / "tests/reference/data"
PLACED = [
    "fit",
    "--crop",
    "radish",
    "--weather",
    str(DATA / "seattle-2012-2015.csv"),
    "--lat",
    "47.6",
    "--calendar",
    str(DATA / "two-school-years.csv"),
]


def test_the_documented_examples_are_what_it_answers() -> None:
    import shlex

    assert len(examples()) >= 2
    for call, reply in examples():
        found = answer(shlex.split(call))
        for key, value in reply.items():
            if value == "…":
                assert found[key]
            else:
                assert found[key] == value, (call, key)


def test_every_key_of_every_answer_is_documented() -> None:
    text = DOC.read_text(encoding="utf-8")
    spacing = answer(["spacing", "--bed", "1 m x 1 m", "--spacing", "10 cm"])
    weather = str(DOC.parents[1] / "tests/reference/data/seattle-2012-2015.csv")
    others = [
        answer(["spacing", "--bed", "1 m x 1 m", "--spacing", "10 cm", "--method", "staggered"]),
        answer(["volume", "--bed", "1 m x 1 m", "--depth", "10 cm"]),
        answer(["grid", "--bed", "1 m x 1 m"]),
        answer(["seeds", "--plants", "1", "--germination", "1"]),
        answer(["sun", "--lat", "0", "--date", "2027-01-01"]),
        answer(["freeze", "--weather", weather, "--lat", "47.6"]),
        answer(["daylength", "--lat", "0", "--date", "2027-01-01"]),
        answer(["degree-days", "--weather", weather, "--base", "50F", "--from", "2012-01-01", "--to", "2012-02-01"]),
        answer([*PLACED, "--sow", "2013-04-12"]),
        answer([*PLACED, "--sow", "2013-04-12"])["days"][0],
        answer(["latest", *PLACED[1:], "--ready-by", "2013-06-01"]),
        answer(["et0", "--method", "hargreaves", "--tmin", "1", "--tmax", "2", "--lat", "0", "--date", "2027-01-01"]),
    ]
    for key in (
        *spacing,
        *answer(["crops"]),
        *answer(["crops"])["crops"][0],
        *(key for found in others for key in found),
    ):
        assert f"`{key}`" in text, key


def test_a_season_without_a_freeze_is_null_and_counted(tmp_path: Path) -> None:
    rows = "".join(
        f"{year}-{month:02}-{day:02},{4 if year == 2021 or month != 1 else -1},9\n"
        for year in range(2020, 2024)
        for month in range(1, 13)
        for day in range(1, 32)
        if _real(year, month, day)
    )
    file = tmp_path / "mild.csv"
    file.write_text(f"date,tmin,tmax\n{rows}", encoding="utf-8")
    found = answer(["freeze", "--weather", str(file), "--lat", "51", "--threshold", "0C"])
    assert found["last"] == {"p10": None, "p50": "01-31", "p90": "01-31", "without": 1}


def _real(year: int, month: int, day: int) -> bool:
    try:
        date(year, month, day)
    except ValueError:
        return False
    return True


def test_fit_gives_every_day_of_the_calendar_or_the_one_asked_for() -> None:
    every = answer(PLACED)["days"]
    days = [date.fromisoformat(day["sow"]) for day in every]
    assert (days[0], days[-1], len(days)) == (date(2026, 8, 24), date(2028, 8, 22), (days[-1] - days[0]).days + 1)
    by_day = {day["sow"]: day for day in every}
    assert {day["verdict"] for day in every} == {"with care", "misses"}  # four years cannot speak for all
    assert by_day["2027-07-12"]["verdict"] == "misses"
    assert "Sowing on 12 Jul falls in a break." in by_day["2027-07-12"]["reasons"]
    one = answer([*PLACED, "--sow", "2028-04-12"])["days"]
    assert one == [day for day in every if day["sow"] == "2028-04-12"]
    warm = answer([*PLACED, "--sow", "2028-03-14", "--cover", "tunnel"])["days"][0]
    cold = answer([*PLACED, "--sow", "2028-03-14"])["days"][0]
    assert warm["first_pick"]["p50"] < cold["first_pick"]["p50"]
    packet = answer([*PLACED, "--sow", "2028-04-12", "--ready", "packet"])
    assert packet["ready"] == "packet"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (["--crop", "moonflower"], "crops.no_such_crop"),
        (["--method", "starts"], "calc.method_not_of_crop"),
        (["--cover", "tent"], "calc.cover_unknown"),
        (["--sow", "soon"], "calc.not_a_day"),
        (["--calendar", "nowhere.csv"], "calc.file_unreadable"),
        (["--lat", "123"], "place.latitude_out_of_range"),
    ],
)
def test_fit_refuses_what_it_cannot_read_in_one_sentence(change: list[str], says: str) -> None:
    with refuses(says):
        answer([*PLACED, *change])


def test_fit_refuses_a_calendar_without_terms(tmp_path: Path) -> None:
    file = tmp_path / "calendar.csv"
    file.write_text("kind,name,start,end\nbreak,Snow,2027-02-01,2027-02-05\n", encoding="utf-8")
    with refuses("school.no_begin_of_school"):
        answer([*PLACED, "--calendar", str(file)])
