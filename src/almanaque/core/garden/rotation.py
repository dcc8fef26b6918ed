"""Rotation: how many years a family has rested where it is to stand again, by square and by bed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import Cell

SOURCE = "practice_of_rotation"
LEAST_YEARS, MOST_YEARS = 2, 4  # that a family rests: common practice, no source


@dataclass(frozen=True)
class Stood:
    """What stood in a bed: its family, squares and its last day there."""

    family: str
    crop: str
    cells: frozenset[Cell]
    bed_to: date


def years_rested(
    family: str, cells: frozenset[Cell] | None, start: date, history: Sequence[Stood]
) -> tuple[int, Stood] | None:
    """Years from the family's last stand in these squares (in the whole bed without squares) to a start, and that stand.

    Counted by the calendar year: what left the bed in 2026 and comes back in 2028 has rested 2. None when it never stood.
    """
    earlier = [
        stood
        for stood in history
        if stood.family == family and stood.bed_to < start and (cells is None or stood.cells & cells)
    ]
    if not earlier:
        return None
    last = max(earlier, key=lambda stood: stood.bed_to)
    return start.year - last.bed_to.year, last


def back_soon(
    crop: str,
    family: str,
    cells: frozenset[Cell],
    start: date,
    history: Sequence[Stood],
    *,
    rest_years: int,
    free_beds: Sequence[tuple[str, str]] = (),
    family_names: Mapping[str, str] | None = None,
) -> list[Finding]:
    """Care when a family comes back to its own squares too soon, a note when only to its bed.

    `free_beds` are beds in which the family has rested long enough, by name and key. **Source:** common practice, no source.
    """
    here, in_bed = years_rested(family, cells, start, history), years_rested(family, None, start, history)
    if in_bed is None or in_bed[0] >= rest_years:
        return []
    family_words = (family_names or {}).get(family, family)
    rested = [Fix("rested", "bed", key, params={"name": name}) for name, key in free_beds[:2]]
    fixes = tuple(rested) or (Fix("other_bed_or_family"),)
    if here is not None and here[0] < rest_years:
        years, stood = here
        left = rest_years - years
        return [
            Finding(
                "family_back_soon",
                "care",
                crop,
                {
                    "crop": stood.crop,
                    "bed_to": stood.bed_to,
                    "family_words": family_words,
                    "rest_years": rest_years,
                    "left": left,
                },
                SOURCE,
                fixes,
            )
        ]
    years, stood = in_bed
    return [
        Finding(
            "family_back_soon",
            "note",
            crop,
            {
                "crop": stood.crop,
                "bed_to": stood.bed_to,
                "family_words": family_words,
                "rest_years": rest_years,
                "left": rest_years - years,
            },
            SOURCE,
            fixes,
            case="in_bed",
        )
    ]


def _month(day: date) -> str:
    return f"{day:%B} {day.year}"
