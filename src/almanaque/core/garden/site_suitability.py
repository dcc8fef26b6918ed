"""Is this the place for it: light, depth, what the soil is, what walks past, and what gets out of hand."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed_planting import BedPlanting
from almanaque.core.place.shade import light_words
from almanaque.core.units import Units, format_length
from almanaque.core.words import Phrase, term
from almanaque.core.words.days import until

PRACTICE = "practice"
COMPUTED = "sun_computed"
ORGANIC = "USDA National Organic Program, 7 CFR 205.203(c)(1): 120 days where the crop touches soil, else 90"
LABORATORY = "laboratory"
MANURE_DAYS = {True: 120, False: 90}
NIBBLE_MM, POISON_MM = 1500.0, 600.0  # how far a child reaches in passing: our own rule
LEAD_CAUTION_PPM = (
    100.0  # from memory; guidance differs between 80 and 400 by state and by use, so the laboratory decides
)
POTS = frozenset({"container", "fabric pot", "planter", "sill"})
Feeding = Literal["compost", "fertiliser"]
DEPTH_ENOUGH = 0.9  # share of the wanted depth of soil that does, an inch in a foot: our own rule

TREE_MM = 3000  # what is taller is said to be far taller


@dataclass(frozen=True)
class Soil:
    """The newest soil test of a bed, as the laboratory wrote it."""

    taken_on: date
    ph: float | None = None
    nitrogen: str = ""
    phosphorus: str = ""
    potassium: str = ""
    lead_ppm: float | None = None


@dataclass(frozen=True)
class Closed:
    starts: date
    ends: date
    reason: str


def light(plan: BedPlanting, hours: float | None, *, shaded_by: str = "") -> list[Finding]:
    """Care for a crop in less sun than it wants; `hours` is the mean over its squares in the middle of its growth."""
    if hours is None or hours >= plan.crop.sun_least_h - 0.05:
        return []
    return [
        Finding(
            "little_sun",
            "care",
            plan.name,
            {
                "hours": hours,
                "light": light_words(hours),
                "wanted": plan.crop.sun_least_h,
                "middle": plan.middle,
                "shaded_by": shaded_by,
            },
            COMPUTED,
            (Fix("sunnier_bed"),),
            case="shaded" if shaded_by else "",
        )
    ]


def shaded(plan: BedPlanting, tall: BedPlanting, *, without: float, hours: float) -> list[Finding]:
    """Care where a taller plant takes more than an hour of a lower one's sun and leaves less than it wants; else a note."""
    if without - hours < 1.0:
        return []
    short = hours < plan.crop.sun_least_h
    return [
        Finding(
            "shaded_by_plant",
            "care" if short else "note",
            plan.name,
            {
                "tall": tall.name,
                "taken": without - hours,
                "left": hours,
                "middle": plan.middle,
                "wanted": plan.crop.sun_least_h,
            },
            COMPUTED,
            (Fix("tall_one_to_the_side"),) if short else (),
            case="by_a_tree" if tall.crop.height_mm >= TREE_MM else "",
        )
    ]


def depth(
    plan: BedPlanting, depth_mm: float, *, units: Units, beds: Sequence[tuple[str, str, float]] = ()
) -> list[Finding]:
    """Care where the roots want more soil than there is; of other `beds` (name, key, depth in mm) two that are deep enough are named."""
    if depth_mm >= plan.crop.soil_least_mm * DEPTH_ENOUGH:
        return []
    deep = [
        Fix("deep_enough", "bed", key, params={"name": name})
        for name, key, deep_mm in beds
        if deep_mm >= plan.crop.soil_least_mm * DEPTH_ENOUGH
    ]
    return [
        Finding(
            "soil_shallow",
            "care",
            plan.name,
            {
                "depth": format_length(depth_mm, units, feet=False),
                "wanted": format_length(plan.crop.soil_least_mm, units, feet=False),
            },
            PRACTICE,
            tuple(deep[:2]) or (Fix("deeper_bed"),),
        )
    ]


def soil(plan: BedPlanting, test: Soil | None, feeding: Feeding) -> list[Finding]:
    """What the crop would like against what was measured; the laboratory's advice comes first."""
    if test is None:
        return []
    found, crop = [], plan.crop
    likes = {"ph": test.ph, "least": crop.ph[0], "most": crop.ph[1]}
    if test.ph is not None and test.ph < crop.ph[0] - 0.05:
        found.append(
            Finding(
                "soil_sour",
                "care",
                plan.name,
                likes,
                LABORATORY,
                (Fix("lime"),),
            )
        )
    if test.ph is not None and test.ph > crop.ph[1] + 0.05:
        found.append(
            Finding(
                "soil_sweet",
                "care",
                plan.name,
                likes,
                LABORATORY,
                (Fix("sulphur"),),
            )
        )
    low = [
        Phrase(f"findings.part.{word}")
        for word, value in (("nitrogen", test.nitrogen), ("phosphorus", test.phosphorus), ("potassium", test.potassium))
        if value == "low"
    ]
    if low and crop.feeding == "heavy":
        found.append(
            Finding(
                "soil_poor",
                "care",
                plan.name,
                {"low": low, "count": len(low), "taken_on": test.taken_on},
                LABORATORY,
                (Fix(f"feed_with_{feeding}"),),
            )
        )
    if test.lead_ppm is not None and test.lead_ppm >= LEAD_CAUTION_PPM:
        found.append(
            Finding(
                "soil_lead",
                "fault",
                plan.name,
                {"lead_ppm": test.lead_ppm},
                LABORATORY,
                (Fix("laboratory_first"),),
            )
        )
    return found


def manure(plan: BedPlanting, raw_manure_on: Sequence[date]) -> list[Finding]:
    """A fault where picking begins within 120 days of raw manure, 90 where the part eaten does not touch the soil."""
    days = MANURE_DAYS[plan.crop.touches_soil]
    found = []
    for day in raw_manure_on:
        safe = day + timedelta(days=days)
        if day <= plan.last_pick and plan.first_pick < safe:
            found.append(
                Finding(
                    "manure_days",
                    "fault",
                    plan.name,
                    {"spread": day, "safe": safe, "days": days},
                    ORGANIC,
                    (Fix("later_or_composted_manure"),),
                    case="touches" if plan.crop.touches_soil else "",
                )
            )
    return found


def out_of_hand(
    plan: BedPlanting, bed_kind: str, invasive_here: Sequence[str], *, fought: str = "", region: str = ""
) -> list[Finding]:
    """Care for what takes over outside a pot, for what the school's own list calls invasive here, or the table for the region.

    `fought` tells how it runs wild in the school's `region`; the school's own list goes before.
    """
    found = []
    if plan.crop.spreads and bed_kind not in POTS:
        found.append(
            Finding(
                "spreads",
                "care",
                plan.name,
                {},
                PRACTICE,
                (Fix("in_a_pot"),),
            )
        )
    listed = {word.strip().lower() for word in invasive_here if word.strip()}
    if listed & {plan.crop.key, plan.crop.name.en.lower(), plan.crop.botanical.lower()}:
        found.append(
            Finding(
                "invasive",
                "fault",
                plan.name,
                {},
                "school_list",
                (Fix("something_else"),),
            )
        )
    elif fought:
        found.append(
            Finding(
                "invasive",
                "care",
                plan.name,
                {"region": term("region", region), "fought": fought},
                "memory",
                (Fix("ask_before_planting"),),
                case="in_region",
            )
        )
    return found


def by_the_path(plan: BedPlanting, path_mm: float | None) -> list[Finding]:
    """Notes by the distance to the nearest path: things nibbled in passing far from it, poisonous ones beside it."""
    if path_mm is None:
        return []
    found = []
    if plan.crop.nibbled and path_mm > NIBBLE_MM:
        found.append(
            Finding(
                "nibbled_far",
                "note",
                plan.name,
                {},
                PRACTICE,
                (Fix("reached_from_the_path"),),
            )
        )
    if plan.crop.poisonous and path_mm < POISON_MM:
        found.append(
            Finding(
                "poisonous_near",
                "note",
                plan.name,
                {"poisonous": plan.crop.poisonous},
                PRACTICE,
                (Fix("middle_or_back"),),
            )
        )
    return found


def closed(plan: BedPlanting, closures: Sequence[Closed]) -> list[Finding]:
    """A fault where it would still stand there, or already, while the bed is closed."""
    return [
        Finding(
            "bed_closed",
            "fault",
            plan.name,
            {
                "starts": shut.starts,
                "ends": shut.ends,
                "reason": shut.reason,
                "bed_from": plan.bed_from,
                "until": until(plan.bed_to, plan.bed_from),
            },
            "school_plan",
            (Fix("sooner_or_later"), Fix("or_move_the_work")) if plan.open else (Fix("move_or_clear"),),
        )
        for shut in closures
        if plan.bed_from <= shut.ends and shut.starts <= plan.bed_to
    ]


def closed_bed(name: str, shut: Closed, standing: Sequence[tuple[str, date]], *, page: str) -> Finding:
    """What a closure means for a bed: a fault while `standing` (crop and last day) would be there, else a note."""
    still = ", ".join(f"{crop.lower()} {until(last, shut.starts)}" for crop, last in standing)
    return Finding(
        "bed_closed",
        "fault" if standing else "note",
        name,
        {"bed": name, "starts": shut.starts, "ends": shut.ends, "reason": shut.reason, "standing": still},
        "school_plan",
        (Fix("see_what_stands_there", "page", page),),
        case="planted" if standing else "empty",
    )


def kept_later(plan: BedPlanting, kept: Sequence[tuple[str, date | None, date | None]]) -> list[Finding]:
    """A fault where squares are kept for something else on some of its days; `kept` are those that meet its squares."""
    return [
        Finding(
            "kept_later",
            "fault",
            plan.name,
            {"label": label, "first": first, "until": until(plan.bed_to, plan.bed_from)},
            "own_rule",
            (Fix("other_squares_or_days"),),
            case="from_a_day" if first else "",
        )
        for label, first, last in kept
        if (first is None or first <= plan.bed_to) and (last is None or last >= plan.bed_from)
    ]
