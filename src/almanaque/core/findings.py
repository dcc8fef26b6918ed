"""The one shape of every judgement: what is the matter, why, who says so, and what to do about it.

Severity `fault` makes a plan miss, `care` asks for someone's care, `note` is worth knowing.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from decimal import Decimal
from typing import Any, Literal

from almanaque.core.words import Phrase, say, sentences

Severity = Literal["fault", "care", "note"]

# Every code the rules can give, with what it means. A test holds the rules to this list.
CODES: dict[str, str] = {
    "sow_no_school": "no school on the day of sowing, so no class to do it",
    "sow_no_lesson": "no class has a garden lesson in the week of sowing",
    "seedbed_over_break": "the seedbed would dry out over a break before the seed is up",
    "ready_no_school": "ready when nobody is at school",
    "ready_to_store": "ready when nobody is at school, but it keeps until children are back",
    "ready_in_break": "the picking begins in a break and goes on into school",
    "ready_few_lessons": "only few lessons meet the picking",
    "frost_risk": "a freeze that the crop does not bear",
    "frost_touch": "a freeze that touches its leaves and does not kill it",
    "chilled": "nights without frost that are too cold for it",
    "no_ground": "the ground is frozen or sodden on that day",
    "flowers_drop": "in the heat a warm crop drops its flowers",
    "few_years": "the weather record is too short to speak of all years",
    "not_up": "the ground is too cold, too hot or not yet chilled for the seed to come up",
    "no_cold": "it does not get the cold it needs",
    "bolts_in_spring": "after the winter it flowers before it is ready",
    "not_ripe": "it does not ripen in this place",
    "ready_not_always": "some years on file lose it or ripen it in a break",
    "not_in_window": "not its usual time, counted from the freezes",
    "chart_differs": "the local office's chart begins earlier or later than the weather on file",
    "not_in_chart": "the local office's chart has another month for it",
    "heat_risk": "the heat makes a cool crop bolt",
    "outside_year": "the calendar does not reach that far",
    "in_summer_programme": "the first picking lies in the summer programme",
    "own_correction": "the school's own seasons have moved the dates",
    "bed_pace": "the bed's own pickings have moved the dates",
    "supposed_year": "no calendar for that school year yet, so the last one was moved on",
    "no_weather": "no weather on file, so frost and heat are not judged",
    "squares_left_over": "painted squares too few for a whole block",
    "bed_taken": "another planting is in those squares at that time",
    "picking_to_carers": "ready in a closure nobody planned, so carers pick",
    "caution": "where somebody can be hurt",
    "class_flag": "someone in the class must not touch or eat it",
    "day_too_full": "a planting day takes longer than its lesson",
    "distances_off": "what was planted stands closer or wider than was meant",
    "froze": "a night that has been was colder than it bears",
    "heat_now": "hot days that have been make it bolt or drop its flowers",
    "no_bees": "in flower in days without bees",
    "seedbed_dry": "no rain on seed that is not up",
    "washed": "a downpour on seed that is not up",
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
    "bloom_gap": "nothing with nectar flowers for a time",
    "no_host": "nectar without host plants",
    "no_nectar": "host plants without nectar",
    "theme_not_ready": "a part of a theme is not ready on its day",
    "wish_barred": "no bed or no day can grant a wish",
    "wish_left_out": "a wish that could be granted has no place in the plan",
    "wish_enters": "what would let a wish in that has no place",
    "bed_promised": "it stands in a bed that is promised for something else",
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
    "station": "a reading at a station is beyond its limits",
    "head_count": "fewer animals than were counted last time",
    "running_low": "a supply is at its mark",
    "frost_warning": "the station reads or foresees a freeze that something does not bear",
    "heat_warning": "the station reads heat beyond what people and plants bear easily",
    "rain_warning": "the station reads heavy rain",
    "station_silent": "the station has not answered for some time",
    "reading_doubtful": "a reading of the station cannot be right",
    "seed_hybrid": "seed of a hybrid does not come true",
    "seed_bolted": "seed of what bolts first bolts first",
    "seed_crosses": "another one of its species flowers in the garden",
    "seed_isolation": "its pollen travels far",
    "seed_selfs": "it pollinates itself",
    "seed_few_plants": "too few plants for healthy seed",
    "seed_second_year": "it seeds in its second year",
    "product_oil": "in oil at room temperature it can carry botulism",
    "product_recipe": "a preserve needs a tested recipe",
    "product_dry": "what is packed half dry moulds",
    "product_kitchen": "cooked food goes by the kitchen's rules",
    "product_allergy": "the label says what is in it",
    "product_licence": "selling is licensed locally",
    "worker_silent": "the part of the server that works in the background is not heard of",
    "work_failed": "work in the background failed as often as it is tried",
    "work_tried_again": "work in the background failed and will be tried again",
    "work_waits": "work in the background waits and nobody takes it",
    "mail_given_up": "mail that was not taken and is not offered any more",
    "backup_missing": "no backup was made, or none for a long time",
}


AS_WRITTEN = "as_written"  # words that came as text: from a table of the trade, or stored before findings had codes


def plain(params: Mapping[str, object]) -> dict[str, object]:
    """Parameters as JSON keeps them, so that a stored finding equals a new one: days as 2027-04-14, lists as tuples."""
    return {name: _plain(value) for name, value in params.items()}


def _plain(value: object) -> object:
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, Phrase):
        return {"code": value.code, "params": plain(value.params)}
    if isinstance(value, Decimal):
        return float(value)
    if isinstance(value, list | tuple):
        return tuple(_plain(item) for item in value)
    return value


@dataclass(frozen=True)
class Fix:
    """One thing to do about it: a code of `words`, `findings.fix.<code>`, and its parameters.

    `action` and `value` let a page offer it as a button (for example start_on, a date).
    """

    code: str
    action: str = ""
    value: str = ""
    params: Mapping[str, object] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "params", plain(self.params))

    @classmethod
    def written(cls, label: str) -> "Fix":
        """What to do in words that come from a table of the trade."""
        return cls(AS_WRITTEN, params={"label": label})

    @property
    def label(self) -> str:
        """What a button for it says."""
        return say(f"findings.fix.{self.code}", self.params)


@dataclass(frozen=True)
class Finding:
    """A judgement about `subject`, by code and parameters; `source` says whose rule spoke: a code of
    `words`, `sources.<code>`, or a printed work as it is cited.

    `case` names the wording where a code has several. Words are made from the code when they are asked for, so that what
    is stored outlives a better sentence.
    """

    code: str
    severity: Severity
    subject: str
    params: Mapping[str, object] = field(hash=False)
    source: str
    fixes: tuple[Fix, ...] = ()
    case: str = ""

    def __post_init__(self) -> None:
        if self.code not in CODES:
            raise ValueError(f"{self.code} is not in findings.CODES")
        object.__setattr__(self, "params", plain(self.params))

    @property
    def message(self) -> str:
        """What is the matter, a whole sentence."""
        return say(f"{self._words}.message", self.params)

    @property
    def reason(self) -> str:
        """Why."""
        return say(f"{self._words}.reason", self.params)

    @property
    def phrase(self) -> Phrase:
        """Its message as a part of another finding's words."""
        return Phrase(f"{self._words}.message", self.params)

    @property
    def said_by(self) -> str:
        """Whose rule spoke, in words. A source that has none is a work, or was stored as words."""
        return said_by(self.source)

    @property
    def _words(self) -> str:
        if self.case == AS_WRITTEN:
            return f"findings.{AS_WRITTEN}"
        return f"findings.{self.code}.{self.case}" if self.case else f"findings.{self.code}"


def said_by(source: str) -> str:
    """Whose rule it is, in words: those of its code, or the work as it is cited."""
    return sentences().get(f"sources.{source}", source)


def stored(finding: Finding) -> dict[str, object]:
    """A finding as JSON: its code and parameters, never its words."""
    return {**vars(finding), "fixes": [dict(vars(fix)) for fix in finding.fixes]}


def from_store(kept: Mapping[str, Any]) -> Finding:
    """The finding that was stored. Raises KeyError, TypeError or ValueError for what is none, or has no words."""
    return Finding(**{**kept, "fixes": tuple(Fix(**fix) for fix in kept["fixes"])})


def in_words(finding: Finding) -> list[str]:
    """All that a finding says. Raises KeyError, TypeError or ValueError where its words cannot be made."""
    return [finding.message, finding.reason, *(fix.label for fix in finding.fixes)]


def as_written(kept: Mapping[str, Any]) -> dict[str, Any]:
    """A finding as it was stored before it had parameters, as one that keeps its text until it is judged anew."""
    if "message" not in kept:
        return dict(kept)
    return {
        **{name: kept[name] for name in ("code", "severity", "subject", "source")},
        "params": {"message": kept["message"], "reason": kept["reason"]},
        "case": AS_WRITTEN,
        "fixes": [
            {"code": AS_WRITTEN, "action": fix["action"], "value": fix["value"], "params": {"label": fix["label"]}}
            for fix in kept["fixes"]
        ],
    }


_RANK: dict[Severity, int] = {"fault": 0, "care": 1, "note": 2}


def worst_first(findings: Sequence[Finding]) -> list[Finding]:
    """The same findings, faults first, otherwise in their order."""
    return sorted(findings, key=lambda finding: _RANK[finding.severity])


def lead(findings: Sequence[Finding]) -> str:
    """The one sentence to show where there is room for one: the first that is more than a note; empty without any."""
    return next((finding.message for finding in findings if finding.severity != "note"), "")
