"""Room to grow: plants too close, too wide or too tall for their place, vines that run, and what holds them up.

Lengths are millimetres. Distances between crops are checked where plants stand, not by squares.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import TOLERANCE
from almanaque.core.garden.bed_planting import TALL_SUPPORT_MM, BedPlanting, nearest_mm
from almanaque.core.units import Units, format_length

SOURCE = "practice"
OWN = "own_rule"
PLANTS_A_POLE = 4  # climbers on one pole of a tepee: common practice, no source


def crowded(plan: BedPlanting, others: Sequence[BedPlanting], *, units: Units) -> list[Finding]:
    """Care where another crop stands closer than the mean of both spacings, less 2 %, at the same time.

    The spacing is that at which each is laid; plants among others on purpose are left out. **Source:** common practice.
    """
    found = []
    for other in others:
        if other.key == plan.key or other.on_purpose or plan.on_purpose or other.crop.key == plan.crop.key:
            continue
        if not plan.meets(other) or plan.cells & other.cells:
            continue
        wants = (plan.pitch_mm + other.pitch_mm) / 2
        near = nearest_mm(plan.positions_mm, other.positions_mm, within_mm=wants * (2 - TOLERANCE) - 0.01)
        if near < math.inf:
            found.append(
                Finding(
                    "crowded",
                    "care",
                    plan.name,
                    {
                        "other": other.name,
                        "near": format_length(near, units, feet=False),
                        "wants": format_length(wants, units, feet=False),
                    },
                    SOURCE,
                    (Fix("leave_a_square_between"),),
                )
            )
    return found


def overlaps(plan: BedPlanting, others: Sequence[BedPlanting]) -> list[Finding]:
    """A fault where another plan has the same squares on the same days; what is in the ground is judged by `bed_taken`."""
    found = []
    for other in others:
        shared = len(plan.cells & other.cells)
        if (
            other.key != plan.key
            and other.open
            and shared
            and plan.meets(other)
            and not (plan.on_purpose or other.on_purpose)
        ):
            since = max(plan.bed_from, other.bed_from)
            found.append(
                Finding(
                    "overlap",
                    "fault",
                    plan.name,
                    {"other": other.name, "shared": shared, "since": since},
                    OWN,
                    (
                        Fix("rub_one_out"),
                        Fix("or_together_on_purpose"),
                    ),
                )
            )
    return found


def own_count_close(plan: BedPlanting, *, per_square: int | None, by_spacing: int, units: Units) -> list[Finding]:
    """A note where a count set by hand puts plants closer than the crop's own spacing says."""
    if per_square is None or per_square <= max(by_spacing, plan.crop.per_square or 0):
        return []
    return [
        Finding(
            "own_count_close",
            "note",
            plan.name,
            {
                "per_square": per_square,
                "apart": format_length(plan.crop.spacing_mm, units, feet=False),
                "by_spacing": by_spacing,
            },
            SOURCE,
            (Fix("thin_in_time"),),
            case="" if by_spacing else "none",
        )
    ]


def too_wide(plan: BedPlanting, *, narrow_mm: float, units: Units) -> list[Finding]:
    """Care where the grown plant is wider than the bed or pot is at its narrow side."""
    if plan.crop.width_mm <= narrow_mm * TOLERANCE:
        return []
    return [
        Finding(
            "no_room",
            "care",
            plan.name,
            {
                "width": format_length(plan.crop.width_mm, units, feet=False),
                "narrow": format_length(narrow_mm, units, feet=False),
            },
            SOURCE,
            (Fix("wider_bed"),),
        )
    ]


def runs_out(plan: BedPlanting, *, length_mm: float, width_mm: float, units: Units) -> list[Finding]:
    """A note where vines run farther than the bed's edge. A climber that has its support stays."""
    reach = plan.crop.sprawls_mm
    if reach is None or not plan.positions_mm or plan.crop.climbs:
        return []
    beyond = max(reach - min(x, y, length_mm - x, width_mm - y) for x, y in plan.positions_mm)
    if beyond <= 0:
        return []
    return [
        Finding(
            "runs_out",
            "note",
            plan.name,
            {"beyond": format_length(_round_up(beyond, units), units), "reach": format_length(reach, units)},
            SOURCE,
            (Fix("keep_the_path_clear"),),
        )
    ]


@dataclass(frozen=True)
class Supports:
    """How many of which support a planting needs, and in words."""

    kind: str
    count: int
    length_mm: float
    words: str


def supports(plan: BedPlanting, others: Sequence[BedPlanting], *, cell_mm: float, units: Units) -> Supports | None:
    """Cages and stakes for each plant, poles for every four, a trellis along every two squares; none for a climber on a neighbour.

    **Source:** common practice, no source.
    """
    kind = plan.crop.support_kind
    if not kind or not plan.positions_mm or carriers(plan, others):
        return None
    plants = len(plan.positions_mm)
    if kind == "trellis":
        across = 1 + max(c for c, _ in plan.cells) - min(c for c, _ in plan.cells)
        down = 1 + max(r for _, r in plan.cells) - min(r for _, r in plan.cells)
        long, lines = max(across, down) * cell_mm, math.ceil(min(across, down) / 2)
        each = format_length(_round_up(long, units), units)
        return Supports(kind, lines, lines * long, f"{lines} trellis{'es' if lines > 1 else ''} of {each}")
    count = math.ceil(plants / PLANTS_A_POLE) if kind == "poles" else plants
    word = {"poles": "pole", "cage": "cage", "stake": "stake"}[kind]
    return Supports(kind, count, 0.0, f"{count} {word}{'' if count == 1 else 's'}")


def carriers(plan: BedPlanting, others: Sequence[BedPlanting]) -> list[BedPlanting]:
    """Neighbours in the same squares on which a climber among others on purpose goes up: tall ones, or those with a support."""
    if not plan.crop.climbs or not plan.on_purpose:
        return []
    return [
        other
        for other in others
        if other.key != plan.key
        and other.meets(plan)
        and other.cells & plan.cells
        and not other.on_purpose
        and (other.crop.support or other.crop.height_mm >= TALL_SUPPORT_MM)
    ]


def support_findings(
    plan: BedPlanting, others: Sequence[BedPlanting], *, cell_mm: float, units: Units
) -> list[Finding]:
    """What holds it up: a neighbour, or how many of which support."""
    held_by = carriers(plan, others)
    if held_by:
        carrier = held_by[0]
        return [
            Finding(
                "climbs_on",
                "note",
                plan.name,
                {"carrier": carrier.name.lower(), "support": carrier.crop.support_kind},
                SOURCE,
                case="on_support" if carrier.crop.support else "",
            )
        ]
    needed = supports(plan, others, cell_mm=cell_mm, units=units)
    if needed is None:
        return []
    return [
        Finding(
            "needs_support",
            "note",
            plan.name,
            {"supports": needed.words},
            SOURCE,
        )
    ]


def _round_up(mm: float, units: Units) -> float:
    """To the next half foot, or 10 cm."""
    step = 152.4 if units == "us" else 100.0
    return math.ceil(mm / step - 1e-6) * step
