"""Saving seed: which plantings can, how many plants it takes, what it crosses with, and when it is dry."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix
from almanaque.core.units import Units

PRACTICE = "common practice of seed savers, no source"


@dataclass(frozen=True)
class Saving:
    """How a crop's seed is saved: who pollinates it, least plants to keep it healthy, in which year it seeds, when and how it is taken."""

    pollinated: Literal["self", "insects", "wind"]
    plants: int
    second_year: bool
    sign: str
    how: str


@dataclass(frozen=True)
class Other:
    """Another planting of the same species that flowers at the same time."""

    name: str
    bed: str


def species(crop: Crop) -> str:
    """Genus and species, by which crops cross: `Brassica oleracea`."""
    return " ".join(crop.botanical.split()[:2])


def judge(
    crop: Crop,
    saving: Saving,
    *,
    plants: int,
    others: Sequence[Other],
    hybrid: bool,
    units: Units,
    bolted: bool = False,
) -> list[Finding]:
    """What speaks for and against saving seed of a planting, the worst first; only notes when nothing does.

    `others` are plantings of its species in the garden, other varieties and crops alike. **Source:** common practice of seed savers.
    """
    name = crop.name.en
    found: list[Finding] = []
    if hybrid:
        found.append(
            Finding(
                "seed_hybrid",
                "fault",
                name,
                f"{name} was grown from hybrid seed, so its seed will not come true.",
                "A hybrid's children are all different.",
                PRACTICE,
                (Fix("Save it for the curious only, and say so on the label"),),
            )
        )
    if bolted and saving.pollinated != "self":
        found.append(
            Finding(
                "seed_bolted",
                "care",
                name,
                f"{name} bolted early; its seed would pass that on.",
                "Plants that flower first give seed that flowers first.",
                PRACTICE,
                (Fix("Keep seed of the last to bolt"),),
            )
        )
    if others and saving.pollinated != "self":
        where = ", ".join(f"{other.name} in {other.bed}" for other in others[:3])
        found.append(
            Finding(
                "seed_crosses",
                "fault",
                name,
                f"{name} may cross with {where}.",
                f"They are one species, {species(crop)}, and {saving.pollinated} carry their pollen.",
                PRACTICE,
                (Fix("Let only one of them flower, or bag the flowers"),),
            )
        )
    elif saving.pollinated != "self":
        far = _far(crop.isolation_m, units) if crop.isolation_m else "a good distance"
        found.append(
            Finding(
                "seed_isolation",
                "care",
                name,
                f"{name} wants {far} from others that flower: {crop.crosses_with or species(crop)}.",
                f"{saving.pollinated.capitalize()} carr{'ies' if saving.pollinated == 'wind' else 'y'} pollen from gardens near by.",
                PRACTICE,
                (Fix("Ask the neighbours, or expect some odd ones"),),
            )
        )
    else:
        found.append(
            Finding(
                "seed_selfs",
                "note",
                name,
                f"{name} pollinates itself and mostly comes true.",
                "Its flowers seldom cross.",
                PRACTICE,
            )
        )
    if plants < saving.plants:
        found.append(
            Finding(
                "seed_few_plants",
                "care",
                name,
                f"{plants} plants are few for seed; {saving.plants} keep it healthy.",
                "Seed of few plants loses vigour over the years."
                if saving.pollinated != "self"
                else "One plant may be an odd one.",
                PRACTICE,
                (Fix("Mix it with seed of others of its kind now and then"),),
            )
        )
    if saving.second_year:
        found.append(
            Finding(
                "seed_second_year",
                "note",
                name,
                f"{name} gives seed in its second year.",
                "It must stand or be stored over winter first.",
                PRACTICE,
                (Fix("Plan to leave it in, or to set the roots again"),),
            )
        )
    order = {"fault": 0, "care": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])


def _far(metres: float, units: Units) -> str:
    """A distance between gardens, to the hundred feet or as the table has it in metres."""
    return f"{round(metres / 0.3048, -2):,.0f} ft" if units == "us" else f"{metres:,.0f} m"
