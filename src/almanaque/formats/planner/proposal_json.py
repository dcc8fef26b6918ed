"""A proposal as JSON: as `calc plan` answers it, and as it is kept, with the keys that lead back to wishes and beds."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from typing import Any

from almanaque.core.findings import Finding, stored
from almanaque.core.garden.bed import cell_name
from almanaque.core.garden.spacing import reading_order
from almanaque.core.planner.proposal import LeftOut, PlacedWish, SeasonPlan


def answer(found: SeasonPlan) -> dict[str, Any]:
    """What docs/calc.md tells of."""
    m = found.measures
    return {
        "wishes": m.wishes,
        "granted": m.granted,
        "musts": m.musts,
        "musts_granted": m.musts_granted,
        "expected": m.expected,
        "gap": round(found.gap, 4),
        "proved": found.proved,
        "placed": [{**_line(placed), "reasons": _messages(placed.findings)} for placed in found.placed],
        "left": [
            {"wish": left.wish.text, "reasons": [f.message for f in left.findings], "enters": []} for left in found.left
        ],
        "clash": [wish.text for wish in found.clash],
        "measures": measured(found),
        "beaten": found.beaten,
    }


def kept(found: SeasonPlan, said: Mapping[str, Sequence[Finding]] | None = None) -> dict[str, Any]:
    """The same to be kept: with the keys of wishes, and judgements by their codes. `said` is what was found out of wishes left out."""
    m = found.measures
    return {
        "counts": {name: getattr(m, name) for name in ("wishes", "granted", "musts", "musts_granted", "expected")},
        "placed": [
            {
                **_line(placed),
                "key": placed.wish.key,
                "filling": placed.wish.origin == "filling",
                "kept": placed.kept,
                "held_longer": placed.held_longer,
                "findings": [stored(finding) for finding in placed.findings],
            }
            for placed in found.placed
        ],
        "left": [_left(left, (said or {}).get(left.wish.key)) for left in found.left],
        "clash": [wish.text for wish in found.clash],
        "measures": measured(found),
    }


def _left(left: LeftOut, said: Sequence[Finding] | None) -> dict[str, Any]:
    return {
        "key": left.wish.key,
        "wish": left.wish.text,
        "weight": left.wish.weight,
        "asked": said is not None,
        "findings": [stored(finding) for finding in (left.findings if said is None else said)],
    }


def measured(found: SeasonPlan) -> dict[str, int]:
    """What the plan comes to, by the aims."""
    m = found.measures
    names = (
        "classes",
        "sowing_classes",
        "picking_classes",
        "not_rested",
        "kinds",
        "break_beds",
        "minutes",
        "cost",
        "filled",
    )
    return {name: getattr(m, name) for name in names}


def _messages(findings: Iterable[Finding]) -> list[str]:
    return [finding.message for finding in findings if finding.severity != "note"]


def _line(placed: PlacedWish) -> dict[str, Any]:
    dates, way = placed.dates, placed.way

    def day(when: date) -> str:
        return when.isoformat()

    return {
        "wish": placed.wish.text,
        "crop": way.crop,
        "method": way.method,
        "cover": way.cover,
        "bed": way.bed,
        "squares": [cell_name(cell) for cell in sorted(placed.cells, key=reading_order)],
        "plants": placed.plants,
        "class": placed.group,
        "start": day(way.start),
        "bed_from": day(dates.bed_from),
        "first_pick": {
            "p10": day(dates.first_pick_early),
            "p50": day(dates.first_pick),
            "p90": day(dates.first_pick_late),
        },
        "last_pick": day(dates.last_pick),
        "clear_by": day(dates.clear_by),
        "chance": round(placed.chance, 3) if placed.measured else None,
        "verdict": placed.verdict,
        "rested": placed.rested,
        "cost": placed.cost,
    }
