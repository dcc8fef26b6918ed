"""Is this the place for it: light, depth, what the soil is, what walks past, and what gets out of hand."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from almanaque.core.findings import Finding, Fix, short_day, until
from almanaque.core.garden.bed_planting import BedPlanting
from almanaque.core.place.shade import light_words
from almanaque.core.units import Units, format_length

PRACTICE = "common practice, no source"
COMPUTED = "computed from where the sun stands and what is on the map"
ORGANIC = "USDA National Organic Program, 7 CFR 205.203(c)(1): 120 days where the crop touches soil, else 90"
LABORATORY = "your laboratory's result; its advice and local health rules come first"
MANURE_DAYS = {True: 120, False: 90}
NIBBLE_MM, POISON_MM = 1500.0, 600.0  # how far a child reaches in passing: our own rule
LEAD_CAUTION_PPM = (
    100.0  # from memory; guidance differs between 80 and 400 by state and by use, so the laboratory decides
)
POTS = frozenset({"container", "fabric pot", "planter", "sill"})
Feeding = Literal["compost", "fertiliser"]
DEPTH_ENOUGH = 0.9  # share of the wanted depth of soil that does, an inch in a foot: our own rule


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
    why = f" {shaded_by} takes some of it." if shaded_by else ""
    return [
        Finding(
            "little_sun",
            "care",
            plan.name,
            f"It gets {hours:.1f} h of direct sun here, {light_words(hours)}.",
            f"It wants {plan.crop.sun_least_h:g} h in {plan.middle:%B}.{why}",
            COMPUTED,
            (Fix("Choose a sunnier bed, or a leaf crop here"),),
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
            f"{tall.name}, {'taller' if tall.crop.height_mm < 3000 else 'far taller'}, takes {without - hours:.1f} h of its sun.",
            f"{hours:.1f} h are left in {plan.middle:%B}; it wants {plan.crop.sun_least_h:g}.",
            COMPUTED,
            (Fix("Put the tall one on the side away from the noon sun"),) if short else (),
        )
    ]


def depth(plan: BedPlanting, depth_mm: float, *, units: Units) -> list[Finding]:
    """Care where the roots want more soil than there is."""
    if depth_mm >= plan.crop.soil_least_mm * DEPTH_ENOUGH:
        return []
    return [
        Finding(
            "soil_shallow",
            "care",
            plan.name,
            f"The soil is {format_length(depth_mm, units, feet=False)} deep.",
            f"It wants {format_length(plan.crop.soil_least_mm, units, feet=False)}.",
            PRACTICE,
            (Fix("Choose a deeper bed, or a variety with short roots"),),
        )
    ]


def soil(plan: BedPlanting, test: Soil | None, feeding: Feeding) -> list[Finding]:
    """What the crop would like against what was measured; the laboratory's advice comes first."""
    if test is None:
        return []
    found, crop = [], plan.crop
    likes = f"It likes pH {crop.ph[0]:g} to {crop.ph[1]:g}."
    if test.ph is not None and test.ph < crop.ph[0] - 0.05:
        found.append(
            Finding(
                "soil_sour",
                "care",
                plan.name,
                f"The soil was measured at pH {test.ph:.1f}, sour for it.",
                likes,
                LABORATORY,
                (Fix("Lime by the laboratory's amount, months ahead"),),
            )
        )
    if test.ph is not None and test.ph > crop.ph[1] + 0.05:
        found.append(
            Finding(
                "soil_sweet",
                "care",
                plan.name,
                f"The soil was measured at pH {test.ph:.1f}, sweet for it.",
                likes,
                LABORATORY,
                (Fix("Ask the laboratory about sulphur, or choose another crop"),),
            )
        )
    low = [
        word
        for word, value in (("nitrogen", test.nitrogen), ("phosphorus", test.phosphorus), ("potassium", test.potassium))
        if value == "low"
    ]
    if low and crop.feeding == "heavy":
        advice = {
            "compost": "Dig in 2 to 4 in (5 to 10 cm) of compost",
            "fertiliser": "Feed with an organic fertiliser by its label",
        }
        found.append(
            Finding(
                "soil_poor",
                "care",
                plan.name,
                f"It feeds heavily, and {' and '.join(low)} {'was' if len(low) == 1 else 'were'} low.",
                f"Measured {short_day(test.taken_on)}.",
                LABORATORY,
                (Fix(advice[feeding]),),
            )
        )
    if test.lead_ppm is not None and test.lead_ppm >= LEAD_CAUTION_PPM:
        found.append(
            Finding(
                "soil_lead",
                "fault",
                plan.name,
                f"The laboratory found {test.lead_ppm:g} ppm of lead here.",
                "Food from this soil, roots and leaves above all, and hands in it can carry lead.",
                LABORATORY,
                (Fix("Do not plant food here before the laboratory and the health office have said how"),),
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
            touch = "touches" if plan.crop.touches_soil else "does not touch"
            found.append(
                Finding(
                    "manure_days",
                    "fault",
                    plan.name,
                    f"Raw manure went on {short_day(day)}; nothing is to be picked before {short_day(safe)}.",
                    f"What is eaten {touch} the soil, so {days} days must pass.",
                    ORGANIC,
                    (Fix("Choose a later first day, another crop, or only composted manure"),),
                )
            )
    return found


def out_of_hand(plan: BedPlanting, bed_kind: str, invasive_here: Sequence[str]) -> list[Finding]:
    """Care for what takes over outside a pot, and for what the school's own list calls invasive here."""
    found = []
    if plan.crop.spreads and bed_kind not in POTS:
        found.append(
            Finding(
                "spreads",
                "care",
                plan.name,
                "It takes over a bed by its runners or seed.",
                "Work for years to come; in a pot it stays.",
                PRACTICE,
                (Fix("Plant it in a pot, or cut the runners every month"),),
            )
        )
    listed = {word.strip().lower() for word in invasive_here if word.strip()}
    if listed & {plan.crop.key, plan.crop.name.en.lower(), plan.crop.botanical.lower()}:
        found.append(
            Finding(
                "invasive",
                "fault",
                plan.name,
                "It stands on the school's list of what is invasive here.",
                "It gets into the wild.",
                "the school's own list, from its local office",
                (Fix("Choose something else"),),
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
                "It is eaten in passing, but stands far from the path.",
                "Children tread on the bed to get at it.",
                PRACTICE,
                (Fix("Put it where it is reached from the path"),),
            )
        )
    if plan.crop.poisonous and path_mm < POISON_MM:
        found.append(
            Finding(
                "poisonous_near",
                "note",
                plan.name,
                f"Beside the path, and poisonous: {plan.crop.poisonous}.",
                "Small hands pick in passing. Say it, and put up a sign.",
                PRACTICE,
                (Fix("Put it in the middle or at the back"),),
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
            f"The bed is closed {short_day(shut.starts)} – {short_day(shut.ends)}: {shut.reason}.",
            f"It stands there from {short_day(plan.bed_from)} {until(plan.bed_to, plan.bed_from)}.",
            "the school's own plan",
            (Fix("Start sooner or later"), Fix("Or move the work"))
            if plan.open
            else (Fix("Move the work, or clear it before"),),
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
        f"{name} is closed {short_day(shut.starts)} – {short_day(shut.ends)}: {shut.reason[:1].lower()}{shut.reason[1:]}.",
        f"Still or already there: {still}." if standing else "It is empty then.",
        "the school's own plan",
        (Fix("See what stands there, and what the rebuild takes", "page", page),),
    )


def kept_later(plan: BedPlanting, kept: Sequence[tuple[str, date | None, date | None]]) -> list[Finding]:
    """A fault where squares are kept for something else on some of its days; `kept` are those that meet its squares."""
    return [
        Finding(
            "kept_later",
            "fault",
            plan.name,
            f"{label} has these squares{f' from {short_day(first)}' if first else ''}.",
            f"The plan stands {until(plan.bed_to, plan.bed_from)}.",
            "our own rule",
            (Fix("Choose other squares or other days"),),
        )
        for label, first, last in kept
        if (first is None or first <= plan.bed_to) and (last is None or last >= plan.bed_from)
    ]
