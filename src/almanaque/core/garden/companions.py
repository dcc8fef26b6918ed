"""Neighbours: which crops are said to help or harm each other, by tradition or with evidence, always said which."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed_planting import BedPlanting, nearest_mm
from almanaque.core.words import term

Companionship = Literal["off", "evidence", "traditional"]
Evidence = Literal["evidence", "own", "traditional"]
# Plants whose scent, sap or visitors are said to keep pests from others, whichever: common practice, no source.
REPELLENTS = (
    "marigold",
    "basil",
    "nasturtium",
    "scallion",
    "garlic",
    "dill",
    "cilantro",
    "alyssum",
    "borage",
    "calendula",
)
BESIDE_MM = 600.0  # how far a neighbour is a neighbour: our own rule


@dataclass(frozen=True)
class Pair:
    """Two crops (or a family as `family:Name`), good or bad for each other; `source` names the evidence or says there is none."""

    a: str
    b: str
    effect: Literal["good", "bad"]
    kind: Evidence
    reason: str
    source: str

    def __post_init__(self) -> None:
        if self.effect not in ("good", "bad") or self.kind not in ("evidence", "own", "traditional"):
            raise ValueError(f"{self.a} and {self.b}: effect is good or bad, kind evidence, own or traditional")
        if not self.reason.strip() or not self.source.strip():
            raise ValueError(f"{self.a} and {self.b}: reason and source are missing")


def between(one: BedPlanting, two: BedPlanting, pairs: Sequence[Pair], practice: Companionship) -> list[Pair]:
    """What is said of two plantings, those with evidence first; nothing when the school does not want to hear it."""
    return of_crops(one.crop, two.crop, pairs, practice)


def of_crops(one: Crop, two: Crop, pairs: Sequence[Pair], practice: Companionship) -> list[Pair]:
    """The same of two crops."""
    if practice == "off":
        return []
    names = [{crop.kind, f"family:{crop.family}"} for crop in (one, two)]
    found = [
        pair
        for pair in pairs
        if (pair.kind != "traditional" or practice == "traditional")
        and ((pair.a in names[0] and pair.b in names[1]) or (pair.b in names[0] and pair.a in names[1]))
    ]
    return sorted(found, key=lambda pair: pair.kind)


def neighbours(
    plan: BedPlanting, others: Sequence[BedPlanting], pairs: Sequence[Pair], practice: Companionship
) -> list[Finding]:
    """Notes on a plan and what stands within two feet of it at the same time; harm with evidence asks for care."""
    found: dict[tuple[str, str], Finding] = {}
    for other in others:
        if other.key == plan.key or other.crop.key == plan.crop.key or not plan.meets(other):
            continue
        said = between(plan, other, pairs, practice)
        if not said or nearest_mm(plan.positions_mm, other.positions_mm, within_mm=BESIDE_MM) > BESIDE_MM:
            continue
        pair = said[0]
        kind = term("evidence", pair.kind)
        if pair.effect == "good":
            found[(pair.effect, other.name)] = Finding(
                "good_neighbours",
                "note",
                plan.name,
                {"other": other.name, "kind": kind, "reason": pair.reason},
                pair.source,
            )
        else:
            found[(pair.effect, other.name)] = Finding(
                "bad_neighbours",
                "care" if pair.kind == "evidence" else "note",
                plan.name,
                {"other": other.name, "kind": kind, "reason": pair.reason},
                pair.source,
                (Fix("something_else_between"),),
            )
    return list(found.values())
