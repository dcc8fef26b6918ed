"""The one stylesheet: what no page uses is left out of Bootstrap, and nothing else."""

import re

from fastapi.testclient import TestClient

from almanaque.web import stylesheet


def test_rules_of_classes_that_nobody_uses_are_left_out() -> None:
    css = "a{color:red}.used,.not{top:0}.not .used{left:0}@media (min-width:1px){.not{x:y}.used:not(.not){x:y}}@charset 'x';"
    assert stylesheet.trimmed(css, frozenset({"used"})) == (
        "a{color:red}.used{top:0}@media (min-width:1px){.used:not(.not){x:y}}@charset 'x';"
    )
    assert stylesheet.trimmed(css, frozenset({"used", "not"})).count("{") == css.count("{")


def test_every_class_of_ours_that_bootstrap_knows_is_kept() -> None:
    whole = (stylesheet.STATIC / stylesheet.BOOTSTRAP).read_text(encoding="utf-8")
    kept = stylesheet.trimmed(whole, stylesheet.used())
    known = set(re.findall(r"\.(-?[_a-zA-Z][\w-]*)", whole))
    templates = " ".join(path.read_text(encoding="utf-8") for path in stylesheet.HERE.rglob("*.html"))
    ours = {name for found in re.findall(r'class="([^"{}]*)"', templates) for name in found.split()} & known
    assert {"form-control", "form-select", "visually-hidden"} <= ours
    assert all(f".{name}" in kept for name in ours)
    assert len(kept) < len(whole) / 2


def test_a_page_asks_for_one_stylesheet_that_is_there(reader: TestClient) -> None:
    sheets = re.findall(r'<link rel="stylesheet" href="([^"]+)"', reader.get("/week").text)
    assert sheets == [stylesheet.address()]
    answer = reader.get(sheets[0])
    assert (answer.status_code, "immutable" in answer.headers["Cache-Control"]) == (200, True)
    assert answer.text.count("{") == answer.text.count("}")
