"""Parts of a page that the browser shows already, and an answer leaves out."""

import re
from functools import partial

from fastapi.testclient import TestClient
from markupsafe import Markup

from almanaque.web.known_parts import HEADER, parts
from tests.database import bed_id
from tests.web.pages import Page, open_page

DIGESTS = re.compile(r'data-part="([^"]+)" data-digest="([0-9a-f]{12})"( data-same)?')


def content(text: str) -> partial[Markup]:
    return partial(Markup, text)


def test_a_part_that_is_known_comes_empty_and_another_in_full() -> None:
    drawn = parts(frozenset())(
        "li", "line-1", caller=content("<b>Pea</b>"), class_name="a", aria_label='"quoted" & more'
    )
    assert drawn.startswith('<li data-part="line-1" data-digest="')
    assert drawn.endswith('class-name="a" aria-label="&#34;quoted&#34; &amp; more"><b>Pea</b></li>')
    ((_, digest, _),) = DIGESTS.findall(drawn)
    again = parts(frozenset([digest]))
    assert again("li", "line-1", caller=content("<b>Pea</b>"), class_name="a", aria_label='"quoted" & more') == (
        f'<li data-part="line-1" data-digest="{digest}" data-same></li>'
    )
    assert "Bean" in again("li", "line-1", caller=content("<b>Bean</b>"), class_name="a")
    assert "Pea" in again("li", "line-2", caller=content("<b>Pea</b>"), class_name="a")


def test_the_number_of_a_form_makes_no_other_part() -> None:
    part = parts(frozenset())
    one = part("li", "x", caller=content('<input name="once" value="1"><i>a</i>'))
    two = part("li", "x", caller=content('<input name="once" value="2"><i>a</i>'))
    assert DIGESTS.findall(one) == DIGESTS.findall(two)


def test_an_answer_on_the_sheet_brings_only_what_changed(coordinator: TestClient) -> None:
    path = f"/garden/beds/{bed_id('Bed 7')}"
    page = open_page(coordinator, path)
    shown = {digest for _, digest, _ in DIGESTS.findall(page.html)}
    assert len(shown) > 8
    form = page.form(path).fields
    painted = {**form, "command": "pencil", "crop": "radish", "method": "direct", "squares": "A4"}
    answer = Page(
        coordinator.post(path, data=painted, headers={"HX-Request": "true", HEADER: f"<script> {' '.join(shown)} 0x"})
    )
    found = {name: bool(same) for name, _, same in DIGESTS.findall(answer.html)}
    assert answer.status == 200, answer.text
    assert (found["ground"], found["row-1"], found["row-4"], found["version"], found["facts"]) == (
        True,
        True,
        False,
        False,
        False,
    )
    assert "<script" not in answer.html
    whole = coordinator.get(f"{path}/news?version=0", headers={"HX-Request": "true"}).text
    assert "data-same" not in whole
    assert len(answer.html) < len(whole)
