"""Saving seed: which plantings can, how many plants it takes, what it crosses with, and when it is dry."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix
from almanaque.core.units import Units, format_stretch
from almanaque.core.words import Phrase

PRACTICE = "practice_of_seed_savers"


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
                {"name": name},
                PRACTICE,
                (Fix("for_the_curious"),),
            )
        )
    if bolted and saving.pollinated != "self":
        found.append(
            Finding(
                "seed_bolted",
                "care",
                name,
                {"name": name},
                PRACTICE,
                (Fix("seed_of_last_to_bolt"),),
            )
        )
    if others and saving.pollinated != "self":
        where = ", ".join(f"{other.name} in {other.bed}" for other in others[:3])
        found.append(
            Finding(
                "seed_crosses",
                "fault",
                name,
                {"name": name, "others": where, "species": species(crop), "pollinated": saving.pollinated},
                PRACTICE,
                (Fix("let_one_flower"),),
            )
        )
    elif saving.pollinated != "self":
        found.append(
            Finding(
                "seed_isolation",
                "care",
                name,
                {
                    "name": name,
                    "far": format_stretch(crop.isolation_m, units)
                    if crop.isolation_m
                    else Phrase("findings.part.good_distance"),
                    "others": crop.crosses_with or species(crop),
                    "pollinated": saving.pollinated,
                },
                PRACTICE,
                (Fix("ask_the_neighbours"),),
                case="by_wind" if saving.pollinated == "wind" else "",
            )
        )
    else:
        found.append(
            Finding(
                "seed_selfs",
                "note",
                name,
                {"name": name},
                PRACTICE,
            )
        )
    if plants < saving.plants:
        found.append(
            Finding(
                "seed_few_plants",
                "care",
                name,
                {"plants": plants, "enough": saving.plants},
                PRACTICE,
                (Fix("mix_with_others"),),
                case="of_itself" if saving.pollinated == "self" else "",
            )
        )
    if saving.second_year:
        found.append(
            Finding(
                "seed_second_year",
                "note",
                name,
                {"name": name},
                PRACTICE,
                (Fix("plan_to_leave_it_in"),),
            )
        )
    order = {"fault": 0, "care": 1, "note": 2}
    return sorted(found, key=lambda finding: order[finding.severity])
