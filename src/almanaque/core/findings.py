"""The one shape of every judgement: what is the matter, why, who says so, and what to do about it.

Severity `fault` makes a plan miss, `care` asks for someone's care, `note` is worth knowing.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

Severity = Literal["fault", "care", "note"]

# Every code the rules can give, with what it means. A test holds the rules to this list.
CODES: dict[str, str] = {
    "sow_no_school": "no school on the day of sowing, so no class to do it",
    "sow_no_lesson": "no class has a garden lesson in the week of sowing",
    "seedbed_over_break": "the seedbed would dry out over a break before the seed is up",
    "ready_no_school": "ready when nobody is at school",
    "ready_in_break": "the picking begins in a break and goes on into school",
    "ready_few_lessons": "only few lessons meet the picking",
    "frost_risk": "a freeze that the crop does not bear",
    "cold_ground": "too cold for the seed to come up",
    "not_in_chart": "the local office's chart has another month for it",
    "heat_risk": "the heat makes a cool crop bolt",
    "outside_year": "the calendar does not reach that far",
    "no_weather": "no weather on file, so frost and heat are not judged",
    "squares_left_over": "painted squares too few for a whole block",
    "bed_taken": "another planting is in those squares at that time",
    "picking_to_carers": "ready in a closure nobody planned, so carers pick",
    "caution": "where somebody can be hurt",
    "path_narrow": "too narrow to pass with a barrow",
    "path_no_wheelchair": "too narrow for a wheelchair",
    "tap_far": "the hose does not reach the bed",
    "crowded": "plants of two crops closer than the mean of their spacings",
    "overlap": "two plans want the same squares at the same time",
    "own_count_close": "a count set by hand stands closer than the crop's spacing",
    "shaded_by_plant": "a taller plant takes the sun from a lower one",
    "little_sun": "less direct sun than the crop wants",
    "family_back_soon": "the same family stood there too short a time ago",
    "good_neighbours": "neighbours said to do each other good",
    "bad_neighbours": "neighbours said to do each other harm",
    "soil_shallow": "less depth of soil than the roots want",
    "soil_sour": "the soil is more sour than the crop likes",
    "soil_sweet": "the soil is less sour than the crop likes",
    "soil_poor": "a heavy feeder in soil that was measured low",
    "soil_lead": "a laboratory found lead in the soil",
    "manure_days": "picked too soon after raw manure",
    "spreads": "it takes over unless it is held in a pot",
    "invasive": "the school's list says that it is invasive here",
    "bed_closed": "the bed is closed while something would stand there",
    "kept_later": "those squares are kept for something else at that time",
    "no_room": "the grown plant is wider than its place",
    "runs_out": "vines run beyond the bed",
    "nibbled_far": "eaten in passing, but far from the path",
    "poisonous_near": "poisonous parts beside the path",
    "climbs_on": "it climbs on a neighbour, as intended",
    "needs_support": "it wants something to hold on to",
    "bed_end": "the bed's material is near the end of its usual life",
    "no_place": "fewer places than were wanted",
}


@dataclass(frozen=True)
class Fix:
    """One thing to do about it. `action` and `value` let a page offer it as a button (for example start_on, a date)."""

    label: str
    action: str = ""
    value: str = ""


@dataclass(frozen=True)
class Finding:
    """A judgement about `subject`. `source` says whose rule spoke; `message` is a whole sentence."""

    code: str
    severity: Severity
    subject: str
    message: str
    reason: str
    source: str
    fixes: tuple[Fix, ...] = ()

    def __post_init__(self) -> None:
        if self.code not in CODES:
            raise ValueError(f"{self.code} is not in findings.CODES")


_RANK: dict[Severity, int] = {"fault": 0, "care": 1, "note": 2}


def worst_first(findings: Sequence[Finding]) -> list[Finding]:
    """The same findings, faults first, otherwise in their order."""
    return sorted(findings, key=lambda finding: _RANK[finding.severity])


def lead(findings: Sequence[Finding]) -> str:
    """The one sentence to show where there is room for one: the first that is more than a note; empty without any."""
    return next((finding.message for finding in findings if finding.severity != "note"), "")


_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def short_day(day: date) -> str:
    """A day as findings write it: `14 Apr`."""
    return f"{day.day} {_MONTHS[day.month - 1]}"
