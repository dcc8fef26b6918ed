"""The verdict, written once: what is to be said of weighed days, by code, and how grave each of it is.

A table of codes against days. `sowing_days` takes the verdict of a day from it, `fit_findings` the findings with their words.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from almanaque.core.findings import Severity
from almanaque.core.growth.crop_runs import Outcome

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
Grave = npt.NDArray[np.int8]

NONE, NOTE, CARE, FAULT = range(4)
SEVERITIES: tuple[Severity | None, ...] = (None, "note", "care", "fault")

CARE_SHARE, FAULT_SHARE = 0.10, 0.50  # share of years with a loss that asks for care, and that makes it miss
SOME_SHARE = 0.25  # share of years in which flowers drop that asks for care: they come again: our own rule
SURE_SHARE = 0.80  # share of years in which the picking must meet its lessons
FEW_YEARS = 5  # of a record, below which nothing is said of all years: common practice, no source

LOSSES: dict[Outcome, str] = {
    Outcome.NO_GROUND: "no_ground",
    Outcome.NOT_UP: "not_up",
    Outcome.CHILLED: "chilled",
    Outcome.FROZEN: "frost_risk",
    Outcome.HEAT: "heat_risk",
    Outcome.NO_COLD: "no_cold",
    Outcome.BOLTED: "bolts_in_spring",
    Outcome.NOT_RIPE: "not_ripe",
}


@dataclass(frozen=True)
class Work:
    """A work that somebody must be there for, by day: whether the calendar reaches it, somebody is here, a class has a lesson."""

    reached: Bools
    here: Bools
    lesson: Bools


@dataclass(frozen=True)
class Counts:
    """What a verdict rests on, arrays (days,) of numbers of years, `outcomes` (days, kinds).

    `works` are sowing indoors (`start`) and what is done in the bed (`bed`). `first_reached` tells whether the calendar
    reaches the first picking, `in_break` whether it lies in a break, `usual` whether the start lies in the usual weeks,
    `in_chart` in the months of the local office's chart where a record speaks beside it.
    """

    measured: bool
    chart_leads: bool
    seasons: int
    for_guests: Bools
    of: Ints
    outcomes: Ints
    touched: Ints
    dropped: Ints
    ripe: Ints
    school_years: Ints
    fit_years: Ints
    stored_years: Ints
    seedbed_years: Ints
    works: Mapping[str, Work]
    first_reached: Bools
    in_break: Bools
    usual: Bools
    in_chart: Bools


def table(counts: Counts) -> dict[str, Grave]:
    """How grave each code is on each day, arrays (days,) of NONE to FAULT; in the order in which it is told."""
    of, ripe = counts.of, counts.ripe
    often = np.maximum(1, CARE_SHARE * of)
    mostly_lost = counts.measured & (ripe <= (1 - FAULT_SHARE) * of)
    # Of what is mostly lost the loss is told, and what is grown for guests nobody picks.
    picked = (ripe > 0) & ~mostly_lost & ~counts.for_guests
    met = picked & counts.first_reached
    nobody = met & (counts.school_years < FAULT_SHARE * ripe)
    stored = nobody & (counts.stored_years >= SURE_SHARE * ripe)
    few = met & ~nobody & (counts.fit_years < SURE_SHARE * ripe)
    missed = of - counts.school_years
    found: dict[str, Grave] = {}
    for name, work in counts.works.items():
        found[f"{name}.outside_year"] = _grave(~work.reached, CARE)
        found[f"{name}.sow_no_school"] = _grave(work.reached & ~work.here, FAULT)
        found[f"{name}.sow_no_lesson"] = _grave(work.reached & work.here & ~work.lesson, CARE)
    found["seedbed_over_break"] = _grave(counts.seedbed_years >= often, CARE)
    found["picking.outside_year"] = _grave(picked & ~counts.first_reached, CARE)
    found["ready_no_school"] = _grave(nobody & ~stored, FAULT)
    found["ready_to_store"] = _grave(stored, CARE)
    found["ready_in_break"] = _grave(met & ~nobody & counts.in_break, CARE)
    found["ready_few_lessons"] = _grave(few, CARE)
    found["ready_not_always"] = _grave(
        met & ~nobody & ~few & counts.measured & (missed >= CARE_SHARE * of) & (counts.school_years < ripe), NOTE
    )
    lost = np.stack([counts.outcomes[:, outcome] for outcome in LOSSES], axis=1)
    worst = lost.argmax(axis=1)
    for at, code in enumerate(LOSSES.values()):
        risk = _grave((lost[:, at] > 0) & (lost[:, at] >= CARE_SHARE * of), CARE)
        # When half of the years or more are lost, it misses for the reason that most of them share.
        found[code] = np.where(mostly_lost & (worst == at), FAULT, risk).astype(np.int8)
    found["frost_touch"] = _grave(counts.touched >= np.maximum(1, FAULT_SHARE * of), CARE)
    found["flowers_drop"] = _grave(counts.dropped >= np.maximum(1, SOME_SHARE * of), CARE)
    found["not_in_window"] = _grave(~counts.usual, CARE)
    found["not_in_chart"] = _grave(~counts.in_chart, CARE if counts.chart_leads else NOTE)
    found["few_years"] = _grave(np.full(len(of), counts.measured and counts.seasons < FEW_YEARS), CARE)
    found["no_weather"] = _grave(np.full(len(of), not counts.measured), CARE)
    return found


def worst_of(said: Mapping[str, Grave]) -> Grave:
    """The gravest of all codes on each day."""
    return np.asarray(np.max(np.stack(list(said.values())), axis=0), dtype=np.int8)


def _grave(where: Bools, severity: int) -> Grave:
    return np.multiply(where, severity, dtype=np.int8)  # NONE is 0
