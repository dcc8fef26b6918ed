"""The book by class through the years, a fair sentence under each chart, and a class's plantings on one page."""

import re

from fastapi.testclient import TestClient

from tests.web.pages import open_page


def test_a_class_keeps_its_name_through_the_years_and_says_its_grade_then(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/book?by=class")
    rows = re.findall(r"now (Grade \d|Kindergarten)\S* (\d{4}–\d\d) as (Grade \d|Kindergarten)", page.text)
    assert len({year for _, year, _ in rows}) >= 2
    grade = {"Kindergarten": 0, **{f"Grade {n}": n for n in range(1, 13)}}
    by_class: dict[str, dict[str, int]] = {}
    for now, year, then in rows:
        by_class.setdefault(now, {})[year] = grade[then]
    for now, years in by_class.items():
        ordered = [years[year] for year in sorted(years)]
        assert ordered == sorted(ordered)
        assert ordered[-1] <= grade[now]


def test_a_column_has_one_unit(reader: TestClient) -> None:
    page = open_page(reader, "/harvest/book?by=class")
    cells = re.findall(r'<td class="num">(?:at least )?([\d.,]+ (?:lb|oz|kg|g))</td>', page.html)
    weights = [cell for cell in cells if cell.endswith(("lb", "kg"))]
    assert weights
    assert not any(cell.endswith((" kg", " g")) for cell in cells)
    assert "sq ft × days" in page.text
    assert "Days held" in open_page(reader, "/harvest/book?by=bed").text


def test_the_chart_names_no_most_across_crops_and_does_of_one(reader: TestClient) -> None:
    for way in ("bed", "class", "team"):
        sentence = open_page(reader, f"/harvest/book?by={way}").text
        assert "the bars are no ranking: choose one crop" in sentence
        assert "Most in" not in sentence
    for way in ("crop", "variety", "part"):
        assert "compare one crop with itself" in open_page(reader, f"/harvest/book?by={way}").text
    one = open_page(reader, "/harvest/book?by=bed&crop=radish").text
    assert re.search(r"Fair comparison, of one crop\. Most in \d{4}–\d\d: Bed|Most in \d{4}–\d\d: Half barrel", one)


def test_a_class_s_plantings_stand_on_one_page_year_by_year(reader: TestClient) -> None:
    book = open_page(reader, "/harvest/book?by=class")
    path = re.findall(r"<a href=\"([^\"]+classes[^\"]+)\">now ", book.html)[0]
    page = open_page(reader, path)
    assert "The garden of a class: now " in page.text
    years = re.findall(r"<h2>(\d{4}–\d\d)", page.html)
    assert years == sorted(years, reverse=True)
    assert re.search(r"as (Grade \d|Kindergarten)", page.text)
    assert open_page(reader, "/harvest/classes/00000000-0000-0000-0000-000000000000").status == 404


def test_another_school_year_is_chosen_on_the_year(reader: TestClient) -> None:
    page = open_page(reader, "/year")
    years = re.findall(r'<option value="(\d{4}–\d\d)"', page.html)
    assert len(years) >= 2
    earlier = open_page(reader, f"/year?year={years[-1]}")
    assert f"School year {years[-1]}" in earlier.text
    assert f'<option value="{years[-1]}" selected' in earlier.html
