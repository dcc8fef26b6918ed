"""Room to grow: plants too close, too wide or too tall for their place, vines that run, and what holds them up.

Lengths are millimetres. Distances between crops are checked where plants stand, not by squares.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.findings import Finding, Fix, short_day
from almanaque.core.garden.bed import TOLERANCE
from almanaque.core.garden.bed_planting import TALL_SUPPORT_MM, BedPlanting, nearest_mm
from almanaque.core.units import Units, format_length

SOURCE = "common practice, no source"
OWN = "our own rule"
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
                    f"{other.name} stands {format_length(near, units, feet=False)} away.",
                    f"The mean of their spacings is {format_length(wants, units, feet=False)}.",
                    SOURCE,
                    (Fix("Leave a square between them, or say that they stand together on purpose"),),
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
                    f"{other.name} is planned in {shared} of these squares at the same time.",
                    f"Both stand there from {short_day(since)}.",
                    OWN,
                    (
                        Fix("Rub one of them out, or move its first day"),
                        Fix("Or say that they stand together on purpose"),
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
            f"{per_square} in a square is your own count.",
            f"At {format_length(plan.crop.spacing_mm, units, feet=False)} apart there would be {by_spacing or 'less than 1'}.",
            SOURCE,
            (Fix("Thin in time, or leave the count empty"),),
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
            f"The grown plant is {format_length(plan.crop.width_mm, units, feet=False)} wide.",
            f"The bed is {format_length(narrow_mm, units, feet=False)} at its narrow side.",
            SOURCE,
            (Fix("Choose a wider bed, or let it hang over where nobody walks"),),
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
            f"Its vines run up to {format_length(_round_up(beyond, units), units)} beyond the bed.",
            f"They grow about {format_length(reach, units)} long.",
            SOURCE,
            (Fix("Keep the path clear, or turn the tips back"),),
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
        neighbour = held_by[0].name.lower()
        what = f"the {neighbour}'s {held_by[0].crop.support_kind}" if held_by[0].crop.support else f"the {neighbour}"
        return [
            Finding(
                "climbs_on",
                "note",
                plan.name,
                f"It climbs on {what} in the same squares.",
                "No other support is needed; sow it when its neighbour is a hand high.",
                SOURCE,
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
            f"It wants {needed.words}.",
            "Put them up before it needs them. Canes and stakes end at eye height: cap them.",
            SOURCE,
        )
    ]


def _round_up(mm: float, units: Units) -> float:
    """To the next half foot, or 10 cm."""
    step = 152.4 if units == "us" else 100.0
    return math.ceil(mm / step - 1e-6) * step
