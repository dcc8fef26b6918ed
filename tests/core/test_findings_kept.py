"""Findings in their order, and as they are stored."""

import json
from datetime import date

import pytest

from almanaque.core import findings
from almanaque.core.findings import Finding, Fix, worst_first
from almanaque.core.words import Phrase

FREEZE = Finding(
    "frost_risk",
    "care",
    "Tomato",
    {"n": 9, "of": 37, "out": date(2027, 5, 1), "covered": Phrase("findings.part.good_distance"), "bears": "0 °C"},
    "weather",
    (Fix("way_on", "start:direct", "2027-05-14", {"words": "Start", "day": date(2027, 5, 14)}),),
)


def test_an_unknown_code_is_a_mistake() -> None:
    with pytest.raises(ValueError, match="not in findings"):
        Finding("moon", "note", "Kale", {}, "s")


def test_faults_come_first_and_order_stays_otherwise() -> None:
    made = [
        Finding("no_weather", severity, str(n), {}, "s") for n, severity in enumerate(["note", "care", "fault", "care"])
    ]
    assert [f.subject for f in worst_first(made)] == ["2", "1", "3", "0"]


def test_a_stored_finding_is_the_same_finding_and_holds_no_sentence() -> None:
    text = json.dumps(findings.stored(FREEZE))
    again = findings.from_store(json.loads(text))
    assert again == FREEZE
    assert findings.in_words(again) == findings.in_words(FREEZE)
    assert "bear" not in text.replace('"bears"', "")


def test_a_finding_stored_as_text_keeps_its_text() -> None:
    old = {
        "code": "frost_risk",
        "severity": "care",
        "subject": "Tomato",
        "message": "A freeze it does not bear in {9} of 37 years.",
        "reason": "It fell below 0 °C.",
        "source": "the weather on file",
        "fixes": [{"label": "Later", "action": "page", "value": "/year"}],
    }
    again = findings.from_store(findings.as_written(old))
    assert findings.in_words(again) == ["A freeze it does not bear in {9} of 37 years.", "It fell below 0 °C.", "Later"]
    assert findings.as_written(findings.stored(again)) == findings.stored(again)


def test_a_lead_is_the_first_that_is_more_than_a_note() -> None:
    note = Finding("caution", "note", "Kale", {"message": "Sharp.", "reason": "Thorns."}, "practice", case="as_written")
    care = Finding("few_years", "care", "Kale", {"of": 3}, "own_rule")
    fault = Finding("invasive", "fault", "Kale", {}, "school_list")
    assert findings.lead([note, care, fault]) == care.message
    assert findings.lead([note, fault]) == fault.message
    assert findings.lead([note]) == findings.lead([]) == ""
    assert findings.in_words(care)[:2] == [care.message, care.reason]
