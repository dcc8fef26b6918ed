"""The bundle as a file: what is written reads back, and what is none is refused in a sentence."""

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core import findings
from almanaque.core.findings import Finding, Fix
from almanaque.formats.school import school_bundle
from almanaque.formats.school.school_bundle import Bundle
from tests.refuses import refuses

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


def as_text(page: str) -> dict[str, Any]:
    """A finding as versions before wrote it, with a button that leads to a page."""
    return {
        "code": "frost_risk",
        "severity": "care",
        "subject": "Tomato",
        "message": "It may freeze.",
        "reason": "It bears none.",
        "source": "typed freeze dates",
        "fixes": [{"label": "Later", "action": "page", "value": page}],
    }


def nested(depth: int) -> dict[str, Any]:
    """A phrase within a phrase within a phrase."""
    phrase: dict[str, Any] = {"code": "garden.no_outline", "params": {"label": "x"}}
    for _ in range(depth):
        phrase = {"code": "garden.no_outline", "params": {"label": phrase}}
    return phrase


def by_code() -> dict[str, Any]:
    fix = Fix("later_or_cover")
    return findings.stored(
        Finding("frost_risk", "care", "Tomato", {"cold": "2027-05-01"}, "typed freeze dates", (fix,), "typed")
    )


def file(**change: object) -> bytes:
    given = {"format": school_bundle.FORMAT, "version": 1, "schema": 14, "school": {}, "tables": {}, **change}
    return json.dumps(given).encode()


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"", "school.bundle_not_json"),
        (b"{", "school.bundle_not_json"),
        (b"[" * 100_000, "school.bundle_not_json"),
        (b"[]", "school.not_a_bundle"),
        (b'{"format": "x"}', "school.not_a_bundle"),
        (file(version=2), "school.bundle_of_newer_version"),
        (file(schema=15), "school.bundle_of_newer_version"),
        (file(version="1"), "school.bundle_without_version"),
        (file(version=True), "school.bundle_without_version"),
        (file(tables=[]), "school.bundle_without_tables"),
        (file(tables={"account": []}), "school.bundle_table_unknown"),
        (file(tables={"bed": {}}), "school.bundle_table_not_rows"),
        (file(tables={"bed": [1]}), "school.bundle_table_not_rows"),
        (file(tables={"bed": [{"id": 1}, {"secret": 1}]}), "school.bundle_field_unknown"),
        (b"\xff\xfe", "school.bundle_not_json"),
        (
            file(
                tables={"forecast": [{"findings": [{"fixes": [{"action": "page", "value": "javascript:alert(1)"}]}]}]}
            ),
            "school.bundle_finding",
        ),
        (
            file(tables={"forecast": [{"findings": [as_text("//elsewhere.example/x")]}]}),
            "school.bundle_link",
        ),
        *(
            (file(tables={"forecast": [{"findings": [wrong]}]}), "school.bundle_finding")
            for wrong in (
                7,
                {"code": "frost_risk"},
                {**by_code(), "code": "moon"},
                {**by_code(), "case": "moon"},
                {**by_code(), "params": {"cold": "not a day"}},
                {**by_code(), "fixes": [{"code": "moon"}]},
                {**by_code(), "more": 1},
                {**by_code(), "params": {"cold": {"code": "garden.draft_closed"}}},
                {**by_code(), "case": "as_written", "params": {"message": nested(400), "reason": ""}},
            )
        ),
    ],
    ids=range(26),
)
def test_what_is_no_bundle_is_refused_in_words(body: bytes, says: str) -> None:
    with refuses(says):
        school_bundle.read(body, known=KNOWN, schema=14)


def test_findings_by_code_are_taken_as_they_are_and_those_kept_as_text_keep_their_text() -> None:
    body = file(tables={"forecast": [{"findings": [by_code(), as_text("/year/finder?crop=kale")]}]})
    first, second = school_bundle.read(body, known=KNOWN, schema=14).tables["forecast"][0]["findings"]
    assert first == by_code()
    assert findings.in_words(findings.from_store(second)) == ["It may freeze.", "It bears none.", "Later"]
