"""Reasons of the rules in a few words, for where a sentence has no room."""

from collections.abc import Iterable

from almanaque.core.findings import Finding

SHORT = {
    "sow_no_school": "no class to sow",
    "sow_no_lesson": "no lesson that week",
    "seedbed_over_break": "seedbed over a break",
    "ready_no_school": "ready in the break",
    "ready_to_store": "carers lift it, it keeps",
    "ready_in_break": "first ripe in the break",
    "ready_few_lessons": "few lessons meet it",
    "frost_risk": "frost takes it",
    "frost_touch": "frost touches it",
    "chilled": "nights too cold",
    "no_ground": "ground frozen or sodden",
    "flowers_drop": "flowers drop in the heat",
    "few_years": "few years on file",
    "no_weather": "no weather on file",
    "heat_risk": "heat spoils it",
    "not_up": "does not come up",
    "no_cold": "misses its cold",
    "bolts_in_spring": "shoots in spring",
    "not_ripe": "does not ripen",
    "outside_year": "beyond the calendar",
    "not_in_chart": "not in the chart",
    "not_in_window": "not its usual time",
}


# The same where it happens in some years only.
IN_SOME_YEARS = {
    "frost_risk": "frost in some years",
    "chilled": "cold nights in some years",
    "no_ground": "frozen ground in some years",
    "heat_risk": "heat in some years",
    "not_up": "not up in some years",
    "no_cold": "misses its cold in some years",
    "bolts_in_spring": "shoots in some years",
    "not_ripe": "unripe in some years",
}


def short_reason(findings: Iterable[Finding]) -> str:
    """The first reason against it in a few words; empty when nothing is more than a note."""
    first = next((f for f in findings if f.severity != "note"), None)
    if first is None:
        return ""
    in_some = IN_SOME_YEARS.get(first.code) if first.severity == "care" else None
    return in_some or SHORT.get(first.code, first.message)
