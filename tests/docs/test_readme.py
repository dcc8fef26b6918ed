"""What the documents say of files is true."""

import re
from pathlib import Path

import pytest

from tests.database import CLONE

DOCS = [CLONE / name for name in ("README.md", "CONTRIBUTING.md", "docs/architecture.md", "docs/glossary.md")]


@pytest.mark.parametrize("page", DOCS, ids=[page.name for page in DOCS])
def test_every_file_that_is_named_is_there(page: Path) -> None:
    named = re.findall(
        r"`((?:core|store|commands|web|formats|worker|host|tests)/[\w/]+\.\w+)`", page.read_text(encoding="utf-8")
    )
    lost = [name for name in named if not ((CLONE / "src/almanaque" / name).exists() or (CLONE / name).exists())]
    assert lost == []


def test_the_way_of_the_data_is_there() -> None:
    way = (CLONE / "README.md").read_text(encoding="utf-8").partition("## The way of the data")[2].partition("## ")[0]
    assert len(re.findall(r"`[\w/]+\.py`", way)) >= 10


@pytest.mark.parametrize("page", DOCS, ids=[page.name for page in DOCS])
def test_every_link_leads_somewhere(page: Path) -> None:
    links = re.findall(r"\]\(([^)#:]+)\)", page.read_text(encoding="utf-8"))
    assert [link for link in links if not (page.parent / link).exists()] == []
