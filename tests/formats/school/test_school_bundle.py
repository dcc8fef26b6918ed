"""The bundle as a file: what is written reads back, and what is none is refused in a sentence."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.formats.school import school_bundle
from almanaque.formats.school.school_bundle import Bundle

KNOWN = {"bed": ["id", "name", "size"], "note": ["id", "body"], "forecast": ["findings"]}
VALUES = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**53), 2**53),
    st.floats(allow_nan=False, allow_infinity=False),
    st.text(max_size=40),
)


@given(
    st.fixed_dictionaries(
        {
            "bed": st.lists(st.dictionaries(st.sampled_from(KNOWN["bed"]), VALUES), max_size=5),
            "note": st.lists(st.dictionaries(st.sampled_from(KNOWN["note"]), VALUES), max_size=5),
        }
    ),
    st.dictionaries(st.text(max_size=8), VALUES, max_size=4),
    st.booleans(),
)
def test_what_is_written_reads_back(tables: dict, school: dict, photos: bool) -> None:
    whole = Bundle(14, school, tables, "2027-04-14", photos)
    assert school_bundle.read(school_bundle.write(whole), known=KNOWN, schema=14) == whole


def file(**change: object) -> bytes:
    given = {"format": school_bundle.FORMAT, "version": 1, "schema": 14, "school": {}, "tables": {}, **change}
    return json.dumps(given).encode()


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"", "not JSON"),
        (b"{", "not JSON"),
        (b"[" * 100_000, "not JSON"),
        (b"[]", "no bundle"),
        (b'{"format": "x"}', "no bundle"),
        (file(version=2), "newer version"),
        (file(schema=15), "newer version"),
        (file(version="1"), "does not say its version"),
        (file(version=True), "does not say its version"),
        (file(tables=[]), "lacks its school"),
        (file(tables={"account": []}), "does not know"),
        (file(tables={"bed": {}}), "not a list of rows"),
        (file(tables={"bed": [1]}), "not a list of rows"),
        (file(tables={"bed": [{"id": 1}, {"secret": 1}]}), "Row 2 of “bed” has a field “secret”"),
        (b"\xff\xfe", "not JSON"),
        (
            file(
                tables={"forecast": [{"findings": [{"fixes": [{"action": "page", "value": "javascript:alert(1)"}]}]}]}
            ),
            "leads elsewhere",
        ),
        (
            file(
                tables={"forecast": [{"findings": [{"fixes": [{"action": "page", "value": "//elsewhere.example/x"}]}]}]}
            ),
            "leads elsewhere",
        ),
    ],
    ids=range(17),
)
def test_what_is_no_bundle_is_refused_in_words(body: bytes, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        school_bundle.read(body, known=KNOWN, schema=14)


def test_a_link_inside_is_taken() -> None:
    body = file(
        tables={"forecast": [{"findings": [{"fixes": [{"action": "page", "value": "/year/finder?crop=kale"}]}]}]}
    )
    assert school_bundle.read(body, known=KNOWN, schema=14).tables["forecast"]
